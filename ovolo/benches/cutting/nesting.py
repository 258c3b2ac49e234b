"""Flat pieces laid on sheets: by their rectangles, or by their outlines, one in the hollows of another.

Rectangles are packed by several known rules, of which the best is taken. Outlines are laid one after
another, the largest first, each where it reaches least far along the sheet: on a grid all places are
tried at once (overlap is a correlation, by the fast Fourier transform), then the piece is moved up to
its neighbours exactly.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Iterator, Sequence
from functools import cached_property
from typing import Any

import numpy as np
import shapely
from msgspec import Struct, field
from numpy.typing import NDArray
from scipy import fft
from shapely import affinity

from ovolo.benches.cutting.cutter import ACROSS, ALONG, OUTLINES, TURNED_BY, Cutter
from ovolo.benches.cutting.flat_pieces import FlatPiece
from ovolo.problems import Failure
from ovolo.running.under_way import Told, nobody, stretch

MOST_PIECES = 2_000
MOST_SHEETS = 500
WORK = 1_000
"""So many times, at most, all places of a piece on a sheet are looked through for better ways to lay outlines.
It is counted and not timed, so that the same pieces are always laid alike."""

_CELLS = (900, 450)
"""So many cells the grid has along the longer side of a sheet; fewer where there are many pieces."""

_HAIR = 1e-6


class Laid(Struct, frozen=True):
    """A piece on a sheet: its number, the sheet's, by how many degrees it is turned to the left, and where
    its least corner lies then, in mm from that of the sheet."""

    piece: int
    sheet: int
    turn: float
    x: float
    y: float


class Nest(Struct, frozen=True, eq=False, dict=True):
    """Pieces on sheets."""

    cutter: Cutter
    pieces: Sequence[FlatPiece]
    laid: Sequence[Laid]
    by: str
    """By what it was laid: rectangles or outlines."""

    @property
    def sheets(self) -> int:
        return 1 + max(one.sheet for one in self.laid)

    @cached_property
    def area(self) -> float:
        """mm² of all pieces."""
        return math.fsum(self.pieces[one.piece].region.area for one in self.laid)

    def figure(self, one: Laid) -> Any:
        """The figure (shapely) of a piece where it lies."""
        return moved(self.pieces[one.piece].flat, one)

    def on(self, sheet: int) -> list[Laid]:
        return [one for one in self.laid if one.sheet == sheet]

    def reached(self, sheet: int) -> float:
        """How far along the sheet (mm) its pieces reach."""
        return max(float(self.figure(one).bounds[2]) for one in self.on(sheet))

    def remnants(self) -> list[float]:
        """How long what is left at the end of each sheet is; it is as wide as the sheet."""
        return [
            self.cutter.width - self.reached(at) - self.cutter.apart for at in range(self.sheets)
        ]

    @property
    def taken(self) -> float:
        """The share that is in the pieces of what they take: all sheets, the last as far as they reach."""
        last = self.sheets - 1
        taken = last * self.cutter.width + min(
            self.reached(last) + self.cutter.margin, self.cutter.width
        )
        return self.area / (taken * self.cutter.height)


def moved(flat: Any, one: Laid) -> Any:
    turned = _turned(flat, one.turn)
    return affinity.translate(turned, one.x, one.y)


def _turned(flat: Any, degrees: float) -> Any:
    """The figure turned to the left, its least corner at the origin again."""
    turned = affinity.rotate(flat, degrees, origin=(0, 0)) if degrees else flat
    x, y = turned.bounds[:2]
    return affinity.translate(turned, -x, -y)


def turns_of(cutter: Cutter) -> tuple[float, ...]:
    """How a piece may be turned, by the grain of the sheet: its length lies along the grain."""
    if cutter.grain == ALONG:
        return (0.0, 180.0)
    if cutter.grain == ACROSS:
        return (90.0, 270.0)
    step = TURNED_BY[cutter.turned] if cutter.nested == OUTLINES else 90.0
    return tuple(np.arange(0.0, 360.0, step).tolist())


_PACKING = 0.3
"""Of the work is the packing of rectangles, about, where outlines are laid as well."""


def nested(
    pieces: Sequence[FlatPiece], cutter: Cutter, work: int = WORK, told: Told = nobody
) -> Nest:
    """Pieces on as few sheets as are found; `told` takes how far it is. Raises Failure for what is larger than a sheet, and where there
    are too many."""
    _refuse(pieces, cutter)
    straight = all(_over(one, cutter, _square_turns(cutter)) <= _HAIR for one in pieces)
    table, left = _Table(pieces, cutter), _Work(work)
    orders = _ORDERS if cutter.nested == OUTLINES and table.effort <= left.left else ()
    packed = _PACKING if orders else 1.0
    best = _by_rectangles(pieces, cutter, stretch(told, 0.0, packed)) if straight else None
    for number, order in enumerate(orders):
        low, high = (packed + (1 - packed) * at / len(orders) for at in (number, number + 1))
        other = _by_outlines(table, order, left, stretch(told, low, high))
        if other is not None and (best is None or _cost(other) < _cost(best)):
            best = other
    if best is None:
        raise Failure(
            "some pieces fit on a sheet only askew, and no place was found for all of them",
            "a larger sheet, or fewer pieces",
        )
    return best


def _square_turns(cutter: Cutter) -> list[float]:
    """Those of its turns by which a piece lies along the sides of a sheet."""
    return [turn for turn in turns_of(cutter) if turn % 90 == 0]


def _over(one: FlatPiece, cutter: Cutter, turns: Sequence[float]) -> float:
    """By how many mm a piece is larger than a sheet has room for, at the best of some turns."""
    room = cutter.width - 2 * cutter.margin, cutter.height - 2 * cutter.margin
    sizes = [_turned(one.flat, turn).bounds[2:] for turn in turns]
    return float(min(max(size[0] - room[0], size[1] - room[1]) for size in sizes))


def _cost(nest: Nest) -> tuple[int, float]:
    return nest.sheets, nest.reached(nest.sheets - 1)


def _refuse(pieces: Sequence[FlatPiece], cutter: Cutter) -> None:
    number = sum(one.piece.quantity for one in pieces)
    if number > MOST_PIECES:
        raise Failure(f"{number:,} pieces are too many for a nest", f"at most {MOST_PIECES:,}")
    room = cutter.width - 2 * cutter.margin, cutter.height - 2 * cutter.margin
    for one in pieces:
        over = _over(one, cutter, turns_of(cutter))
        if over > _HAIR:
            grain = "" if cutter.grain not in (ALONG, ACROSS) else f" with the grain {cutter.grain}"
            raise Failure(
                f"{one.mark} {one.piece.label} is {one.size[0]:.5g} × {one.size[1]:.5g} mm; the sheet has room "
                f"for {room[0]:g} × {room[1]:g} mm{grain}: too large by {over:.4g} mm",
                "a larger sheet, a smaller margin, or leave the part out",
            )


# --- rectangles ---

_GRAIN = 1000.0
"""Rectangles are packed in whole thousandths of a mm."""


def _by_rectangles(pieces: Sequence[FlatPiece], cutter: Cutter, told: Told) -> Nest:
    """The best of several rules by which rectangles are packed (rectpack: Jylänki, A thousand ways to pack
    the bin, 2010)."""
    import rectpack

    ways = (
        rectpack.MaxRectsBssf,
        rectpack.MaxRectsBaf,
        rectpack.MaxRectsBl,
        rectpack.GuillotineBssfSas,
    )
    orders = (rectpack.SORT_AREA, rectpack.SORT_LSIDE, rectpack.SORT_SSIDE, rectpack.SORT_PERI)
    rules = [*itertools.product(ways, orders)]

    turns = _square_turns(cutter)
    rotation = len({turn % 180 for turn in turns}) > 1
    own = [_turned(one.flat, turns[0]).bounds[2:] for one in pieces]
    sides = [[math.ceil((side + cutter.apart) * _GRAIN - 1e-3) for side in size] for size in own]
    room = [
        math.floor((side - 2 * cutter.margin + cutter.apart) * _GRAIN + 1e-3)
        for side in (cutter.width, cutter.height)
    ]
    best = None
    for number, (way, order) in enumerate(rules):
        told(number / len(rules))
        packer = rectpack.newPacker(rotation=rotation, pack_algo=way, sort_algo=order)
        for at, one in enumerate(pieces):
            for _ in range(one.piece.quantity):
                packer.add_rect(*sides[at], rid=at)
        packer.add_bin(*room, count=MOST_SHEETS)
        packer.pack()
        laid = [
            _rectangle(at, sheet, x, y, width, sides[at], turns, cutter.margin)
            for sheet, x, y, width, height, at in packer.rect_list()
        ]
        if len(laid) < sum(one.piece.quantity for one in pieces):
            raise Failure(f"the pieces need more than {MOST_SHEETS} sheets")
        nest = Nest(cutter, pieces, laid, "rectangles")
        if best is None or _cost(nest) < _cost(best):
            best = nest
    assert best is not None
    return best


def _rectangle(
    piece: int, sheet: int, x: int, y: int, width: int, sides: Sequence[int],
    turns: Sequence[float], margin: float,
) -> Laid:  # fmt: skip
    is_turned = width != sides[0]
    turn = turns[0] + (90.0 if is_turned else 0.0)
    return Laid(piece, sheet, turn, x / _GRAIN + margin, y / _GRAIN + margin)


# --- outlines ---

Order = Callable[[FlatPiece], float]
_ORDERS: tuple[Order, ...] = (
    lambda one: -one.region.area,
    lambda one: -float(np.prod(one.size)),
    lambda one: -float(one.size[0]),
)


class _Work(Struct):
    left: float


class _Grid(Struct, eq=False):
    """A sheet in cells: which are taken, and the figures that lie on it."""

    cell: float
    shape: tuple[int, int]
    gap: float
    taken: NDArray[np.float32]
    figures: list[Any]
    changed: bool = True
    seen: Any = None

    @property
    def transform(self) -> Any:
        if self.changed:
            self.seen = fft.rfft2(self.taken, self.shape)
            self.changed = False
        return self.seen


class _Mask(Struct, eq=False):
    """A piece as it may be turned: its figure, the cells it takes, and their transform."""

    turn: float
    figure: Any
    cells: NDArray[np.float32]
    transform: Any


class _Table(Struct, eq=False, dict=True):
    """Pieces and the cells of the sheets they are laid on, the same for every order."""

    pieces: Sequence[FlatPiece]
    cutter: Cutter
    made: dict[int, list[_Mask]] = field(default_factory=dict)
    """The masks that were asked for, by the number of their piece."""

    @cached_property
    def cells(self) -> int:
        """Along the longer side of a sheet."""
        return _CELLS[0] if self.number * len(_ORDERS) <= WORK else _CELLS[1]

    @property
    def number(self) -> int:
        """How often all places of a sheet are looked through, if each piece finds one on the first."""
        return sum(one.piece.quantity for one in self.pieces) * len(turns_of(self.cutter))

    @property
    def effort(self) -> float:
        """The same as work: one for all places of a sheet in the smallest cells."""
        return self.number * (self.cells / _CELLS[0]) ** 2

    @property
    def cell(self) -> float:
        return max(self.cutter.width, self.cutter.height) / self.cells

    @property
    def room(self) -> tuple[int, int]:
        """How many cells there are along and across a sheet."""
        more = self.cutter.apart - 2 * self.cutter.margin
        sides = self.cutter.width + more, self.cutter.height + more
        return math.floor(sides[0] / self.cell), math.floor(sides[1] / self.cell)

    @cached_property
    def shape(self) -> tuple[int, int]:
        """The same, as is quick to transform."""
        along, across = self.room
        return fft.next_fast_len(along, real=True), fft.next_fast_len(across, real=True)

    def masks(self, at: int, told: Told) -> list[_Mask]:
        """Those of a piece, by its number; they are made when they are first asked for."""
        if at not in self.made:
            self.made[at] = [*_masks(self.pieces[at], self, told)]
        return self.made[at]


def _by_outlines(table: _Table, order: Order, work: _Work, told: Told) -> Nest | None:
    """Pieces laid one after another by their outlines; None where that is more work than is left."""
    pieces, cutter, room = table.pieces, table.cutter, table.room
    if table.effort > work.left:
        return None
    each = table.effort / table.number
    gap = cutter.apart
    grids: list[_Grid] = []
    laid = []
    queue = [at for at in sorted(range(len(pieces)), key=lambda at: order(pieces[at])) for _ in range(pieces[at].piece.quantity)]  # fmt: skip
    full: dict[int, int] = {}
    for number, at in enumerate(queue):
        told_of_one = stretch(told, number / len(queue), (number + 1) / len(queue))
        told_of_one(0.0)
        masks = table.masks(at, told_of_one)
        # What found no place on a sheet finds none there later.
        for sheet in range(full.get(at, 0), MOST_SHEETS):
            work.left -= len(masks) * each
            if work.left < 0:
                return None
            if sheet == len(grids):
                grids.append(
                    _Grid(table.cell, table.shape, gap, np.zeros(room, dtype=np.float32), [])
                )
            place = _place(grids[sheet], masks, room)
            if place is not None:
                mask, x, y = place
                offset = cutter.margin - gap / 2
                laid.append(Laid(at, sheet, mask.turn, x + offset, y + offset))
                break
            if not grids[sheet].figures:
                return None  # it fills a sheet so that cells do not tell whether it fits
            full[at] = sheet + 1
        else:
            return None
    return Nest(cutter, pieces, laid, "outlines")


def _masks(one: FlatPiece, table: _Table, told: Told) -> Iterator[_Mask]:
    """A piece as it may be turned; once, where it is the same after a turn as before. `told` takes how far it is."""
    met: list[tuple[Any, NDArray[np.float32]]] = []
    turns = turns_of(table.cutter)
    for number, turn in enumerate(turns):
        told(number / len(turns))
        figure = _turned(one.flat, turn)
        cells = _cells(figure, table.cutter.apart / 2, table.cell)
        if any(np.array_equal(cells, own) and _are_same(figure, other) for other, own in met):
            continue
        met.append((figure, cells))
        if cells.shape[0] <= table.room[0] and cells.shape[1] <= table.room[1]:
            yield _Mask(turn, figure, cells, np.conj(fft.rfft2(cells, table.shape)))


def _are_same(figure: Any, other: Any) -> bool:
    if figure.equals_exact(other, 1e-6):
        return True
    return bool(figure.symmetric_difference(other).area < 1e-6 * figure.area)


def _cells(
    figure: Any, gap: float, cell: float, x: float = 0.0, y: float = 0.0
) -> NDArray[np.float32]:
    """The cells that a figure takes with half of the gap about it, its least corner (of the figure and its
    gap) at (x, y) within the first cell: those whose middle is so near that the cell may be touched."""
    grown = affinity.translate(
        shapely.buffer(figure, gap + cell * math.sqrt(0.5), quad_segs=8), gap + x, gap + y
    )
    width = math.ceil((figure.bounds[2] + 2 * gap + x) / cell - _HAIR)
    height = math.ceil((figure.bounds[3] + 2 * gap + y) / cell - _HAIR)
    columns, rows = (np.arange(number) * cell + cell / 2 for number in (width, height))
    shapely.prepare(grown)
    inside = shapely.contains_xy(grown, columns[:, None], rows[None])
    return np.asarray(inside, dtype=np.float32)


def _place(
    grid: _Grid, masks: Sequence[_Mask], room: tuple[int, int]
) -> tuple[_Mask, float, float] | None:
    """Where a piece reaches least far along the sheet; None where it has no place. The place is that of the
    least corner of the piece, from that of the grid."""
    best: tuple[float, float, _Mask, int, int] | None = None
    for mask in masks:
        overlap = fft.irfft2(grid.transform * mask.transform, grid.shape)
        wide, high = room[0] - mask.cells.shape[0] + 1, room[1] - mask.cells.shape[1] + 1
        free = overlap[:wide, :high] < 0.5
        column = np.flatnonzero(free.any(axis=1))
        if not len(column):
            continue
        x = int(column[0])
        y = int(np.flatnonzero(free[x])[0])
        reach = x + mask.cells.shape[0]
        if best is None or (reach, y) < best[:2]:
            best = (reach, y, mask, x, y)
    if best is None:
        return None
    _, _, mask, column_at, row = best
    left, low = _moved_up(grid, mask, column_at * grid.cell, row * grid.cell)
    _take(grid, mask, left, low)
    return mask, left + grid.gap / 2, low + grid.gap / 2


def _moved_up(grid: _Grid, mask: _Mask, x: float, y: float) -> tuple[float, float]:
    """The place moved down, then back, as far as the neighbours exactly allow: at most some cells."""
    tree = shapely.STRtree(grid.figures)

    def is_free(left: float, low: float) -> bool:
        if left < 0 or low < 0:
            return False
        there = affinity.translate(mask.figure, left + grid.gap / 2, low + grid.gap / 2)
        near = tree.query(there, predicate="dwithin", distance=grid.gap - _HAIR)
        return not len(near)

    for step in ((0.0, -1.0), (-1.0, 0.0), (0.0, -1.0)):
        low, high = 0.0, 4 * grid.cell
        for _ in range(12):
            middle = (low + high) / 2
            if is_free(x + step[0] * middle, y + step[1] * middle):
                low = middle
            else:
                high = middle
        x, y = x + step[0] * low, y + step[1] * low
    return x, y


def _take(grid: _Grid, mask: _Mask, x: float, y: float) -> None:
    grid.figures.append(affinity.translate(mask.figure, x + grid.gap / 2, y + grid.gap / 2))
    column, row = int(x / grid.cell), int(y / grid.cell)
    cells = _cells(
        mask.figure, grid.gap / 2, grid.cell, x - column * grid.cell, y - row * grid.cell
    )
    there = grid.taken[column : column + cells.shape[0], row : row + cells.shape[1]]
    np.maximum(there, cells[: there.shape[0], : there.shape[1]], out=there)
    grid.changed = True
