"""The marks of the schedule, in circles on a view, and its table."""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Sequence
from typing import Any

import numpy as np
from scipy.spatial import cKDTree

from ovolo.drawing.hidden_lines import Fronts
from ovolo.drawing.marks import Group, Label, Stroke, flat, lines
from ovolo.drawing.tables import TEXT, Columns
from ovolo.drawing.views import View
from ovolo.geometry.curves.drafting import circular
from ovolo.geometry.placement import applied
from ovolo.geometry.same import LEAST
from ovolo.geometry.solids.solid import Solid
from ovolo.geometry.thing import Drawable
from ovolo.geometry.types import Points
from ovolo.geometry.vectors import dot_product, plane_product
from ovolo.outcome.part import Part
from ovolo.outcome.schedule import Piece
from ovolo.quantities.dimension import LENGTH, MASS
from ovolo.quantities.show import DisplayUnits, show_quantity

RADIUS = 3.2
"""mm of paper, of the circle round a mark (ISO 6433, from memory)."""

DOT = 0.5
"""mm of paper, of the dot at the end of a line that leads to a place."""

_PLACES = 32
"""So many in a row are tried for the mark of a piece, and as many rows."""

_COLUMNS: Columns = (("Mark", 0.1), ("Piece", 0.34), ("No.", 0.1), ("Sizes", 0.32), ("Mass", 0.14))


Pieces = Sequence[tuple[Piece, Any]]
"""The pieces of a schedule, each with a shape that is it."""


Marks = Sequence[tuple[str, Points]]
"""Marks, and their places (2,) in a view."""


def in_circles(marks: Marks, name: str, title: str) -> Group:
    """Texts in circles at places (2,) on paper, or beside those that are there before; from there a line leads back
    to the place and ends in a dot (ISO 128-22, from memory)."""
    places: list[Points] = []
    for _, wanted in marks:
        places.append(next(at for at in _around(wanted) if _is_free(at, places)))
    led = [(wanted, at) for (_, wanted), at in zip(marks, places, strict=True) if at is not wanted]
    dots = tuple(
        Stroke((circular(flat(at), DOT, 0.0, 2 * np.pi),), "arrow", "dim") for at, _ in led
    )
    rounds = tuple(
        Stroke((circular(flat(at), RADIUS, 0.0, 2 * np.pi),), "fine", "#ffffff") for at in places
    )
    labels = tuple(
        Label(text, at - [0.0, 0.5 * TEXT], TEXT, role="text")
        for (text, _), at in zip(marks, places, strict=True)
    )
    return Group(name, title, (*lines(led, "fine"), *dots, *rounds), labels)


def _around(place: Points) -> Iterator[Points]:
    """The place itself, then places on rings round it, ever wider."""
    yield place
    for ring in itertools.count(1):
        for turn in np.arange(8) * np.pi / 4:
            yield place + ring * RADIUS * np.array([np.cos(turn), np.sin(turn)])


def _is_free(place: Points, taken: Sequence[Points]) -> bool:
    return all(np.linalg.norm(place - other) >= 2 * RADIUS for other in taken)


def piece_marks(marks: Marks, scale: float) -> Group:
    """The marks of pieces at their places, on paper."""
    return in_circles([(mark, scale * place) for mark, place in marks], "pieces", "Pieces")


def marks_of(pieces: Pieces, view: View, fronts: Fronts) -> Marks:
    """The mark of each piece of the schedule, on one that it is; where that can be seen behind what is in front."""
    return [(piece.mark, _seen_place(shape, view, fronts)) for piece, shape in pieces]


def _seen_place(shape: Solid | Drawable, view: View, fronts: Fronts) -> Points:
    """A place (2,) of a view in what is seen of a shape, away from its rim, and of these the nearest to its middle; of
    what is seen all over, or not at all, that of `mark_place`."""
    middle = _middle(shape, view)
    faces = _in_view(_drawn(shape)[0], view)
    first, second = np.moveaxis(faces[:, 1:, :2] - faces[:, :1, :2], 1, 0)
    facing = faces[plane_product(first, second) > 0]
    if not len(facing):
        return mark_place(shape, middle, view)
    places = np.concatenate([_all_over(facing), facing[..., :2].mean(axis=1)])
    heights = Fronts(facing, 1.0).heights(places)
    on = np.flatnonzero(np.isfinite(heights))
    seen = on[~fronts.hide(np.column_stack([places[on], heights[on]]))]
    if len(seen) in (0, len(on)):
        return mark_place(shape, middle, view)
    room, _ = cKDTree(np.delete(places, seen, axis=0)).query(places[seen])
    return _nearest(places[seen[room >= 0.8 * room.max()]], middle)


def _all_over(faces: Points) -> Points:
    """Places (k, 2) in rows and columns all over triangles (n, 3, 3), and beyond."""
    corners = faces[..., :2].reshape(-1, 2)
    low, high = corners.min(axis=0), corners.max(axis=0)
    shares = (np.arange(-1, _PLACES + 1) + 0.5) / _PLACES
    columns, rows = (low + shares[:, None] * (high - low)).T
    return np.stack(np.meshgrid(columns, rows), axis=-1).reshape(-1, 2)


def mark_place_of_part(part: Part, view: View) -> Points:
    """The place (2,) of a view in the middle of a part, or where an item of it is nearest to that."""
    middle = view.placed(np.mean(part.bounds or np.zeros((2, 3)), axis=0))[:2]
    shapes: list[Solid | Drawable] = [one for _, one in part.indexed_drawables]
    shapes += [Solid(one.shape, matrix) for one in part.groups for matrix in one.matrices]
    there = [one for one in shapes if not one.is_empty]
    away = [np.linalg.norm(_middle(one, view) - middle) for one in there]
    return mark_place(there[int(np.argmin(away))], middle, view) if there else middle


def _middle(shape: Solid | Drawable, view: View) -> Points:
    return view.placed(np.mean(shape.bounds(), axis=0))[:2]


def mark_place(shape: Solid | Drawable, wanted: Points, view: View) -> Points:
    """A place (2,) of a view, or where a shape is nearest to it: the middle of a frame or a bow is air."""
    faces, edges = (_in_view(one, view)[..., :2] for one in _drawn(shape))
    if len(faces):
        return wanted if _on_any(wanted, faces) else _nearest(faces.mean(axis=1), wanted)
    if not len(edges):
        return wanted
    start, way = edges[:, 0], edges[:, 1] - edges[:, 0]
    shares = dot_product(wanted - start, way) / np.maximum(dot_product(way, way), LEAST)
    return _nearest(start + np.clip(shares, 0.0, 1.0)[:, None] * way, wanted)


def _drawn(shape: Solid | Drawable) -> tuple[Points, Points]:
    """The triangles (n, 3, 3) and the lines (k, 2, 3) of a shape where it stands."""
    if isinstance(shape, Solid):
        return shape.mesh.corners[shape.mesh.triangles], np.empty((0, 2, 3))
    drawing, at = shape.drawing, shape.drawn_at
    corners = applied(at, drawing.positions.astype(float))
    return corners[drawing.triangles], applied(
        at, drawing.edges.reshape(-1, 3).astype(float)
    ).reshape(-1, 2, 3)


def _in_view(corners: Points, view: View) -> Points:
    """Corners (n, m, 3) in a view; the third coordinate is nearness."""
    seen: Points = corners @ view.matrix[:3, :3].T
    return seen


def _on_any(place: Points, faces: Points) -> bool:
    """Whether a place (2,) lies within any of triangles (n, 3, 2)."""
    turns = plane_product(np.roll(faces, -1, axis=1) - faces, place - faces)
    within = np.all(turns >= 0, axis=1) | np.all(turns <= 0, axis=1)
    return bool((within & np.any(turns != 0, axis=1)).any())  # not one that is seen from its edge


def _nearest(places: Points, wanted: Points) -> Points:
    found: Points = places[np.argmin(np.linalg.norm(places - wanted, axis=1))]
    return found


def schedule_rows(pieces: Pieces, units: DisplayUnits) -> tuple[Columns, list[tuple[str, ...]]]:
    """The schedule as a table: its columns and its rows."""
    rows: list[tuple[str, ...]] = []
    for one, _ in pieces:
        sizes = " × ".join(show_quantity(size, LENGTH, units).number for size in one.sizes)
        unit = units.length_unit.symbol if sizes else ""
        mass = "" if one.mass is None else str(show_quantity(one.mass, MASS, units))
        rows.append((one.mark, one.label, str(one.quantity), f"{sizes} {unit}".strip(), mass))
    return _COLUMNS, rows
