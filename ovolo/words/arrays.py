"""Arrays: one thing, or one made for each place, repeated by rule.

What is repeated may be a function of its place, which is given `.index`, `.share` (from 0 to 1
along the array) and `.at`. Whatever cannot be made leaves a gap in its place, and the rest stays.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from typing import Any

import numpy as np
from msgspec import field

from ovolo.geometry.arrays import setting_out
from ovolo.geometry.arrays.scattering import scattered
from ovolo.geometry.curves.curve import Curve
from ovolo.geometry.placement import IDENTITY, moved, scaled, turned
from ovolo.geometry.regions import region as regions
from ovolo.geometry.regions.region import Region
from ovolo.geometry.same import SAME_PLACE, SAME_SHARE
from ovolo.geometry.solids import booleans as solids
from ovolo.geometry.solids.solid import Solid
from ovolo.geometry.surfaces.sampling import sampled
from ovolo.geometry.surfaces.surface import Surface
from ovolo.problems import Failure
from ovolo.words.chance import uniform
from ovolo.words.measuring import overall
from ovolo.words.places import (
    MIRROR,
    Places,
    Unit,
    Values,
    Wanted,
    count_of,
    every_other_mirrored,
    made,
    shares,
)
from ovolo.words.registry import word
from ovolo.words.surfaces import CELL, cells

_PLACE = "{index: whole, share: number, at: point}"
_SQUARE = "{index: whole, column: whole, row: whole, at: point}"
_X, _Y, _Z = np.eye(3)


def _choosing(place: str) -> str:
    """How items are left out, for the end of a signature; in a square also by column and row."""
    numbers = "list whole or list place" if place == _SQUARE else "list whole"
    return f"skip: {numbers}?, where: ({place} -> yes/no)?"


def _units(place: str, rest: str) -> tuple[str, str]:
    """The signatures of an array of one thing, and of one made for each place."""
    ends = f"{rest}, {_choosing(place)} -> list shape"
    return f"shape, {ends}", f"({place} -> shape), {ends}"


# --- along a straight line ---


@word(
    *_units(
        _PLACE,
        "whole?, length or point?, over: length or point?, largest: length?, density: per_length?, "
        "rest: text?, centred: yes/no?, both_ways: yes/no?, mirrored: yes/no?",
    ),
    example="row((0 m, 0 m), 4, 3 m)[3].x", gives="9 m", gaps="keep",
)  # fmt: skip
def row(
    x: Unit,
    n: float | None = None,
    step: Any = None,
    over: Any = None,
    largest: float | None = None,
    density: float | None = None,
    rest: str = "end",
    centred: bool = False,
    both_ways: bool = False,
    mirrored: bool = False,
    skip: Any = None,
    where: Wanted | None = None,
) -> Any:
    """Copies in a straight row: a number of them a step apart, or over a length by number, step,
    largest step or density.

    x: what is repeated, or a function of its place
    n: how many
    step: from one to the next: a length along x, or a vector
    over: the length on which they are set out, or a vector
    largest: the widest step allowed; the steps are then equal and fill the length
    density: so many for each length, each in the middle of its share
    rest: what becomes of what the step does not divide: end, start, both, stretch or squeeze
    centred: whether the middle of the row lies at the origin
    both_ways: whether the row also goes on backwards from its beginning
    mirrored: whether every other one is a mirror image
    skip: the numbers of those left out, counted from 0
    where: which are made, such as c -> c.at.x < 2 m
    """
    (pitch, length), way = _way(step, over)
    found = _stations(n, pitch, length, largest, density, rest)
    if both_ways:
        away = found[np.abs(found) > SAME_PLACE]
        found = np.sort(np.concatenate([-away, found]))
    if centred and len(found):
        whole = length is not None and not both_ways and len(found) > 1
        found = found - (length if whole and length is not None else found[-1] + found[0]) / 2
    matrices = moved(found[:, None] * way)
    if mirrored:
        matrices = every_other_mirrored(matrices, way)
    return made(x, Places(matrices, {"share": shares(len(found))}), skip, where)


def _way(step: Any, over: Any) -> tuple[list[float | None], Values]:
    """The lengths of a step and of what it runs over, and their common direction."""
    lengths: list[float | None] = []
    ways: list[Values] = []
    for value in (step, over):
        if isinstance(value, np.ndarray):
            size = float(np.linalg.norm(value))
            if size == 0:
                raise Failure("a vector without length has no direction")
            ways.append(value / size)
            lengths.append(size)
        else:
            lengths.append(value)
    if len(ways) == 2 and np.linalg.norm(ways[0] - ways[1]) > SAME_SHARE:
        angle = math.degrees(math.acos(min(max(float(ways[0] @ ways[1]), -1.0), 1.0)))
        raise Failure(
            f"the step runs at {angle:.6g}° to what it is set out over",
            "give the step as a length, or both in one direction",
        )
    return lengths, ways[-1] if ways else _X


def _stations(
    n: float | None,
    step: float | None,
    length: float | None,
    largest: float | None,
    density: float | None,
    rest: str,
) -> Values:
    """Places along a length, from whichever two things settle them."""
    if length is not None and length < 0:
        raise Failure(f"the length to set out on is {length:.6g} mm", "it must not be below 0")
    given = [name for name, value in (("n", n), ("step", step), ("largest", largest), ("density", density)) if value is not None]  # fmt: skip
    if length is None and given == ["n", "step"]:
        return np.arange(count_of(n or 0, "a row"), dtype=float) * float(step or 0)
    if length is None or len(given) != 1:
        raise Failure(
            f"this is set out by {' and '.join([*given, *([] if length is None else ['over'])]) or 'nothing'}",
            "give n and step, or over with one of n, step, largest and density",
        )
    if n is not None:
        evenly: Values = np.linspace(0.0, length, count_of(n, "a row")).astype(np.float64)
        return evenly
    if density is not None:
        count = count_of(math.floor(length * density + 0.5), "a row")
        return (np.arange(count) + 0.5) * length / max(count, 1)
    if largest is not None:
        step, rest = largest, "squeeze"
    assert step is not None
    if step > 0:
        count_of(length / step, "a row")
    return setting_out.stations(length, step, rest)


@word(
    "length, length, gap: length?, rest: text?, least: length? -> list {index: whole, start: length, middle: length, end: length, length: length}",
    example='last(bays(1 m, 300 mm, rest = "cut")).length', gives="100 mm", defaults={"gap": "0 mm", "least": "0 mm"},
)  # fmt: skip
def bays(
    length: float, piece: float, gap: float = 0.0, rest: str = "end", least: float = 0.0
) -> list[dict[str, Any]]:
    """Pieces laid one after another over a length: `.start`, `.middle`, `.end` and `.length` of
    each. What remains is left at the end, the start, both; or the last piece is cut to it, or all
    are stretched or squeezed until they fit. Where the cut piece would be shorter than the least
    length, the one before it is cut as well, and both are equal.

    length: what is to be covered
    piece: the length of one piece
    gap: between one piece and the next
    rest: end, start, both, cut, stretch or squeeze
    least: how short a cut piece may be
    """
    if piece > 0:
        count_of((length + gap) / (piece + gap), "a row")
    return [
        {
            "index": float(index),
            "start": bay.start,
            "middle": bay.start + bay.length / 2,
            "end": bay.start + bay.length,
            "length": bay.length,
        }
        for index, bay in enumerate(setting_out.bays(length, piece, gap, rest, least))
    ]


# --- in plan ---


@word(
    *_units(
        _SQUARE,
        "whole?, whole?, dx: length?, dy: length?, width: length?, depth: length?, rest: text?, "
        "stagger: number?, centred: yes/no?, mirrored: yes/no?",
    ),
    example="len(grid(disc(1 m), 4, 3, 3 m, 3 m))", gives="12", gaps="keep",
)  # fmt: skip
def grid(
    x: Unit,
    nx: float | None = None,
    ny: float | None = None,
    dx: float | None = None,
    dy: float | None = None,
    width: float | None = None,
    depth: float | None = None,
    rest: str = "end",
    stagger: float = 0.0,
    centred: bool = False,
    mirrored: bool = False,
    skip: Any = None,
    where: Wanted | None = None,
) -> Any:
    """Copies in columns and rows, row by row: nx by ny, dx and dy apart, or over a width and a
    depth. Where every other row is staggered and dy is not said, all neighbours are equally far.

    x: what is repeated, or a function of its place (.index .column .row .at)
    nx: how many columns
    ny: how many rows
    dx: from column to column
    dy: from row to row
    width: along x, instead of nx or dx
    depth: along y, instead of ny or dy
    rest: what becomes of what dx and dy do not divide: end, start, both, stretch or squeeze
    stagger: by what share of dx every other row is set off: 1/2 for bricks and honeycombs
    centred: whether the middle of the grid lies at the origin
    mirrored: whether every other column is a mirror image
    skip: the numbers of those left out, counted from 0, or their (column, row)
    where: which are made, such as c -> c.column != c.row
    """
    if dy is None and dx is not None and (depth is None or ny is None):
        dy = dx * math.sin(math.pi / 3) if stagger else dx
    columns = _stations(nx, dx, width, None, None, rest)
    rows = _stations(ny, dy, depth, None, None, rest)
    count_of(len(columns) * len(rows), "a grid")
    column, line = (
        np.tile(np.arange(len(columns)), len(rows)),
        np.repeat(np.arange(len(rows)), len(columns)),
    )
    pitch = columns[1] - columns[0] if len(columns) > 1 else dx or 0.0
    shift = stagger * pitch * (line % 2)
    if centred:
        columns = columns - (width if width is not None else _extent(columns)) / 2
        rows = rows - (depth if depth is not None else _extent(rows)) / 2
        shift = shift - (stagger * pitch / 2 if len(rows) > 1 else 0.0)
    matrices = moved(np.column_stack([columns[column] + shift, rows[line], np.zeros(len(line))]))
    if mirrored:
        matrices[column % 2 == 1] = matrices[column % 2 == 1] @ MIRROR
    told = {"column": column.astype(float), "row": line.astype(float)}
    return made(x, Places(matrices, told), _numbered(skip, len(columns), len(rows)), where)


def _numbered(skip: Any, columns: int, rows: int) -> Any:
    """What is skipped by (column, row), each from the end below 0, as numbers of items."""
    if skip is None or not any(isinstance(one, np.ndarray) for one in skip):
        return skip
    found = []
    for at in skip:
        column, row = (int(one) for one in at[:2])
        if any(one != whole for one, whole in zip(at[:2], (column, row), strict=True)) or not (
            -columns <= column < columns and -rows <= row < rows
        ):
            raise Failure(
                f"there is no item ({at[0]:g}, {at[1]:g}) in this grid to skip",
                f"it has columns 0 to {columns - 1} and rows 0 to {rows - 1}",
            )
        found.append(float((row % rows) * columns + column % columns))
    return found


def _extent(places: Values) -> float:
    return float(places[-1] + places[0]) if len(places) else 0.0


@word(
    *_units(
        _PLACE,
        "whole?, sweep: angle?, turning: yes/no?, r: length?, begin: angle?, step: angle?, "
        "largest: length?, at: point?, mirrored: yes/no?",
    ),
    example="ring((2 m, 0 m), 4)[1].y", gives="2 m", gaps="keep",
    defaults={"sweep": "360°", "begin": "0°", "at": "(0 mm, 0 mm)"},
)  # fmt: skip
def ring(
    x: Unit,
    n: float | None = None,
    sweep: float = 2 * math.pi,
    turning: bool = True,
    r: float | None = None,
    begin: float = 0.0,
    step: float | None = None,
    largest: float | None = None,
    at: Values | None = None,
    mirrored: bool = False,
    skip: Any = None,
    where: Wanted | None = None,
) -> Any:
    """Copies on a ring about z, anticlockwise. On a whole ring the last does not fall on the first;
    on a part of one the first and the last stand at its ends.

    x: what is repeated, where it stands at angle 0, or a function of its place
    n: how many
    sweep: over what angle; below 0 clockwise
    turning: whether they turn with the ring; otherwise they keep their direction
    r: the radius, for what is drawn about the origin
    begin: the angle of the first
    step: the angle from one to the next, instead of the sweep or of n
    largest: the widest spacing along the ring, instead of n; needs r
    at: the centre of the ring
    mirrored: whether every other one is a mirror image across the ring
    skip: the numbers of those left out, counted from 0
    where: which are made, such as c -> c.share < 0.8
    """
    found = _ring_angles(n, sweep, begin, step, largest, r)
    centre = np.zeros(3) if at is None else at
    out = moved(_X * (r or 0.0))
    around = moved(centre) @ turned(found, _Z, np.zeros(3))
    if turning:
        matrices = around @ out
    else:
        arm = _X * r if r is not None else _middle(x)
        around[:, :3, 3] = (around[:, :3, :3] @ arm) + centre - (arm if r is None else 0.0)
        around[:, :3, :3] = np.eye(3)
        matrices = around
    if mirrored:
        matrices = every_other_mirrored(matrices, _Y)
    return made(x, Places(matrices, {"share": shares(len(found))}), skip, where)


def _ring_angles(
    n: float | None,
    sweep: float,
    begin: float,
    step: float | None,
    largest: float | None,
    r: float | None,
) -> Values:
    given = [value is not None for value in (n, step, largest)]
    if given not in ([True, False, False], [False, True, False], [False, False, True], [True, True, False]):  # fmt: skip
        raise Failure(
            "a ring is set out by n, by step or by largest, or by n and step",
            "for example ring(x, 12), or ring(x, 10, step = 30°)",
        )
    if n is not None and step is not None:
        return _stepped_angles(count_of(n, "a ring"), step, begin)
    if n is not None:
        return setting_out.angles(count_of(n, "a ring"), sweep, begin)
    if largest is not None:
        if r is None:
            raise Failure("a ring by its largest spacing needs its radius", "give r")
        step = largest / r if r > 0 else 0.0
    assert step is not None
    if step == 0:
        raise Failure("a ring whose items are 0 apart has no end", "a step is more than 0")
    whole = abs(abs(sweep) - 2 * math.pi) < 1e-9
    if largest is not None:
        parts = setting_out.fewest_bays(abs(sweep), abs(step))
        return setting_out.angles(count_of(parts + (0 if whole else 1), "a ring"), sweep, begin)
    steps = setting_out.whole_steps(abs(sweep), abs(step))
    exact = abs(steps * abs(step) - abs(sweep)) < 1e-9
    count = count_of(steps + (0 if whole and exact else 1), "a ring")
    return begin + math.copysign(abs(step), sweep) * np.arange(count, dtype=float)


def _stepped_angles(count: int, step: float, begin: float) -> Values:
    """So many angles a step apart; the last must not come round to the first."""
    if abs(step) * (count - 1) > 2 * math.pi * (1 - SAME_SHARE):
        raise Failure(
            f"{count} items {math.degrees(abs(step)):.6g}° apart go once round and more",
            f"at most {math.ceil(2 * math.pi / abs(step) - SAME_SHARE)} of them, or a smaller step",
        )
    return begin + step * np.arange(count, dtype=float)


def _middle(unit: Unit) -> Values:
    """The point that goes round where an item keeps its direction."""
    if callable(unit):
        raise Failure("a ring that does not turn needs its radius here", "give r")
    if isinstance(unit, np.ndarray):
        return unit
    low, high = overall([unit] if not isinstance(unit, list) else unit)
    middle: Values = (low + high) / 2 * (1 - _Z)
    return middle


# --- along curves, over surfaces, in regions ---


@word(
    *_units(
        _PLACE,
        "curve, n: whole?, spacing: length?, largest: length?, density: per_length?, inset: length?, "
        "inset_end: length?, rest: text?, upright: yes/no?, turning: yes/no?, "
        "turn: (number -> angle)?, size: (number -> number)?, mirrored: yes/no?, begin: length?",
    ),
    example="len(along((0 m, 0 m), circle(1 m), n = 12))", gives="12", gaps="keep",
    defaults={"inset": "0 mm", "inset_end": "inset", "begin": "0 mm"},
)  # fmt: skip
def along(
    x: Unit,
    curve: Curve,
    n: float | None = None,
    spacing: float | None = None,
    largest: float | None = None,
    density: float | None = None,
    inset: float = 0.0,
    inset_end: float | None = None,
    rest: str = "end",
    upright: bool = False,
    turning: bool = True,
    turn: Callable[[float], float] | None = None,
    size: Callable[[float], float] | None = None,
    mirrored: bool = False,
    begin: float = 0.0,
    skip: Any = None,
    where: Wanted | None = None,
) -> Any:
    """Copies along a curve, the first and the last exactly on its ends; on a closed curve the last
    does not fall on the first. The x of each points along the curve.

    x: what is repeated, drawn about the origin, or a function of its place
    curve: the way
    n: how many
    spacing: from one to the next along the curve, instead of n
    largest: the widest spacing allowed; the spacings are then equal and fill the curve
    density: so many for each length of it
    inset: how far from the start, and from the end, they keep
    inset_end: how far from the end, where that differs
    rest: what becomes of what the spacing does not divide: end, start, both, stretch or squeeze
    upright: whether their z stays upright on a curve that climbs
    turning: whether they turn with the curve; otherwise they keep their direction
    turn: how far each is turned about its own z, by its share of the way from 0 to 1
    size: how large each is, by its share of the way
    mirrored: whether every other one is a mirror image
    begin: how far along the curve the first one stands; on a closed curve all move on
    skip: the numbers of those left out, counted from 0
    where: which are made, such as c -> c.at.z > 1 m
    """
    far = inset if inset_end is None else inset_end
    moves_on = curve.closed and inset == far == 0
    inset += 0.0 if moves_on else begin
    length = curve.length - inset - far
    if length < 0:
        raise Failure(
            f"insets of {inset:.6g} mm and {far:.6g} mm leave nothing of a curve "
            f"{curve.length:.6g} mm long", "make them smaller",
        )  # fmt: skip
    found = inset + _along(n, spacing, length, largest, density, rest, moves_on)
    along_it = (found - inset) / length if length else np.zeros(len(found))
    if moves_on and begin:
        found = (found + begin) % curve.length
    places, ways = setting_out.on_curve(curve, found)
    if upright:
        ways = ways * (1 - _Z)
        steep = np.linalg.norm(ways, axis=1) < 1e-9
        ways[steep] = _X
        ways /= np.linalg.norm(ways, axis=1, keepdims=True)
    matrices = setting_out.frames(places, ways) if turning else moved(places)
    if turn is not None:
        angles = sampled(turn, along_it)
        matrices = matrices @ turned(angles, _Z, np.zeros(3))
    if size is not None:
        factors = sampled(size, along_it)
        if np.any(factors <= 0):
            raise Failure(f"a size is {factors.min():.6g}", "a size is a factor above 0")
        matrices = matrices @ scaled(np.repeat(factors[:, None], 3, axis=1))
    if mirrored:
        matrices = every_other_mirrored(matrices)
    return made(x, Places(matrices, {"share": along_it}), skip, where)


def _along(
    n: float | None,
    spacing: float | None,
    length: float,
    largest: float | None,
    density: float | None,
    rest: str,
    closed: bool,
) -> Values:
    """Lengths along a curve; round a closed one none falls on the first again."""
    if closed and n is not None and spacing is largest is density is None:
        count = count_of(n, "an array")
        evenly: Values = length * np.arange(count) / max(count, 1)
        return evenly
    found = _stations(n, spacing, length, largest, density, rest)
    doubled = closed and len(found) > 1 and found[-1] - found[0] > length * (1 - 1e-9)
    return found[:-1] if doubled else found


@word(
    f"surface, whole, whole, ({CELL} -> shape), form: text?, {_choosing(CELL)} -> list shape",
    f"surface, whole, whole, shape, form: text?, {_choosing(CELL)} -> list shape",
    example="len(over(surface((u, v) -> (u * 2 m, v * 1 m, 0 m)), 4, 3, c -> region(c.corners)))",
    gives="12", gaps="keep",
)  # fmt: skip
def over(
    surface: Surface,
    nu: float,
    nv: float,
    x: Unit,
    form: str = "quads",
    skip: Any = None,
    where: Wanted | None = None,
) -> Any:
    """One thing for each cell of a surface: set into the frame of the cell; or what a function
    makes of the cell (.index .u .v .at .along .left .up .corners), where it makes it.

    surface: the surface
    nu: how many cells along u
    nv: how many along v
    x: a thing drawn about the origin, or a function of the cell
    form: quads, triangles, diamonds or hexagons
    skip: the numbers of those left out, counted from 0
    where: which are made, such as c -> c.up.z > 0.5
    """
    count_of(nu * nv, "an array")
    found = cells(surface, nu, nv, form)
    return made(x, _cells(found, placing=not callable(x)), skip, where)


class _Cells(Places):
    """Cells as places; what a function makes of one stays where it is made."""

    records: list[dict[str, Any]] = field(default_factory=list)

    def record(self, index: int) -> dict[str, Any]:
        return self.records[index]


def _cells(records: list[dict[str, Any]], placing: bool) -> _Cells:
    matrices = np.tile(IDENTITY, (len(records), 1, 1))
    if placing and records:
        for column, name in enumerate(("along", "left", "up", "at")):
            matrices[:, :3, column] = [record[name] for record in records]
    return _Cells(matrices, records=records)


@word(
    f"shape, region, length?, n: whole?, turning: yes/no?, {_choosing(_PLACE)} -> list shape",
    f"({_PLACE} -> shape), region, length?, n: whole?, turning: yes/no?, {_choosing(_PLACE)} -> list shape",
    example="len(scatter(disc(5 mm), rect(2 m, 1 m), 100 mm, n = 20))", gives="20", gaps="keep",
    seeded=True, defaults={"least": "0 mm"},
)  # fmt: skip
def scatter(
    x: Unit,
    region: Region,
    least: float = 0.0,
    n: float | None = None,
    turning: bool = False,
    skip: Any = None,
    where: Wanted | None = None,
    seed: float = 0.0,
) -> Any:
    """Copies scattered by chance in a region, none nearer to another than a least distance; as many
    as find room, or a number of them. The study's `seed` gives another scattering.

    x: what is scattered, drawn about the origin, or a function of its place
    region: where their origins lie
    least: the least distance between two origins
    n: how many
    turning: whether each is turned by chance
    skip: the numbers of those left out, counted from 0
    where: which are made, such as c -> c.at.x > 1 m
    """
    if n is None and not least > 0:
        raise Failure("a scattering needs a least distance or a number", "give least or n")
    most = None if n is None else count_of(n, "a scattering")
    found = scattered(region, lambda i: uniform(seed, 0.5, i), least, most)
    matrices = region.frame @ moved(np.column_stack([found, np.zeros(len(found))]))
    if turning:
        angles = 2 * math.pi * uniform(seed, 0.25, np.arange(len(found), dtype=float))
        matrices = matrices @ turned(angles[: len(found)], _Z, np.zeros(3))
    return made(x, Places(matrices, {"share": shares(len(found))}), skip, where)


@word(
    f"shape, list point, {_choosing(_PLACE)} -> list shape",
    f"({_PLACE} -> shape), list point, {_choosing(_PLACE)} -> list shape",
    example="len(at_points(disc(5 mm), divide(circle(1 m), 6)))", gives="6", gaps="keep",
)  # fmt: skip
def at_points(x: Unit, points: Any, skip: Any = None, where: Wanted | None = None) -> Any:
    """One thing at each of a list of points.

    x: what is repeated, drawn about the origin, or a function of its place
    points: where
    skip: the numbers of those left out, counted from 0
    where: which are made, such as c -> c.at.x > 1 m
    """
    matrices = moved(np.asarray(points, dtype=float).reshape(-1, 3))
    return made(x, Places(matrices, {"share": shares(len(matrices))}), skip, where)


# --- from arrays to one thing ---


@word(
    "list solid -> solid", "list region -> region", "list list solid -> solid",
    "list list region -> region",
    example="area(unite(row(rect(1 m, 1 m), 3, 1 m)))", gives="3 m^2", gaps="skip",
)  # fmt: skip
def unite(xs: Any) -> Any:
    """All of a list as one solid or one region.

    xs: solids or regions
    """
    found = list(_flattened(xs))
    if not found:
        raise Failure("nothing can be united out of an empty list", "guard it with `if len(…) > 0`")
    if isinstance(found[0], Solid):
        return solids.combined("+", *found)
    return regions.combined("+", *found)


def _flattened(xs: Any) -> Iterator[Any]:
    for one in xs:
        if isinstance(one, Solid | Region):
            yield one
        else:
            yield from _flattened(one)


@word(
    "list T, whole, begin: whole? -> list T",
    example="every([2, 3, 5, 7, 11], 2)", gives="[2, 5, 11]", gaps="keep",
)  # fmt: skip
def every(xs: Any, n: float, begin: float = 0) -> Any:
    """Every n-th item of a list.

    xs: the list
    n: how many steps from one to the next
    begin: the number of the first one taken, counted from 0
    """
    if n < 1 or begin < 0:
        raise Failure(f"every {n:g}th item from {begin:g} on makes no sense", "n is 1 or more, begin 0 or more")  # fmt: skip
    return xs[int(begin) :: int(n)]


@word(
    "list T, list T -> list T",
    example="alternate([1, 2, 3], [10, 20])", gives="[1, 10, 2, 20, 3]",
)  # fmt: skip
def alternate(xs: Any, ys: Any) -> list[Any]:
    """The items of two lists in turn: one of the first, one of the second; what is longer goes on
    by itself.

    xs: the list that begins
    ys: the other list
    """
    both = min(len(xs), len(ys))
    taken = [one for pair in zip(xs, ys, strict=False) for one in pair]
    return [*taken, *xs[both:], *ys[both:]]
