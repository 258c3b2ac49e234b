"""Kinds and dimensions are settled, and what does not fit is told, before anything runs."""

import pytest

from tests.sheets import kind, problem, run


@pytest.mark.parametrize(
    ("expression", "wanted"),
    [
        ("3", "number"),
        ("3 mm", "length"),
        ("2 m * 3 m", "area"),
        ("(2 m)^3", "volume"),
        ("(4 m^2)^(1/2)", "length"),
        ("12 m / 3 m", "number"),
        ("atan(3 / 4)", "angle"),
        ("360° / 14", "angle"),
        ("sqrt(4 m^2)", "length"),
        ("7850 kg/m^3 * 1 m^3", "mass"),
        ("343 m/s / 440 Hz", "length"),
        ("3 mm * 20°", "other"),
        ("3 mm * rad(20°)", "length"),
        ("1:12", "number"),
        ("yes", "yes/no"),
        ('"a"', "text"),
        ("(1 mm, 2 mm)", "point"),
        ("2 * (1 mm, 2 mm)", "point"),
        ("[1, 2]", "list"),
        ("rect(1 m, 1 m)", "region"),
        ("box(1 m, 1 m, 1 m)", "solid"),
        ("max(3 mm, 2 cm)", "length"),
        ("t -> t + 1", "function"),
        ("3 < 4 and not no", "yes/no"),
    ],
)
def test_the_kind_of_an_expression(expression: str, wanted: str) -> None:
    assert kind(expression) == wanted


@pytest.mark.parametrize(
    ("line", "message", "hint", "column"),
    [
        ("x = span + pitch", "a length (span) plus an angle (pitch)", "rad(pitch)", 10),
        ("x = span + 5", "a length (span) plus a number (5)", "`5 mm`", 10),
        ("x = span - n", "a length (span) minus a number (n)", "`n * 1 mm`", 10),
        ("x = n + 1 + span", "a number (n + 1) plus a length (span)", "`(n + 1) * 1 mm`", 11),
        ("x = sin(span)", "`sin` wants an angle or a number for `a`", "write sin(a)", 9),
        ("x = spam", "nothing here is called `spam`", "did you mean `span`?", 5),
        ("x = zzz", "nothing here is called `zzz`", "write a line `zzz = …`", 5),
        ("x = boxx(span)", "nothing here is called `boxx`", "did you mean `box`?", 5),
        ("x = box(span, span)", "`box` needs `h`", "write box(w, d, h)", 5),
        ("x = box(span, span, 4)", "`box` wants a length for `h`", "`4 mm`", 21),
        ("x = box(span, span, hh = span)", "`box` has no argument `hh`", "did you mean `h`?", 21),
        ("x = floor(span)", "`floor` wants a number", "floor(x, 1 mm)", 11),
        ("x = [span, 5]", "a list holds one kind: it begins with a length", "`5 mm`", 12),
        ("x = if n then 1 else 2", "what follows `if` must be a yes/no", "", 8),
        ("x = if n > 1 then span else 2", "`then` gives a length, but `else` gives a number", "`2 mm`", 29),
        ("x = span < 5", "cannot be compared with a number (5)", "`5 mm`", 12),
        ("x = span[0]", "only a list has items", "", 5),
        ("x = span.x", "a length has no `.x`", "", 5),
        ("x = [i for i in n]", "`for` runs over a list or a range", "0 .. n - 1", 17),
        ("x = 0 mm .. span", "needs a step", "by 50 mm", 5),
        ("x = span ^ n", "can only be raised to a power written as a figure", "", 10),
        ("x = 2 ^ span", "an exponent must be a plain number", "", 7),
        ("x = (1 mm, 2)", "every coordinate of this point must be a length", "`2 mm`", 12),
        ("x = (1, 2, 3, 4)", "two or three coordinates, not 4", "square brackets", 5),
        ("x = n(3)", "`n` is a number, not a function", "", 5),
        ("x = sin", "`sin` is a word that takes arguments", "write sin(a)", 5),
        ("x = -yes", "minus a yes/no makes no sense", "", 5),
        ("x = f(1, 2)", "`f` takes 1 argument, and here are 2", "write f(q)", 10),
        ("x = f(span)", "in `f` (line 4): a length (q) plus a number (1)", "", 5),
        ("check n", "what a check states must be a yes/no", "", 7),
        ("part x = n", "a part is a curve, a region, a solid or a list of them", "without the word part", 10),
        ("part x = box(span, span, span) colour oka", "`oka` is not a colour", "did you mean oak?", 1),
        ("input x = n", "an input's value is written out", "leave out the word `input`", 11),
        ("input x = 3 mm from 1 to 5 mm", "the lower limit of `x` must be a length", "`1 mm`", 21),
        ('input x = "a" from 1 to 2', "only numbers, quantities, points and lists of quantities have limits", "", 20),
        ("dim n from (0 mm, 0 mm) to (1 mm, 0 mm)", "what a dim states must be a length", "`n * 1 mm`", 5),
        ("n = 4", "`n` is already the name of line 3", "another name", 1),
        ('x = "a" + "b"', 'a text ("a") plus a text ("b")', "braces", 9),
    ],
)  # fmt: skip
def test_problems_name_both_sides_the_place_and_a_way_out(
    line: str, message: str, hint: str, column: int
) -> None:
    found = problem("span = 3 m", "pitch = 30°", "n = 3", "f(q) = q + 1", line)
    assert message in found.message
    assert hint in found.hint
    assert (found.line, found.column) == (5, column)


def test_a_circle_names_its_lines_in_order() -> None:
    outcome = run("a = b + 1", "b = c", "d = 3", "c = a", "e = a")
    by_line = {one.line: one for one in outcome.problems}
    assert "a (line 1) → b (line 2) → c (line 4) → a (line 1)" in by_line[1].message
    assert "b (line 2) → c (line 4)" in by_line[2].message
    assert by_line[5].waiting and "waits for `a` (line 1)" in by_line[5].message
    assert 3 not in by_line


def test_a_function_cannot_use_itself() -> None:
    assert "the function `f` uses itself" in problem("f(n) = f(n - 1)").message


def test_functions_handed_to_themselves_end() -> None:
    assert "too deeply" in problem("f = g -> g(g)", "x = f(f)").message


def test_order_is_free_and_functions_are_checked_at_each_use() -> None:
    outcome = run("a = twice(3 mm)", "b = twice(4)", "twice(x) = 2 * x")
    assert not outcome.problems
    assert [line.value for line in outcome.lines[:2]] == [6.0, 8.0]


def test_a_bare_number_in_sin_gets_a_quiet_hint() -> None:
    outcome = run("a = sin(30)")
    assert not outcome.problems
    assert "degrees are written 30°" in outcome.lines[0].notes[0].message


def test_only_lines_that_need_a_failing_one_wait() -> None:
    outcome = run("a = 1 / 0", "b = a + 1", "c = 2", "d = c + b")
    assert [one.waiting for one in outcome.problems] == [False, True, True]
    assert outcome.lines[2].value == 2.0


def test_each_function_is_a_kind_of_its_own() -> None:
    """Lines are remembered by their text and the kinds they need: the same call of another
    function must be checked anew."""
    assert run("f(x) = x + 1", "a = f(2)").lines[1].value == 3
    assert run("f(x) = x * 10", "a = f(2)").lines[1].value == 20
    assert "one kind" in problem("f = x -> x", "g = x -> 2 * x", "h = if 1 < 2 then f else g").hint
