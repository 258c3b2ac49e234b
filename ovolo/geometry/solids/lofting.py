"""Lofts: solids through outlines placed in space, straight or smooth from one to the next."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from typing import Any

import manifold3d
import numpy as np
import shapely
from numpy.typing import NDArray

from ovolo.geometry.digest import digest
from ovolo.geometry.meshes.bent import Missed
from ovolo.geometry.meshes.mesh import Mesh, triangulated
from ovolo.geometry.meshes.skin import skinned
from ovolo.geometry.placement import Matrix, applied
from ovolo.geometry.regions.region import Region, polygons_of
from ovolo.geometry.same import LEAST, ROUNDING, SAME_SHARE, SMALLEST
from ovolo.geometry.solids.solid import Solid, manifold_of, shape_made
from ovolo.geometry.surfaces.self_crossing import first_crossing
from ovolo.geometry.tolerance import chord_tolerance, tolerance_for
from ovolo.geometry.types import Points
from ovolo.geometry.vectors import cross_product, dot_product
from ovolo.problems import Failure

_SAMPLES = 96
"""At so many places two outlines are compared to find which corner belongs to which."""

_TOUCHING = 1e-3
"""mm from its outline within which an outline may meet the plane of another: hinges touch."""

_MOST_BETWEEN = 200
MOST_SECTIONS = 2_000


def loft(sections: Sequence[Region], smooth: bool = False, closed: bool = False) -> Solid:
    """The solid through outlines in order; `closed` goes on from the last to the first. Corners
    belong together by their share of the way round, from the start that twists least. Raises
    Failure for outlines that cannot be joined.

    >>> from ovolo.geometry.placement import moved
    >>> from ovolo.geometry.regions.region import rectangle
    >>> top = rectangle(10.0, 10.0).placed(moved(np.array([0.0, 0.0, 30.0])))
    >>> round(loft([rectangle(20.0, 20.0), top]).volume, 6)
    7000.0
    """
    for at, one in enumerate(sections):
        if one.is_empty:
            raise Failure(f"outline {at} of this loft is empty: {one.why_empty}")
    outlines = [one.rings() for one in sections]
    _refuse_unlike(sections, outlines, closed)
    relative = _relative(sections, closed)
    _refuse_crossing(sections, outlines, relative)
    _refuse_one_height(sections, relative, closed)
    key = digest("loft", smooth, closed, *((one.key, np.round(one.frame, 9)) for one in sections))

    def make() -> manifold3d.Manifold:
        rings, loops = _matched(sections, outlines, closed)
        through = _through(rings, smooth, closed)
        first = None if closed else _cap(rings[0], loops, sections[0])
        last = None if closed else _cap(rings[-1], loops, sections[-1])
        made = skinned(through, loops, first, last)
        if closed or not _goes_on(rings):
            _refuse_overlap(made)
        return manifold_of(made)

    few = sum(len(ring) for rings in outlines for ring in rings) <= _FEW_CORNERS
    straight = few and not smooth and all(one.straight for one in sections)
    flat = straight and not _bends(_matched(sections, outlines, closed)[0], closed)
    return Solid(shape_made(key, make, "this loft", flat=flat, before=lambda: _missed_by(sections)))


def _missed_by(sections: Sequence[Region]) -> Missed:
    """By what share the chords of outlines are larger or smaller than these: parted among each other's corners, they no
    longer tell."""
    share = max(abs(float(one.flat.area) / one.area - 1) + one.within for one in sections)
    return Missed(*[share] * 4)


_FEW_CORNERS = 200
"""With more of them it is not asked whether all faces are flat."""


def _bends(rings: Points, closed: bool) -> bool:
    """Whether any patch between straight outlines (k, n, 3) is not flat."""
    onward = np.roll(rings, -1, axis=0)
    count = len(rings) if closed else len(rings) - 1
    return any(_off_plane(rings[at], onward[at]) > SAME_SHARE for at in range(count))


def _off_plane(a: Points, b: Points) -> float:
    """By how much, as a share of their size, the four corners of patches miss one plane at most."""
    a1, b1 = np.roll(a, -1, axis=0), np.roll(b, -1, axis=0)
    volumes = np.abs(np.einsum("ij,ij->i", cross_product(a1 - a, b - a), b1 - a))
    sizes = [np.linalg.norm(one, axis=1) for one in (a1 - a, b - a, b1 - a)]
    return float((volumes / np.maximum(np.prod(sizes, axis=0), LEAST)).max())


def _goes_on(rings: Points) -> bool:
    """Whether every outline lies beyond the one before it, seen along one direction: then nothing
    can overlap."""
    way = rings[-1].mean(axis=0) - rings[0].mean(axis=0)
    along = rings @ (way / max(float(np.linalg.norm(way)), LEAST))
    return bool(np.all(along[:-1].max(axis=1) < along[1:].min(axis=1) + SMALLEST)) and bool(
        np.all(np.diff(along.mean(axis=1)) > SMALLEST)
    )


def _refuse_overlap(mesh: Mesh) -> None:
    """Refuses a loft that runs through itself."""
    place = first_crossing(mesh)
    if place is not None:
        raise Failure(
            f"this loft doubles back and runs through itself at "
            f"({', '.join(f'{c:.6g}' for c in place)}) mm",
            "put the outlines in order along the way, or unite two lofts",
        )


_Relative = dict[tuple[int, int], Matrix]
"""How the second of two outlines that follow each other lies, seen in the plane of the first."""


def _relative(sections: Sequence[Region], closed: bool) -> _Relative:
    """Both ways for each two that follow each other, in their order."""
    count = len(sections)
    frames = np.array([one.frame for one in sections])
    ahead = np.arange(count if closed else count - 1)
    pairs = np.column_stack([ahead, (ahead + 1) % count])
    both = np.column_stack([pairs, pairs[:, ::-1]]).reshape(-1, 2)
    found = np.linalg.inv(frames)[both[:, 0]] @ frames[both[:, 1]]
    return {(int(a), int(b)): matrix for (a, b), matrix in zip(both, found, strict=True)}


def _refuse_one_height(sections: Sequence[Region], relative: _Relative, closed: bool) -> None:
    """Refuses two outlines that follow each other in one plane at an end of a loft, where nothing
    lies between them, or of which neither lies within the other."""
    count = len(sections)
    for at in range(count if closed else count - 1):
        after = (at + 1) % count
        lies = relative[at, after]
        if abs(lies[2, 3]) > SMALLEST or np.abs(lies[2, :2]).max() > SAME_SHARE:
            continue
        one, other = sections[at], sections[after]
        at_end = not closed and (at == 0 or at + 1 == count - 1)
        flat = other.placed(np.linalg.inv(one.frame).astype(np.float64)).in_plan().flat
        within = one.flat.buffer(SMALLEST).covers(flat) or flat.buffer(SMALLEST).covers(one.flat)
        if at_end or not within:
            raise Failure(
                f"outlines {at} and {after} lie in one plane, and nothing lies between them",
                "set them apart, or leave one out",
            )


def _refuse_unlike(sections: Sequence[Region], outlines: list[list[Points]], closed: bool) -> None:
    least = 3 if closed else 2
    if len(sections) < least:
        raise Failure(f"a loft through {len(sections)} outlines is none", f"give {least} or more")
    if len(sections) > MOST_SECTIONS:
        raise Failure(f"a loft goes through at most {MOST_SECTIONS:,} outlines")
    counts = [len(rings) for rings in outlines]
    for at, one in enumerate(sections):
        if len(polygons_of(one.flat)) > 1:
            raise Failure(f"outline {at} is in several pieces", "loft each piece by itself")
    if len(set(counts)) > 1:
        at = next(k for k, count in enumerate(counts) if count != counts[0])
        raise Failure(
            f"outline {at} has {counts[at] - 1} holes, outline 0 has {counts[0] - 1}",
            "outlines of a loft have equally many holes",
        )


def _refuse_crossing(
    sections: Sequence[Region], outlines: list[list[Points]], relative: _Relative
) -> None:
    """Refuses outlines that cut through the one before or after: the loft would overlap itself."""
    reaches = np.array(
        [max(float(np.hypot(*ring.T).max()) for ring in rings) for rings in outlines]
    )
    lies = np.array(list(relative.values()))
    tilted = np.linalg.norm(lies[:, 2, :2], axis=1) * reaches[[other for _, other in relative]]
    meeting = np.abs(lies[:, 2, 3]) <= tilted + SMALLEST
    for (through, other), may in zip(relative, meeting, strict=True):
        lie = relative[through, other]
        place = _cut(sections[through], lie, outlines[other]) if may else None
        if place is not None:
            raise Failure(
                f"outline {other} cuts through outline {through} at "
                f"({', '.join(f'{c:.6g}' for c in place)}) mm, and the loft would overlap itself",
                "set them further apart, or turn them less",
            )


def _cut(region: Region, relative: Matrix, rings: list[Points]) -> Points | None:
    """A place (3,) within a region where the outline of another, which lies so to it, passes
    through its plane."""
    for ring in rings:
        heights = ring @ relative[2, :2] + relative[2, 3]
        if heights.min() > SMALLEST or heights.max() < -SMALLEST:
            continue
        seen = applied(relative, np.column_stack([ring, np.zeros(len(ring))]))
        onward = np.roll(seen, -1, axis=0)
        crosses = (seen[:, 2] < -SMALLEST) != (onward[:, 2] < -SMALLEST)
        crosses &= np.abs(onward[:, 2] - seen[:, 2]) > SMALLEST
        if not np.any(crosses):
            continue
        a, b = seen[crosses], onward[crosses]
        share = (a[:, 2] / (a[:, 2] - b[:, 2]))[:, None]
        places = a + np.clip(share, 0.0, 1.0) * (b - a)
        within = region.flat.buffer(-_TOUCHING)
        inside = shapely.contains_xy(within, places[:, 0], places[:, 1])
        if np.any(inside):
            found: Points = applied(region.frame, places[inside][:1] * [1.0, 1.0, 0.0])[0]
            return found
    return None


def _matched(
    sections: Sequence[Region], outlines: list[list[Points]], closed: bool
) -> tuple[Points, list[int]]:
    """The outlines with equally many corners (k, n, 3), those that belong together at one index;
    and how many corners each loop has."""
    spaces = [
        [ring @ one.frame[:3, :2].T + one.frame[:3, 3] for ring in rings]
        for one, rings in zip(sections, outlines, strict=True)
    ]
    _turn_alike(spaces, closed)
    found: list[Any] = []
    loops = []
    for loop in range(len(spaces[0])):
        rings = [_nearest_hole(space, spaces[0], loop) for space in spaces]
        one_shape = _of_one_shape(rings)
        if one_shape is not None:
            found.append(one_shape)
            loops.append(one_shape.shape[1])
            continue
        counts = {len(_sharp(ring)) for ring in rings}
        alike = len(counts) == 1 and counts != {0}
        if alike:
            rings = [np.roll(ring, -_sharp(ring)[0], axis=0) for ring in rings]
        shares = [_shares(ring) for ring in rings]
        for at in range(1, len(rings)):
            if not _similar(rings[at - 1], rings[at]):
                rings[at], shares[at] = _started(rings[at - 1], rings[at], alike)
        if alike:
            shares = [_by_corners(ring, own) for ring, own in zip(rings, shares, strict=True)]
        together: Points = np.unique(np.round(np.concatenate(shares), 9)).astype(np.float64)
        together = together[(together >= 0) & (together < 1 - SAME_SHARE)]
        found.append([
            ring if np.array_equal(np.round(share, 9), together) else _at(ring, share, together)
            for ring, share in zip(rings, shares, strict=True)
        ])  # fmt: skip
        loops.append(len(together))
    return np.concatenate(found, axis=1), loops


def _of_one_shape(rings: list[Points]) -> Points | None:
    """Rings that are the first, moved and made larger or smaller (k, n, 3), begun at its first sharp
    corner; None where they are not."""
    if len({len(ring) for ring in rings}) > 1:
        return None
    together = np.array(rings)
    if not _are_similar(together[:-1], together[1:]).all():
        return None
    sharp = _sharp(rings[0])
    return np.roll(together, -sharp[0], axis=1) if len(sharp) else together


def _similar(before: Points, ring: Points) -> bool:
    """Whether a ring is the one before, moved and made larger or smaller: then it begins where it
    twists least."""
    return len(before) == len(ring) and bool(_are_similar(before[None], ring[None])[0])


def _are_similar(before: Points, rings: Points) -> NDArray[np.bool_]:
    """Whether each of rings (k, n, 3) is the one before it (k, n, 3), moved and made larger or smaller."""
    a = before - before.mean(axis=1, keepdims=True)
    b = rings - rings.mean(axis=1, keepdims=True)
    along, square = np.einsum("kij,kij->k", a, b), np.einsum("kij,kij->k", a, a)
    missed = np.abs(b * square[:, None, None] - a * along[:, None, None]).max(axis=(1, 2))
    alike: NDArray[np.bool_] = (along > 0) & (
        missed <= SAME_SHARE * square * np.abs(b).max(axis=(1, 2))
    )
    return alike


def _turn_alike(spaces: list[list[Points]], closed: bool) -> None:
    """Turns outlines round whose inside lies to the other side, seen along the way."""
    middles = [rings[0].mean(axis=0) for rings in spaces]
    first = [rings[0] for rings in spaces]
    even = len({len(ring) for ring in first}) == 1
    normals = list(_normal(np.array(first))) if even else [_normal(ring) for ring in first]
    count = len(spaces)
    for at, rings in enumerate(spaces):
        before = middles[at - 1] if at or closed else middles[at]
        after = middles[(at + 1) % count] if at + 1 < count or closed else middles[at]
        way = after - before
        # Where it hardly turns against the one before, it looks the same way: so a loft may also
        # go back, into a hollow. Otherwise the way tells.
        along = float(normals[at] @ normals[at - 1]) if at else 0.0
        if (along if abs(along) > _HARDLY else float(normals[at] @ way)) < 0:
            spaces[at] = [ring[::-1] for ring in rings]
            normals[at] = -normals[at]


_HARDLY = math.cos(math.radians(45))


def _normal(rings: Points) -> Points:
    """The direction (..., 3) about which rings (..., n, 3) run anticlockwise."""
    out = rings - rings.mean(axis=-2, keepdims=True)
    vector = np.sum(cross_product(out, np.roll(out, -1, axis=-2)), axis=-2)
    unit: Points = vector / np.maximum(np.linalg.norm(vector, axis=-1, keepdims=True), LEAST)
    return unit


def _nearest_hole(space: list[Points], first: list[Points], loop: int) -> Points:
    """The loop of a section that belongs to one of the first: the outline, or the hole that lies
    most alike."""
    if loop == 0:
        return space[0]
    wanted = first[loop].mean(axis=0) - first[0].mean(axis=0)
    holes = space[1:]
    gaps = [float(np.linalg.norm(hole.mean(axis=0) - space[0].mean(axis=0) - wanted)) for hole in holes]  # fmt: skip
    return holes[int(np.argmin(gaps))]


_SHARP = math.radians(20)
"""Corners that turn by more belong to corners of the other outlines."""


def _sharp(ring: Points) -> NDArray[np.int64]:
    """The numbers of its sharp corners."""
    sides = np.roll(ring, -1, axis=0) - ring
    units = sides / np.maximum(np.linalg.norm(sides, axis=1, keepdims=True), ROUNDING)
    turns = np.arccos(np.clip(dot_product(np.roll(units, 1, axis=0), units), -1, 1))
    return np.flatnonzero(turns > _SHARP)


def _by_corners(ring: Points, shares: Points) -> Points:
    """The shares stretched so that its sharp corners, of which the first is its start, lie at even
    shares."""
    corners = _sharp(ring)
    known = np.concatenate([shares[corners], [1.0]])
    return np.interp(shares, known, np.linspace(0.0, 1.0, len(known)))


def _shares(ring: Points) -> Points:
    """Where each corner lies as a share of the way round, from 0 (below 1)."""
    sides = np.linalg.norm(np.roll(ring, -1, axis=0) - ring, axis=1)
    shares: Points = np.concatenate([[0.0], np.cumsum(sides)[:-1]]) / sides.sum()
    return shares


def _at(ring: Points, shares: Points, places: Points) -> Points:
    """Points of a ring at shares of the way round."""
    around = np.concatenate([shares, [shares[0] + 1.0]])
    corners = np.concatenate([ring, ring[:1]])
    wrapped = np.where(places < around[0], places + 1.0, places)
    return np.column_stack([np.interp(wrapped, around, corners[:, axis]) for axis in range(3)])


def _started(before: Points, ring: Points, sharp: bool) -> tuple[Points, Points]:
    """The ring begun where it twists least against the one before: at one of the sharp corners, or
    anywhere. There the points at equal shares lie nearest, both about their middles."""
    places = np.arange(_SAMPLES) / _SAMPLES
    wanted = _at(before, _shares(before), places)
    wanted = wanted - wanted.mean(axis=0)
    own = _shares(ring)

    def twists(starts: Points) -> Points:
        around = (places + starts[:, None]) % 1.0
        seen = _at(ring, own, around.reshape(-1)).reshape(len(starts), _SAMPLES, 3)
        gaps: Points = np.sum((seen - seen.mean(axis=1, keepdims=True) - wanted) ** 2, axis=(1, 2))
        return gaps

    if sharp:
        starts = own[_sharp(ring)]
        gaps = twists(starts)
        # Of starts that are as good as each other, the first.
        return _begun_at(
            ring, own, float(starts[np.argmax(gaps <= gaps.min() * (1 + SAME_SHARE) + SAME_SHARE)])
        )
    near = _nearest_shift(wanted, _at(ring, own, places))
    beside = own[np.abs((own - near + 0.5) % 1.0 - 0.5) < 1 / _SAMPLES]
    # A corner that is as good but for a hundredth is preferred: no other has to be put in.
    gaps = twists(np.concatenate([beside, [near]]))
    good = np.flatnonzero(gaps[:-1] <= gaps.min() * 1.01 + SAME_SHARE)
    start = float(beside[good[0]]) if len(good) else _closer(twists, near)
    return _begun_at(ring, own, start)


def _nearest_shift(wanted: Points, seen: Points) -> float:
    """The share by which points round a ring are to be shifted to lie nearest to others: where their
    correlation, worked out for all shifts at once, is greatest; the first of equal ones."""
    spectrum = np.conj(np.fft.fft(wanted, axis=0)) * np.fft.fft(seen - seen.mean(axis=0), axis=0)
    alike = np.fft.ifft(spectrum, axis=0).real.sum(axis=1)
    best = float(alike.max())
    return float(np.argmax(alike >= best - SAME_SHARE * abs(best) - SAME_SHARE)) / len(wanted)


def _closer(twists: Callable[[Points], Points], start: float) -> float:
    """A start near another that twists less still, if there is one by more than noise."""
    width, best, least = 1 / _SAMPLES, start, float(twists(np.array([start]))[0])
    for _ in range(12):
        tried = best + width * np.linspace(-1.0, 1.0, 9)
        gaps = twists(tried % 1.0)
        if gaps.min() < least * (1 - SAME_SHARE) - SAME_SHARE:
            best, least = float(tried[np.argmin(gaps)]), float(gaps.min())
        width /= 4
    return best % 1.0


def _begun_at(ring: Points, own: Points, start: float) -> tuple[Points, Points]:
    """A ring that begins at a share of the way round, with a corner there, and its shares."""
    shares = (own - start) % 1.0
    shares[shares > 1 - SAME_SHARE] = 0.0
    order = np.argsort(shares, kind="stable")
    ring, shares = ring[order], shares[order]
    if shares[0] > SAME_SHARE:
        first = _at(ring, shares, np.array([0.0]))
        ring, shares = np.concatenate([first, ring]), np.concatenate([[0.0], shares])
    return ring, shares


def _through(rings: Points, smooth: bool, closed: bool) -> Points:
    """The rings with as many more between them as the tolerance asks for."""
    if smooth and (len(rings) > 2 or closed):
        return _smoothly(rings, closed)
    onward = np.roll(rings, -1, axis=0)
    fine = tolerance_for(float(np.ptp(rings.reshape(-1, 3), axis=0).max()))
    bend = (rings - np.roll(rings, -1, axis=1)) - (onward - np.roll(onward, -1, axis=1))
    # A four-sided patch whose sides turn misses its two triangles by a quarter of that.
    worst = np.where(_are_skew(rings, onward), np.linalg.norm(bend, axis=2).max(axis=1) / 4, 0.0)
    counts = np.clip(np.ceil(worst / (0.4 * fine)), 1, _MOST_BETWEEN).astype(int)
    if counts.max() == 1:
        return rings
    found = []
    for at in range(len(rings) if closed else len(rings) - 1):
        steps = np.linspace(0, 1, counts[at] + 1)[:-1, None, None]
        found.append(rings[at] + steps * (onward[at] - rings[at]))
    if not closed:
        found.append(rings[-1:])
    return np.concatenate(found)


def _are_skew(a: Points, b: Points) -> NDArray[np.bool_]:
    """Between which of the rings (k, n, 3) and their followers any patch is not flat."""
    a1, b1 = np.roll(a, -1, axis=1), np.roll(b, -1, axis=1)
    across = cross_product(a1 - a, b - a)
    volumes = np.abs(dot_product(across, b1 - a))
    skew = volumes > chord_tolerance() / 5 * np.maximum(np.linalg.norm(across, axis=2), ROUNDING)
    found: NDArray[np.bool_] = skew.any(axis=1)
    return found


def _smoothly(rings: Points, closed: bool) -> Points:
    """A cubic spline along each row of corners that belong together."""
    from scipy.interpolate import CubicSpline

    if closed:
        rings = np.concatenate([rings, rings[:1]])
    steps = np.linalg.norm(np.diff(rings, axis=0), axis=2).mean(axis=1)
    knots = np.concatenate([[0.0], np.cumsum(np.maximum(steps, SAME_SHARE))])
    ends = "periodic" if closed else "not-a-knot" if len(rings) > 3 else "natural"
    made = CubicSpline(knots, rings, bc_type=ends)
    bends = np.linalg.norm(made(knots, 2), axis=2).max(axis=1)
    fine = tolerance_for(float(np.ptp(rings.reshape(-1, 3), axis=0).max()))
    places = [np.zeros(0)]
    for at in range(len(knots) - 1):
        width = knots[at + 1] - knots[at]
        bend = max(bends[at], bends[at + 1])
        count = min(max(math.ceil(width * math.sqrt(bend / 8 / fine)), 1), _MOST_BETWEEN)
        places.append(np.linspace(knots[at], knots[at + 1], count + 1)[:-1])
    if not closed:
        places.append(knots[-1:])
    found: Points = made(np.concatenate(places))
    return found


def _cap(ring: Points, loops: list[int], section: Region) -> NDArray[np.int64]:
    """The triangles of an end, facing along the way."""
    back: Matrix = np.linalg.inv(section.frame).astype(np.float64)
    flat = applied(back, ring)[:, :2]
    parts = np.split(flat, np.cumsum(loops)[:-1])
    if _signed_area(parts[0]) < 0:  # seen from behind
        mirrored = [part * [-1.0, 1.0] for part in parts]
        return triangulated(mirrored)
    return triangulated(parts)


def _signed_area(ring: Points) -> float:
    x, y = ring.T
    return float(np.sum(x * np.roll(y, -1) - y * np.roll(x, -1)) / 2)
