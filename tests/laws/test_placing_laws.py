"""Laws over all words: what is moved, turned, mirrored or ten times as large gives what is moved,
turned, mirrored or ten times as large. The laws are those of Euclidean geometry."""

from __future__ import annotations

from functools import cache
from typing import Any

import numpy as np
import pytest

from ovolo.outcome.outcome import Outcome, outcome_of
from ovolo.outcome.schedule import schedule
from ovolo.quantities.kinds import CURVE, GEOMETRY, REGION, SOLID, ListOf, PointKind, Quantity
from ovolo.running.evaluate import LineOutcome
from ovolo.words.measuring import pieces
from tests.laws.arguments import THINGS, WITHOUT, Call, calls, covered
from tests.sheets import run

CALLS = calls()

EXACT, CHORDS = 1e-9, 1e-3
"""What is promised of exact measures, and of others (docs/language.md)."""

AS_IT_IS = ("g(x) = x", "h(v) = v")
MOTIONS = {
    "moved and turned": ("g(x) = x.turn(37°).move(130 mm, -70 mm)", "h(v) = v.turn(37°)"),
    "turned by a right angle": ("g(x) = x.turn(90°).move(1 mm / 3, 0 mm)", "h(v) = v.turn(90°)"),
}


def made(call: Call, *given: str, unit: str = "mm") -> tuple[Outcome, LineOutcome]:
    lines = [
        line.replace(" mm", f" {unit}") for line in (*THINGS, *given, f"found = {call.formula}")
    ]
    outcome = run(*lines)
    assert not outcome.problems, [str(problem) for problem in outcome.problems]
    return outcome, outcome.lines[-1]


@cache
def as_it_is(formula: str) -> LineOutcome:
    """What a call gives of things where they are; each law compares with it."""
    return made(next(one for one in CALLS if one.formula == formula), *AS_IT_IS)[1]


def measures(line: LineOutcome) -> tuple[dict[str, float], float]:
    """What no motion changes, each with the power of a length that it is; and how exact it is."""
    kind, value = line.line.kind, line.value
    while isinstance(kind, ListOf):
        kind = kind.item
    if isinstance(kind, Quantity):
        power = float(kind.dimension.length)
        return {f"value {power:g}": float(value)}, line.result.within or 0.0  # type: ignore[union-attr]
    if isinstance(kind, PointKind):
        return {}, 0.0
    assert kind in GEOMETRY, kind
    found: dict[str, float] = {"count 0": float(sum(1 for _ in pieces(value)))}
    for piece in pieces(value):
        sizes = {"volume 3": "volume", "area 2": "area", "perimeter 1": "perimeter", "length 1": "length"}  # fmt: skip
        for said, name in sizes.items():
            if hasattr(piece, name):
                found[said] = found.get(said, 0.0) + float(getattr(piece, name))
    return found, max((_within(piece) for piece in pieces(value)), default=0.0)


def _within(piece: Any) -> float:
    """By what share its volume or its surface may be wrong; of some solids only the one is known by a formula."""
    if hasattr(piece, "volume"):
        return max(piece.within, float(piece.within_of("surface")))
    return float(piece.within)


def tolerance(within: float) -> float:
    return EXACT if within == 0 else max(within, CHORDS)


def agree(one: dict[str, float], other: dict[str, float], share: float) -> None:
    assert set(one) == set(other)
    for name, wanted in one.items():
        # Surfaces of what is not exact are those of chords: their share is that of the volume, twice.
        slack = share if name.startswith(("volume", "count", "length")) or share == EXACT else 4 * share  # fmt: skip
        assert other[name] == pytest.approx(wanted, rel=slack, abs=1e-9), name


@pytest.mark.parametrize("call", CALLS, ids=str)
@pytest.mark.parametrize("motion", MOTIONS.values(), ids=MOTIONS)
def test_a_motion_of_all_that_goes_in_moves_what_comes_out(call: Call, motion: tuple[str, ...]) -> None:  # fmt: skip
    still = as_it_is(call.formula)
    _, moved = made(call, *motion)
    (wanted, within), (found, other) = measures(still), measures(moved)
    agree(wanted, found, tolerance(max(within, other)))


@pytest.mark.parametrize("call", [one for one in CALLS if "tangent_at" not in one.formula], ids=str)
def test_a_mirror_image_of_all_that_goes_in_mirrors_what_comes_out(call: Call) -> None:
    if call.word.name in ("offset", "arc_to", "thicken", "normal_at", "text") or "along =" in call.formula:  # fmt: skip
        pytest.skip("it has a side: left becomes right")
    if "twist" in call.formula:
        pytest.skip("it turns one way")
    mirror = ("g(x) = x.mirror((1, 2, 0), at = (3 mm, 4 mm))", "h(v) = v.mirror((1, 2, 0))")
    still = as_it_is(call.formula)
    _, image = made(call, *mirror)
    (wanted, within), (found, other) = measures(still), measures(image)
    agree(wanted, found, tolerance(max(within, other)))


@pytest.mark.parametrize("call", CALLS, ids=str)
def test_ten_times_the_size_is_ten_times_as_large(call: Call) -> None:
    small = as_it_is(call.formula)
    _, large = made(call, *AS_IT_IS, unit="cm")
    (wanted, within), (found, other) = measures(small), measures(large)
    grown = {name: size * 10.0 ** float(name.rsplit(" ", 1)[1]) for name, size in wanted.items()}
    agree(grown, found, tolerance(max(within, other)))


@pytest.mark.parametrize("call", [one for one in CALLS if "g(" in one.formula], ids=str)
def test_what_is_placed_by_hand_measures_as_what_is_placed_by_a_word(call: Call) -> None:
    """The centre and the bounds of what comes out go where a motion takes them."""
    still = as_it_is(call.formula)
    _, moved = made(call, "g(x) = x.turn(90°).move(30 mm, -20 mm)", "h(v) = v.turn(90°)")
    kind = still.line.kind
    if kind not in (CURVE, REGION, SOLID) or call.word.name == "text":
        return
    one, other = still.value, moved.value
    low, high = one.bounds()
    turned = [[30 - high[1], -20 + low[0], low[2]], [30 - low[1], -20 + high[0], high[2]]]
    exact = one.within == other.within == 0
    slack = 1e-7 if exact and kind != SOLID else 0.1
    for mine, theirs in zip(turned, other.bounds().tolist(), strict=True):
        assert theirs == pytest.approx(mine, abs=slack)


def test_every_word_that_makes_or_measures_is_tried() -> None:
    tried = {call.word.name for call in CALLS}
    missing = [word.name for word in covered() if word.name not in tried]
    assert not missing, f"give these a call in tests/laws/arguments.py: {missing}"
    assert not set(WITHOUT) & tried


@pytest.mark.parametrize(
    "solid",
    [
        "s0", "s0.mirror(z)", "s0.turn(180°, about = x)", "extrude(r0, -9 mm)", "sphere(9 mm)",
        "cylinder(6 mm, 20 mm).turn(30°, about = x)", "revolve(r1.move(40 mm, 0 mm), 360°)",
    ],
)  # fmt: skip
@pytest.mark.parametrize("way", ["z", "-z", "x", "-y", "(1, 2, 3)", "(0, -sin(30°), -cos(30°))"])
def test_a_section_looks_the_way_it_was_cut(solid: str, way: str) -> None:
    """Whether or not the plane lies across the layers of the solid: an extrusion of the section
    stands on the plane."""
    made = run(
        *THINGS, f"s = {solid}", f"w = unit({way})", "at = centroid(s)",
        "lifted = extrude(cut_at(s, w, at = at), 7 mm)",
        "rise = dot(centroid(lifted) - at, w)",
    )  # fmt: skip
    assert not made.problems, [str(problem) for problem in made.problems]
    assert made.lines[-1].value == pytest.approx(3.5, abs=1e-6)


@pytest.mark.parametrize("curve", [
    "polyline([(0 mm, 0 mm, 0 mm), (100 mm, 33 mm, 5 mm)])", "polyline([(0 km, 0 km), (100 km, 1 mm)])",
    "circle(40 mm)", "arc((0 mm, 0 mm), 50 mm, 10°, 100°)", "helix(20 mm, 9 mm, 3)",
    "polyline([(0 mm, 0 mm), (30 mm, 0 mm), (30 mm, 20 mm)])",
])  # fmt: skip
def test_a_curve_is_one_piece_of_the_schedule_however_it_lies(curve: str) -> None:
    """Of straight and flat ones the width that they do not have is noise, of either sign."""
    turned_about = f"{curve}.turn(i * 13.7°, (1, 2, 3)).move(i * 77.7 mm, i * 3.3 mm)"
    outcome = outcome_of(f"part all = [{turned_about} for i in 0 .. 24]")
    with np.errstate(all="raise", under="ignore"):
        assert [row.quantity for row in schedule([outcome.parts["all"]])] == [25]
    other = outcome_of(f"part both = [{curve}, {curve}.scale(1.01)]")
    assert [row.quantity for row in schedule([other.parts["both"]])] == [1, 1]
