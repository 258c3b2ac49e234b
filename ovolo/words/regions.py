"""Flat figures."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ovolo.geometry import region as kernel
from ovolo.geometry.region import Region
from ovolo.words.registry import word


@word("length, length -> region", example="area(rect(30 mm, 20 mm))", gives="600 mm^2")
def rect(w: float, h: float) -> Region:
    """A rectangle of width w and height h, centred on the origin.

    w: along x
    h: along y
    """
    return kernel.rectangle(w, h)


@word("length -> region", example="area(disc(10 mm)) < pi * (10 mm)^2", gives="yes")
def disc(r: float) -> Region:
    """A disc of radius r, centred on the origin.

    r: the radius
    """
    return kernel.disc(r)


@word("whole, length -> region", example="area(polygon(4, 10 mm))", gives="200 mm^2")
def polygon(n: int, r: float) -> Region:
    """A regular polygon of n sides with its corners at radius r, the first on the x axis.

    n: how many sides
    r: from the centre to the corners
    """
    return kernel.regular_polygon(n, r)


@word(
    "list point, list point... -> region",
    example="area(region([(0 mm, 0 mm), (4 mm, 0 mm), (0 mm, 3 mm)]))", gives="6 mm^2",
)  # fmt: skip
def region(outline: NDArray[np.float64], *holes: NDArray[np.float64]) -> Region:
    """The region inside a closed outline of points, less its holes; the points lie at one height.

    outline: the corners in order
    holes: the corners of each hole
    """
    rings = [np.asarray(ring, dtype=float).reshape(-1, 3) for ring in (outline, *holes)]
    return kernel.from_points(rings[0], rings[1:])
