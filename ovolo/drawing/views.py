"""The views a drawing may show, and how curves look in them."""

from __future__ import annotations

import itertools
from collections.abc import Iterable

import numpy as np
from msgspec import Struct

from ovolo.geometry.curves.curve import Curve
from ovolo.geometry.curves.pieces import Arc, Cubic, Piece, Straight
from ovolo.geometry.placement import Matrix
from ovolo.geometry.same import LEAST, SAME_SHARE, SMALLEST
from ovolo.geometry.types import Points
from ovolo.geometry.vectors import cross_product
from ovolo.problems import Failure


class View(Struct, frozen=True):
    """A view along an axis: the directions that point right, up and at the viewer."""

    name: str
    right: tuple[float, ...]
    up: tuple[float, ...]
    towards: tuple[float, ...]

    @property
    def matrix(self) -> Matrix:
        """From space to the plane of the drawing: x to the right, y up, z at the viewer."""
        turned = np.eye(4)
        turned[:3, :3] = self.right, self.up, self.towards
        return turned

    def placed(self, point: Iterable[float]) -> Points:
        """A point of space in the drawing, (3,); its third coordinate is nearness."""
        at: Points = self.matrix[:3, :3] @ np.asarray(tuple(point), dtype=float)
        return at


PLAN = View("plan", (1, 0, 0), (0, 1, 0), (0, 0, 1))
FRONT = View("front", (1, 0, 0), (0, 0, 1), (0, -1, 0))
SIDE = View("side", (0, 1, 0), (0, 0, 1), (1, 0, 0))
VIEWS = {view.name: view for view in (PLAN, FRONT, SIDE)}


def view_named(name: str) -> View:
    """Raises Failure for an unknown one."""
    if name not in VIEWS:
        raise Failure(f"there is no view `{name}`", f"one of {', '.join(VIEWS)}")
    return VIEWS[name]


def view_of(bounds: Iterable[list[list[float]]]) -> View | None:
    """The view in which all that lies within bounds is seen square on: that in which each of
    them is flat. None where there is none."""
    depths = [np.abs(view_depths(box)) for box in bounds]
    if not depths:
        return None
    for view, depth in zip(VIEWS.values(), np.transpose(depths), strict=True):
        if np.all(depth < SMALLEST):
            return view
    return None


def view_depths(box: list[list[float]]) -> Points:
    """How deep a box is in each of the views."""
    x, y, z = np.subtract(box[1], box[0])
    return np.array([z, y, x])


def flattened(curve: Curve, view: View, scale: float) -> Curve | None:
    """A curve as it looks in a view, on paper (z = 0); None where it is but a point. `scale` is
    mm of paper for a mm."""
    matrix = np.diag([scale, scale, 0.0, 1.0]) @ view.matrix
    pieces: list[Piece] = []
    for piece in curve.placed(matrix).pieces:
        if isinstance(piece, Arc) and _is_edge_on(piece):
            ends = piece.at(np.array([0.0, *sorted(piece.turning()), 1.0]))
            pieces += [Straight(a, b) for a, b in itertools.pairwise(ends)]
        else:
            pieces.append(piece)
    seen = tuple(piece for piece in pieces if _is_seen(piece))
    return Curve(seen) if seen else None


def _is_seen(piece: Piece) -> bool:
    """Whether a piece is more than a point. (The poles of a cubic tell that sooner than its
    length.)"""
    if isinstance(piece, Cubic):
        return float(np.ptp(piece.poles, axis=0).max()) > SMALLEST
    return piece.length > SMALLEST


def _is_edge_on(arc: Arc) -> bool:
    size = float(np.linalg.norm(arc.u)) * float(np.linalg.norm(arc.v))
    return float(np.linalg.norm(cross_product(arc.u, arc.v))) <= SAME_SHARE * max(size, LEAST)
