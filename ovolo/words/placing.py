"""Placing things in space."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from ovolo.geometry.coat import Gathered
from ovolo.geometry.placement import IDENTITY, Matrix, applied, mirrored, moved, scaled, turned
from ovolo.geometry.same import SAME_PLACE, SAME_SHARE
from ovolo.geometry.thing import Thing
from ovolo.geometry.vectors import cross_product
from ovolo.problems import Failure, OneByOne
from ovolo.words.measuring import overall
from ovolo.words.registry import word

Values = Any


def placed(what: Any, matrix: Matrix) -> Any:
    """Anything that has a place, or a list of it, moved by one matrix (4, 4); one solid or
    point may also be placed by n matrices (n, 4, 4) at once."""
    if isinstance(what, np.ndarray):
        return _points_placed(what, matrix)
    if matrix.ndim == 3 and not (isinstance(what, Thing) and what.many):
        raise OneByOne
    if isinstance(what, Thing):
        return what.placed(matrix)
    found = [placed(item, matrix) if _has_place(item) else item for item in what]
    if isinstance(what, Gathered):
        return Gathered(found, (placed(other, matrix) for other in what.others))
    return found


def vector(x: Values, y: Values, z: Values) -> NDArray[np.float64]:
    """The vector (3,) of three coordinates, or n of them (n, 3)."""
    if all(isinstance(one, float) for one in (x, y, z)):
        return np.array((x, y, z))
    return np.stack(np.broadcast_arrays(x, y, z), axis=-1)


def _has_place(item: Any) -> bool:
    return isinstance(item, Thing | np.ndarray | list)


def _points_placed(points: NDArray[np.float64], matrix: Matrix) -> NDArray[np.float64]:
    if matrix.ndim == 2:
        return applied(matrix, points)
    turned_: NDArray[np.float64] = (
        np.einsum("nij,...j->ni", matrix[:, :3, :3], points)
        if (points.ndim == 1)
        else np.einsum("nij,nj->ni", matrix[:, :3, :3], points)
    )
    return turned_ + matrix[:, :3, 3]


@word("-> point Q", constant=True, example="(2 * x).x", gives="2")
def x() -> NDArray[np.float64]:
    """The direction of the x axis."""
    return np.array([1.0, 0.0, 0.0])


@word("-> point Q", constant=True, example="(2 * y).y", gives="2")
def y() -> NDArray[np.float64]:
    """The direction of the y axis."""
    return np.array([0.0, 1.0, 0.0])


@word("-> point Q", constant=True, example="(2 * z).z", gives="2")
def z() -> NDArray[np.float64]:
    """The direction of the z axis, upwards."""
    return np.array([0.0, 0.0, 1.0])


@word(
    "shape, length?, length?, length? -> shape", "shape, by: point -> shape",
    example="level(box(1 m, 1 m, 1 m).move(z = 2 m))", gives="2 m", elementwise=True,
    defaults={"x": "0 mm", "y": "0 mm", "z": "0 mm"}, gaps="keep",
)  # fmt: skip
def move(what: Any, x: Values = 0.0, y: Values = 0.0, z: Values = 0.0, by: Values = None) -> Any:
    """The same, moved by lengths along x, y and z, or by a vector.

    what: anything that has a place
    x: how far along x
    y: how far along y
    z: how far upwards
    by: a vector instead of three lengths
    """
    if by is None:
        by = vector(x, y, z)
    return placed(what, moved(by))


@word(
    "shape, angle, point Q?, point? -> shape",
    example="turn((1 m, 0 m), 90°).y", gives="1 m", elementwise=True,
    defaults={"about": "z", "at": "(0 mm, 0 mm)"}, gaps="keep",
)  # fmt: skip
def turn(what: Any, angle: Values, about: Values = None, at: Values = None) -> Any:
    """The same, turned anticlockwise by an angle about an axis (z, upright) through a point.

    what: anything that has a place
    angle: how far, anticlockwise
    about: the direction of the axis
    at: a point on the axis
    """
    axis = np.array([0.0, 0.0, 1.0]) if about is None else about
    if np.any(np.linalg.norm(axis, axis=-1) == 0):
        raise Failure("the axis to turn about has no direction", "for example about = z")
    return placed(what, turned(angle, axis, np.zeros(3) if at is None else at))


@word(
    "shape, point Q, at: point? -> shape",
    example="mirror((1 m, 2 m), x).x", gives="-1 m", gaps="keep",
    defaults={"at": "(0 mm, 0 mm)"},
)  # fmt: skip
def mirror(what: Any, across: Values, at: Values = None) -> Any:
    """The mirror image in the plane that stands square to a direction: `mirror(half, x)`.

    what: anything that has a place
    across: the direction that is turned round
    at: a point of the plane
    """
    if np.any(np.linalg.norm(across, axis=-1) == 0):
        raise Failure("the mirror's direction has no length", "for example mirror(half, x)")
    return placed(what, mirrored(across, np.zeros(3) if at is None else at))


_SIDES = {
    "plan": ((1, 0, 0), (0, 1, 0)), "front": ((1, 0, 0), (0, 0, 1)), "side": ((0, 1, 0), (0, 0, 1)),
    "back": ((-1, 0, 0), (0, 0, 1)), "left": ((0, -1, 0), (0, 0, 1)),
}  # fmt: skip
"""Where x and y of what is drawn flat point, seen from each side; it rises at the viewer."""


@word(
    "shape, text -> shape",
    example='height(on(rect(3 m, 2 m), "front"))', gives="2 m", gaps="keep",
)  # fmt: skip
def on(what: Any, side: str) -> Any:
    """What is drawn flat, set upright so that it is seen square on: from the front (x stays x, y
    points up), the side, the back or the left.

    what: anything that has a place
    side: front, side, back, left; plan leaves it as it is
    """
    if side not in _SIDES:
        raise Failure(f'there is no side "{side}"', f"one of {', '.join(_SIDES)}")
    right, up = (np.array(one, dtype=float) for one in _SIDES[side])
    matrix = np.eye(4)
    matrix[:3, :3] = np.column_stack([right, up, cross_product(right, up)])
    return placed(what, matrix)


@word(
    "point, point, (length -> shape) -> shape",
    example="laid((1 m, 0 m), (1 m, 3 m), l -> (l, 0 m)).y", gives="3 m",
    gaps="keep",
)  # fmt: skip
def laid(p: Values, q: Values, piece: Any) -> Any:
    """What has a length laid from one point to another: its origin at p, its x axis towards q, upright
    as far as it goes.

    p: where its origin lies
    q: where its x axis points to
    piece: what is laid, a function of the distance: l -> bar(l)
    """
    way = q - p
    length = float(np.linalg.norm(way))
    if length < SAME_PLACE:
        raise Failure("the two ends lie on one point", "what is laid needs a distance between them")
    return placed(piece(length), towards(p, way / length))


def towards(at: Values, x_axis: Values) -> Matrix:
    """The placement with its origin at a point and its x axis along a direction, its y axis level; of
    an upright direction its y axis stays y."""
    level = cross_product((0.0, 0.0, 1.0), x_axis)
    size = float(np.linalg.norm(level))
    y_axis = level / size if size > SAME_SHARE else np.array([0.0, 1.0, 0.0])
    matrix = np.eye(4)
    matrix[:3, :3] = np.column_stack([x_axis, y_axis, cross_product(x_axis, y_axis)])
    matrix[:3, 3] = at
    return matrix


@word(
    "shape, number -> shape", "shape, x: number?, y: number?, z: number? -> shape",
    example="volume(scale(box(1 cm, 1 cm, 1 cm), 2))", gives="8000 mm^3", elementwise=True,
    gaps="keep",
)  # fmt: skip
def scale(what: Any, by: Values = 1.0, x: Values = 1.0, y: Values = 1.0, z: Values = 1.0) -> Any:
    """The same, made larger about the origin: by one factor, or by one along each axis.

    what: anything that has a place
    by: the factor
    x: the factor along x
    y: the factor along y
    z: the factor upwards
    """
    factors = np.asarray(by)[..., None] * vector(x, y, z)
    if np.any(factors <= 0):
        raise Failure(
            f"a factor is {factors.min():.6g}", "above 0; for the mirror image: mirror(what, x)"
        )
    return placed(what, scaled(factors))


_PLACES = {
    "left": (0, 0.0), "right": (0, 1.0), "front": (1, 0.0), "back": (1, 1.0), "bottom": (2, 0.0),
    "top": (2, 1.0), "middle": (2, 0.5),
}  # fmt: skip
"""The axis each word settles, and where between the bounds."""


@word(
    "shape, text, text?, text? -> shape",
    example='level(align(sphere(1 m), "bottom"))', gives="0 m", gaps="refuse",
)  # fmt: skip
def align(what: Any, first: str, second: str = "", third: str = "") -> Any:
    """The same, moved so that a place of its bounds lies at the origin: left, right, front, back,
    bottom, middle (half its height) or top; centre is the middle in plan. What is not said stays.

    what: anything that has a place
    first: one of these
    second: another
    third: another
    """
    low, high = overall(what)
    shares: dict[int, float] = {}
    for said in (first, second, third):
        if said == "centre":
            shares = {0: 0.5, 1: 0.5} | shares
        elif said in _PLACES:
            axis, share = _PLACES[said]
            shares[axis] = share
        elif said:
            raise Failure(f'there is no place "{said}"', f"one of centre, {', '.join(_PLACES)}")
    shift = np.zeros(3)
    for axis, share in shares.items():
        shift[axis] = -(low[axis] + share * (high[axis] - low[axis]))
    return placed(what, moved(shift))


@word(
    "shape, {at: point, along: point Q, left: point Q, up: point Q} -> shape",
    example="level(at(box(1 m, 1 m, 1 m), frame_at(line((0 m, 0 m, 2 m), (1 m, 0 m, 2 m)), 1/2)))",
    gives="2 m", gaps="keep",
)  # fmt: skip
def at(what: Any, frame: dict[str, NDArray[np.float64]]) -> Any:
    """The same, set into a frame, as `frame_at` and `cells` give them: its x along, its y to the
    left, its z up.

    what: anything that has a place
    frame: .at, .along, .left and .up
    """
    matrix = IDENTITY.copy()
    for column, name in enumerate(("along", "left", "up")):
        matrix[:3, column] = frame[name]
    matrix[:3, 3] = frame["at"]
    return placed(what, matrix)
