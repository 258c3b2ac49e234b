"""Cutting stock: textbook cases, bounds, and what every plan must hold."""

from __future__ import annotations

import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ovolo.benches.cutting.bars import BarPlan, Saw, cut_bars
from ovolo.problems import Failure

PIECES = st.lists(
    st.tuples(st.integers(50, 1000).map(float), st.integers(1, 40)), min_size=1, max_size=7
)


def cut(plan: BarPlan) -> dict[float, int]:
    found: dict[float, int] = {}
    for bar in plan.bars:
        for length, count in bar.cuts:
            found[length] = found.get(length, 0) + bar.number * count
    return found


def test_the_paper_rolls_of_the_textbooks() -> None:
    """Chvátal, Linear Programming, 1983, chapter 13 (from memory): 97 of 45, 610 of 36, 395 of 31 and 211
    of 14 inches, from rolls of 100 inches: the linear program gives 452.25, and 453 rolls do."""
    plan = cut_bars([(45, 97), (36, 610), (31, 395), (14, 211)], 100)
    assert (plan.number, plan.bound, plan.proved) == (453, 453, True)


def test_the_rolls_of_an_encyclopedia() -> None:
    """Wikipedia, Cutting stock problem (from memory): thirteen widths from rolls of 5600 mm; 73 rolls are
    needed, with 0.401 % of waste."""
    widths = [(1380, 22), (1520, 25), (1560, 12), (1710, 14), (1820, 18), (1880, 18), (1930, 20), (2000, 10), (2050, 12), (2100, 14), (2140, 16), (2150, 18), (2200, 20)]  # fmt: skip
    plan = cut_bars(widths, 5600)
    assert (plan.number, plan.proved) == (73, True)
    assert 1 - plan.used == pytest.approx(0.00401, abs=5e-6)


def test_halves_and_thirds_by_hand() -> None:
    assert cut_bars([(500, 7)], 1000).number == 4
    assert cut_bars([(500, 7)], 1000, Saw(kerf=1)).number == 7, "with a cut two halves are too long"
    assert cut_bars([(499.5, 7)], 1000, Saw(kerf=1)).number == 4, "behind the last there is no cut"
    assert cut_bars([(300, 9)], 1000, Saw(trim=50)).number == 3
    assert cut_bars([(300, 9)], 1000, Saw(trim=51)).number == 5
    assert cut_bars([(1000, 3)], 1000).number == 3


def test_fewer_bars_than_the_lengths_add_up_to_may_not_do() -> None:
    """Bars of 132 with 44 x 2, 33 x 3, 12 x 6: 259/132 = 1.96, and yet 3 bars are needed (Fieldhouse 1990,
    from memory); ways that cut no more than is wanted prove it."""
    plan = cut_bars([(44, 2), (33, 3), (12, 6)], 132)
    assert cut(plan) == {44: 2, 33: 3, 12: 6}
    assert plan.number == 3 and plan.proved


def test_lengths_that_differ_by_noise_are_one() -> None:
    """As the turned and moved copies of a bar do."""
    plan = cut_bars([(1200.0, 2), (1200.0 + 2e-10, 3), (1200.0 - 1e-12, 1)], 4000.0)
    assert plan.bars == cut_bars([(1200.0, 6)], 4000.0).bars


@given(PIECES, st.sampled_from([0.0, 3.0]), st.sampled_from([0.0, 20.0]))
@settings(max_examples=15, deadline=None)
def test_every_plan_cuts_what_is_wanted_from_bars_that_hold_it(
    pieces: list[tuple[float, int]], kerf: float, trim: float
) -> None:
    stock = 1200.0
    plan = cut_bars(pieces, stock, Saw(kerf, trim))
    wanted: dict[float, int] = {}
    for length, count in pieces:
        wanted[length] = wanted.get(length, 0) + count
    assert cut(plan) == wanted
    for bar in plan.bars:
        parts = sum(count for _, count in bar.cuts)
        taken = sum(length * count for length, count in bar.cuts) + (parts - 1) * kerf + 2 * trim
        assert taken <= stock + 1e-6 and bar.rest >= 0
    least = math.ceil(sum(length * count for length, count in pieces) / stock - 1e-9)
    assert least <= plan.bound <= plan.number


def test_without_time_there_is_a_plan_all_the_same() -> None:
    """Bars filled one after another; how far it may be from the fewest is told."""
    pieces = [(300.0 + 37 * k, 20 + k) for k in range(30)]
    plan = cut_bars(pieces, 6000.0, Saw(3.0), seconds=0.0)
    assert cut(plan) == dict(pieces) and plan.bound <= plan.number
    assert cut_bars(pieces, 6000.0, Saw(3.0), seconds=2.0).number <= plan.number


@given(PIECES, st.floats(0.01, 100))
@settings(max_examples=8)
def test_ten_times_the_size_is_cut_alike(pieces: list[tuple[float, int]], by: float) -> None:
    one = cut_bars(pieces, 1200.0)
    other = cut_bars([(length * by, count) for length, count in pieces], 1200.0 * by)
    assert (one.number, one.bound) == (other.number, other.bound)
    assert one.used == pytest.approx(other.used)


@pytest.mark.parametrize(
    ("lengths", "stock", "saw", "said"),
    [
        ([], 6000, Saw(), "nothing to cut"),
        ([(6100, 1)], 6000, Saw(), "a piece of 6100 mm is longer than a bar by 100 mm"),
        ([(5990, 1)], 6000, Saw(trim=10), "longer than a bar by 10 mm"),
        ([(0, 1)], 6000, Saw(), "cannot be cut"),
        ([(math.nan, 1)], 6000, Saw(), "cannot be cut"),
        ([(10, 0)], 6000, Saw(), "cannot be cut"),
        ([(10, 1)], 0, Saw(), "a bar of 0 mm makes no sense"),
        ([(10, 1)], math.inf, Saw(), "makes no sense"),
        ([(10, 1)], 6000, Saw(kerf=-1), "a cut of -1 mm makes no sense"),
        ([(10, 1)], 6000, Saw(trim=-1), "an end of -1 mm makes no sense"),
        ([(10, 200_000)], 6000, Saw(), "200,000 pieces are too many"),
        ([(10 + k, 1) for k in range(201)], 6000, Saw(), "201 lengths are too many"),
    ],
)
def test_what_makes_no_sense_is_refused(
    lengths: list[tuple[float, int]], stock: float, saw: Saw, said: str
) -> None:
    with pytest.raises(Failure, match=said):
        cut_bars(lengths, stock, saw)
