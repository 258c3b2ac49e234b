"""An outline that was clicked, as lines of the sheet: what a click was drawn to stands by its name or its
relation, and figures that stand for themselves may be made inputs."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from ovolo.geometry.curves.curve import Curve
from ovolo.geometry.same import SAME_PLACE
from ovolo.geometry.types import Points
from ovolo.outcome.named_lengths import NamedLengths
from ovolo.outcome.outcome import Outcome
from ovolo.problems import Failure
from ovolo.quantities.dimension import ANGLE, LENGTH, Dimension
from ovolo.quantities.kinds import Kind, ListOf, PointKind
from ovolo.sheet.literals import literal_for
from ovolo.sheet.placing import free_name

PLANES = {"plan": (0, 1), "front": (0, 2), "side": (1, 2)}
"""Which coordinates are across and up in the view in which one draws."""

ENDINGS = ("closed", "open", "mirrored")
"""Straight back to the beginning, left as it is, or with its mirror image across the line from its
beginning to its end."""

MOST_CORNERS = 500
MOST_NAMED = 2_000
"""So many points of lists are looked through for one that lies where a click was drawn to."""


class Corner(Struct, frozen=True):
    """A place that was clicked (x, y, z in mm): whether it was drawn to something that is there, and how
    the piece that leads to it goes."""

    at: Points
    snapped: bool = False
    smooth: bool = False
    """It goes on from the one before without a bend."""

    through: Corner | None = None
    """It is an arc through this place."""

    radius: float = 0.0
    """It is an arc of this radius (mm); below 0 it turns right."""

    typed: tuple[float, float] | None = None
    """Its length (mm) and its direction (radians) were typed."""

    beside: int | None = None
    """It is parallel to the piece that leads to the corner of this number,"""

    square: bool = False
    """or square to it."""


def outline_lines(
    outcome: Outcome,
    text: str,
    corners: Sequence[Corner],
    view: str,
    ending: str = "closed",
    named: bool = False,
) -> list[str]:
    """Lines of the sheet that draw through some corners in a view; with figures `named`, inputs first.
    Raises Failure."""
    if view not in PLANES:
        raise Failure(f"one does not draw in the view `{view}`", f"one of {', '.join(PLANES)}")
    if ending not in ENDINGS:
        raise Failure(f"an outline does not end `{ending}`", f"one of {', '.join(ENDINGS)}")
    if len(corners) > MOST_CORNERS:
        raise Failure(f"{len(corners)} corners are too many", f"at most {MOST_CORNERS}")
    kept = _apart(corners, view)
    if len(kept) < 2:
        raise Failure("an outline needs two corners or more", "click where it goes on")
    said = _Said(outcome, text, view, named)
    chain = said.chain(kept)
    upright = "" if view == "plan" else f'.on("{view}")'
    name = free_name(text, "outline_1")
    if ending == "mirrored":
        half = free_name(text, f"{name}_half")
        image = f"{half}.{said.mirror(kept)}.reverse()"
        return [*said.inputs, f"{half} = {chain}", f"{name} = join([{half}, {image}]){upright}"]
    return [*said.inputs, f"{name} = {chain}{'.close()' if ending == 'closed' else ''}{upright}"]


def _apart(corners: Sequence[Corner], view: str) -> list[Corner]:
    """The corners without those that lie on the one before; what they are beside is counted anew."""
    kept: list[Corner] = []
    numbers: list[int] = []
    for one in corners:
        if not kept or one.through is not None or _away(one, kept[-1], view):
            known = one.beside is not None and one.beside < len(numbers)
            kept.append(replace(one, beside=numbers[one.beside] if known else None))  # type: ignore[index]
        numbers.append(len(kept) - 1)
    return kept


def _away(one: Corner, other: Corner, view: str) -> bool:
    return bool(np.abs((one.at - other.at)[list(PLANES[view])]).max() > SAME_PLACE)


class _Said:
    """Corners as the sheet writes them, and the inputs that this takes."""

    def __init__(self, outcome: Outcome, text: str, view: str, named: bool) -> None:
        self.outcome, self.text, self.named = outcome, text, named
        self.axes, self.flat = list(PLANES[view]), view == "plan"
        self.lengths = NamedLengths(outcome)
        self.places = list(_places_of(outcome)) if self.flat else []
        self.inputs: list[str] = []
        self._named: dict[tuple[str, float], str] = {}

    def chain(self, corners: Sequence[Corner]) -> str:
        self.corners, self.written = corners, [self.corner(corners[0])]
        chain = f"start({self.written[0]})"
        for number, one in enumerate(corners[1:], start=1):
            self.written.append(self._next(number))
            chain += self._piece(one, number)
        return chain

    def _piece(self, one: Corner, number: int) -> str:
        there = self.written[number]
        if one.through is not None:
            return f".arc_through({self.corner(one.through)}, {there})"
        if one.radius:
            return f".arc_to({there}, {self.figure(one.radius, LENGTH, 'radius_1')})"
        return f".{'tangent_to' if one.smooth and number > 1 else 'to'}({there})"

    def _next(self, number: int) -> str:
        """A corner behind the first: by the piece that leads to it, where that is said, else its own."""
        one, before = self.corners[number], self.written[number - 1]
        if one.beside is not None and 0 < one.beside < number and not one.snapped:
            a, b = self.written[one.beside - 1], self.written[one.beside]
            way, sign = self._way(number, one.beside, one.square)
            if way > SAME_PLACE:
                turned = f".turn({'' if sign > 0 else '-'}90°)" if one.square else ""
                minus = "-" if sign < 0 and not one.square else ""
                return f"{before} + {minus}{self.figure(way, LENGTH, 'long_1')} * unit({b} - {a}){turned}"
        if one.typed is not None and self.named:
            length, turn = one.typed
            way_written = self.figure(length, LENGTH, "long_1")
            return f"{before} + polar({way_written}, {self.figure(turn, ANGLE, 'turn_1')})"
        return self.corner(one)

    def _way(self, number: int, beside: int, square: bool) -> tuple[float, float]:
        """How long a piece is along another's direction, or square to it; and which way it goes."""
        at = [one.at[self.axes] for one in self.corners]
        along = at[beside] - at[beside - 1]
        along = along / np.linalg.norm(along)
        own = at[number] - at[number - 1]
        way = float(own @ (np.array([-along[1], along[0]]) if square else along))
        return abs(way), math.copysign(1.0, way)

    def mirror(self, corners: Sequence[Corner]) -> str:
        """The mirror image across the line from the first corner to the last. Raises Failure where they
        are one place."""
        first, last = (one.at[self.axes] for one in (corners[0], corners[-1]))
        along = np.abs(last - first)
        if along.max() <= SAME_PLACE:
            raise Failure(
                "half an outline begins and ends on the line across which it is mirrored",
                "end it elsewhere than where it begins",
            )
        begin, end = self.written[0], self.written[-1]
        for axis, other in (("x", 0), ("y", 1)):
            if along[other] <= SAME_PLACE:  # the line is upright, or level
                return (
                    f"mirror({axis}, {begin})"
                    if np.abs(first).max() > SAME_PLACE
                    else f"mirror({axis})"
                )
        return f"mirror(({end} - {begin}).turn(90°), {begin})"

    def corner(self, corner: Corner) -> str:
        """By the name of what lies there; else by its coordinates, of which those that a click was
        drawn to by the names of lengths that they are."""
        if corner.snapped and self.flat and abs(corner.at[2]) < SAME_PLACE:
            for name, place in self.places:
                if np.abs(place - corner.at).max() < SAME_PLACE:
                    return name
        written = [self._coordinate(float(one), corner.snapped) for one in corner.at[self.axes]]
        return f"({', '.join(written)})"

    def _coordinate(self, value: float, snapped: bool) -> str:
        known = self.lengths.said(value, snapped)
        if not self.named or abs(value) < SAME_PLACE or known != self.lengths.said(value, False):
            return known
        return self.figure(value, LENGTH, "long_1")

    def figure(self, value: float, dimension: Dimension, wanted: str) -> str:
        """A figure that stands for itself: written, or the name of an input that is made of it."""
        size = abs(value)
        shown = float(f"{size:.7g}") if dimension == LENGTH else size  # what is drawn is rounded
        written = literal_for(shown, dimension, "", self.outcome.units)
        minus = "-" if value < 0 else ""
        if not self.named or size < SAME_PLACE:
            return f"{minus}{written}"
        key = wanted, round(size, 6)
        if key not in self._named:
            self._named[key] = free_name("\n".join([self.text, *self.inputs]), wanted)
            self.inputs.append(f"input {self._named[key]} = {written}")
        return f"{minus}{self._named[key]}"


def _places_of(outcome: Outcome) -> list[tuple[str, Points]]:
    """The points in plan that the sheet has a name for: those that are lines, those in lists, and the
    ends of curves."""
    found: list[tuple[str, Points]] = []
    later: list[tuple[str, Points]] = []
    for one in outcome.lines:
        name, value = one.line.name, one.value
        if not name or not one.has_value:
            continue
        if _is_place(one.line.kind):
            found.append((name, _in_space(value)))
        elif isinstance(one.line.kind, ListOf) and _is_place(one.line.kind.item):
            if isinstance(value, np.ndarray) and len(later) + len(value) <= MOST_NAMED:
                later += [(f"{name}[{at}]", _in_space(place)) for at, place in enumerate(value)]
        elif isinstance(value, Curve):
            later += _ends_of(name, value, outcome)
        elif isinstance(value, list) and len(later) + 2 * len(value) <= MOST_NAMED:
            for at, one in enumerate(value):
                later += _ends_of(f"{name}[{at}]", one, outcome) if isinstance(one, Curve) else []
    return found + later


def _ends_of(name: str, curve: Curve, outcome: Outcome) -> list[tuple[str, Points]]:
    if not curve.pieces:
        return []
    begin = f"{name}.point_at(0 {outcome.units.length_unit.symbol})"
    return [(begin, curve.start), (f"{name}.point_at(share = 1)", curve.end)]


def _in_space(place: Any) -> Points:
    given = np.asarray(place, dtype=float)
    return np.append(given, np.zeros(3 - len(given)))


def _is_place(kind: Kind | None) -> bool:
    return isinstance(kind, PointKind) and kind.dimension == LENGTH
