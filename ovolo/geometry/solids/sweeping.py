"""Sweeps: an outline carried along a curve; pipes.

The frames of a sweep that is not kept upright turn as little as can be (the double reflection of
Wang, Jüttler, Zheng and Liu, Computation of Rotation Minimizing Frames, 2008).
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Sequence
from typing import Any

import manifold3d
import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from ovolo.geometry.curves.alike import Cubics
from ovolo.geometry.curves.corners import corner_angles, filleted
from ovolo.geometry.curves.curve import Curve, needs_pieces
from ovolo.geometry.curves.pieces import Arc, Piece, Straight
from ovolo.geometry.digest import digest
from ovolo.geometry.meshes.bent import Missed
from ovolo.geometry.meshes.mesh import triangulated
from ovolo.geometry.meshes.skin import skinned
from ovolo.geometry.regions.region import Region, disc, polygons_of
from ovolo.geometry.same import LEAST, ROUNDING, SAME_PLACE, SAME_SHARE, SMALLEST
from ovolo.geometry.solids.primitives import cylinder
from ovolo.geometry.solids.solid import (
    Solid,
    manifold_of,
    missed_by_outlines,
    nothing,
    shape_made,
    united,
)
from ovolo.geometry.solids.swept_form import Swept, swept_form
from ovolo.geometry.surfaces.sampling import sampled
from ovolo.geometry.surfaces.self_crossing import first_crossing
from ovolo.geometry.tolerance import (
    CHORD_SHARE,
    chord_tolerance,
    fewest_chords,
    sides_of_bar,
    tolerance_for,
)
from ovolo.geometry.types import Points
from ovolo.geometry.vectors import cross_product, dot_product
from ovolo.problems import Failure

MOST_RINGS = 20_000
_TURN = 2 * math.pi
_CORNER = 1e-4
"""Radians by which the way must turn at once to have a corner."""

_LAP = 10 * SAME_PLACE
"""mm by which pieces that are united reach into each other, so that they join."""

_CHUNK = math.radians(100)
"""A stretch that turns by less does not run into itself."""

_UP = np.array([0.0, 0.0, 1.0])
Sizes = Callable[[float], float]


class _Way(Struct, frozen=True):
    """Stations along a path: places and directions (k, 3); at a corner the direction before it
    and that after it differ. `lengths` is how far along each lies."""

    places: Points
    before: Points
    after: Points
    lengths: Points
    closed: bool


def sweep(
    region: Region,
    path: Curve,
    twist: float = 0.0,
    size: Sizes | None = None,
    upright: bool = True,
    round_corners: bool = False,
) -> Solid:
    """A region carried along a path, its x to the right of the way and its y up, turned by `twist`
    (radians) over the whole and made larger by `size`, a function of the share of the way.

    Corners of the path are mitred, or rounded as tightly as the outline allows. Where it overlaps
    itself it is put together of stretches. Raises Failure for an outline that is not whole, and
    for a closed path on which the twist does not come round.
    """
    needs_pieces(path)
    if region.is_empty:
        return nothing(region.why_empty)
    if len(polygons_of(region.flat)) > 1:
        raise Failure("this outline is in several pieces", "sweep each piece by itself")
    section = _drawn_in_plan(region)
    rings = _rings_carried(section)
    reach = float(np.linalg.norm(np.concatenate(rings), axis=1).max())
    if path.closed and abs(math.remainder(twist, _TURN)) > SAME_SHARE:
        raise Failure(
            f"on a closed path a twist of {math.degrees(twist):.6g}° does not come round",
            "a multiple of 360°",
        )
    if round_corners:
        path = _rounded(path, rings)
    shares = np.linspace(0.0, 1.0, 65)
    sizes = [size(float(share)) for share in shares] if size else []
    if sizes and min(sizes) <= 0:
        at = float(shares[int(np.argmin(sizes))])
        raise Failure(f"the size at {at:.3g} of the way is {min(sizes):.6g}", "it must be more than 0")  # fmt: skip
    key = digest("sweep", region.key, np.round(region.frame, 9), path.key, twist, sizes, upright)

    once: list[bool] = []
    largest_turn: list[float] = []

    def make() -> manifold3d.Manifold:
        largest = max(sizes, default=1.0)
        way = _way(path, reach * largest, twist, bool(size))
        sections = _sections(way, np.concatenate(rings), twist, size, upright)
        cap, loops = triangulated(rings), [len(ring) for ring in rings]
        once.append(not _folding(way, sections).any() and not _runs_into_itself(path, way, sections, loops, cap, reach * largest))  # fmt: skip
        largest_turn.append(_largest_turn(way))
        return _joined(way, sections, loops, cap, once[0])

    def form() -> Swept | None:
        return swept_form(section, path, bool(twist), upright) if once[0] and not sizes else None

    outlines = missed_by_outlines(section)

    def before() -> Missed:
        # Stretches that overlap go straight from section to section, and their needles hide how far they turn: chords of
        # an angle enclose less by up to a quarter of its square.
        stretches = Missed() if once[0] else Missed(*[largest_turn[0] ** 2 / 4] * 4)
        return stretches if outlines is None else stretches.and_of(outlines(), 1.0)

    return Solid(shape_made(key, make, "this sweep", form, chords="even", before=before))


def pipe(path: Curve, radius: float) -> Solid:
    """A round bar of a radius along a path; along a straight line it is a cylinder."""
    if -SMALLEST <= radius <= SMALLEST:
        return nothing("radius is 0 mm")
    match path.pieces:
        case (Straight() as bar,) if radius > SMALLEST and bar.length > SMALLEST:
            x = np.eye(3)[int(np.abs(bar.b - bar.a).argmin())]
            up = (bar.b - bar.a) / bar.length
            right = cross_product(up, x) / np.linalg.norm(cross_product(up, x))
            place = np.eye(4)
            place[:3] = np.column_stack([right, cross_product(up, right), up, bar.a])
            placed = cylinder(radius, bar.length).placed(place)
            assert isinstance(placed, Solid)
            return placed
    return sweep(disc(radius), path, upright=False)


def _drawn_in_plan(region: Region) -> Region:
    """The region as it is drawn in plan, with that as its own plane: moved, it runs beside the
    path."""
    if abs(region.frame[2, 2] - 1) > SAME_SHARE or abs(region.frame[2, 3]) > SMALLEST:
        raise Failure("what is swept is drawn flat, in plan", "the path sets it upright")
    return region.in_plan()


def _rings_carried(section: Region) -> list[Points]:
    """The rings that are carried along. A round bar has few sides, and as much area as its disc."""
    if len(section.circles) == 1 and len(section.outlines) == 1 and len(section.outlines[0].pieces) == 1:  # fmt: skip
        x, y, radius = section.circles[0]
        count = sides_of_bar(float(radius))
        step = _TURN / count
        angles = step * np.arange(count)
        size = radius * math.sqrt(step / math.sin(step))
        return [np.column_stack([x + size * np.cos(angles), y + size * np.sin(angles)])]
    return section.rings()


def _rounded(path: Curve, rings: list[Points]) -> Curve:
    """The path with its corners rounded just so far that the inner side of the outline turns."""
    if not corner_angles(path):
        return path
    flat = np.concatenate(rings)
    return filleted(path, float(np.abs(flat).max()) + 10 * SMALLEST)


# --- stations ---


def _way(path: Curve, reach: float, twist: float, changes: bool) -> _Way:
    """The stations at which the outline stands, as many as the tolerance asks for."""
    least = _steps_of_twist(twist, reach, path.length) if twist else 0.0
    places: list[Points] = []
    before: list[Points] = []
    after: list[Points] = []
    for run in path.runs:
        points, tangents = _stations(run, reach, least, changes)
        if places:
            after[-1][-1] = tangents[0]
            points, tangents = points[1:], tangents[1:]
        places.append(points)
        before.append(tangents)
        after.append(tangents.copy())
    stations, ahead, onward = (np.concatenate(one) for one in (places, before, after))
    if len(stations) > MOST_RINGS:
        raise _too_many(len(stations))
    steps = np.linalg.norm(np.diff(stations, axis=0), axis=1)
    lengths = np.concatenate([[0.0], np.cumsum(steps)])
    if path.closed:
        ahead[0] = ahead[-1]
        stations, ahead, onward, lengths = (one[:-1] for one in (stations, ahead, onward, lengths))
    return _Way(stations, ahead, onward, lengths, path.closed)


def _too_many(count: int) -> Failure:
    return Failure(
        f"this sweep would have {count:,} sections; at most {MOST_RINGS:,}",
        "give the study a coarser `tolerance`, or twist it less",
    )


def _steps_of_twist(twist: float, reach: float, length: float) -> float:
    """How many stations a mm of the way needs for a twist: a patch whose far side is turned by a
    bends by its width times a / 4."""
    missed = tolerance_for(reach, share=2 * CHORD_SHARE)
    return abs(twist) * reach / (4 * 0.4 * missed) / length


def _stations(
    run: Piece | Cubics, reach: float, least: float, changes: bool
) -> tuple[Points, Points]:
    """Places and directions along a piece, or along cubics that follow each other."""
    if isinstance(run, Cubics):
        return _stations_of_cubics(run, reach, least)
    count = _steps(run, reach) if not isinstance(run, Straight) else 24 if changes else 1
    steps = np.linspace(0.0, 1.0, max(count, math.ceil(least * run.length)) + 1)
    return run.at(steps), _units(run.slope(steps))


def _units(vectors: Points) -> Points:
    units: Points = vectors / np.linalg.norm(vectors, axis=-1, keepdims=True)
    return units


def _steps(piece: Piece, reach: float) -> int:
    """Into how many steps a piece is parted, so that the outer side of the outline keeps to the
    tolerance."""
    unit = _units(piece.slope(np.linspace(0.0, 1.0, 33)))
    turning = float(_turns(unit).sum())
    if turning < SAME_SHARE:
        return 1
    radius = piece.radius if isinstance(piece, Arc) and piece.is_circle else piece.length / turning
    count = math.ceil(turning / float(_step_at(radius, reach)))
    return max(count, piece.chords(chord_tolerance()))


def _step_at(radius: Any, reach: float) -> Any:
    """The turn in radians of one step along a bend of a radius."""
    least = np.maximum(1 - chord_tolerance() / (radius + reach), 0.0)
    return np.minimum(2 * np.arccos(least), _TURN / fewest_chords())


def _turns(units: Points) -> Points:
    """The angles between directions that follow each other along the last axis but one."""
    cosines = dot_product(units[..., :-1, :], units[..., 1:, :])
    sines = np.linalg.norm(cross_product(units[..., :-1, :], units[..., 1:, :]), axis=-1)
    angles: Points = np.arctan2(sines, cosines)
    return angles


def _stations_of_cubics(run: Cubics, reach: float, least: float) -> tuple[Points, Points]:
    """Stations along cubics: as they turn, wherever one ends and the next begins."""
    places: list[Points] = []
    ways: list[Points] = []
    for smooth in run.smooth_runs(_CORNER):
        found, tangents = _stations_where_smooth(smooth, reach, least)
        if places:
            found, tangents = found[1:], tangents[1:]
        places.append(found)
        ways.append(tangents)
    return np.concatenate(places), np.concatenate(ways)


def _stations_where_smooth(run: Cubics, reach: float, least: float) -> tuple[Points, Points]:
    samples = run.slopes(np.linspace(0.0, 1.0, 5))
    turning = _turns(_units(samples)).sum(axis=1)
    lengths = np.linalg.norm(samples, axis=2).mean(axis=1)
    radius = lengths / np.maximum(turning, ROUNDING)
    wanted = np.maximum(turning / _step_at(radius, reach), least * lengths)
    upto = np.concatenate([[0.0], np.cumsum(wanted)])
    count = max(math.ceil(upto[-1] - SAME_SHARE), 1)
    if count > MOST_RINGS:
        raise _too_many(count)
    marks = np.linspace(0.0, upto[-1], count + 1)
    which = np.clip(np.searchsorted(upto, marks, side="right") - 1, 0, len(wanted) - 1)
    shares = np.clip((marks - upto[which]) / np.maximum(wanted[which], LEAST), 0.0, 1.0)
    if upto[-1] < ROUNDING:  # all straight
        which, shares = np.array([0, len(wanted) - 1]), np.array([0.0, 1.0])
    return run.at(which, shares)


# --- sections ---


def _sections(way: _Way, flat: Points, twist: float, size: Sizes | None, upright: bool) -> Points:
    """The outline at every station, (k, n, 3)."""
    right, up = _frames(way, upright)
    total = way.lengths[-1] + (np.linalg.norm(way.places[0] - way.places[-1]) if way.closed else 0)
    shares = way.lengths / total if total else way.lengths
    turns = twist * shares
    c, s = np.cos(turns)[:, None], np.sin(turns)[:, None]
    across = c * right + s * up
    upwards = c * up - s * right
    sizes = np.ones(len(shares)) if size is None else sampled(size, shares)
    flat = flat * sizes[:, None, None]
    offsets = flat[..., :1] * across[:, None] + flat[..., 1:] * upwards[:, None]
    return way.places[:, None] + _mitred(way, offsets)


def _mitred(way: _Way, offsets: Points) -> Points:
    """Sections slid along the way into the plane that halves a corner."""
    normals = way.before + way.after
    lengths = np.linalg.norm(normals, axis=1)
    if np.any(lengths < 1e-6):
        place = way.places[int(np.argmin(lengths))]
        raise Failure(
            f"the path turns straight back at ({', '.join(f'{c:.6g}' for c in place)}) mm",
            "such a corner has no mitre",
        )
    normals /= lengths[:, None]
    slide = np.einsum("knj,kj->kn", offsets, normals) / dot_product(way.before, normals)[:, None]  # fmt: skip
    found: Points = offsets - slide[..., None] * way.before[:, None]
    return found


def _frames(way: _Way, upright: bool) -> tuple[Points, Points]:
    """Directions to the right and up of the way, square to it, at every station."""
    if upright:
        return _upright_frames(way)
    right = _carried_along(_first_right(way.before[0]), _turns_from_station_to_station(way))
    right -= dot_product(right, way.before)[:, None] * way.before
    right /= np.linalg.norm(right, axis=1)[:, None]
    if way.closed:
        end = _turn_over(way.before[-1:], way.after[-1:])[0] @ right[-1]
        end = _twice_reflected(way.places[[-1, 0]], way.after[-1:], way.before[:1])[0] @ end
        up = cross_product(right[0], way.before[0])
        gap = math.atan2(float(end @ up), float(end @ right[0]))
        angles = -gap * np.arange(len(right)) / len(right)
        ups = cross_product(right, way.before)
        right = np.cos(angles)[:, None] * right + np.sin(angles)[:, None] * ups
    return right, cross_product(right, way.before)


def _first_right(along: Points) -> Points:
    right = cross_product(along, _UP)
    size = float(np.linalg.norm(right))
    first: Points = np.array([1.0, 0.0, 0.0]) if size < SAME_SHARE else right / size
    return first


def _upright_frames(way: _Way) -> tuple[Points, Points]:
    right = cross_product(way.before, _UP)
    sizes = np.linalg.norm(right, axis=1)
    steep = sizes < 1e-6
    right[~steep] /= sizes[~steep][:, None]
    known = np.flatnonzero(~steep)
    for at in np.flatnonzero(steep):  # straight up, it keeps the side it had
        near = known[np.argmin(np.abs(known - at))] if len(known) else None
        right[at] = [1.0, 0.0, 0.0] if near is None else right[near]
        right[at] -= (right[at] @ way.before[at]) * way.before[at]
        right[at] /= np.linalg.norm(right[at])
    return right, cross_product(right, way.before)


def _turns_from_station_to_station(way: _Way) -> Points:
    """The turns (k - 1, 3, 3) by which a direction square to the way is carried from each station
    to the next, with the least twist."""
    through = _turn_over(way.before[:-1], way.after[:-1])
    return _twice_reflected(way.places, way.after[:-1], way.before[1:]) @ through


def _carried_along(first: Points, turns: Points) -> Points:
    """A vector and where turns (k, 3, 3), one after the other, take it: (k + 1, 3). In plain
    figures: each stands on the one before, and three are too few for an array."""
    x, y, z = first.tolist()
    found = [(x, y, z)]
    for (a, b, c), (d, e, f), (g, h, i) in turns.tolist():
        x, y, z = a * x + b * y + c * z, d * x + e * y + f * z, g * x + h * y + i * z
        found.append((x, y, z))
    return np.array(found)


def _turn_over(a: Points, b: Points) -> Points:
    """The least turns (n, 3, 3) that take directions a (n, 3) to b (Rodrigues' formula)."""
    axes = cross_product(a, b)
    cosines = dot_product(a, b)
    cross = np.zeros((len(a), 3, 3))
    cross[:, [2, 0, 1], [1, 2, 0]] = axes
    cross[:, [1, 2, 0], [2, 0, 1]] = -axes
    shares = 1 / np.maximum(1 + cosines, 1e-15)  # straight back it has none: refused when mitred
    found: Points = np.eye(3) + cross + shares[:, None, None] * (cross @ cross)
    return found


def _twice_reflected(places: Points, a: Points, b: Points) -> Points:
    """The turns (n, 3, 3) that carry what is square to direction a at each of places (n + 1, 3) to
    the next, where the direction is b, by two reflections (Wang, Juettler, Zheng and Liu,
    Computation of Rotation Minimizing Frames, ACM Transactions on Graphics 27, 2008)."""
    mirrored = _reflections(np.diff(places, axis=0))
    found: Points = _reflections(b - np.einsum("nij,nj->ni", mirrored, a)) @ mirrored
    return found


def _reflections(normals: Points) -> Points:
    """Reflections (n, 3, 3) in the planes square to vectors; where there is none, nothing moves."""
    squares = dot_product(normals, normals)
    shares = np.where(squares > 1e-24, 2 / np.maximum(squares, 1e-24), 0.0)
    found: Points = np.eye(3) - shares[:, None, None] * normals[:, :, None] * normals[:, None, :]
    return found


# --- joining ---


def _joined(
    way: _Way, sections: Points, loops: Sequence[int], cap: NDArray[np.int64], once: bool
) -> manifold3d.Manifold:
    """The solid through sections; `once` says that it does not overlap itself."""
    if once:
        caps = (None, None) if way.closed else (cap, cap)
        return _filled(sections, loops, *caps)
    folding = _folding(way, sections)
    if way.closed:
        sections = np.concatenate([sections, sections[:1]])
    turns = set(_chunks(way, len(sections)))
    bends = {at + k for at in np.flatnonzero(folding).tolist() for k in (0, 1)}
    parts: list[manifold3d.Manifold] = []
    for a, b in itertools.pairwise(sorted(turns | bends)):
        if folding[a]:
            parts += _hulls(sections[a], sections[b], cap)
        else:
            parts.append(_filled(sections[a : b + 1], loops, cap, cap))
    return united(parts)


def _filled(
    sections: Points,
    loops: Sequence[int],
    first: NDArray[np.int64] | None,
    last: NDArray[np.int64] | None,
) -> manifold3d.Manifold:
    """What lies within the surface through sections. To the right and up they run clockwise about
    the way, so that the surface comes inside out."""
    return manifold_of(skinned(sections, loops, first, last).inside_out())


def _folding(way: _Way, sections: Points) -> NDArray[np.bool_]:
    """For each step whether the next section runs back behind the one before it: the way bends
    tighter than the outline is wide."""
    onward = np.roll(sections, -1, axis=0) - sections
    middle = way.after + np.roll(way.before, -1, axis=0)
    steps = np.einsum("knj,kj->kn", onward, middle)
    if not way.closed:
        steps = steps[:-1]
    return np.asarray(steps.min(axis=1) <= 0)


def _runs_into_itself(
    path: Curve,
    way: _Way,
    sections: Points,
    loops: Sequence[int],
    cap: NDArray[np.int64],
    reach: float,
) -> bool:
    """Whether a sweep overlaps itself: looked at closely where places far apart along the way are
    near each other."""
    if not _comes_near(path, reach):
        return False
    caps = (None, None) if way.closed else (cap, cap)
    return first_crossing(skinned(sections, loops, *caps)) is not None


_MOST_PLACES = 20_000


def _comes_near(path: Curve, reach: float) -> bool:
    """Whether places far apart along a path are nearer than an outline is wide, whose farthest
    corner is `reach` (mm) from it."""
    from scipy.spatial import cKDTree

    corners = path.points(reach / 50)
    reached = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(corners, axis=0), axis=1))])

    def near(places_each_reach: float, slack: float = 0.0) -> bool:
        count = int(min(max(places_each_reach * reached[-1] / reach, 16), _MOST_PLACES))
        lengths = np.linspace(0.0, reached[-1], count)
        places = np.column_stack([np.interp(lengths, reached, axis) for axis in corners.T])
        step = reached[-1] / count
        pairs = cKDTree(places).query_pairs(2 * reach + step, output_type="ndarray")
        apart = np.abs(lengths[pairs[:, 0]] - lengths[pairs[:, 1]])
        if path.closed:
            apart = np.minimum(apart, reached[-1] - apart)
        return bool(np.any(apart > (math.pi + 0.5) * reach - slack * step))

    # Few places tell quickly that none is near. What they stand for lies up to half a step to either side.
    return near(2, slack=1) and near(4)


def _largest_turn(way: _Way) -> float:
    """By how many radians the way turns at most from a station to the next, but for its corners."""
    cosines = dot_product(way.after, np.roll(way.before, -1, axis=0))
    steps = cosines if way.closed else cosines[:-1]
    return math.acos(float(np.clip(steps.min(initial=1.0), -1.0, 1.0)))


def _chunks(way: _Way, count: int) -> list[int]:
    """Stations at which the way is cut into stretches that turn little."""
    cosines = np.clip(dot_product(way.before, np.roll(way.before, -1, axis=0)), -1, 1)
    edges, turned = [0], 0.0
    for at in range(1, count - 1):
        turned += math.acos(float(cosines[at - 1]))
        if turned > _CHUNK:
            edges.append(at)
            turned = 0.0
    return [*edges, count - 1]


_NOTHING = 1e-9
"""mm³ that are none."""


def _hulls(a: Points, b: Points, cap: NDArray[np.int64]) -> list[manifold3d.Manifold]:
    """What lies between one section and the next, triangle by triangle of the outline: slow, but
    right however tightly the way bends."""
    parts = []
    for triangle in cap:
        corners = np.concatenate([a[triangle], b[triangle]])
        out = corners - corners.mean(axis=0)
        corners = corners + _LAP * out / np.maximum(np.linalg.norm(out, axis=1), ROUNDING)[:, None]
        part = manifold3d.Manifold.hull_points(corners)
        if part.volume() > _NOTHING:
            parts.append(part)
    return parts
