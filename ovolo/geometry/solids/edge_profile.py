"""The edges of an extrusion: how they are finished, and the profile of the wall between them, from the foot to the top."""

from __future__ import annotations

import math

import numpy as np
from msgspec import Struct
from msgspec.structs import replace
from numpy.typing import NDArray

from ovolo.geometry.same import SAME_SHARE, SMALLEST
from ovolo.geometry.tolerance import chord_tolerance
from ovolo.geometry.types import Floats
from ovolo.problems import Failure


class Finish(Struct, frozen=True):
    """How an edge is finished: `form` is round or bevel, `size` its radius or its width in mm."""

    form: str
    size: float

    def __post_init__(self) -> None:
        if self.size < -SMALLEST:
            what = "radius" if self.form == "round" else "bevel"
            raise Failure(f"the {what} of an edge is {self.size:g} mm", "it must not be below 0")

    @property
    def is_none(self) -> bool:
        """A rounding of 0 is no rounding."""
        return self.size <= SMALLEST

    def section(self, lean: float) -> list[tuple[float, float]]:
        """From the wall, which leans inwards by `lean` (radians), to the level face above it: how
        far in from the edge where both would meet, and how far below the face (mm). An arc touches
        both; a bevel takes as much off the wall as off the face."""
        r = self.size
        if self.form == "bevel":
            return [(-r * math.sin(lean), r * math.cos(lean)), (r, 0.0)]
        # The centre of the arc, at the depth r, is r away from the wall, too.
        centre = r * (1 - math.sin(lean)) / math.cos(lean)
        sagitta = min(chord_tolerance() / r, 0.2)
        span = math.pi / 2 - lean
        count = max(math.ceil(span / 2 / math.acos(1 - sagitta)), math.ceil(span * _STEPS_A_TURN / 2 / math.pi), 3)  # fmt: skip
        angles = np.linspace(lean, math.pi / 2, count + 1)
        return [(centre - r * math.cos(a), r - r * math.sin(a)) for a in angles]

    def nodes(self, lean: float) -> tuple[Floats, Floats, tuple[Floats, Floats]]:
        """Of the section: how far in, how far below the face, and the steps of height and length
        that each of some places stands for."""
        if self.form == "bevel":
            (x0, y0), (x1, y1) = self.section(lean)
            share = (1 + _NODES) / 2
            steps = abs(y1 - y0) * _WEIGHTS / 2, math.hypot(x1 - x0, y1 - y0) * _WEIGHTS / 2
            return x0 + share * (x1 - x0), y0 + share * (y1 - y0), steps
        r, span = self.size, math.pi / 2 - lean
        angles = lean + span * (1 + _NODES) / 2
        centre = r * (1 - math.sin(lean)) / math.cos(lean)
        along = r * span * _WEIGHTS / 2
        return centre - r * np.cos(angles), r - r * np.sin(angles), (along * np.cos(angles), along)


_NODES, _WEIGHTS = np.polynomial.legendre.leggauss(24)
_STEPS_A_TURN = 36


class Stretch(Struct, frozen=True):
    """A stretch of the profile of a wall, from below: from one place to another (inset and height, in
    mm), straight, or by an arc about a centre: at angle a it is cos(a) outwards of the centre and
    sin(a) above it, or below where `way` is -1."""

    start: tuple[float, float]
    end: tuple[float, float]
    centre: tuple[float, float] = (0.0, 0.0)
    radius: float = 0.0
    angle: float = 0.0
    sweep: float = 0.0
    way: float = 1.0


class EdgeProfile(Struct, frozen=True):
    """An extrusion's walls and the finish of its edges, seen upwards: it goes from z = 0 to `rise`
    (mm), its walls lean inwards by `lean` (radians) from where it is `inset` at the foot."""

    rise: float
    lean: float
    inset: float
    top: Finish | None
    bottom: Finish | None

    def scaled(self, share: float) -> EdgeProfile:
        """The same with its finishes made smaller."""
        top, bottom = (
            None
            if one is None or one.size * share <= SMALLEST
            else replace(one, size=one.size * share)
            for one in (self.top, self.bottom)
        )
        return replace(self, top=top, bottom=bottom)

    def at(self, height: float) -> float:
        """How far in the wall is."""
        return self.inset + math.tan(self.lean) * height

    def plan(self) -> list[tuple[float, float]]:
        """How far in the outline is, by heights, from below."""
        below, above = [(self.at(0.0), 0.0)], [(self.at(self.rise), self.rise)]
        if self.bottom is not None:
            section = self.bottom.section(-self.lean)
            below = [(self.at(0.0) + inwards, depth) for inwards, depth in reversed(section)]
        if self.top is not None:
            section = self.top.section(self.lean)
            above = [
                (self.at(self.rise) + inwards, self.rise - depth) for inwards, depth in section
            ]
        plan = [*below, *above]
        return [
            one
            for at, one in enumerate(plan)
            if not at or max(abs(one[0] - plan[at - 1][0]), one[1] - plan[at - 1][1]) > SAME_SHARE
        ]

    def stretches(self) -> list[Stretch]:
        """The profile of the wall, from below."""
        found: list[Stretch] = []
        at, here = (self.at(0.0), 0.0), (self.at(self.rise), self.rise)
        if self.bottom is not None:
            foot, first = self._finish(self.bottom, -self.lean, 0.0, -1.0)
            found.append(foot)
            at = first
        top = None
        if self.top is not None:
            top, here = self._finish(self.top, self.lean, self.rise, 1.0)
        if here[1] - at[1] > SMALLEST:
            found.append(Stretch(at, here))
        return [*found, top] if top is not None else found

    def _finish(
        self, finish: Finish, lean: float, level: float, way: float
    ) -> tuple[Stretch, tuple[float, float]]:
        """The stretch of a finish beside a level face, and where it meets the wall."""
        places = [(self.at(level) + inwards, level - way * depth) for inwards, depth in finish.section(lean)]  # fmt: skip
        wall, face = places[0], places[-1]
        start, end = (wall, face) if way > 0 else (face, wall)
        if finish.form == "bevel":
            return Stretch(start, end), wall
        centre = face[0], level - way * finish.size
        low, high = lean, math.pi / 2
        angle, sweep = (low, high - low) if way > 0 else (high, low - high)
        return Stretch(start, end, centre, finish.size, angle, sweep, way), wall

    def depths(self) -> float:
        """What the finishes take of the height."""
        ways = ((self.top, self.lean), (self.bottom, -self.lean))
        return sum(one.section(lean)[0][1] for one, lean in ways if one is not None)

    def nodes(self) -> tuple[NDArray[np.float64], ...]:
        """Places along the profile of the wall for integration: how far in, the height, and for
        each the step of height and of length it stands for (Gauss and Legendre)."""
        found = []
        low, high = 0.0, self.rise
        for finish, lean, upwards in (
            (self.bottom, -self.lean, False),
            (self.top, self.lean, True),
        ):
            if finish is None:
                continue
            base = self.at(self.rise if upwards else 0.0)
            inwards, depth, steps = finish.nodes(lean)
            heights = self.rise - depth if upwards else depth
            found.append((base + inwards, heights, *steps))
            taken = finish.section(lean)[0][1]
            low, high = (low, high - taken) if upwards else (low + taken, high)
        heights = low + (high - low) * (1 + _NODES) / 2
        rises = (high - low) * _WEIGHTS / 2
        wall = np.array([self.at(float(z)) for z in heights])
        found.append((wall, heights, rises, rises / math.cos(self.lean)))
        return tuple(np.concatenate(one) for one in zip(*found, strict=True))
