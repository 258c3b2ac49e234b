"""What is remembered shares one budget; what was looked at longest ago goes first."""

from __future__ import annotations

import gc
import tracemalloc
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from ovolo import remembering
from ovolo.geometry.placement import moved
from ovolo.geometry.regions.region import regular_polygon
from ovolo.geometry.solids.lofting import loft
from ovolo.geometry.solids.solid import Solid
from ovolo.meaning.checked_sheet import checked_program
from ovolo.remembering import Remembered, forget_all, forget_half, held
from ovolo.running.evaluate import Memo, evaluate
from ovolo.running.weight import weight_of


@pytest.fixture(autouse=True)
def nothing_remembered() -> None:
    gc.collect()
    forget_all()


def test_what_was_looked_at_longest_ago_goes_first_whoever_remembers_it(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    monkeypatch.setattr(remembering, "MOST_BYTES", 30)
    one, other = Remembered[str](len), Remembered[str](len)
    one.put("a", "x" * 10)
    other.put("a", "y" * 10)
    one.put("b", "z" * 10)
    assert one.get("a") == "x" * 10
    one.put("c", "w" * 10)
    assert other.get("a") is None and one.get("a") and one.get("b") and one.get("c")
    assert held() == 30


def test_what_is_heavier_than_all_the_budget_is_kept_alone(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(remembering, "MOST_BYTES", 30)
    one = Remembered[str](len)
    one.put("light", "x")
    one.put("heavy", "x" * 100)
    assert one.get("light") is None and one.get("heavy")


def test_one_that_is_gone_weighs_nothing() -> None:
    one = Remembered[str](len)
    one.put("a", "x" * 50)
    assert held() == 50
    del one
    assert held() == 0


@given(st.lists(st.tuples(st.integers(0, 1), st.integers(0, 9), st.integers(0, 40)), max_size=60))
def test_the_scales_are_right_at_any_time(steps: list[tuple[int, int, int]]) -> None:
    before = held()
    both = Remembered[str](len), Remembered[str](len, most=4)
    for which, key, size in steps:
        both[which].put(key, "x" * size)
        if size == 7:
            both[which].clear()
        weights = [len(found) for one in both for k in range(10) if (found := one.get(k))]
        assert held() - before == sum(weights)
    assert len(both[1]) <= 4


def test_half_is_forgotten_the_older_half() -> None:
    one = Remembered[str](len)
    for key in range(10):
        one.put(key, "x" * 10)
    one.get(0)
    forget_half()
    assert [key for key in range(10) if one.get(key)] == [0, 6, 7, 8, 9]


def _process_holds() -> int:
    pages = int(Path("/proc/self/statm").read_text(encoding="ascii").split()[1])
    return pages * 4096


def _vase(grown: float) -> Solid:
    sections = [
        regular_polygon(64, 60 + k / 9 + grown).placed(moved(np.array([0.0, 0.0, 10.0 * k])))
        for k in range(120)
    ]
    return loft(sections)


def test_shapes_weigh_what_the_process_holds_for_them() -> None:
    """The kernel's memory is not Python's: it is weighed by the process, against a rough rule."""
    _vase(0.5).shape.mesh.volume()
    forget_all()
    before = _process_holds(), held()
    kept = [_vase(1.0 + k / 100) for k in range(12)]
    for one in kept:
        one.shape.drawing  # noqa: B018 - what is worked out when a shape is shown
    grown, told = _process_holds() - before[0], held() - before[1]
    assert 0.5 < told / grown < 2


def test_programs_and_results_weigh_what_is_held_for_them() -> None:
    def text(first: float) -> str:
        lines = [f"a{k} = sum([{first + k} mm / (i + 1) for i in 0 .. 9])" for k in range(250)]
        return "\n".join(
            [*lines, *(f"b{k} = [{first + k} * i for i in 0 .. 999]" for k in range(100))]
        )

    evaluate(checked_program(text(1.5)), {}, Memo())
    forget_all()
    before, memo = held(), Memo()
    tracemalloc.start()
    evaluate(checked_program(text(2.5)), {}, memo)
    gc.collect()
    grown = tracemalloc.get_traced_memory()[0]
    tracemalloc.stop()
    assert 0.4 < (held() - before) / grown < 2.5


def test_a_long_list_is_weighed_by_some_of_its_items() -> None:
    many = [np.zeros(100) for _ in range(20_000)]
    assert weight_of(many) == pytest.approx(20_000 * weight_of(many[0]), rel=0.01)


def test_a_small_budget_changes_no_value(monkeypatch: pytest.MonkeyPatch) -> None:
    """Whatever is forgotten is worked out again, to the same figures."""
    from ovolo.outcome.outcome import show_line
    from tests.sheets import demo_outcome

    def shown(name: str) -> list[str]:
        outcome = demo_outcome(name)
        return [str(show_line(one, outcome.units)) for one in outcome.lines]

    names = ("spiral-stair", "wind-vane")
    usual = [shown(name) for name in names]
    monkeypatch.setattr(remembering, "MOST_BYTES", 20_000)
    assert [shown(name) for name in (*names, *names)] == usual * 2
    assert held() < 2_000_000
