"""Surfaces: points by two numbers u and v, each from 0 to 1."""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Sequence
from functools import cached_property
from typing import TYPE_CHECKING, Any

import manifold3d
import numpy as np
from msgspec import Struct, field
from msgspec.structs import replace
from numpy.typing import NDArray

from ovolo.geometry.arrays.setting_out import on_curve
from ovolo.geometry.coat import Coat
from ovolo.geometry.curves.curve import Curve, needs_pieces
from ovolo.geometry.curves.pieces import Straight
from ovolo.geometry.digest import digest
from ovolo.geometry.meshes.mesh import Drawing, Mesh, drawing_of
from ovolo.geometry.meshes.skin import without_slivers
from ovolo.geometry.placement import IDENTITY, Matrix, applied
from ovolo.geometry.same import LEAST, ROUNDING, SAME_PLACE, SAME_SHARE
from ovolo.geometry.solids.solid import Solid, manifold_of, shape_made, united
from ovolo.geometry.surfaces.sampling import sampled
from ovolo.geometry.thing import Drawable, Measure
from ovolo.geometry.tolerance import chord_tolerance, tolerance_for
from ovolo.geometry.types import Floats, Points
from ovolo.geometry.vectors import cross_product, dot_product
from ovolo.problems import Failure

if TYPE_CHECKING:
    from scipy.interpolate import PPoly

Rule = Callable[[Points, Points], Points]
"""From u and v, (n,) each, to points (n, 3)."""

Slopes = Callable[[Points, Points], tuple[Points, Points]]
"""From u and v, (n,) each, to the derivatives along u and along v, (n, 3) each."""

_STEP = 1e-4
"""By how much u and v are changed to find how the surface runs (differences of fourth order)."""

_FEWEST, _MOST = 8, 256
"""Patches along u, and along v."""

_FEWEST_STRAIGHT = 2
"""Patches along what is known to be straight."""


class Surface(Drawable, Struct, frozen=True, eq=False, dict=True):
    """`rule` gives its points in its own place, `matrix` puts it into space; `side` is 1, or -1
    where its normals point to the other side. `slopes` gives its derivatives where there is a
    formula for them; else they are taken from points close by."""

    rule: Rule
    matrix: Matrix = field(default_factory=lambda: IDENTITY)
    side: float = 1.0
    tolerance: float = field(default_factory=chord_tolerance)
    """By how much (mm) its patches may miss it: that of the run it was made in."""

    coat: Coat | None = None
    slopes: Slopes | None = None
    fewest: tuple[int, int] = (_FEWEST, _FEWEST)
    """Its patches along u and along v at least."""

    word = "surface"

    def at(self, u: Any, v: Any) -> Points:
        """Points (n, 3)."""
        us, vs = (np.atleast_1d(np.asarray(one, dtype=float)) for one in np.broadcast_arrays(u, v))
        return applied(self.matrix, self.rule(us, vs))

    def normals(self, u: Any, v: Any) -> Points:
        """Directions (n, 3) square to it. Raises Failure where it has none."""
        us, vs = (np.atleast_1d(np.asarray(one, dtype=float)) for one in np.broadcast_arrays(u, v))
        along, across = self.slopes_at(us, vs)
        found = self.side * cross_product(along, across)
        sizes = np.linalg.norm(found, axis=1)
        flat = sizes < SAME_SHARE * np.maximum(np.linalg.norm(along, axis=1) * np.linalg.norm(across, axis=1), ROUNDING)  # fmt: skip
        if np.any(flat):
            found[flat] = self._near_pole(us[flat], vs[flat])
            sizes = np.linalg.norm(found, axis=1)
        units: Points = found / sizes[:, None]
        return units

    def _near_pole(self, u: Points, v: Points) -> Points:
        """Where all of an edge is one point, the normal is that close beside it."""
        u = np.clip(u, 2e-3, 1 - 2e-3)
        v = np.clip(v, 2e-3, 1 - 2e-3)
        found = self.side * cross_product(*self.slopes_at(u, v))
        if np.any(np.linalg.norm(found, axis=1) < ROUNDING):
            raise Failure(f"the surface has no direction at u = {u[0]:.6g}, v = {v[0]:.6g}")
        return found

    def slopes_at(self, u: Points, v: Points) -> tuple[Points, Points]:
        """The derivatives along u and along v, (n, 3) each."""
        if self.slopes is None:
            return self._slope(u, v, "u"), self._slope(u, v, "v")
        turning = self.matrix[:3, :3].T
        along, across = self.slopes(u, v)
        return along @ turning, across @ turning

    def _slope(self, u: Points, v: Points, by: str) -> Points:
        """The derivative along u or v; at the edges from within."""
        centre = np.clip(u if by == "u" else v, 2 * _STEP, 1 - 2 * _STEP)
        offset = (u if by == "u" else v) - centre

        def there(steps: float) -> Points:
            where = centre + steps * _STEP
            return self.at(where, v) if by == "u" else self.at(u, where)

        slope: Points = (8 * (there(1) - there(-1)) - (there(2) - there(-2))) / (12 * _STEP)
        if np.any(offset):  # carried to the edge by the second derivative
            bend = (there(1) - 2 * there(0) + there(-1)) / _STEP**2
            slope = slope + bend * offset[:, None]
        return slope

    @cached_property
    def grid(self) -> Points:
        """Its points (n, m, 3), so close that flat patches keep to the tolerance."""
        points = self._points(*self.fewest)
        while (finer := self.finer(points, self.too_coarse(points))) is not None:
            points = finer
        return points

    def too_coarse(self, points: Points) -> tuple[bool, bool]:
        """Whether flat patches between points (n, m, 3), its own or those of a parallel, do not keep to the tolerance along
        u, and along v."""
        fine = tolerance_for(float(np.ptp(points.reshape(-1, 3), axis=0).max()), self.tolerance)
        if _twist(points) > fine:
            return True, True
        return _misses(points) > fine, _misses(points.swapaxes(0, 1)) > fine

    def finer(self, points: Points, along: tuple[bool, bool]) -> Points | None:
        """A grid of its points (n, m, 3) that is twice as fine along u, along v or both; None where that is asked of neither,
        or where it is as fine as grids get."""
        u, v = (wanted and n - 1 < _MOST for wanted, n in zip(along, points.shape, strict=False))
        return self._halved(points, 2 if u else 1, 2 if v else 1) if u or v else None

    @cached_property
    def misses(self) -> float:
        """By how many mm its patches may miss it."""
        return _missed(self.grid)

    def within_of(self, measure: Measure) -> float:
        """By what share its area may be wrong; its places, as a share of its size, for between those of its grid it may lie
        further out."""
        if measure not in ("centre", "bounds"):
            return self.within
        return max(self.misses / max(float(np.ptp(self.bounds(), axis=0).max()), LEAST), 1e-9)

    def _points(self, n: int, m: int) -> Points:
        us, vs = _places(n, m)
        return self.at(us.reshape(-1), vs.reshape(-1)).reshape(n + 1, m + 1, 3)

    def _halved(self, points: Points, along: int, across: int) -> Points:
        """A grid of points so many times finer each way; those that are known are kept."""
        us, vs = _places(along * (points.shape[0] - 1), across * (points.shape[1] - 1))
        found = np.empty((*us.shape, 3))
        new = np.ones(us.shape, dtype=bool)
        found[::along, ::across] = points
        new[::along, ::across] = False
        found[new] = self.at(us[new], vs[new])
        return found

    @cached_property
    def key(self) -> str:
        return digest("surface", self.grid.shape, np.round(self.grid, 9), self.side)

    @cached_property
    def mesh(self) -> Mesh:
        """Its patches as triangles, facing along the normals."""
        n, m, _ = self.grid.shape
        triangles = _patches(np.arange(n * m).reshape(n, m))
        mesh = Mesh(self.grid.reshape(-1, 3), triangles if self.side > 0 else triangles[:, ::-1])
        return without_slivers(mesh)

    @property
    def drawing_key(self) -> str:
        """What tells its picture from others."""
        return f"surface:{self.key}"

    @property
    def drawn_at(self) -> Matrix:
        """Its picture stands where it is."""
        return IDENTITY

    @property
    def drawing(self) -> Drawing:
        return drawing_of(self.mesh)

    def lines(self, count: int) -> Points:
        """Lines along u and along v, so many parts apart, as segments (k, 2, 3)."""
        found = []
        points = self._points(*(max(size - 1, count) for size in self.grid.shape[:2]))
        for grid in (points, points.swapaxes(0, 1)):
            rows = grid[np.linspace(0, len(grid) - 1, count + 1).astype(int)]
            found.append(np.stack([rows[:, :-1], rows[:, 1:]], axis=2).reshape(-1, 2, 3))
        segments: Points = np.concatenate(found)
        return segments

    @property
    def within(self) -> float:
        """By what share its area may be wrong. Where each halving of the patches takes away three quarters of what was
        missed, four times by what carrying on went on; elsewhere, as at a crease, four times what both halvings have changed. Never less
        than a millionth."""
        coarse, middle, fine = self._areas
        first, last = middle - coarse, fine - middle
        smooth = abs(4 * last - first) < 0.2 * abs(first)
        missed = abs(4 * last - first) / 3 if smooth else abs(first) + abs(last)
        return max(1e-6, 4 * missed / self.area)

    @property
    def area(self) -> float:
        """mm²: of its patches at two finenesses, carried on to none (Richardson)."""
        _, middle, fine = self._areas
        return (4 * fine - middle) / 3

    @cached_property
    def _areas(self) -> list[float]:
        """The areas of its patches at three finenesses, each with four times as many as the one before."""
        points = self._points(64, 64)
        return [_area_of(points[::step, ::step]) for step in (4, 2, 1)]

    def bounds(self) -> Points:
        flat = self.grid.reshape(-1, 3)
        return np.array([flat.min(axis=0), flat.max(axis=0)])

    def placed(self, matrix: Matrix) -> Surface:
        side = self.side if np.linalg.det(matrix[:3, :3]) > 0 else -self.side
        return replace(self, matrix=matrix @ self.matrix, side=side)

    def flipped(self) -> Surface:
        return replace(self, side=-self.side)


def _area_of(points: Points) -> float:
    n, m, _ = points.shape
    return Mesh(points.reshape(-1, 3), _patches(np.arange(n * m).reshape(n, m))).area()


def _places(n: int, m: int) -> tuple[Points, Points]:
    """u and v (n + 1, m + 1) of a grid."""
    us, vs = np.meshgrid(np.linspace(0, 1, n + 1), np.linspace(0, 1, m + 1), indexing="ij")
    return us, vs


def _misses(points: Points) -> float:
    """By how much the middles between every second row miss the rows there: an eighth of the bend
    between rows, taken on the rows themselves."""
    middle = (points[:-2:2] + points[2::2]) / 2
    return float(np.linalg.norm(middle - points[1:-1:2], axis=-1).max()) / 4


def _missed(grid: Points) -> float:
    """By how many mm flat patches may miss what they stand for: half as much again as they bend along u, along v and across."""
    return 1.5 * (_misses(grid) + _misses(grid.swapaxes(0, 1)) + _twist(grid))


def _twist(points: Points) -> float:
    """By how much the middles of patches that are twisted out of their planes miss their diagonals."""
    a, b, c, d = points[:-1, :-1], points[1:, :-1], points[1:, 1:], points[:-1, 1:]
    across = cross_product(c - a, d - b)
    sizes = np.maximum(np.linalg.norm(across, axis=-1), LEAST)
    return float((np.abs(dot_product(a - b + c - d, across)) / sizes).max()) / 4


def _patches(index: NDArray[np.int64]) -> NDArray[np.int32]:
    """Two triangles for each four neighbours of a grid of indices. Diagonals run by turns one way and the other, so that
    what is twisted bulges as often as it is hollow."""
    a, b, c, d = index[:-1, :-1], index[1:, :-1], index[1:, 1:], index[:-1, 1:]
    rising = np.add.outer(np.arange(len(a)), np.arange(a.shape[1])) % 2 == 0
    first = np.stack([a, b, np.where(rising, c, d)], axis=-1)
    second = np.stack([np.where(rising, a, b), c, d], axis=-1)
    return np.concatenate([first.reshape(-1, 3), second.reshape(-1, 3)]).astype(np.int32)


# --- making ---


def by_function(f: Callable[[float, float], Any]) -> Surface:
    """The surface of a function from u and v, each from 0 to 1, to a point."""

    return Surface(lambda u, v: sampled(f, u, v))


def patch(points: Points) -> Surface:
    """The B-spline surface of control points (n, m, 3): cubic where there are four or more in a
    row, its corners on the outermost points (de Boor, A Practical Guide to Splines)."""
    n, m, _ = points.shape
    if n < 2 or m < 2:
        raise Failure(f"a patch of {n} x {m} points is none", "give 2 x 2 or more")
    along, across = _basis(n), _basis(m)
    flat = points.reshape(n, 3 * m)

    def rule(u: Points, v: Points) -> Points:
        rows = (along(u) @ flat).reshape(-1, m, 3)
        found: Points = np.einsum("kjc,kj->kc", rows, across(v))
        return found

    def slopes(u: Points, v: Points) -> tuple[Points, Points]:
        rows, bends = ((along(u, k) @ flat).reshape(-1, m, 3) for k in (0, 1))
        return np.einsum("kjc,kj->kc", bends, across(v)), np.einsum(
            "kjc,kj->kc", rows, across(v, 1)
        )

    return Surface(rule, slopes=slopes)


def _basis(count: int) -> PPoly:
    """The weights (k, count) of so many control points at places from 0 to 1; asked with a second
    figure, their derivatives."""
    from scipy.interpolate import BSpline, PPoly

    degree = min(3, count - 1)
    inner = np.linspace(0, 1, count - degree + 1)[1:-1]
    knots = np.concatenate([np.zeros(degree + 1), inner, np.ones(degree + 1)])
    each = [PPoly.from_spline(BSpline(knots, own, degree)) for own in np.eye(count)]
    real = np.diff(knots) > 0  # knots that coincide have nothing between them
    return PPoly(
        np.stack([one.c for one in each], axis=-1)[:, real], np.append(knots[:-1][real], 1.0)
    )


class _AlongCurve:
    """A curve by shares of its length, of which the same are asked for several times."""

    def __init__(self, curve: Curve) -> None:
        needs_pieces(curve)
        self._curve = curve
        self._even: dict[int, tuple[Points, Points]] = {}
        self._last: tuple[bytes, tuple[Points, Points]] | None = None

    def _found(self, shares: Points) -> tuple[Points, Points]:
        """The points (n, 3), and the derivatives by the share."""
        for parts in _EVENLY:
            at = shares * parts
            if np.array_equal(at, np.rint(at)):
                which = at.astype(np.int64)
                places, ways = self._in_parts(parts)
                return places[which], ways[which]
        key = shares.tobytes()
        if self._last is None or self._last[0] != key:
            unique, inverse = np.unique(np.clip(shares, 0.0, 1.0), return_inverse=True)
            places, ways = self._at(unique)
            self._last = key, (places[inverse], ways[inverse])
        return self._last[1]

    def _in_parts(self, parts: int) -> tuple[Points, Points]:
        """At the ends of so many equal parts, among which the places of grids are found, each finer than the one before."""
        if parts not in self._even:
            self._even[parts] = self._at(np.linspace(0.0, 1.0, parts + 1))
        return self._even[parts]

    def _at(self, shares: Points) -> tuple[Points, Points]:
        places, ways = on_curve(self._curve, shares * self._curve.length)
        return places, self._curve.length * ways

    def at(self, shares: Points) -> Points:
        """The points (n, 3)."""
        return self._found(shares)[0]

    def slope(self, shares: Points) -> Points:
        """The derivatives (n, 3) by the share, of a curve without corners."""
        return self._found(shares)[1]


_EVENLY = (32, _MOST)
"""Into so many parts a curve is divided at once."""


def _all_smooth(*curves: Curve) -> bool:
    """Whether none has a corner; at one a normal is that between those of both sides, which is found from places close by."""
    return all(curve.is_smooth for curve in curves)


def ruled(first: Curve, second: Curve) -> Surface:
    """Straight lines between two curves, at equal shares of their lengths."""
    if len(first.pieces) == len(second.pieces) == 1:
        match first.pieces[0], second.pieces[0]:
            case Straight() as low, Straight() as high:
                return replace(_between(low, high), fewest=(_FEWEST_STRAIGHT, _FEWEST_STRAIGHT))
    return _between(_AlongCurve(first), _AlongCurve(second), _all_smooth(first, second))


def _between(a: Straight | _AlongCurve, b: Straight | _AlongCurve, smooth: bool = True) -> Surface:
    """Straight lines between equal parameters, which are shares of the length of a line."""

    def rule(u: Points, v: Points) -> Points:
        return (1 - v)[:, None] * a.at(u) + v[:, None] * b.at(u)

    def slopes(u: Points, v: Points) -> tuple[Points, Points]:
        return (1 - v)[:, None] * a.slope(u) + v[:, None] * b.slope(u), b.at(u) - a.at(u)

    return Surface(rule, slopes=slopes if smooth else None, fewest=(_FEWEST, _FEWEST_STRAIGHT))


def through_curves(curves: Sequence[Curve]) -> Surface:
    """A smooth surface through curves in order: u runs along them, v from the first to the last."""
    from scipy.interpolate import CubicSpline

    if len(curves) < 2:
        raise Failure(f"a surface through {len(curves)} curves is none", "give 2 or more")
    if len(curves) == 2:
        return ruled(*curves)
    along = [_AlongCurve(curve) for curve in curves]
    knots = np.linspace(0, 1, len(curves))
    ends = "not-a-knot" if len(curves) > 3 else "natural"

    def across(of_each: list[Points], v: Points, inverse: NDArray[np.int64], by: int = 0) -> Points:
        """What a spline through something (k, 3) of each curve has at v, for the numbers within it."""
        places, where = np.unique(v, return_inverse=True)
        found: Points = CubicSpline(knots, np.array(of_each), bc_type=ends)(places, by)[where, inverse]  # fmt: skip
        return found

    def rule(u: Points, v: Points) -> Points:
        unique, inverse = np.unique(u, return_inverse=True)
        return across([one.at(unique) for one in along], v, inverse)

    def slopes(u: Points, v: Points) -> tuple[Points, Points]:
        unique, inverse = np.unique(u, return_inverse=True)
        points, ways = [one.at(unique) for one in along], [one.slope(unique) for one in along]
        return across(ways, v, inverse), across(points, v, inverse, 1)

    return Surface(rule, slopes=slopes if _all_smooth(*curves) else None)


def revolved(curve: Curve, angle: float) -> Surface:
    """A curve turned about the z axis by an angle: u runs along it, v round the axis."""
    along = _AlongCurve(curve)

    def turned(points: Points, v: Points) -> Points:
        c, s = np.cos(angle * v), np.sin(angle * v)
        return np.column_stack(
            [c * points[:, 0] - s * points[:, 1], s * points[:, 0] + c * points[:, 1], points[:, 2]]
        )

    def rule(u: Points, v: Points) -> Points:
        return turned(along.at(u), v)

    def slopes(u: Points, v: Points) -> tuple[Points, Points]:
        x, y, z = along.at(u).T
        round_the_axis = angle * np.column_stack([-y, x, np.zeros_like(z)])
        return turned(along.slope(u), v), turned(round_the_axis, v)

    return Surface(rule, slopes=slopes if _all_smooth(curve) else None)


def offset(surface: Surface, distance: float) -> Surface:
    """The parallel at a distance along the normals."""

    def rule(u: Points, v: Points) -> Points:
        return surface.at(u, v) + distance * surface.normals(u, v)

    return Surface(rule, side=surface.side)


# --- thickening ---


def thickened(surface: Surface, thickness: float, both_sides: bool = False) -> Solid:
    """The solid between a surface and its parallel (below 0 on the other side), or between two
    parallels at half the thickness. Raises Failure where it bends tighter than that."""
    if abs(thickness) < SAME_PLACE:
        raise Failure("a thickness of 0 encloses nothing", "give it a thickness")
    low, high = (-thickness / 2, thickness / 2) if both_sides else (min(thickness, 0.0), max(thickness, 0.0))  # fmt: skip
    key = digest("thicken", surface.key, low, high)
    missed: list[float] = []

    def make() -> manifold3d.Manifold:
        below, above, normals, beside = _parallels(surface, (low, high))
        missed.append(beside)
        whole = manifold_of(_walled(below, above))
        strips = _strips(normals)
        if len(strips) == 1:
            return whole
        pieces = [manifold_of(_walled(below[one], above[one])) for one in strips]
        return _counted_once(whole, pieces)

    return Solid(shape_made(key, make, "this thickening", off=lambda: missed[0]))


def _parallels(
    surface: Surface, distances: tuple[float, float]
) -> tuple[Points, Points, Points, float]:
    """The parallels of a surface at two distances as grids of points (n, m, 3), so close that flat patches keep to the
    tolerance there as well; the normals of the surface; and by how many mm the patches may miss what they stand for. Raises
    Failure where it bends tighter than that."""
    points: Points | None = surface.grid
    beside = math.inf
    while points is not None:
        n, m, _ = points.shape
        us, vs = _places(n - 1, m - 1)
        normals = _shared(points, surface.normals(us.reshape(-1), vs.reshape(-1)))
        _refuse_folding(points, normals, distances, us, vs)
        moved = [points + distance * normals for distance in distances]
        before, beside = beside, max(map(_missed, moved))
        wanted = [_turns_sharply(surface, normals, us, vs)]
        if beside < 0.7 * before:  # else halving gains nothing, as at a crease
            wanted += map(surface.too_coarse, moved)
        points = surface.finer(points, (any(u for u, _ in wanted), any(v for _, v in wanted)))
    return moved[0], moved[1], normals, beside


def _turns_sharply(surface: Surface, normals: Points, us: Points, vs: Points) -> tuple[bool, bool]:
    """Whether the normals (n, m, 3) at places of a surface turn by so much from one to the next along u, and along v, that
    what lies between them is not known. At a crease, where they turn at once, no more is to be known."""
    found = []
    for axis, turns in enumerate(_turns(normals)):
        sharp = turns.max() > _SHARP
        if sharp:
            i, j = np.unravel_index(turns.argmax(), turns.shape)
            onward = (i + 1, j) if axis == 0 else (i, j + 1)
            u, v = (np.linspace(one[i, j], one[onward], _LOOKED_AT) for one in (us, vs))
            between = surface.normals(u, v)[:, None]
            sharp = _turns(between)[0].max() < turns.max() / 2
        found.append(bool(sharp))
    return found[0], found[1]


def _turns(normals: Points) -> tuple[Floats, Floats]:
    """By what angles normals (n, m, 3) turn from each to the next along u (n - 1, m), and along v (n, m - 1)."""
    along, across = (
        np.arccos(np.clip(dot_product(one[1:], one[:-1]), -1.0, 1.0))
        for one in (normals, normals.swapaxes(0, 1))
    )
    return along, across.T


_SHARP = math.radians(30)
"""Normals that turn by more from a place of the grid to the next leave what lies between them unknown."""

_LOOKED_AT = 65
"""At so many places between two the normals are looked at, where they turn by more."""

_STRIP = math.radians(100)
"""A strip whose normals turn by less does not come back to itself."""


def _strips(normals: Points) -> list[tuple[slice, slice]]:
    """The grid parted along u and v where its normals have turned by so much."""
    cuts = []
    for axis, turns in enumerate(_turns(normals)):
        turned = np.concatenate([[0.0], np.cumsum(turns.max(axis=1 - axis))])
        marks = np.arange(1, int(turned[-1] / _STRIP) + 1) * _STRIP
        places = [0, *np.searchsorted(turned, marks).tolist(), normals.shape[axis] - 1]
        ends = sorted(set(places))
        cuts.append([slice(a, b + 1) for a, b in itertools.pairwise(ends)])
    return [(u, v) for u in cuts[0] for v in cuts[1]]


def _counted_once(
    whole: manifold3d.Manifold, pieces: list[manifold3d.Manifold]
) -> manifold3d.Manifold:
    """The solid; united from its pieces where it overlaps itself, so that nothing counts twice."""
    if any(piece.status() != manifold3d.Error.NoError for piece in pieces):
        return whole
    once = united(pieces)
    overlaps = whole.volume() - once.volume() > 1e-6 * whole.volume()
    return once if overlaps and once.volume() > 0 else whole


def _shared(points: Points, normals: Points) -> Points:
    """Normals (n, m, 3), one for all places that are the same point: at poles and seams."""
    places = np.round(points.reshape(-1, 3), 7) + 0.0
    _, which = np.unique(places, axis=0, return_inverse=True)
    total = np.zeros((int(which.max()) + 1, 3))
    np.add.at(total, which, normals)
    sizes = np.linalg.norm(total, axis=1)
    if np.any(sizes < SAME_SHARE):
        raise Failure("the surface meets itself the wrong way round", "a strip that is turned over has no two sides")  # fmt: skip
    found: Points = (total / sizes[:, None])[which].reshape(points.shape)
    return found


def _refuse_folding(
    points: Points, normals: Points, distances: tuple[float, float], us: Points, vs: Points
) -> None:
    """Raises Failure where a patch of a parallel lies the wrong way round."""

    for distance in distances:
        moved = points + distance * normals
        wrong = np.zeros(points.shape[:2], dtype=bool)
        for axis in (0, 1):  # each row of points must go on the way it went
            own, now = np.diff(points, axis=axis), np.diff(moved, axis=axis)
            size = dot_product(own, own)
            back = (dot_product(now, own) <= 1e-6 * size) & (size > ROUNDING)
            wrong[: back.shape[0], : back.shape[1]] |= back
        if np.any(wrong):
            i, j = np.argwhere(wrong)[0]
            raise Failure(
                f"the surface bends tighter than {abs(distance):.6g} mm at u = {us[i, j]:.3g}, "
                f"v = {vs[i, j]:.3g}",
                "make it thinner, or thicken it to the other side",
            )


def _walled(low: Points, high: Points) -> Mesh:
    """The closed mesh between two grids, whose edges are walled but where they meet."""
    n, m, _ = low.shape
    below = np.arange(n * m).reshape(n, m)
    above = below + n * m
    triangles = [_patches(below)[:, ::-1], _patches(above)]
    if not _coincide(low[0], low[-1]):
        triangles += [_wall(below[0], above[0]), _wall(below[-1][::-1], above[-1][::-1])]
    if not _coincide(low[:, 0], low[:, -1]):
        triangles += [_wall(below[:, 0][::-1], above[:, 0][::-1]), _wall(below[:, -1], above[:, -1])]  # fmt: skip
    corners = np.concatenate([low.reshape(-1, 3), high.reshape(-1, 3)])
    return without_slivers(Mesh(corners, np.concatenate(triangles)))


def _coincide(a: Points, b: Points) -> bool:
    return float(np.linalg.norm(a - b, axis=-1).max()) < SAME_PLACE


def _wall(below: NDArray[np.int64], above: NDArray[np.int64]) -> NDArray[np.int32]:
    """Along an edge of a grid, from the lower to the upper."""
    a, b, c, d = below[:-1], below[1:], above[1:], above[:-1]
    found = np.concatenate([np.column_stack([a, c, b]), np.column_stack([a, d, c])])
    return found.astype(np.int32)


# --- cells ---

CELLS = ("quads", "triangles", "diamonds", "hexagons")


class Cell(Struct, frozen=True):
    """A piece of a surface: its middle and a frame there, and its corners (k, 3) in order."""

    at: Points
    along: Points
    left: Points
    up: Points
    corners: Points
    u: float
    v: float


def cells(surface: Surface, nu: int, nv: int, form: str = "quads") -> list[Cell]:
    """A surface parted into nu by nv cells along u and v; of those that would reach beyond its
    edges, none is made."""
    if nu < 1 or nv < 1:
        raise Failure(f"a surface is not parted into {nu} by {nv} cells", "1 or more each way")
    if form not in CELLS:
        raise Failure(f'there are no cells called "{form}"', f"one of {', '.join(CELLS)}")
    outlines = list(_OUTLINES[form](nu, nv))
    middles = np.array([outline.mean(axis=0) for outline in outlines])
    if not outlines:
        return []
    at = surface.at(middles[:, 0], middles[:, 1])
    up = surface.normals(middles[:, 0], middles[:, 1])
    step = np.clip(middles[:, 0] + 1e-4, 0, 1)
    along = surface.at(step, middles[:, 1]) - surface.at(step - 2e-4, middles[:, 1])
    along -= dot_product(along, up)[:, None] * up
    along /= np.linalg.norm(along, axis=1, keepdims=True)
    every = np.concatenate(outlines)
    corners = np.split(surface.at(every[:, 0], every[:, 1]), np.cumsum([len(o) for o in outlines])[:-1])  # fmt: skip
    return [Cell(*one) for one in zip(at, along, cross_product(up, along), up, corners, *middles.T.tolist(), strict=True)]  # fmt: skip


def _quads(nu: int, nv: int) -> Any:
    for i in range(nu):
        for j in range(nv):
            corners = [(i, j), (i + 1, j), (i + 1, j + 1), (i, j + 1)]
            yield np.array(corners, dtype=float) / [nu, nv]


def _triangles(nu: int, nv: int) -> Any:
    for quad in _quads(nu, nv):
        yield quad[[0, 1, 2]]
        yield quad[[0, 2, 3]]


def _diamonds(nu: int, nv: int) -> Any:
    """Between the middles of the sides: two rows for each row of quads."""
    for j in range(2 * nv - 1):
        for i in range(nu - j % 2):
            x, y = i + 0.5 + (j % 2) / 2, (j + 1) / 2
            corners = [(x - 0.5, y), (x, y - 0.5), (x + 0.5, y), (x, y + 0.5)]
            yield np.array(corners, dtype=float) / [nu, nv]


def _hexagons(nu: int, nv: int) -> Any:
    """A honeycomb: every other row stands half a cell further on."""
    for j in range(nv):
        for i in range(nu - j % 2):
            x, y = i + 0.5 + (j % 2) / 2, 2 / 3 + j
            corners = [(x + math.sin(k * math.pi / 3) / math.sqrt(3), y - 2 / 3 * math.cos(k * math.pi / 3)) for k in range(6)]  # fmt: skip
            yield np.array(corners, dtype=float) / [nu, nv + 1 / 3]


_OUTLINES = {
    "quads": _quads, "triangles": _triangles, "diamonds": _diamonds, "hexagons": _hexagons,
}  # fmt: skip
