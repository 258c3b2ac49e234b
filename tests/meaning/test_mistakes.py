"""Typical mistakes, and the words in which each is told: what is wrong, and what to write.

Each is one line that goes wrong (some need a line above it), as people write it who know formulas from
elsewhere; no standard behind it, only common practice.
"""

import pytest

from ovolo.formats.attached import read_files
from ovolo.outcome.outcome import outcome_of

TABLES = read_files({"bolts.csv": b"size,hole [mm],h (mm)\nM6,6.6,4\nM8,9,5.3\n"})

MISTAKES = (
    ('x = 0 m\na = 1 / x', "division by zero: `x` is 0", "guard it, for example `if x == 0 mm then … else …`"),
    ('x = 2 mm\na = x^-1 + 1 mm', "a quantity in 1/mm (x^-1) plus a length (1 mm) makes no sense", "both sides must have the same dimension"),
    ('x = 0 mm\na = x^-1', "0 has no power below 0: `x` is 0", "guard it, for example `if x == 0 mm then … else …`"),
    ('f(a, b = a) = a + b\nc = f(1)', "the default of `b` uses the parameter `a`", "a default knows only lines; leave it out and give `b` in each call"),
    ('n = 3\na = n mm', "a unit stands right behind a figure, and `n` is a name", "multiply by one of it: `n * 1 mm`"),
    ('file bolts = "bolts.csv"\na = lookup(bolts, "hole", h = 1 in)', "no row of bolts.csv has 25.4 mm in `h`", "it has 4 mm, 5.3 mm"),
    ('file bolts = "bolts.csv"\na = lookup(bolts, "hole", siz = "M6")', "the table has no column `siz`", "did you mean `size`?"),
    ("a = preferred(37 mm, 10)", "`preferred` wants a text for `series`, and `10` is a number", 'the series in quotes: preferred(x, "R10")'),
    ("part a = extrude(circle(10 mm), 5 mm)", "`extrude` wants a region for `outline`, and `circle(10 mm)` is a curve", "`disc(10 mm)`, or `region(circle(10 mm))`"),
    ("top width = 3 mm", "a name has no blank in it", "write `top_width = …`"),
    ("let x = 4", "`let` is not needed", "write `x = 4`"),
    ("x := 4", "`:=` is written =", "write `x = …`"),
    ("part a = box(1 mm, 1 mm, 1 mm) color oak", "`color` is written `colour`", "for example colour oak, or colour #8A6D3B"),
    ("a = box(1 mm, 1 mm, 1 mm).rotate(30°)", "nothing here is called `rotate`", "write `turn(what, 30°)`"),
    ("a = box(1 mm, 1 mm, 1 mm).translate(3 mm)", "nothing here is called `translate`", "write `move(what, x = 5 mm)`"),
    ("a = union(box(1 mm, 1 mm, 1 mm), box(1 mm, 1 mm, 1 mm))", "nothing here is called `union`", "write `a + b` or `unite([a, b])`"),
    ("a = subtract(box(1 mm, 1 mm, 1 mm), box(1 mm, 1 mm, 1 mm))", "nothing here is called `subtract`", "write `a - b`"),
    ("a = cuboid(1 mm, 1 mm, 1 mm)", "nothing here is called `cuboid`", "write `box(w, d, h)`"),
    ("a = rectangle(3 mm, 4 mm)", "nothing here is called `rectangle`", "write `rect(w, h)`"),
    ("a = array(box(1 mm, 1 mm, 1 mm), 3)", "nothing here is called `array`", "write `row` or `grid` or `ring` or `along`"),
    ("a = repeat(box(1 mm, 1 mm, 1 mm), 3)", "nothing here is called `repeat`", "write `row(what, n, step)` or `[… for i in 0 .. n - 1]`"),
    ("a = map([1, 2], x -> x)", "nothing here is called `map`", "write `[f(x) for x in xs]`"),
    ("a = range(0, 10)", "nothing here is called `range`", "write `0 .. 9` or `0 .. 1 by 0.1`"),
    ("a = log(10)", "nothing here is called `log`", "write `ln(x)` or `log10(x)`"),
    ("a = true", "nothing here is called `true`", "write `yes`"),
    ("a = π * 2", "nothing here is called `π`", "write `pi`"),
    ("a = hull([box(1 mm, 1 mm, 1 mm)])", "nothing here is called `hull`", "write `convex_hull([a, b])`"),
    ("a = 1,5 m", "`1,5 m` has a decimal comma", "write a decimal point: `1.5 m`; thousands are written without a comma"),
    ("a = (0,0,5) mm", "a unit stands right behind a figure", "multiply by one of it: `(…) * 1 mm`"),
    ("a = sin(30) deg", "a unit stands right behind a figure", "multiply by one of it: `(…) * 1 deg`"),
    ("a = 3 mm cm", "a figure has one unit", "to multiply write `1 mm * 1 cm`"),
    ("a = sqrt 4", "what a function takes stands in brackets", "write `sqrt(4)`; to multiply `sqrt * 4`"),
    ("input a = 3 mm to 5 mm", "`to` was not expected here", 'expected `from` or a text in quotes "…"'),
    ("input a = 3 from 1 to 5 step", "the line ends too early", "a value is expected here"),
    ("a = [for i in 0 .. 3: i^2]", "the item of an array comes first", "`[i^2 for i in 0 .. 3]`"),
    ("a = [for i in 0 .. 3 i^2]", "the item of an array comes first", "`[f(i) for i in 0 .. 5]`"),
    ("a = 24' 6", "the inches behind the feet have no mark", 'write `24\' 6"`, or `24 ft 6 in`'),
    ('a = 1/2" + 1 mm', "inches alone are written `in`", "write `1/2 in`"),
    ("a = 3 mm + 5", "a length (3 mm) plus a number (5) makes no sense", "give the number a unit: `5 mm`"),
    ("a = 30° + 2 mm", "an angle (30°) plus a length (2 mm) makes no sense", "an arc's length is its radius times `rad(30°)`"),
    ("a = [1, 2, 3](0)", "an item of a list is taken with square brackets", "`[0]`"),
    ("a = xs[0]", "nothing here is called `xs`", "did you mean `x`?"),
    ('xs = [1, 2]\na = xs(0)', "`xs` is a list of numbers, not a function", "an item of it is `xs[…]`"),
    ('xs = [1, 2]\na = xs[2]', "`xs` has 2 items; there is no item 2", "items are counted from 0 to 1, or from the end: -1 is the last"),
    ("a = 5 mm 3", "`3` follows a value without an operator", "to multiply write *"),
    ("a = (3 mm + 2 mm", "the bracket `(` is not closed", "write `)` where it ends"),
    ("a = 3 mm + 2 mm)", "the bracket `)` has no partner", "take it out, or open one before it"),
    ('a = "abc', "this text has no closing quote", 'end it with "'),
    ("a = 3 furlong", "`furlong` is not a unit", "to multiply write `3 * furlong`"),
    ("a = 2(3 + 4)", "to multiply write *", "`2 * (…)`"),
    ("a = 3x", "`x` is not a unit", "to multiply write `3 * x`"),
    ('x = 3\na = 2x', "`x` is not a unit", "to multiply write `2 * x`"),
    ("a = if 3 > 2 then 1", "the line ends too early", "expected `else`"),
    ("a = 3 > 2 ? 1 : 0", "a choice is written with if, then and else", "`if … then … else …`"),
    ("a = not 3", "what follows `not` must be a yes/no; `3` is a number", "compare it: `3 > 0`"),
    ("a = 3 && 4", "`&&` is written `and`", "for example a > 3 and b < 5"),
    ("a = 3 = 4", "a single = gives a name to a value", "to compare, write =="),
    ("check 3 = 3", "a single = gives a name to a value", "to compare, write =="),
    ("a = 5 == 5 mm", "a number (5) cannot be compared with a length (5 mm)", "give the number a unit: `5 mm`"),
    ("a = sqrt(-4)", "the square root of a negative value (-4) does not exist", "what stands under the root must be 0 or more"),
    ("a = ln(0)", "`ln` of 0 does not exist", "only numbers above 0 have a logarithm"),
    ("a = asin(2)", "`asin` of 2 does not exist: no angle has that sine", "its value must lie between -1 and 1"),
    ("a = box(1 mm, 1 mm)", "`box` needs `h`", "write box(w, d, h)"),
    ("a = box(1, 1, 1)", "`box` wants a length for `w`, and `1` is a number", "give the number a unit: `1 mm`"),
    ("a = cylinder(radius = 3 mm, h = 4 mm)", "`cylinder` has no argument `radius`", "did you mean `r`?"),
    ("a = cylinder(d = 3 mm, h = 4 mm)", "`cylinder` has no argument `d`", "`r` is the radius: half of the diameter"),
    ("a = Box(1 mm, 1 mm, 1 mm)", "nothing here is called `Box`", "did you mean `box`?"),
    ("a = boxx(1 mm, 1 mm, 1 mm)", "nothing here is called `boxx`", "did you mean `box`?"),
    ("part p = 3 mm", "a part is a curve, a region, a solid or a list of them; this is a length", "for a value write `p = …` without the word part"),
    ("input a = 3 mm + 2 mm", "an input's value is written out: a number, a quantity, a text, yes or no, a point or a list", "for a formula, leave out the word `input`"),
    ("input a = 3 mm from 5 mm", "the line ends too early", "expected `to`"),
    ("input a = 3 mm between 2 mm and 5 mm", "limits and ends are written with from and to", "write `from 2 mm to 5 mm`"),
    ('input a = "x" of "y", "z"', "this value is not among the choices", 'one of "y", "z"'),
    ("input a 3 mm", "there is no = behind the name", "write `input a = 3 mm`"),
    ('a = 3 mm # fine\na = 4 mm', "`a` is already the name of line 1", "give it another name"),
    ('a = b\nb = a', "this line needs itself: a (line 1) → b (line 2) → a (line 1)", "one of these lines must not depend on the others"),
    ("f(x) = f(x - 1)", "the function `f` uses itself", "carry a value along with fold or scan"),
    ("a = 10 % 3", "what remains is written with mod; % is per cent", "`mod(10, 3)`"),
    ("a = 2**3", "`**` is written `^`", "for example 2^3"),
    ("a = 5 // 2", "`//` is written with floor", "`floor(5 / 2)`"),
    ("a = 5 div 2", "`div` is written with floor", "`floor(5 / 2)`"),
    ("a = 5 mod 2", "`mod` is a word that takes two values", "`mod(5, 2)`"),
    ('a = x -> x + 1\nb = a + 1', "a function (a) plus a number (1) makes no sense", "call it with its arguments: `a(…)`"),
    ("a = [1, 2 mm]", "a list holds one kind: it begins with a number, and `2 mm` is a length", "give the number a unit: `1 mm`"),
    ("a = [1 mm, 2 mm] + 1", "a length ([1 mm, 2 mm]) plus a number (1) makes no sense", "give the number a unit: `1 mm`"),
    ("a = (1 mm, 2)", "every coordinate of this point must be a length; `2` is a number", "give the number a unit: `2 mm`"),
    ("a = (1 mm, 2 mm, 3 mm, 4 mm)", "a point has two or three coordinates, not 4", "a list is written in square brackets: [a, b, c, d]"),
    ("a = (1 mm, 2 mm).w", "a point has no `.w`", ".x, .y, .z"),
    ("a = {1, 2}", "a list stands in square brackets", "`[1, 2]`; braces put values into a text"),
    ("a = [i for i in 5]", "`for` runs over a list or a range, and this is a number", "for example for i in 0 .. 5 - 1"),
    ("a = [i for i = 0 .. 5]", "a loop runs over a list or a range with `in`", "`for i in 0 .. 5`"),
    ("a = for i in 0 .. 5", "an array stands in square brackets, its item first", "`[f(i) for i in 0 .. 5]`"),
    ("a = 0..5 by 0", "the step of this range is 0", "it would never end"),
    ("a = 0 mm .. 5 mm", "a range of lengths needs a step", "for example 0 mm .. 1 m by 50 mm"),
    ("a = round(12.7 mm) + 1 mm", "an edge (round(12.7 mm)) plus a length (1 mm) makes no sense", "`round` of a length alone is the finish of an edge; to round a length say to what multiple: `round(x, 1 mm)`"),
    ("a = 3;", "a line does not end with ;", "leave it out"),
    ("a = 3 mm^1.5", "this power could be that of the unit or of the quantity", "put the quantity in brackets, as in (2 mm)^3; a unit takes a whole power, as in 2 mm^3"),
    ("a = (2 m)^0.333", "a quantity is raised to an exact power, and 0.333 is none", "write the power as a fraction: ^(1/3)"),
    ("a = 1e400", "this is too large", "numbers go up to about 1.8e308"),
    ('a = "a" + "b"', 'a text ("a") plus a text ("b") makes no sense', 'to put a value into a text, write it in braces: "{value}"'),
    ("a = len(5)", "`len` wants a list for `xs`, and `5` is a number", "write len(xs)"),
    ("a = max()", "`max` needs `first`", "write max(first, second, more…)"),
    ("part p = row(box(1 mm, 1 mm, 1 mm), 2.5, 3 mm)", "`row` wants a whole number here, and this is 2.5", "use floor, ceil or round"),
    ("a = extrude(rect(1 mm, 1 mm))", "`extrude` needs `h`", "write extrude(outline, h, taper = 0°, top, bottom, both_ways = no, up_to)"),
    ("a = rect(1 mm, 1 mm) + box(1 mm, 1 mm, 1 mm)", "a region (rect(1 mm, 1 mm)) plus a solid (box(1 mm, 1 mm, 1 mm)) makes no sense", "make the region a solid first: `extrude(region, 5 mm)`"),
    ("a = disc(3 mm).volume", "a region has no `.volume`", "a word is called with brackets: .volume()"),
    ("a = disc(3 mm).volume()", "`volume` wants a solid or a list of solids for `what`, and `disc(3 mm)` is a region", "make it a solid: `extrude(disc(3 mm), 5 mm)`"),
    ("if = 3", "`if` is a word of the language and cannot be a name", "for example `if_`"),
    ("a = 5 kg + 3 N", "a mass (5 kg) plus a force (3 N) makes no sense", "both sides must have the same dimension"),
    ("a = atan2(1 m)", "`atan2` needs `x`", "write atan2(y, x)"),
    ("dim 5 mm from (0 mm, 0 mm)", "the line ends too early", "expected `to`"),
    ("dim 5 mm between (0 mm, 0 mm) and (5 mm, 0 mm)", "limits and ends are written with from and to", "write `from (0 mm, 0 mm) to (5 mm, 0 mm)`"),
    ('preset "A": a = 3', "there is no input `a`", "inputs: none"),
    ("preset A: a = 3", "the name of a preset stands in quotes", 'write `preset "A": …`'),
    ('use stair from "Nothing"', "there is no study “Nothing” beside this one", 'write the title that stands in its line `study "…"`'),
    ('file x = "nothing.csv"', "there is no file nothing.csv", "attach it to the study"),
    ("unit mm", "`unit` is written `units`", "write `units mm`"),
    ("units furlong", "`furlong` is not a unit", "for example mm, m, in, deg, kg, s"),
    ("  a = 3", "this line is indented, but the line above it is complete", "start it at the margin, or end the line above with an operator or a comma"),
    ("a = random()", "`random` needs `i`", "write random(i, lo = 0.0, hi = 1.0, seed = seed)"),
    ("a = 3 <> 4", "`<>` is written `!=`", "for example a != b"),
    ("a = !yes", "`!` is written `not`", "for example not (a > 3)"),
    ("a = 3 ≤ 4 ≥", "the line ends too early", "a value is expected here"),
    ("a = null", "nothing here is called `null`", "write `when` for a part or `if` for a value"),
    ("a = PI", "nothing here is called `PI`", "did you mean `pi`?"),
    ("a = pi()", "`pi` is a constant, not a function", "write `pi` without brackets"),
    ("a = Sin(30°)", "nothing here is called `Sin`", "did you mean `sin`?"),
    ('a = text("A")', "`text` needs `height`", 'write text(what, height, across = "centre", up = "middle", along)'),
    ("a = 30 deg + 1 degree", "`degree` is not a unit", "write `1°`"),
    ("a = 5 inches", "`inches` is not a unit", "write `5 in`"),
    ("a = 5 metres", "`metres` is not a unit", "write `5 m`"),
    ("def f(x): x", "`def` is not needed", "write `f(x) = …`"),
    ("function f(x) = x", "`function` is not needed", "write `f(x) = …`"),
    ("var a = 3", "`var` is not needed", "write `a = 3`"),
    ("const a = 3", "`const` is not needed", "write `a = 3`"),
    ('a = 3 # ok\nprint(a)', "nothing is printed: every line shows its value", "give it a name: `shown = a`"),
    ("return 3", "`return` is not needed", "the last line of a block is its value: `3`"),
    ("a == 3", "a line gives a value a name with one =", "write `a = …`; for a check `check a == …`"),
    ("a = arcsin(0.5)", "nothing here is called `arcsin`", "write `asin(x)`"),
    ("a = average([1, 2])", "nothing here is called `average`", "write `mean(xs)`"),
    ("a = normalize((1 m, 2 m))", "nothing here is called `normalize`", "write `unit(a)`"),
    ("a = linspace(0, 1, 5)", "nothing here is called `linspace`", "write `spread(a, b, n)`"),
    ("a = pow(2, 3)", "nothing here is called `pow`", "write `x^n`"),
    ("a = fuse(box(1 mm, 1 mm, 1 mm), sphere(3 mm))", "nothing here is called `fuse`", "write `a + b` or `unite([a, b])`"),
    ("a = cube(3 mm)", "nothing here is called `cube`", "write `box(w, d, h)`"),
    ("a = False", "nothing here is called `False`", "write `no`"),
    ("a = 3 mm || 4 mm", "`||` is written `or`", "for example a > 3 or b < 5"),
    ("a = 'oak'", "a text stands in double quotes", 'write `"oak"`'),
    ("part a = box(1 mm, 1 mm, 1 mm) colour = oak", "`=` was not expected here", "expected a name"),
    ("a = 5 degrees", "`degrees` is not a unit", "write `5°`"),
    ("a = 2 feet", "`feet` is not a unit", "write `2 ft`"),
    ("a = 5,25 m + 1 m", "`5,25 m` has a decimal comma", "write a decimal point: `5.25 m`; thousands are written without a comma"),
    ("check a := 3", "`:` was not expected here", 'expected a text in quotes "…"'),
    ("step count = 4", "a name has no blank in it", "write `step_count = …`"),
    ("input step count = 4", "a name has no blank in it", "write `input step_count = …`"),
    ('f(x) = x\na = f(1, 2)', "`f` takes 1 argument, and here are 2", "write f(x)"),
    ('f(x) = x\na = f(y = 1)', "`f` has no argument `y`", "write f(x)"),
    ("a = sphere(-3 mm)", "radius is -3 mm", "it must be more than 0"),
    ("a = sin(3 mm)", "`sin` wants an angle or a number for `a`, and `3 mm` is a length", "write sin(a)"),
    ("a = 3 m + 2 m^2", "a length (3 m) plus an area (2 m^2) makes no sense", "both sides must have the same dimension"),
    ('a = text("A", 5)', "`text` wants a length for `height`, and `5` is a number", "give the number a unit: `5 mm`"),
    ("a = row(box(1 mm, 1 mm, 1 mm), n = 3, spacing = 5 mm)", "`row` has no argument `spacing`", "did you mean `step`?"),
)  # fmt: skip


@pytest.mark.parametrize(("sheet", "message", "hint"), MISTAKES, ids=[one[0] for one in MISTAKES])
def test_a_mistake_is_told_once_and_with_what_to_write(sheet: str, message: str, hint: str) -> None:
    problems = [one for one in outcome_of(sheet, tables=TABLES).problems if not one.waiting]
    assert [(one.message, one.hint) for one in problems] == [(message, hint)]


def test_there_are_a_hundred_of_them() -> None:
    assert len({sheet for sheet, _, _ in MISTAKES}) >= 100


def test_what_is_proposed_for_a_zero_is_itself_well() -> None:
    for sheet, wanted in (
        ("x = 0 m\na = 1 / x", "0 mm"),
        ("x = 0°\na = 1 / x", "0°"),
        ("x = 0 kg/m^3\na = 1 / x", "0 kg/m^3"),
    ):
        (problem,) = outcome_of(sheet).problems
        assert f"`if x == {wanted} then … else …`" in problem.hint
        line = sheet.split("\n")[0]
        assert (
            outcome_of(f"{line}\na = if x == {wanted} then 1 else 2").as_json()["values"]["a"][
                "value"
            ]
            == 1
        )


def test_the_words_that_are_proposed_exist() -> None:
    """Every name that is called in a proposal is a word of the language."""
    import re

    from ovolo.meaning.other_names import OTHER_NAMES
    from ovolo.words.all import WORDS

    for proposal in OTHER_NAMES.values():
        for name in re.findall(r"([a-z_]\w*)\(", proposal):
            assert name in WORDS or name in ("f",), proposal
