"""Whatever is written: a line may go wrong, the sheet does not. Nothing here may raise anything."""

from __future__ import annotations

import contextlib
import random
import re
import time
import warnings
from collections.abc import Callable

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ovolo.formats.attached import read_attached, read_files
from ovolo.geometry.regions.region import Region
from ovolo.outcome.outcome import outcome_of
from ovolo.outcome.scene import scene_of
from ovolo.problems import Failure
from ovolo.running.code import until
from ovolo.running.values import LimitReached
from ovolo.sheet.reader import read_sheet
from ovolo.words.all import WORDS
from studio.engine import tasks

HOSTILE = (
    "a = 1e308 mm", "a = 1e308 m", "a = [1e308, 1]", "a = 1e308 mm + 1e308 mm",
    "input a = 1e308 mm from 0 mm to 1e308 mm", "check 1e308 mm > 1 mm", "part p = cylinder(1e9 m, 1 mm)",
    "part p = box(1e200 mm, 1 mm, 1 mm)", "part p = polygon(47e154, 1 mm)", "part p = polygon(1e9, 1 mm)",
    "part p = helix(1 m, 9e18 mm, 9e18)",
    "part p = patch([[polar(1 mm / i, 0°) for i in 0 .. 2], [polar(2 mm, 3° * i) for i in 0 .. 2]])",
    "a = " + " + ".join(["1"] * 990), "a = " + "(" * 400 + "1" + ")" * 400, "a = " + "sqrt(" * 200 + "1" + ")" * 200,
    "a = 0 .. 1e300", "a = spread(0, 1, 1e9)", "a = [[i for i in 0 .. 9999] for j in 0 .. 9999]",
    "part p = sphere(1e150 mm)", "part p = sphere(1e-150 mm)", "part p = grid(box(1 mm, 1 mm, 1 mm), 1e6, 1e6, 1 mm, 1 mm)",
    "part p = row(box(1 mm, 1 mm, 1 mm), 1e9, 1 mm)", 'part p = text("a", 1e300 mm)',
    "part p = extrude(rect(1e160 mm, 1e160 mm), 1 mm)", "part p = offset(rect(1 m, 1 m), 1e300 mm)",
    "part p = loft([disc(1 mm), disc(1e300 mm).move(z = 1 mm)])", "part p = box(1 m, 1 m, 1 m).scale(1e200).scale(1e200)",
    "dim 1e308 mm from (0 mm, 0 mm) to (1e308 mm, 0 mm)", "part p = circle(1e308 mm)", "part p = ellipse(1e-300 mm, 1e300 mm)",
    "part p = spline([(0 mm, 0 mm), (1e200 mm, 1e200 mm), (1 mm, 5 mm)])", "a = catenary((0 mm, 0 mm), (1 mm, 0 mm), 1e300 mm)",
    "part p = voronoi([(1e200 mm, 0 mm), (0 mm, 0 mm)], disc(3 mm))",
    "part p = triangulate([(1e200 mm, 0 mm), (0 mm, 0 mm), (3 mm, 1e-200 mm)])", "part p = contours(sphere(1 m), 1e-9 mm)",
    "a = integrate(x -> exp(x^2), 0, 100)", "a = minimise(x -> 1e308 * x, -1e308, 1e308)", "a = exp(1e5)", "a = 2^1e5",
    "a = gcd(1e300, 3)", "a = random(1e308, 1e308, -1e308)", "a = unit((1e-200 mm, 0 mm))", "a = norm((1e200 mm, 1e200 mm))",
    "part p = bend(box(1 m, 1 mm, 1 mm), 1e-6 mm)", "part p = twist(box(1 m, 1 mm, 1 mm), 1e9°)",
    "part p = thicken(surface((u, v) -> (u * 1e200 mm, v * 1 mm, 0 mm)), 1 mm)", "part p = cone(1e200 mm, 1e-200 mm)",
    'a = written(1e308 m, "um", 15)', "a = [1, 2][1e308]", "a = [1, 2][-1e308 .. 3]", "a = round(1e308, 1e-308)",
    "tolerance 1e-9 mm\npart p = sphere(1 m)", "units ft-in\na = 1e308 mm\nb = 1e15 mm",
    "part p = rect(1 m, 1 m) hatch 45°, 1e-9 mm", "part p = rect(1 m, 1 m) colour by [1e308]",
    "part p = box(1 mm, 1 mm, 1 mm) material 1e308 kg/m^3", "part p = wrap(box(10 cm, 4 cm, 1e12 m), 50 cm)",
)  # fmt: skip


BEYOND = {
    "divide(circle(1 m), 1e300)": "1e+300 items; at most 200,000",
    "divide(circle(1 m), 1e9)": "1,000,000,000 items",
    "helix(1e303 mm, 1 mm, 3)": "would have 1.35e+78 pieces",
    "spline([(1e100 mm, 0 m), (1 m, 0 mm), (2 m, 0 m)])": "too near for a spline",
    "scatter(disc(5 mm), rect(0 mm, 0 mm), 100 mm)": "no room in this region, for it is empty",
    "cut_at(box(4 cm, 1e100 mm, 1e16 mm), x)": "too large, or too small",
    "wrap(box(10 cm, 4 cm, 1e9 mm), 50 cm)": "divide an edge into about 5e+04 parts",
    "twist(box(1 mm, 1 mm, 1 km), 1e6°)": "divide an edge into",
    "shell(extrude(star(5000, 1 m, 0.01 mm), 3 mm), 31 mm)": "leave no sound hollow in this solid",
}

_LENGTH = re.compile(r"\b\d+(?:\.\d+)? (?:mm|cm|m)\b")
_NUMBER = re.compile(r"(?<![\w.])\d+(?![\w.°%])(?! (?:mm|cm|m|kg)\b)")
_LENGTHS = "1e300 m", "1e12 m", "1e-300 m", "1e100 mm", "1e9 m", "1e-9 mm", "0 mm", "-1e20 m", "3000 m"  # fmt: skip
_NUMBERS = "1e9", "1e300", "0", "-5", "40000"


def shown(text: str) -> None:
    """The sheet as a window has it, with its flat drawing."""
    outcome = outcome_of(text + "\nwell = 1 + 1", time_limit=2.0)
    scene_of(outcome, construction={"*"})
    assert outcome.lines[-1].value == 2, "the other lines stay"
    with warnings.catch_warnings(), contextlib.suppress(Failure):
        warnings.simplefilter("ignore")
        tasks.drawing_of(outcome, {"room": [400, 300]})


@pytest.mark.parametrize(("formula", "said"), BEYOND.items())
def test_what_is_beyond_all_measure_is_said_in_words(formula: str, said: str) -> None:
    outcome = outcome_of(f"a = {formula}")
    assert said in outcome.problems[0].message


@pytest.mark.parametrize("seed", range(3))
def test_words_with_figures_of_any_size_say_what_is_wrong(seed: int) -> None:
    """Each word's example, with half of its lengths and a third of its numbers others."""
    chance = random.Random(seed)

    def other(some: tuple[str, ...], share: float) -> Callable[[re.Match[str]], str]:
        return lambda found: chance.choice(some) if chance.random() < share else found[0]

    for word in WORDS.values():
        formula = _NUMBER.sub(other(_NUMBERS, 0.3), _LENGTH.sub(other(_LENGTHS, 0.5), word.example))
        above = f"{word.above}\n" if word.above else ""
        for one in outcome_of(f"{above}a = {formula}", time_limit=2.0).problems:
            assert "not foreseen" not in one.message, formula


@pytest.mark.parametrize("text", HOSTILE, ids=[text[:60] for text in HOSTILE])
def test_figures_beyond_all_measure_cost_their_line_alone(text: str) -> None:
    shown(text)


_FIGURES = st.sampled_from(["0", "1", "-1", "3.7", "1e308", "1e-308", "-9e18", "1e9", "2.5"])
_UNITS = st.sampled_from(["", " mm", "°", " m", " kg", " %"])
_ATOMS = st.one_of(
    st.builds(lambda f, u: f"({f}{u})" if f[0] != "-" else f"(-({f[1:]}{u}))", _FIGURES, _UNITS),
    st.sampled_from(["(0 mm, 0 mm)", "[]", '"x"', "yes", "disc(3 mm)", "box(1 mm, 2 mm, 3 mm)", "t -> t", "[1, 2]", "line((0 mm, 0 mm), (5 mm, 1 mm))"]),
)  # fmt: skip


@given(st.sampled_from(sorted(WORDS)), st.lists(_ATOMS, max_size=4))
@settings(max_examples=150, deadline=None)
def test_any_word_with_anything_costs_its_line_alone(name: str, arguments: list[str]) -> None:
    word = WORDS[name]
    outcome = outcome_of(
        f"a = {name if word.constant else f'{name}({chr(44).join(arguments)})'}\nwell = 1 + 1",
        time_limit=2.0,
    )
    scene_of(outcome)
    assert outcome.lines[1].value == 2


@given(st.text(alphabet="abx=+-*/^()[]{}\"'.,:;#<>!|& \n°%0123456789mminpart", max_size=120))
@settings(max_examples=200, deadline=None)
def test_any_text_can_be_read(text: str) -> None:
    scene_of(outcome_of(text, time_limit=2.0))


@given(
    st.binary(max_size=300),
    st.sampled_from(["a.csv", "a.dxf", "a.svg", "a.stl", "a.3mf", "a.png", "a.jpg"]),
)
@settings(max_examples=100, deadline=None)
def test_any_file_is_read_or_refused(data: bytes, name: str) -> None:
    heads = {
        "a.svg": b"<svg xmlns='http://www.w3.org/2000/svg'>",
        "a.dxf": b"0\nSECTION\n2\nENTITIES\n",
        "a.stl": b"solid x\n",
    }
    for whole in (data, heads.get(name, b"a,b\n") + data):
        with contextlib.suppress(Failure):
            read_attached(whole, name)


def test_cells_beyond_all_measure() -> None:
    outcome = outcome_of(
        'file t = "t.csv"\na = sum(t.a)\nwell = 1',
        tables=read_files({"t.csv": b"a [mm]\n1e999\n1e308\n"}),
    )
    scene_of(outcome)
    assert outcome.lines[2].value == 1


TEXTS = {
    "a section": lambda n: "== " + " " * n + "x",
    "a dim": lambda n: "dim radius " + "x about " * (n // 8),
    "a level": lambda n: "dim level " + " at x" * (n // 5),
    "empty lines": lambda n: "a = (\n" + "\n" * n,
    "brackets": lambda n: "a = " + "(" * n,
    "operators": lambda n: "+ " * (n // 2),
    "quotes": lambda n: "a = " + '"' * n,
    "braces": lambda n: 'a = "' + "{" * n,
    "a list": lambda n: "a = [" + ", ".join("1" for _ in range(n // 3)) + "]",
    "many lines": lambda n: "\n".join(f"a{i} = b{i} + 12.5 mm" for i in range(n // 20)),
}


@pytest.mark.parametrize("name", TEXTS)
def test_reading_takes_as_long_as_the_text_is(name: str) -> None:
    """Four times the text takes four times as long, and not sixteen; a small floor for the clock."""

    def seconds(n: int) -> float:
        """The least of three, each with a text of its own."""
        found = []
        for again in range(3):
            text = f"z{n}{again} = 1\n" + TEXTS[name](n + again)
            begun = time.process_time()
            outcome_of(text)
            found.append(time.process_time() - begun)
        return min(found)

    seconds(1_000)
    assert seconds(16_000) <= 9 * max(seconds(4_000), 0.02)


def test_what_is_too_much_is_said_in_words() -> None:
    (long, deep) = (
        read_sheet(text).statements[0].content
        for text in ("a = [" + "1, " * 40_000 + "1]", "a = " + " + ".join(["b"] * 400))
    )
    assert "at most 60,000 are read" in long.message  # type: ignore[attr-defined]
    assert "operations stand within each other" in deep.message  # type: ignore[attr-defined]


def test_functions_of_functions_are_made_once_each() -> None:
    """Forty functions, each calling the one before twice: made at once, and stopped when it runs."""
    lines = ["f0(x) = x + 1", *(f"f{i}(x) = f{i - 1}(x) + f{i - 1}(x)" for i in range(1, 41))]
    begun = time.monotonic()
    outcome = outcome_of("\n".join([*lines, "a = f10(1)", "b = f40(1)", "c = 1"]), time_limit=1.0)
    assert time.monotonic() - begun < 20, "not 2^40 of them"
    values = [line.value for line in outcome.lines[-3:]]
    assert values[0] == 2048 and values[2] == 1 and "takes too long" in outcome.problems[0].message


def test_a_clock_that_is_not_heard_rings_again() -> None:
    """What it raises is lost where it rings while rubbish is collected."""
    heard, end = 0, time.monotonic() + 20
    with until(time.monotonic() + 0.05):
        while heard < 2 and time.monotonic() < end:
            try:
                while time.monotonic() < end:
                    sum(range(1000))
            except LimitReached:
                heard += 1
    assert heard == 2


def test_what_cannot_be_told_apart_costs_only_the_line_that_needs_it(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    def fail(self: Region) -> str:
        raise RecursionError("too deep")

    monkeypatch.setattr(Region, "fingerprint", property(fail))
    outcome = outcome_of("r = rect(30 mm, 20 mm)\na = area(r)\nb = 3 mm")
    assert [one.line for one in outcome.problems] == [2]
    assert outcome.lines[2].value == 3.0
