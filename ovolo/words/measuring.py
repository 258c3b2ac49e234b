"""Measuring."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ovolo.geometry.regions.region import Region
from ovolo.geometry.regions.within import in_region, in_solid
from ovolo.geometry.solids import comparing
from ovolo.geometry.surfaces.levels import level_over
from ovolo.geometry.thing import Measure, Thing
from ovolo.geometry.vectors import cross_product, dot_product
from ovolo.problems import Failure
from ovolo.words.measures_taken import take
from ovolo.words.registry import word

Points = Any


def _take_all(name: str, what: Any, measure: Measure, figure: Callable[[Any], float]) -> float:
    """The sum of a figure of all pieces; how exact that is, is told to whoever asks."""

    def found() -> tuple[float, float, float]:
        every = list(pieces(what))
        total = math.fsum(figure(piece) for piece in every)
        share = max((piece.within_of(measure) for piece in every), default=0.0)
        return total, share, share * total

    return float(take((name, what), found))


def _of_faces(found: float, missed: float) -> tuple[float, float, float]:
    """What is measured between faces that stand for round ones may miss the true figure by so much."""
    return found, missed / max(found, missed) if missed else 0.0, missed


def pieces(what: Any) -> Iterator[Any]:
    """The solids, copies of solids, regions and so on within anything made of them; without gaps."""
    if isinstance(what, list):
        for item in what:
            yield from pieces(item)
    elif isinstance(what, Thing) and not what.is_empty:
        yield what


@word(
    "many solid -> volume",
    example="volume(box(1 cm, 1 cm, 1 cm))", gives="1000 mm^3", gaps="skip",
)  # fmt: skip
def volume(what: Any) -> float:
    """The volume of a solid, or of all solids in a list.

    what: a solid, or a list of solids
    """
    return _take_all("volume", what, "volume", lambda piece: piece.volume)


@word(
    "many region -> area", "many solid -> area", "many surface -> area",
    example="area(rect(3 cm, 2 cm))", gives="600 mm^2", gaps="skip",
)  # fmt: skip
def area(what: Any) -> float:
    """The area of a region or a surface, or of the surface of a solid; of a list, all together.

    what: a region, a surface or a solid, or a list of them
    """
    return _take_all("area", what, "surface", lambda piece: piece.area)


def overall(what: Any) -> NDArray[np.float64]:
    """The least and greatest corner (2, 3) of everything within; raises Failure for nothing."""

    def found() -> tuple[NDArray[np.float64], float, NDArray[np.float64]]:
        every = list(pieces(what))
        share = max((piece.within_of("bounds") for piece in every), default=0.0)
        missed = max((piece.bounds_missed for piece in every), default=0.0) if share else 0.0
        return _bounds(what, every), share, np.array([[-missed], [missed]])

    return np.asarray(take(("bounds", what), found))


def _bounds(what: Any, every: list[Any]) -> NDArray[np.float64]:
    found = [piece.bounds() for piece in every]
    if not found:
        why = getattr(what, "why_empty", "")
        if why:
            raise Failure(f"this is empty and has no bounds: {why}")
        raise Failure("an empty list has no bounds", "guard it with `if len(…) > 0`")
    stacked = np.array(found)
    return np.array([stacked[:, 0].min(axis=0), stacked[:, 1].max(axis=0)])


@word(
    "many curve -> length",
    example="length(line((0 m, 0 m), (3 m, 4 m)))",
    gives="5 m",
    gaps="skip",
)
def length(what: Any) -> float:
    """The length of a curve; of a list of curves, all together.

    what: a curve, or a list of curves
    """
    return _take_all("length", what, "volume", lambda piece: piece.length)


@word(
    "many region -> length",
    example="perimeter(rect(3 cm, 2 cm))",
    gives="10 cm",
    gaps="skip",
)
def perimeter(what: Any) -> float:
    """The length around a region, with its holes.

    what: a region, or a list of regions
    """
    return _take_all("perimeter", what, "volume", lambda piece: piece.perimeter)


@word(
    "region -> point",
    "solid -> point",
    example="centroid(rect(3 cm, 2 cm).move(1 m)).x",
    gives="1 m",
    takes_empty=False,
)
def centroid(what: Any) -> NDArray[np.float64]:
    """The middle of a region or a solid: where it would balance.

    what: a region or a solid
    """

    def found() -> tuple[NDArray[np.float64], float, float]:
        share = what.within_of("centre")
        missed = share * float(np.ptp(what.bounds(), axis=0).max()) if share else 0.0
        return what.centroid, share, missed

    return np.asarray(take(("centre", what), found))


@word(
    "point Q, point R -> angle",
    example="angle_between((1 m, 0 m), (0 m, 2 m))",
    gives="90°",
    elementwise=True,
)
def angle_between(a: Points, b: Points) -> Points:
    """The angle between two directions, from 0° to 180°.

    a: the one
    b: the other
    """
    if np.any(np.linalg.norm(a, axis=-1) == 0) or np.any(np.linalg.norm(b, axis=-1) == 0):
        raise Failure(
            "a vector without length has no direction, and so no angle",
            "guard it, for example `if a == b then 0° else …`",
        )
    across = np.linalg.norm(cross_product(a, b), axis=-1)
    return np.arctan2(across, dot_product(a, b))


def _extent(what: Any, axis: int) -> float:
    """The extent along an axis; the share told is one of it, and not of the size of the whole."""

    def found() -> tuple[float, float, float]:
        every = list(pieces(what))
        low, high = _bounds(what, every)
        return _of_faces(float(high[axis] - low[axis]), max(one.bounds_missed for one in every))

    return float(take(("extent", what, axis), found))


@word("shape -> length", example="width(box(3 cm, 2 cm, 1 cm))", gives="3 cm", gaps="skip")
def width(what: Any) -> float:
    """The extent along x.

    what: anything that has a place
    """
    return _extent(what, 0)


@word("shape -> length", example="depth(box(3 cm, 2 cm, 1 cm))", gives="2 cm", gaps="skip")
def depth(what: Any) -> float:
    """The extent along y.

    what: anything that has a place
    """
    return _extent(what, 1)


@word("shape -> length", example="height(box(3 cm, 2 cm, 1 cm))", gives="1 cm", gaps="skip")
def height(what: Any) -> float:
    """The extent along z.

    what: anything that has a place
    """
    return _extent(what, 2)


@word(
    "point -> length", "shape -> length", "surface, point -> length",
    example="level((1 m, 2 m, 3 m))", gives="3 m", gaps="skip",
)  # fmt: skip
def level(what: Any, over: Points | None = None) -> float:
    """The height above z = 0 of a point, or of the lowest place of anything else; of a surface also
    that over a place in plan, of several the highest.

    what: a point, or anything that has a place
    over: the place in plan over which it is asked for
    """
    if over is not None:
        return level_over(what, float(over[0]), float(over[1]))
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


@word(
    "shape -> {low: point, high: point}",
    example="bounds(box(3 cm, 2 cm, 1 cm)).high.z", gives="1 cm", gaps="skip",
)  # fmt: skip
def bounds(what: Any) -> dict[str, NDArray[np.float64]]:
    """The least and the greatest corner of all it takes up: `.low` and `.high`.

    what: anything that has a place
    """
    low, high = overall(what)
    return {"low": low, "high": high}


@word(
    "solid, point, point Q -> length",
    example="thickness(box(3 cm, 2 cm, 1 cm), (0 cm, 0 cm, 1 cm), -z)", gives="1 cm", takes_empty=False,
)  # fmt: skip
def thickness(what: Any, p: NDArray[np.float64], way: NDArray[np.float64]) -> float:
    """How thick a solid is along a direction, where the line through a point first enters it.

    what: the solid
    p: a point before it, or on its surface
    way: the direction in which to measure
    """

    def found() -> tuple[float, float, float]:
        stretch = comparing.stretch_within(what, p, way)
        return _of_faces(stretch.length, what.misses * stretch.missed_for_each)

    return float(take(("thickness", what, p, way), found))


@word(
    "solid, solid -> length",
    example="clearance(box(1 cm, 1 cm, 1 cm), box(1 cm, 1 cm, 1 cm).move(x = 3 cm))", gives="2 cm", takes_empty=False,
)  # fmt: skip
def clearance(a: Any, b: Any) -> float:
    """How far two solids are apart where they are nearest; 0 where they touch or clash.

    a: the one
    b: the other
    """

    def found() -> tuple[float, float, float]:
        gap, missed = comparing.clearance(a, b), a.misses + b.misses
        surely = not gap and comparing.is_deep(comparing.shared(a, b), missed)
        return _of_faces(gap, 0.0 if surely else missed)

    return float(take(("clearance", a, b), found))


@word(
    "solid, solid -> volume",
    example="clash(box(1 cm, 1 cm, 1 cm), box(1 cm, 1 cm, 1 cm).move(x = 0.5 cm))", gives="500 mm^3",
)  # fmt: skip
def clash(a: Any, b: Any) -> float:
    """The volume that two solids both take up; 0 where they are clear of each other.

    a: the one
    b: the other
    """

    def found() -> tuple[float, float, float]:
        common = comparing.shared(a, b)
        missed = 0.0 if common.shape.exact else max(a.misses, b.misses) * common.mesh.area()
        return _of_faces(float(common.volume), missed)

    return float(take(("clash", a, b), found))


@word(
    "point, region -> yes/no", "point, solid -> yes/no",
    example="inside((1 cm, 0 cm), disc(2 cm))", gives="yes",
)  # fmt: skip
def inside(p: Any, what: Any) -> bool:
    """Whether a point lies within a region or a solid, its edge or surface included.

    p: the point
    what: the region or the solid
    """
    if isinstance(what, Region):
        return in_region(what, p)
    return in_solid(what, p)
