"""Measuring."""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ovolo.geometry.solid import Copies
from ovolo.problems import Failure
from ovolo.words.registry import word

Points = Any


def pieces(what: Any) -> Iterator[Any]:
    """The solids, copies of solids, regions and so on within anything made of them; without gaps."""
    if isinstance(what, list):
        for item in what:
            yield from pieces(item)
    elif hasattr(what, "bounds") and not (isinstance(what, Copies) and not len(what)):
        yield what


@word(
    "solid -> volume", "list solid -> volume",
    example="volume(box(1 cm, 1 cm, 1 cm))", gives="1000 mm^3", gaps="skip",
)  # fmt: skip
def volume(what: Any) -> float:
    """The volume of a solid, or of all solids in a list.

    what: a solid, or a list of solids
    """
    return math.fsum(piece.volume for piece in pieces(what))


@word(
    "region -> area", "solid -> area", "list region -> area", "list solid -> area",
    example="area(rect(3 cm, 2 cm))", gives="600 mm^2", gaps="skip",
)  # fmt: skip
def area(what: Any) -> float:
    """The area of a region, or of the surface of a solid; of a list, all together.

    what: a region or a solid, or a list of them
    """
    return math.fsum(piece.area for piece in pieces(what))


def overall(what: Any) -> NDArray[np.float64]:
    """The least and greatest corner (2, 3) of everything within; raises Failure for nothing."""
    found = [piece.bounds() for piece in pieces(what)]
    if not found:
        raise Failure("an empty list has no bounds", "guard it with `if len(…) > 0`")
    stacked = np.array(found)
    return np.array([stacked[:, 0].min(axis=0), stacked[:, 1].max(axis=0)])


@word("shape -> length", example="width(box(3 cm, 2 cm, 1 cm))", gives="3 cm", gaps="skip")
def width(what: Any) -> float:
    """The extent along x.

    what: anything that has a place
    """
    low, high = overall(what)
    return float(high[0] - low[0])


@word("shape -> length", example="depth(box(3 cm, 2 cm, 1 cm))", gives="2 cm", gaps="skip")
def depth(what: Any) -> float:
    """The extent along y.

    what: anything that has a place
    """
    low, high = overall(what)
    return float(high[1] - low[1])


@word("shape -> length", example="height(box(3 cm, 2 cm, 1 cm))", gives="1 cm", gaps="skip")
def height(what: Any) -> float:
    """The extent along z.

    what: anything that has a place
    """
    low, high = overall(what)
    return float(high[2] - low[2])


@word(
    "point -> length", "shape -> length",
    example="level((1 m, 2 m, 3 m))", gives="3 m", gaps="skip",
)  # fmt: skip
def level(what: Any) -> float:
    """The height above z = 0 of a point, or of the lowest place of anything else.

    what: a point, or anything that has a place
    """
    return float(what[2]) if isinstance(what, np.ndarray) else float(overall(what)[0, 2])


@word(
    "point Q, point Q -> Q",
    example="distance((0 m, 0 m), (3 m, 4 m))",
    gives="5 m",
    elementwise=True,
)
def distance(a: Points, b: Points) -> Points:
    """How far two points are apart.

    a: from this point
    b: to this point
    """
    return np.linalg.norm(b - a, axis=-1)
