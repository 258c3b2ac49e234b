"""What a geometry can do, whatever its kind: a curve, a region, a solid, copies of one, a surface.

A kind is a class that is a `Thing`. Whoever places, measures, weighs or tells apart asks this, and never which kind
it is; so a new one is written in one place.
"""

from __future__ import annotations

from typing import Any, ClassVar, Literal

import numpy as np

from ovolo.geometry.coat import Coat
from ovolo.geometry.meshes.mesh import Drawing
from ovolo.geometry.placement import Matrix
from ovolo.geometry.types import Floats, Points

Measure = Literal["volume", "surface", "centre", "bounds"]
"""What is measured of a solid: its volume, its surface, its centre and its bounds."""

OBJECT = 500
"""Bytes of a small object with what hangs on it, roughly."""


class Thing:
    """A geometry where it stands; never changed once made."""

    word: ClassVar[str]
    """What it is called in a message."""

    many: ClassVar[bool] = False
    """Whether it may be placed by n matrices at once."""

    coat: Coat | None

    @property
    def key(self) -> str:
        """A digest of what it is; equal for equal figures."""
        raise NotImplementedError

    @property
    def fingerprint(self) -> str:
        """A digest of what it is and of where it stands, without its coat."""
        return self.key

    @property
    def weight(self) -> int:
        """How many bytes it holds, roughly; without shapes, which are remembered by themselves."""
        return OBJECT

    @property
    def places(self) -> int:
        """How many places of a list it takes."""
        return 1

    @property
    def is_empty(self) -> bool:
        """Whether it adds nothing and cuts nothing."""
        return False

    @property
    def why_empty(self) -> str:
        """What left nothing of it."""
        return ""

    @property
    def within(self) -> float:
        """By what share its measures may be wrong; 0 where they are exact."""
        raise NotImplementedError

    def within_of(self, measure: Measure) -> float:
        """The same of one measure; of centres and bounds as a share of its size."""
        return self.within

    @property
    def bounds_missed(self) -> float:
        """By how many mm its bounds may be wrong."""
        share = self.within_of("bounds")
        return share * float(np.ptp(self.bounds(), axis=0).max()) if share else 0.0

    def bounds(self) -> Points:
        """The least and greatest corner (2, 3) in mm."""
        raise NotImplementedError

    def placed(self, matrix: Matrix) -> Any:
        """The same, moved by a matrix (4, 4); where `many`, also copied by n of them (n, 4, 4)."""
        raise NotImplementedError


class Drawable(Thing):
    """A geometry with a picture of its own: all but solids, whose copies share that of their shape."""

    @property
    def drawing_key(self) -> str:
        """What tells its picture from others."""
        raise NotImplementedError

    @property
    def drawn_at(self) -> Floats:
        """Where its picture stands, (4, 4)."""
        raise NotImplementedError

    @property
    def drawing(self) -> Drawing:
        raise NotImplementedError

    def drawn_bounds(self) -> Points:
        """The least and greatest corner (2, 3) of what is drawn; in mm, by its chords where those tell less."""
        return self.bounds()
