"""Running: every line its own outcome, gaps, limits, remembering."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ovolo.meaning.checked_sheet import checked_program
from ovolo.outcome.outcome import outcome_of
from ovolo.running.evaluate import Memo, evaluate
from ovolo.running.values import Gap
from tests.sheets import problem, run, value


@pytest.mark.parametrize(
    ("expression", "wanted"),
    [
        ("2 + 3 * 4 ^ 2 / 8 - 1", 7),
        ("-2 ^ 2", -4),
        ("2 ^ 3 ^ 2", 512),
        ("(2 m)^2", 4e6),
        ("if 3 > 2 then 1 else 0", 1),
        ("1 < 2 < 3", True),
        ("1 < 3 < 2", False),
        ("0.1 + 0.2 == 0.3", True),
        ("3 mm == 3.4 mm within 0.5 mm", True),
        ("0 .. 3", [0, 1, 2, 3]),
        ("0 .. -1", []),
        ("0 .. 1 by 0.25", [0, 0.25, 0.5, 0.75, 1]),
        ("3 .. 1 by -1", [3, 2, 1]),
        ("0 .. 0.3 by 0.1", [0, pytest.approx(0.1), pytest.approx(0.2), pytest.approx(0.3)]),
        ("[10 * i + j for i in 1 .. 2 for j in i .. 2]", [11, 12, 22]),
        ("[i for i in 0 .. 5 if mod(i, 2) == 1]", [1, 3, 5]),
        ("[2, 3, 5][-1]", 5),
        ('"Tread {1 + 1}: {180 mm}"', "Tread 2: 180 mm"),
        ("polar(2 m, 90°).y", 2000),
        ("(1 mm, 2 mm, 3 mm) - (1 mm, 1 mm)", [0, 1, 3]),
        ("sum([])", 0),
        ("10°30'", 10.5),
        ("6 ft 2 in", pytest.approx(1879.6)),
        ("abs(-3 mm)", 3),
        ("yes and not no or no", True),
    ],
)
def test_values(expression: str, wanted: object) -> None:
    assert value(expression) == wanted


def test_functions_blocks_and_function_values() -> None:
    lines = (
        "side(a, b = 4 mm):",
        "    square(x) = x^2",
        "    sum_ = square(a) + square(b)",
        "    sqrt(sum_)",
        "twice = f -> f(2) + f(3)",
    )
    assert value("side(3 mm)", *lines) == 5
    assert value("side(b = 12 mm, a = 5 mm)", *lines) == 13
    assert value("twice(x -> x * 10)", *lines) == 50


@pytest.mark.parametrize(
    ("line", "message"),
    [
        ("x = 1 / zero", "division by zero: `zero` is 0"),
        ("x = 10 ^ 400", "too large"),
        ("x = 1e300 * 1e300", "too large"),
        ("x = sqrt(-4)", "the square root of a negative value (-4)"),
        ("x = (-8) ^ (1/3)", "does not exist"),
        ("x = asin(1.5)", "`asin` of 1.5 does not exist"),
        ("x = tan(90°)", "the tangent of 90° is infinite"),
        ("x = [1, 2][2]", "has 2 items; there is no item 2"),
        ("x = [1, 2][0.5]", "wants a whole number here, and this is 0.5"),
        ("x = max([0][0] .. -1)", "`max` of an empty list"),
        ("x = clamp(1, 3, 2)", "the lower limit of `clamp` is above"),
        ("x = 0 .. 1e9", "1,000,000,001 items; at most 200,000"),
        ("x = 0 .. 1 by zero", "the step of this range is 0"),
        ("x = polygon(2, 1 m)", "2 sides does not exist"),
        ("x = polygon(5.5, 1 m)", "wants a whole number here, and this is 5.5"),
        ("x = mod(1, zero)", "the remainder after division by 0"),
        ("x = floor(3 mm, 0 mm)", "the multiple to round to must be more than 0"),
        ("x = [extrude(rect(1 m, 1 m), 0 mm)]", "this is empty: height is 0 mm"),
        ("x = [box(1 m, 1 m, 0 mm)]", "this is empty: height is 0 mm"),
        ("x = round_edges(box(1 m, 1 m, 0 mm), 1 mm)", "this solid is empty: height is 0 mm"),
        ("x = width(box(1 m, 1 m, 0 mm))", "this is empty and has no bounds: height is 0 mm"),
        ("x = half(box(1 m, 1 m, 1 m), -z)", "nothing is left of this solid: the plane lies at"),
        ("x = cylinder(-1 m, 1 m)", "radius is -1000 mm"),
        ("x = turn(box(1 m, 1 m, 1 m), 30°, (0, 0, 0))", "has no direction"),
        ("x = region([(0 m, 0 m), (1 m, 1 m), (1 m, 0 m), (0 m, 1 m)])", "crosses itself near (500 mm, 500 mm)"),
        ("x = region([(0 m, 0 m), (1 m, 1 m)])", "an outline of 2 points encloses nothing"),
        ("x = disc(1 m) & disc(1 m).move(3 m)", "leaves nothing"),
        ("x = box(1 m, 1 m, 1 m) - box(2 m, 2 m, 2 m)", "leaves nothing"),
        ("x = f(0)", "in `f`: division by zero: `q` is 0"),
        ("input x = 9 mm from 1 mm to 5 mm", "9 mm is above the upper limit 5 mm"),
        ("input x = 3 mm from 5 mm to 1 mm", "the lower limit 5 mm is above the upper limit 1 mm"),
        ("input x = 3 step 0", "the step is 0"),
        ('input x = "c" of "a", "b"', "this value is not among the choices"),
    ],
)  # fmt: skip
def test_what_cannot_be_done_says_so_with_its_numbers(line: str, message: str) -> None:
    found = problem("zero = 0", "f(q) = 1 / q", line)
    assert message in found.message
    assert found.line == 3


def test_items_that_cannot_be_made_are_gaps_with_reasons() -> None:
    outcome = run(
        "xs = [1 / i for i in 0 .. 3]",
        "s = sum(xs)",
        "m = max(xs)",
        "n = len(xs)",
        "x = xs[2]",
        "y = xs[0]",
    )
    first, at_max, at_item = outcome.problems
    assert (first.item, first.line) == (0, 1) and "division by zero: `i` is 0" in first.message
    assert "lacks an item: item 0 could not be made" in at_max.message
    assert "item 0 of `xs` could not be made" in at_item.message
    values = [line.value for line in outcome.lines]
    assert isinstance(values[0][0], Gap)
    assert values[1] == pytest.approx(11 / 6) and values[3] == 4 and values[4] == 0.5
    assert "1 item was left out" in outcome.lines[1].notes[0].message


def test_a_guard_prevents_the_gap() -> None:
    assert value("[if i == 0 then 0 else 1 / i for i in 0 .. 2]") == [0, 1, 0.5]
    assert value("[i for i in 0 .. 3 if i > 0 and 6 / i > 2]") == [1, 2]


def test_solids_that_cannot_be_made_are_left_out_of_their_part() -> None:
    outcome = run("part p = [extrude(rect(1 m, 1 m), i * 1 m) for i in 0 .. 3]")
    assert outcome.parts["p"].count == 3
    assert [one.item for one in outcome.problems] == [0]


def test_a_part_is_not_made_where_its_condition_does_not_hold() -> None:
    outcome = run("w = 0 mm", "part p = box(w, 1 m, 1 m) when w > 0 mm")
    assert not outcome.problems
    assert outcome.parts["p"].count == 0


def test_copies_of_one_solid_stay_one_shape() -> None:
    outcome = run(
        "b = box(1 m, 1 m, 1 m)", "part p = [b.turn(i * 10°).move(z = i * 1 m) for i in 0 .. 99]"
    )
    (group,) = outcome.parts["p"].groups
    assert group.matrices.shape == (100, 4, 4)


def test_a_line_that_takes_too_long_ends_and_the_others_go_on() -> None:
    text = 'slow = sum([len("{i * j}") for i in 0 .. 400 for j in 0 .. 400])\nquick = 1 + 1'
    outcome = outcome_of(text, time_limit=0.05)
    (only,) = outcome.problems
    assert only.line == 1 and "takes too long" in only.message
    assert outcome.lines[1].value == 2


def test_only_what_changed_is_run_again() -> None:
    memo = Memo()
    text = "input a = 3240 mm\nn = ceil(a / 190 mm)\nm = n * 2\nother = sqrt(2)"
    program = checked_program(text)

    before: list[object] = [None] * 4

    def afresh(a: float) -> list[bool]:
        results = [line.result for line in evaluate(program, {"a": a}, memo)]
        new = [one is not other for one, other in zip(results, before, strict=True)]
        before[:] = results
        return new

    assert afresh(3240.0) == [True] * 4
    assert afresh(3240.0) == [False] * 4
    assert afresh(3245.0) == [True, True, False, False], "n stays 18, so m is not run again"
    assert afresh(3500.0) == [True, True, True, False]


def test_remembering_tells_kinds_apart() -> None:
    memo = Memo()
    length = outcome_of("a = 3 mm\nb = a * 2", memo=memo)
    number = outcome_of("a = 3\nb = a * 2", memo=memo)
    assert length.as_json()["values"]["b"]["kind"] == "length"
    assert number.as_json()["values"]["b"]["kind"] == "number"


_TOKENS = ["a", "b", "i", "1", "0", "2.5", "3 mm", "30°", "yes", '"t"', "+", "-", "*", "/", "^", "(", ")", "[", "]", ",", "for", "in", "..", "if", "then", "else", "==", "<=", "and", "sin", "sum", "box", "region", "polar", "->", "x", "=", "part", "input", "check", "\n", "\n  ", "f(a):"]  # fmt: skip


@given(st.lists(st.sampled_from(_TOKENS), max_size=40))
def test_any_text_gives_values_or_problems_never_an_exception(tokens: list[str]) -> None:
    outcome = outcome_of(" ".join(tokens), time_limit=0.5)
    outcome.as_json()
    for line in outcome.lines:
        assert line.has_value or line.problems


@given(st.floats(-1e6, 1e6), st.floats(-1e6, 1e6), st.sampled_from(["+", "-", "*", "/"]))
def test_arithmetic_is_that_of_float64(a: float, b: float, sign: str) -> None:
    if sign == "/" and b == 0:
        return
    outcome = run("input a = 0", "input b = 0", f"c = a {sign} b", a=a, b=b)
    result = outcome.lines[-1]
    wanted = {"+": a + b, "-": a - b, "*": a * b, "/": a / b if b else math.nan}[sign]
    assert result.value == wanted or not math.isfinite(wanted)
