"""Curves that meet: where two cross, corners rounded or cut off, and parallels at a distance."""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterable, Sequence

import numpy as np
import shapely
from numpy.typing import NDArray

from ovolo.geometry.curves.curve import Curve, closest
from ovolo.geometry.curves.drafting import Z, by_equation
from ovolo.geometry.curves.pieces import Arc, Piece, Straight
from ovolo.geometry.same import ROUNDING, SAME_SHARE, SMALLEST
from ovolo.geometry.types import Points
from ovolo.geometry.vectors import cross_product, plane_product
from ovolo.problems import Failure

_FINE = 1e-5
"""Share of its size by which the chords of a piece may miss it where crossings are first looked for; they are then found
exactly."""

_ONE_POINT = 1e-8
"""Share of the size of a curve within which what was found twice is one point."""

_BENDS = 1e-7
"""Radians by which pieces must turn to have a corner between them."""


# --- where curves meet ---


def meetings(first: Curve, second: Curve) -> list[Points]:
    """The points two curves have in common, in order along the first. They are found on chords
    and then refined on the exact pieces (Gauss-Newton). Raises Failure where the curves run along each other."""
    found: list[tuple[int, float, Points]] = []
    apart = max(_ONE_POINT * min(_size(first.bounds()), _size(second.bounds())), SMALLEST)
    for i, p in enumerate(first.pieces):
        for j in _near(first.piece_bounds[i], second.piece_bounds):
            for t, point in _meetings_of(p, second.pieces[j]):
                if all(np.linalg.norm(point - known) > apart for _, _, known in found):
                    found.append((i, t, point))
    return _touching_once(sorted(found, key=lambda one: one[:2]), first, second)


def _size(bounds: Points) -> float:
    return float(np.ptp(bounds, axis=0).max())


_BESIDE = 1e-3
"""mm by which boxes may lie apart about pieces that are still looked at."""


def _near(box: Points, boxes: Points) -> list[int]:
    """The numbers of the boxes (n, 2, 3) that a box (2, 3) meets."""
    meets = (boxes[:, 0] <= box[1] + _BESIDE) & (boxes[:, 1] >= box[0] - _BESIDE)
    found: list[int] = np.flatnonzero(meets.all(axis=1)).tolist()
    return found


def _shared_ends(p: Piece, q: Piece) -> list[float]:
    """Where an end of one piece lies on the other, as parameters of the first, in order."""
    ends = [0.0, 1.0, p.nearest(q.start), p.nearest(q.end)]
    return sorted({t for t in ends if _is_on(q, p.at(t))})


def _refuse_along(p: Piece, q: Piece, shared: Sequence[float]) -> None:
    """Pieces that run along each other do so up to an end of one of them."""
    for s, t in itertools.pairwise(shared):
        a, middle, b = (p.at(s + share * (t - s)) for share in (0.25, 0.5, 0.75))
        if np.linalg.norm(b - a) > SMALLEST and all(_is_on(q, one) for one in (a, middle, b)):
            x, y = np.round(middle[:2], 6) + 0.0  # a zero without a sign
            raise Failure(
                f"the curves run along each other near ({x:.6g} mm, {y:.6g} mm)",
                "there they have all points in common; trim one of them",
            )


def _is_on(piece: Piece, point: Points) -> bool:
    return float(np.linalg.norm(piece.at(piece.nearest(point)) - point)) < SMALLEST


def _touching_once(
    found: list[tuple[int, float, Points]], first: Curve, second: Curve
) -> list[Points]:
    """The points, those where the curves only touch made one: between two such the curves are one
    place."""
    kept: list[tuple[int, float, Points]] = []
    for at, t, point in found:
        if kept and kept[-1][0] == at:
            middle = (kept[-1][1] + t) / 2
            between = first.pieces[at].at(middle)
            near, u = closest(second, between)
            apart = float(np.linalg.norm(second.pieces[near].at(u) - between))
            if apart < SMALLEST and _is_touch(first.pieces[at], middle, second.pieces[near], u):
                kept[-1] = (at, middle, between)
                continue
        kept.append((at, t, point))
    points = [point for _, _, point in kept]
    near_seam = _FINE * _size(first.bounds())
    if first.closed and len(points) > 1 and np.linalg.norm(points[0] - points[-1]) < near_seam:
        seam = first.start  # a touch at the seam is found on both sides of it
        near, u = closest(second, seam)
        ends = (first.pieces[0], 0.0) if kept[0][1] < 0.5 else (first.pieces[-1], 1.0)
        apart = float(np.linalg.norm(second.pieces[near].at(u) - seam))
        if apart < SMALLEST and _is_touch(*ends, second.pieces[near], u):
            return [seam, *points[1:-1]]
    return points


def _is_touch(p: Piece, s: float, q: Piece, t: float) -> bool:
    """Whether two pieces run side by side at parameters, and bend away from each other."""
    a, b = p.slope(s), q.slope(t)
    aligned = np.linalg.norm(cross_product(a, b)) < 1e-3 * np.linalg.norm(a) * np.linalg.norm(b)
    return bool(aligned) and not (isinstance(p, Straight) and isinstance(q, Straight))


def _meetings_of(p: Piece, q: Piece) -> list[tuple[float, Points]]:
    shared = _shared_ends(p, q)
    _refuse_along(p, q, shared)
    met = [(s, p.at(s)) for s in _crossings(p, q)]
    # Where one goes on from the other without a bend, steps lead nowhere; elsewhere they have led to that end, or as near to
    # it as the two are one place: a circle leaves its tangent by d² / 2 r.
    reach = math.sqrt(2 * SMALLEST * max(_size(p.bounds()), _size(q.bounds())))
    ends = [(s, p.at(s)) for s in shared]
    return met + [end for end in ends if all(np.linalg.norm(end[1] - one) > reach for _, one in met)]  # fmt: skip


def _crossings(p: Piece, q: Piece) -> Iterable[float]:
    missed = [
        0.0 if isinstance(one, Straight) else max(_FINE * _size(one.bounds()), ROUNDING)
        for one in (p, q)
    ]
    s, t = (
        np.linspace(0, 1, max(one.chords(by), 2) + 1)
        for one, by in zip((p, q), missed, strict=True)
    )
    chords = [shapely.linestrings(_chords(one.at(at)[:, :2])) for one, at in ((p, s), (q, t))]
    near = 1.5 * sum(missed) + SMALLEST
    pairs = shapely.STRtree(chords[1]).query(chords[0], predicate="dwithin", distance=near)
    for i, j in pairs.T:
        met = met_near(p, q, (s[i] + s[i + 1]) / 2, (t[j] + t[j + 1]) / 2)
        if met is not None:
            yield met[0]


def _chords(points: Points) -> NDArray[np.float64]:
    return np.stack([points[:-1], points[1:]], axis=1)


def met_near(p: Piece, q: Piece, s: float, t: float) -> tuple[float, float] | None:
    """The parameters of both pieces where they meet, looked for from s and t (Gauss-Newton);
    None where they do not."""
    before = math.inf
    for _ in range(80):
        gap = q.at(t) - p.at(s)
        step, *_ = np.linalg.lstsq(np.column_stack([p.slope(s), -q.slope(t)]), gap, rcond=ROUNDING)
        s, t = s + float(step[0]), t + float(step[1])
        if not (-0.5 < s < 1.5 and -0.5 < t < 1.5):
            return None
        size = float(np.abs(step).max())
        if size < 1e-15 or before <= size < 1e-9:  # what does not grow less any more is noise
            break
        before = size
    slack = SAME_SHARE
    if not (-slack <= s <= 1 + slack and -slack <= t <= 1 + slack):
        return None
    s, t = min(max(s, 0.0), 1.0), min(max(t, 0.0), 1.0)
    return (s, t) if np.linalg.norm(q.at(t) - p.at(s)) < SMALLEST else None


# --- corners ---


def _joints(curve: Curve) -> list[tuple[int, int]]:
    """The neighbouring pieces between which a curve bends."""
    count = len(curve.pieces)
    last = count if curve.closed and count > 1 else count - 1
    pairs = [(at, (at + 1) % count) for at in range(last)]
    return [pair for pair in pairs if _bend(*(curve.pieces[at] for at in pair)) > _BENDS]


def _bend(before: Piece, after: Piece) -> float:
    a, b = before.slope(1.0), after.slope(0.0)
    return math.atan2(float(np.linalg.norm(cross_product(a, b))), float(a @ b))


def corner_angles(curve: Curve) -> list[tuple[float, Points]]:
    """Of each corner the angle between the sides beside it (radians) and its place, in order. In
    a closed curve that lies level it is measured inside, so that a corner that juts in has more
    than 180°."""
    low, high = curve.bounds()
    inside = curve.closed and high[2] - low[2] < SMALLEST
    way = math.copysign(1.0, _signed_area(curve)) if inside else 0.0
    found = []
    for before, after in _joints(curve):
        p, q = curve.pieces[before], curve.pieces[after]
        bend = _bend(p, q)
        if inside and cross_product(p.slope(1.0), q.slope(0.0))[2] * way < 0:
            bend = -bend
        found.append((math.pi - bend, p.end))
    return found


def _chosen(curve: Curve, at: Sequence[int] | None) -> list[tuple[int, int]]:
    joints = _joints(curve)
    if at is None:
        return joints
    wrong = [index for index in at if not 0 <= index < len(joints)]
    if wrong:
        raise Failure(
            f"there is no corner {wrong[0]}", f"this curve has {len(joints)}, counted from 0"
        )
    return [joints[index] for index in at]


def filleted(curve: Curve, radius: float, at: Sequence[int] | None = None) -> Curve:
    """Corners between lines and arcs of circles rounded by arcs tangent to both; all of them, or
    those of the given numbers. Raises Failure where the radius does not fit, with the largest
    that does."""
    if radius < -SMALLEST:
        raise Failure(f"the radius is {radius:g} mm", "it must not be below 0")
    if radius <= SMALLEST:  # a rounding of 0 is no rounding
        return curve
    chosen = _chosen(curve, at)
    fillets = {
        pair: _fillet(curve.pieces[pair[0]], curve.pieces[pair[1]], radius) for pair in chosen
    }
    for pair in _too_large(curve, fillets):
        x, y = curve.pieces[pair[0]].end[:2]
        raise Failure(
            f"a radius of {radius:.6g} mm does not fit the corner at ({x:.6g} mm, {y:.6g} mm)",
            f"the largest that fits is {_largest(curve, chosen, radius):.6g} mm",
        )
    return _with_corners(curve, fillets)


Corner = tuple[float, float, Piece]
"""Where the piece before ends and the one after begins, by their parameters; what lies between."""


def _too_large(
    curve: Curve, corners: dict[tuple[int, int], Corner | None]
) -> list[tuple[int, int]]:
    """The corners that cannot be made, or for which a piece would be used up."""
    for pair, corner in corners.items():
        if corner is None:
            return [pair]
    begins = {after: corner[1] for (_, after), corner in corners.items() if corner}
    ends = {before: corner[0] for (before, _), corner in corners.items() if corner}
    for pair in corners:
        for at in pair:
            if begins.get(at, 0.0) > ends.get(at, 1.0) + SAME_SHARE:
                return [pair]
    return []


def _largest(curve: Curve, chosen: list[tuple[int, int]], radius: float) -> float:
    low, high = 0.0, radius
    for _ in range(50):
        middle = (low + high) / 2
        corners = {
            pair: _fillet(curve.pieces[pair[0]], curve.pieces[pair[1]], middle) for pair in chosen
        }
        if _too_large(curve, corners):
            high = middle
        else:
            low = middle
    return low


def _with_corners(curve: Curve, corners: dict[tuple[int, int], Corner | None]) -> Curve:
    begins = {after: corner[1] for (_, after), corner in corners.items() if corner}
    ends = {before: corner[0] for (before, _), corner in corners.items() if corner}
    between = {before: corner[2] for (before, _), corner in corners.items() if corner}
    pieces: list[Piece] = []
    for at, piece in enumerate(curve.pieces):
        begin, end = begins.get(at, 0.0), ends.get(at, 1.0)
        if end - begin > ROUNDING:
            pieces.append(piece.part(begin, end) if (begin, end) != (0.0, 1.0) else piece)
        if at in between:
            pieces.append(between[at])
    return Curve(tuple(pieces))


def _fillet(before: Piece, after: Piece, radius: float) -> Corner | None:
    """The arc of a radius tangent to both pieces, inside their corner; None where there is none
    within them. Its centre lies on the parallels of both at that distance, on the inner side."""
    corner = before.end
    a = before.slope(1.0) / np.linalg.norm(before.slope(1.0))
    b = after.slope(0.0) / np.linalg.norm(after.slope(0.0))
    normal = cross_product(a, b)
    size = float(np.linalg.norm(normal))
    if size < SAME_SHARE:
        raise Failure("the curve turns straight back here", "such a corner cannot be rounded")
    normal /= size
    frame = np.array([a, cross_product(normal, a)])
    parallels = [_parallel(piece, radius, corner, normal, frame) for piece in (before, after)]
    if any(parallel is None for parallel in parallels):
        return None
    for centre in sorted(_common(*parallels), key=lambda c: float(np.linalg.norm(c))):  # type: ignore[arg-type]
        middle = corner + centre @ frame
        t, u = (_foot(piece, middle) for piece in (before, after))
        if t is None or u is None:
            continue
        out = before.at(t) - middle
        sideways = cross_product(normal, out)
        end = after.at(u) - middle
        sweep = math.atan2(float(end @ sideways), float(end @ out)) % (2 * math.pi)
        if sweep < math.pi + SAME_SHARE:
            return t, u, Arc(middle, out, sideways, 0.0, sweep)
    return None


Parallel = tuple[Points, Points] | tuple[Points, float]
"""In the plane of a corner: a line by a point and a direction, or a circle by centre and radius."""


def _parallel(
    piece: Piece, distance: float, corner: Points, normal: Points, frame: Points
) -> Parallel | None:
    """All points at a distance to the left of a line or an arc, seen against the normal."""
    if isinstance(piece, Straight):
        along = frame @ (piece.b - piece.a)
        along /= np.linalg.norm(along)
        left = np.array([-along[1], along[0]])
        return frame @ (piece.a - corner) + distance * left, along
    if isinstance(piece, Arc) and piece.is_circle:
        ahead = float(piece.normal @ normal) * math.copysign(1.0, piece.sweep)
        if abs(abs(ahead) - 1) > SAME_SHARE:
            raise Failure("the pieces at this corner do not lie in one plane")
        radius = piece.radius - distance if ahead > 0 else piece.radius + distance
        return (frame @ (piece.centre - corner), radius) if radius > SMALLEST else None
    raise Failure(
        "only corners between lines and arcs of circles can be rounded",
        "part the curve, or round it with a spline",
    )


def _common(p: Parallel, q: Parallel) -> list[Points]:
    """The points two lines or circles have in common."""
    if isinstance(p[1], float) and not isinstance(q[1], float):
        p, q = q, p
    if not isinstance(p[1], float) and not isinstance(q[1], float):
        cross = plane_product(p[1], q[1])
        if abs(cross) < ROUNDING:
            return []
        gap = q[0] - p[0]
        return [p[0] + plane_product(gap, q[1]) / cross * p[1]]
    if not isinstance(p[1], float):
        assert isinstance(q[1], float)
        foot = p[0] + ((q[0] - p[0]) @ p[1]) * p[1]
        square = q[1] ** 2 - float((foot - q[0]) @ (foot - q[0]))
        if square < -SAME_SHARE * q[1] ** 2:
            return []
        half = math.sqrt(max(square, 0.0))
        return [foot + half * p[1], foot - half * p[1]]
    assert isinstance(q[1], float)
    gap = q[0] - p[0]
    apart = float(np.linalg.norm(gap))
    if apart < ROUNDING:
        return []
    along = (apart**2 + p[1] ** 2 - q[1] ** 2) / (2 * apart)
    square = p[1] ** 2 - along**2
    if square < -SAME_SHARE * p[1] ** 2:
        return []
    half = math.sqrt(max(square, 0.0))
    unit = gap / apart
    across = np.array([-unit[1], unit[0]])
    return [p[0] + along * unit + half * across, p[0] + along * unit - half * across]


def _foot(piece: Piece, point: Points) -> float | None:
    """The parameter of the place of a line or circle nearest to a point, if it lies on the piece."""
    if isinstance(piece, Straight):
        along = piece.b - piece.a
        t = float((point - piece.a) @ along) / float(along @ along)
    else:
        assert isinstance(piece, Arc)
        out = point - piece.centre
        angle = math.atan2(float(out @ piece.v), float(out @ piece.u))
        t = (angle - piece.angle) / piece.sweep
        turn = 2 * math.pi / abs(piece.sweep)
        t -= math.floor(t / turn) * turn
        t = t - turn if t > 1 + SAME_SHARE and t - turn > -SAME_SHARE else t
    return min(max(t, 0.0), 1.0) if -SAME_SHARE <= t <= 1 + SAME_SHARE else None


def chamfered(curve: Curve, size: float, at: Sequence[int] | None = None) -> Curve:
    """Corners cut off straight, at a distance along each piece."""
    if size < -SMALLEST:
        raise Failure(f"the chamfer is {size:g} mm", "it must not be below 0")
    if size <= SMALLEST:
        return curve
    corners: dict[tuple[int, int], Corner | None] = {}
    for before, after in _chosen(curve, at):
        p, q = curve.pieces[before], curve.pieces[after]
        if size > min(p.length, q.length):
            x, y = p.end[:2]
            raise Failure(
                f"a chamfer of {size:.6g} mm does not fit the corner at ({x:.6g} mm, {y:.6g} mm)",
                f"a piece beside it is only {min(p.length, q.length):.6g} mm long",
            )
        t, u = p.parameter_at(p.length - size), q.parameter_at(size)
        corners[before, after] = (t, u, Straight(p.at(t), q.at(u)))
    for before, _ in _too_large(curve, corners):
        x, y = curve.pieces[before].end[:2]
        raise Failure(
            f"chamfers of {size:.6g} mm overlap beside the corner at ({x:.6g} mm, {y:.6g} mm)",
            "make them smaller",
        )
    return _with_corners(curve, corners)


# --- parallels ---


def offset(curve: Curve, distance: float) -> Curve:
    """The parallel of a curve in plan at a distance: outwards of a closed curve, to the left of an
    open one; below 0 the other way. Corners it opens are rounded about their point, those it
    closes are trimmed. Raises Failure where it vanishes."""
    if abs(distance) < SMALLEST:
        return curve
    low, high = curve.bounds()
    if high[2] - low[2] > SMALLEST:
        raise Failure("only a flat curve has a parallel", "draw it in plan and place it afterwards")
    to_left = -distance if curve.closed and _signed_area(curve) > 0 else distance
    moved = [(piece, _beside(piece, to_left)) for piece in curve.pieces]
    chains = _linked(moved, to_left, curve.closed)
    result = Curve(tuple(itertools.chain.from_iterable(chains)))
    if not curve.closed and _crosses_itself(curve):
        # Its parallel may cross itself, too, but not that of one piece.
        for piece, chain in zip(curve.pieces, chains, strict=True):
            alone = Curve((piece,))
            if not (isinstance(piece, Straight) or _crosses_itself(alone)):
                _refuse_closer(alone, Curve(tuple(chain)), abs(distance))
    else:
        _refuse_closer(curve, result, abs(distance))
    return result


def _crosses_itself(curve: Curve) -> bool:
    fine = _FINE * _size(curve.bounds())
    return not shapely.LineString(curve.points(fine)[:, :2]).is_simple


def _signed_area(curve: Curve) -> float:
    x, y = curve.points()[:, :2].T
    return float(np.sum(x[:-1] * y[1:] - x[1:] * y[:-1]) / 2)


def _beside(piece: Piece, distance: float) -> tuple[Piece, ...]:
    """A piece moved to its left, in plan."""
    if isinstance(piece, Straight):
        left = cross_product(Z, piece.b - piece.a)
        shift = distance * left / np.linalg.norm(left)
        return (Straight(piece.a + shift, piece.b + shift),)
    if isinstance(piece, Arc) and piece.is_circle:
        inwards = piece.normal[2] * math.copysign(1.0, piece.sweep)
        radius = piece.radius - distance * inwards
        if radius < SMALLEST:
            x, y = piece.at(0.5)[:2]
            raise Failure(
                f"the parallel vanishes at the arc of radius {piece.radius:.6g} mm near "
                f"({x:.6g} mm, {y:.6g} mm)",
                f"keep the distance below {piece.radius:.6g} mm",
            )
        share = radius / piece.radius
        return (Arc(piece.centre, share * piece.u, share * piece.v, piece.angle, piece.sweep),)

    def beside(t: float) -> Points:
        left = cross_product(Z, piece.slope(t))
        point: Points = piece.at(t) + distance * left / np.linalg.norm(left)
        return point

    return by_equation(beside, 0.0, 1.0).pieces


def _linked(
    moved: list[tuple[Piece, tuple[Piece, ...]]], distance: float, closed: bool
) -> list[list[Piece]]:
    """What the moved pieces become in one chain: gaps closed by arcs behind them, overlaps trimmed."""
    chains = [list(pieces) for _, pieces in moved]
    links: list[list[Piece]] = [[] for _ in chains]
    count = len(chains)
    for at in range(count if closed else count - 1):
        onward = (at + 1) % count
        before, after = chains[at], chains[onward]
        corner = moved[at][0].end
        p, q = moved[at][0], moved[onward][0]
        is_near = np.linalg.norm(before[-1].end - after[0].start) < SMALLEST
        if count == 1 or (is_near and _bend(p, q) < _BENDS):
            continue  # else it is linked however near it is: many such gaps are not small together
        if cross_product(p.slope(1.0), q.slope(0.0))[2] * distance < 0:
            links[at] = [_arc_about(corner, before[-1].end, after[0].start)]
        elif isinstance(before[-1], Straight) and isinstance(after[0], Straight):
            before[-1], after[0] = _mitred(before[-1], after[0], corner)
        else:
            _trim_at_crossing(before, after, corner)
    return [[*chain, *link] for chain, link in zip(chains, links, strict=True)]


def _arc_about(centre: Points, a: Points, b: Points) -> Arc:
    u = a - centre
    v = cross_product(Z, u)
    sweep = math.atan2(float((b - centre) @ v), float((b - centre) @ u))
    return Arc(centre, u, v, 0.0, sweep)


def _mitred(before: Straight, after: Straight, corner: Points) -> tuple[Straight, Straight]:
    """Two lines that were moved away from a corner by one distance, as far as where they cross: on the bisector, which
    is known however little they bend."""
    far = _to_mitre(before.b - corner, after.a - corner)
    if far is not None:
        first, second = Straight(before.a, corner + far), Straight(corner + far, after.b)
        goes_on = ((one.b - one.a) @ (old.b - old.a) > 0 for one, old in ((first, before), (second, after)))  # fmt: skip
        if all(goes_on):
            return first, second
    raise _vanishes(corner)


def _crossing_beside(before: Piece, after: Piece, corner: Points) -> tuple[float, float] | None:
    """Where two pieces that were moved away from a corner by one distance cross about where their tangents do: their
    parameters; None where they do not. Looked for from their ends, it is found however little they bend."""
    far = _to_mitre(before.end - corner, after.start - corner)
    found = met_near(before, after, 1.0, 0.0) if far is not None else None
    if found is None or far is None:
        return None
    reached = float(np.linalg.norm(before.at(found[0]) - corner))
    return found if reached < 1.5 * float(np.linalg.norm(far)) else None


def _to_mitre(one: Points, other: Points) -> Points | None:
    """From a corner to where lines cross, or tangents, that were moved away from it by two vectors of one length: on the
    bisector; None where they run back into each other."""
    out = one + other
    square = float(out @ out)
    return out * (2 * float(one @ one) / square) if square > SMALLEST * SMALLEST else None


def _vanishes(corner: Points) -> Failure:
    x, y = corner[:2]
    return Failure(
        f"the parallel vanishes near the corner at ({x:.6g} mm, {y:.6g} mm)",
        "make the distance smaller",
    )


def _trim_at_crossing(before: list[Piece], after: list[Piece], corner: Points) -> None:
    """Ends one chain and begins the other where they cross, nearest to the corner."""
    beside = _crossing_beside(before[-1], after[0], corner)
    if beside is not None:
        before[-1], after[0] = before[-1].part(0.0, beside[0]), after[0].part(beside[1], 1.0)
        return
    best: tuple[float, int, float, int, float] | None = None
    for far, i, j in _pairs_by_distance(before, after, corner):
        if best is not None and far > best[0]:
            break
        for t, point in _met_or_none(before[i], after[j]):
            gap = float(np.linalg.norm(point - corner))
            if best is None or gap < best[0]:
                best = (gap, i, t, j, closest(Curve((after[j],)), point)[1])
    if best is None:
        raise _vanishes(corner)
    _, i, t, j, u = best
    before[i:] = [before[i].part(0.0, t)]
    after[: j + 1] = [after[j].part(u, 1.0)]


def _met_or_none(p: Piece, q: Piece) -> list[tuple[float, Points]]:
    """Where two pieces meet; nowhere in particular where they run along each other, as folded parallels do."""
    try:
        return _meetings_of(p, q)
    except Failure:
        return []


def _pairs_by_distance(
    before: Sequence[Piece], after: Sequence[Piece], corner: Points
) -> list[tuple[float, int, int]]:
    """The pairs of pieces whose boxes meet: how far from a corner they are at least, and their numbers; the nearest
    first."""
    boxes, others = (Curve(tuple(pieces)).piece_bounds[:, :, :2] for pieces in (before, after))
    first, second = (shapely.box(*one.reshape(-1, 4).T) for one in (boxes, others))
    i, j = shapely.STRtree(second).query(first, predicate="dwithin", distance=_BESIDE)
    low, high = boxes[i, 0], boxes[i, 1]
    far = np.linalg.norm(np.maximum(np.maximum(low - corner[:2], corner[:2] - high), 0.0), axis=1)
    order = np.lexsort((j, i, far))
    return list(zip(far[order].tolist(), i[order].tolist(), j[order].tolist(), strict=True))


def _refuse_closer(curve: Curve, result: Curve, distance: float) -> None:
    """Refuses a parallel that comes nearer to the curve than its distance, and so crosses itself."""
    size = _size(curve.bounds())
    fine = min(max(1e-3 * distance, 1e-7 * size), _FINE * size)
    original, chords = (
        shapely.linestrings(_chords(one.points(fine)[:, :2])) for one in (curve, result)
    )
    _, gaps = shapely.STRtree(original).query_nearest(
        chords, return_distance=True, all_matches=False
    )
    worst = int(gaps.argmin())
    if gaps[worst] < distance - 3 * fine:
        x, y = chords[worst].coords[0]
        raise Failure(
            f"the parallel at {distance:.6g} mm runs into itself near ({x:.6g} mm, {y:.6g} mm)",
            "make the distance smaller",
        )
