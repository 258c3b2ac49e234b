"""The schedule: the distinct pieces of a study, how many of each, and what to cut them from."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from functools import partial
from typing import Any

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from ovolo.geometry.coat import Coat
from ovolo.geometry.solids.congruence import (
    Body,
    Wire,
    are_equal,
    body_of_region,
    classes,
    sizes_of_region,
    sizes_of_solid,
    wires_equal,
)
from ovolo.geometry.solids.solid import Solid
from ovolo.outcome.answers import ScheduleSaid
from ovolo.outcome.part import Part
from ovolo.problems import Failure
from ovolo.quantities.dimension import LENGTH, MASS
from ovolo.quantities.kinds import CURVE, REGION, SOLID, SURFACE, Kind
from ovolo.quantities.show import DisplayUnits, show_quantity

MOST_KINDS = 5_000
"""So many pieces that are not copies of each other are compared."""


class Piece(Struct, frozen=True):
    """A distinct piece: `sizes` are length, width and thickness in mm, as far as it has them; volume,
    area and mass are of one."""

    mark: str
    part: str
    label: str
    quantity: int
    sizes: tuple[float, ...]
    volume: float | None
    area: float | None
    mass: float | None

    @property
    def total_length(self) -> float:
        return self.quantity * self.sizes[0] if self.sizes else 0.0


class Stock(Struct, frozen=True):
    """What is cut from one section: pieces by length, and the length of them all."""

    part: str
    section: tuple[float, ...]
    lengths: tuple[tuple[float, int], ...]

    @property
    def total(self) -> float:
        return sum(length * count for length, count in self.lengths)


def schedule(parts: Sequence[Part]) -> list[Piece]:
    """The distinct pieces of parts, the longest of each part first. Raises Failure where there are
    too many different ones."""
    return [piece for piece, _ in schedule_with_shapes(parts)]


def schedule_with_shapes(parts: Sequence[Part]) -> list[tuple[Piece, Any]]:
    """The distinct pieces, each with one of the solids, regions, curves or surfaces that are it. Raises
    Failure where there are too many different ones."""
    found: list[tuple[Piece, Any]] = []
    for part in parts:
        gathered = sorted(
            _pieces_of(part), key=lambda one: tuple(-round(size, 3) for size in one[0].sizes)
        )
        for piece, shape in gathered:
            found.append((replace(piece, mark=_mark(len(found))), shape))
    return found


def _mark(number: int) -> str:
    """A, B … Z, AA, AB …"""
    letters = ""
    number += 1
    while number:
        number, at = divmod(number - 1, 26)
        letters = chr(65 + at) + letters
    return letters


class _Group(Struct):
    """Pieces that are surely equal: how many, what they are compared by, and what one of them is."""

    body: Any
    quantity: int
    volume: float | None
    area: float | None
    sizes: Callable[[], tuple[float, ...]]
    coat: Coat | None
    shape: Any
    """One of them."""


def _pieces_of(part: Part) -> list[tuple[Piece, Any]]:
    """Those of its own kind first, then those of other kinds that came along with them."""
    kinds = [part.kind, *(kind for kind in _GROUPS if kind != part.kind)]
    return [piece for kind in kinds if kind in _GROUPS for piece in _pieces_of_kind(part, kind)]


def _pieces_of_kind(part: Part, kind: Kind) -> list[tuple[Piece, Any]]:
    groups = list(_GROUPS[kind](part))
    _refuse_many(part, len(groups))
    same: dict[int, list[_Group]] = {}
    equal = _EQUAL.get(kind)
    numbers = classes(
        [group.body.print for group in groups],
        lambda a, b: (
            _on_the_bill(groups[a].coat) == _on_the_bill(groups[b].coat)
            and (equal is None or equal(groups[a].body, groups[b].body))
        ),
    )
    for number, group in zip(numbers, groups, strict=True):
        same.setdefault(number, []).append(group)
    return [(_piece(part, alike), alike[0].shape) for alike in same.values()]


def _on_the_bill(coat: Coat | None) -> tuple[str, float | None]:
    """What keeps equal bodies apart: what they are called and made of, not how they are coloured."""
    return ("", None) if coat is None else (coat.label, coat.density)


def _piece(part: Part, alike: list[_Group]) -> Piece:
    """The piece of a part that some groups all are; it has no mark yet."""
    one = alike[0]
    density = part.density
    if density is None and one.coat is not None:
        density = one.coat.density
    mass = None if density is None or one.volume is None else one.volume * density
    quantity = sum(group.quantity for group in alike)
    label = part.label or part.name
    if one.coat is not None:
        several = len({coat.label for coat in part.coats if coat is not None}) > 1
        own = f"{part.label}: {one.coat.label}" if several else part.label
        label = own if part.label else one.coat.label
    return Piece("", part.name, label, quantity, one.sizes(), one.volume, one.area, mass)


def _refuse_many(part: Part, count: int) -> None:
    if count > MOST_KINDS:
        raise Failure(
            f"`{part.name}` has {count:,} different pieces; at most {MOST_KINDS:,} are scheduled",
            "hand over fewer parts",
        )


def _solids(part: Part) -> Iterator[_Group]:
    """Solids by their shape and the sizes it is scaled to: the same placement but for a motion."""
    for group in part.groups:
        linear = group.matrices[:, :3, :3]
        gram = np.einsum("nji,njk->nik", linear, linear).reshape(len(linear), 9)
        scale = float(np.abs(gram).max())
        keys = np.column_stack([np.rint(gram / scale * 1e9), np.linalg.det(linear) > 0])
        _, first, counts = np.unique(keys, axis=0, return_index=True, return_counts=True)
        _refuse_many(part, len(first))
        for at, count in zip(first, counts, strict=True):
            solid = Solid(group.shape, group.matrices[at])
            yield _Group(Body(solid), int(count), solid.volume, solid.area, partial(_sizes, sizes_of_solid, solid), group.coat, solid)  # fmt: skip


def _sizes(measure: Callable[[Any], Any], what: Any) -> tuple[float, ...]:
    return tuple(float(size) for size in measure(what))


def _regions(part: Part) -> Iterator[_Group]:
    for region in part.regions:
        yield _Group(body_of_region(region), 1, None, region.area, partial(_sizes, sizes_of_region, region), region.coat, region)  # fmt: skip


def _curves(part: Part) -> Iterator[_Group]:
    for curve in part.curves:
        yield _Group(
            Wire(curve),
            1,
            None,
            None,
            partial(_sizes, lambda one: (one.length,), curve),
            curve.coat,
            curve,
        )


class _Skin(Struct, frozen=True):
    """A surface, which is compared by its area alone."""

    print: Any


def _surfaces(part: Part) -> Iterator[_Group]:
    for surface in part.surfaces:
        skin = _Skin(np.array([np.sqrt(surface.area)]))
        yield _Group(skin, 1, None, surface.area, tuple, surface.coat, surface)


_EQUAL: dict[Kind, Callable[[Any, Any], bool]] = {
    SOLID: are_equal, REGION: are_equal, CURVE: wires_equal,
}  # fmt: skip
_GROUPS: dict[Kind, Callable[[Part], Iterator[_Group]]] = {
    SOLID: _solids,
    REGION: _regions,
    CURVE: _curves,
    SURFACE: _surfaces,
}


def cut_list(pieces: Sequence[Piece]) -> list[Stock]:
    """The lengths to be cut from each section (width and thickness) of each part."""
    found: dict[tuple[Any, ...], list[tuple[float, int]]] = {}
    for piece in pieces:
        if len(piece.sizes) == 3:
            section = tuple(round(size, 3) for size in piece.sizes[1:])
            found.setdefault((piece.part, section), []).append((piece.sizes[0], piece.quantity))
    return [
        Stock(part, section, tuple(sorted(lengths, reverse=True)))
        for (part, section), lengths in found.items()
    ]


def shown_schedule(parts: Sequence[Part], units: DisplayUnits) -> ScheduleSaid:
    """The schedule and the cut list as a person reads them, in the units of the sheet."""
    pieces = schedule(parts)
    length = units.length_unit.symbol
    heads = ["", "part", "number", *(f"{size} [{length}]" for size in ("length", "width", "thickness"))]  # fmt: skip
    rows = [_shown_piece(piece, units) for piece in pieces]
    if any(piece.mass is not None for piece in pieces):
        heads.append("mass")
        for row, piece in zip(rows, pieces, strict=True):
            row.append("" if piece.mass is None else str(show_quantity(piece.mass, MASS, units)))
    return {
        "heads": heads,
        "rows": rows,
        "stock": [_shown_stock(stock, units) for stock in cut_list(pieces)],
        "count": sum(piece.quantity for piece in pieces),
    }


def _shown_piece(piece: Piece, units: DisplayUnits) -> list[str]:
    sizes = [show_quantity(size, LENGTH, units).number for size in piece.sizes]
    return [piece.mark, piece.label, str(piece.quantity), *[*sizes, "", "", ""][:3]]


def _shown_stock(stock: Stock, units: DisplayUnits) -> str:
    """Such as "28 x 95 mm: 41 x 1200 mm, 1 x 59 mm; 49.26 m in all"."""
    section = " × ".join(
        show_quantity(one, LENGTH, units).number for one in reversed(stock.section)
    )
    lengths = ", ".join(f"{count} × {show_quantity(length, LENGTH, units).number}" for length, count in stock.lengths)  # fmt: skip
    total = show_quantity(stock.total, LENGTH, units)
    return f"{stock.part}, {section}: {lengths}; {total} in all"
