"""Underlays: pictures that lie under a drawing, so that it can be compared with them."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
from msgspec import Struct
from msgspec.structs import replace
from numpy.typing import NDArray

from ovolo.geometry.digest import digest as digest_of
from ovolo.geometry.placement import IDENTITY, Matrix, applied
from ovolo.geometry.same import SMALLEST
from ovolo.problems import Failure
from ovolo.quantities.kinds import ANGLE_KIND, LENGTH_KIND, POINT, Record

STRENGTH = 0.5
"""How strongly a picture is shown where nothing is said: from 0 to 1."""


class Underlay(Struct, frozen=True, eq=False):
    """A picture in plan. `matrix` takes a place of it, in pixels to the right of and below its
    upper left corner, to mm; an attached picture that nothing is said of has a mm to a pixel, its
    lower left corner at the origin."""

    name: str
    width: int
    height: int
    digest: str
    matrix: Matrix
    strength: float = STRENGTH

    @property
    def kind(self) -> Record:
        """What a sheet can ask of it."""
        return Record(
            fields=(
                ("at", POINT),
                ("width", LENGTH_KIND),
                ("height", LENGTH_KIND),
                ("turn", ANGLE_KIND),
                ("pixel", LENGTH_KIND),
            )
        )

    @property
    def fingerprint(self) -> str:
        """What tells it from other values."""
        return digest_of("underlay", self.digest, self.matrix, self.strength)

    @property
    def pixel(self) -> float:
        """The size of a pixel in mm."""
        return float(np.linalg.norm(self.matrix[:3, 0]))

    @property
    def corners(self) -> NDArray[np.float64]:
        """Its corners in space (4, 3): lower left, lower right, upper right, upper left."""
        w, h = self.width, self.height
        return applied(self.matrix, np.array([[0, h, 0], [w, h, 0], [w, 0, 0], [0, 0, 0]], float))

    def __getitem__(self, field: str) -> Any:
        """What a sheet asks of it; `at` is its lower left corner."""
        along = self.matrix[:3, 0]
        return {
            "at": self.corners[0],
            "width": self.width * self.pixel,
            "height": self.height * self.pixel,
            "turn": math.atan2(float(along[1]), float(along[0])),
            "pixel": self.pixel,
        }[field]

    def calibrated(
        self,
        start: NDArray[np.float64],
        end: NDArray[np.float64],
        distance: float,
        place: NDArray[np.float64] | None = None,
        turn: float = 0.0,
        strength: float = STRENGTH,
    ) -> Underlay:
        """The picture so that two points of it (in pixels from its upper left corner) are a distance
        (mm) apart, the first one lying at `place` (the origin), turned anticlockwise by an angle
        (radians). Raises Failure where that cannot be."""
        apart = float(np.linalg.norm((end - start)[:2]))
        if apart < SMALLEST:
            raise Failure("both points of the picture are the same", "click two that differ")
        if not distance > SMALLEST:
            raise Failure(f"the true distance is {distance:g} mm", "it must be more than 0")
        if not 0.0 <= strength <= 1.0:
            raise Failure(f"the strength is {strength:.6g}", "from 0 % to 100 %")
        size = distance / apart
        c, s = size * math.cos(turn), size * math.sin(turn)
        matrix = IDENTITY.copy()
        # The y axis of a picture points down, that of a drawing up.
        matrix[:2, :2] = [[c, s], [s, -c]]
        origin = np.zeros(3) if place is None else place
        matrix[:3, 3] = origin - matrix[:3, :2] @ start[:2]
        return replace(self, matrix=matrix, strength=strength)


def unplaced(name: str, width: int, height: int, digest: str) -> Underlay:
    """A picture with a mm to a pixel, its lower left corner at the origin."""
    matrix = IDENTITY.copy()
    matrix[1, 1], matrix[1, 3] = -1.0, float(height)
    return Underlay(name, width, height, digest, matrix)
