"""Lists: making, adding up, ordering, carrying along."""

import itertools

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.sheets import kind, problem, run, value

_NUMBERS = st.lists(st.integers(-50, 50), min_size=1, max_size=8)


@given(_NUMBERS)
def test_against_python(xs: list[int]) -> None:
    assert value(f"sum({xs})") == sum(xs)
    assert value(f"running({xs})") == list(itertools.accumulate(xs))
    assert value(f"sorted({xs})") == sorted(xs)
    assert value(f"sorted({xs}, by = x -> -x)") == sorted(xs, key=lambda x: -x)
    assert value(f"reversed({xs})") == xs[::-1]
    assert value(f"pairs({xs})") == [list(pair) for pair in itertools.pairwise(xs)]
    assert value(f"scan((a, b) -> max(a, b), -100, {xs})") == list(itertools.accumulate(xs, max))
    assert value(f"fold((a, b) -> a * 2 + b, 0, {xs})") == sum(
        x * 2**k for k, x in enumerate(xs[::-1])
    )
    assert value(f"[first({xs}), last({xs}), len({xs})]") == [xs[0], xs[-1], len(xs)]


@given(st.floats(-1e3, 1e3), st.floats(-1e3, 1e3), st.integers(1, 30))
def test_spread_has_both_ends(a: float, b: float, n: int) -> None:
    a, b = round(a, 3), round(b, 3)
    found = value(f"spread({a} mm, {b} mm, {n})")
    assert len(found) == n and found[0] == a
    if n > 1:
        assert found[-1] == b
        assert np.allclose(np.diff(found), (b - a) / (n - 1), atol=1e-9)


@pytest.mark.parametrize(
    ("expression", "wanted"),
    [
        ("join([1, 2], [3], [4, 5])", [1, 2, 3, 4, 5]),
        ("join([[1], [2, 3], []])", [1, 2, 3]),
        ('join(["a", "b"], ", ")', "a, b"),
        ("zip([1, 2], [3 mm, 4 mm])[1][1]", 4),
        ('sorted(["pier", "dome"])', ["dome", "pier"]),
        ("sorted([(3 m, 0 m), (1 m, 0 m)], by = p -> p.x)[0].x", 1000),
        ("product([])", 1),
        ("len(join([(1 m, 2 m)], [(3 m, 4 m)]))", 2),
        ("volume(join([box(1 cm, 1 cm, 1 cm)], [box(1 cm, 1 cm, 2 cm)]))", 3000),
        ('len("Quillmere")', 9),
    ],
)
def test_values(expression: str, wanted: object) -> None:
    assert value(expression) == wanted


@pytest.mark.parametrize(
    ("expression", "wanted"),
    [
        ("first([3 mm])", "length"), ("last([yes])", "yes/no"), ("running([1°])", "list"),
        ("fold((a, b) -> a + b, 0 mm, [1 mm])", "length"), ("first(pairs([1 mm, 2 mm]))[0]", "length"),
        ("zip([1], [1°])[0][1]", "angle"), ("first(reversed([disc(1 m)]))", "region"),
    ],
)  # fmt: skip
def test_kinds_are_kept(expression: str, wanted: str) -> None:
    assert kind(expression) == wanted


@pytest.mark.parametrize(
    ("line", "message"),
    [
        ("x = first([])", "`first` of an empty list"),
        ("x = zip([1], [1, 2])", "the lists have 1 and 2 items"),
        ("x = zip([1], [1°])[0][n]", "holds 2 values of different kinds"),
        ("x = join([1], [1 mm])", "`join` wants"),
        ("x = fold((a, b) -> a + b, 0, [1 mm])", "makes no sense"),
        ("x = fold((a, b) -> yes, 0, [1])", "this one gives a yes/no"),
        ("x = spread(0, 1, 0)", "0 values cannot be spread"),
        ("x = spread(0, 1, 2.5)", "wants a whole number here, and this is 2.5"),
        ("x = scan(f, 0, [1, 0])", "in `f`: division by zero"),
    ],
)
def test_problems(line: str, message: str) -> None:
    assert message in problem("n = 1", "f(a, b) = a + 1 / b", line).message


def test_a_gap_is_told_through_a_list_of_lists() -> None:
    outcome = run(
        "xs = [[1 / j for j in 0 .. i] for i in 0 .. 1]", "a = sum(xs[1])", "b = sorted(xs[0])"
    )
    assert [p.item for p in outcome.problems if p.line == 1] == [0]
    assert outcome.lines[1].value == 1
    assert any("lacks an item" in p.message for p in outcome.problems)
