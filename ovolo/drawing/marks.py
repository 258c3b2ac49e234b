"""What a drawing is made of. All lengths are mm of paper, x to the right and y up."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

import numpy as np
from msgspec import Struct
from msgspec.structs import replace
from numpy.typing import ArrayLike

from ovolo.geometry.curves.curve import Curve
from ovolo.geometry.curves.drafting import polyline
from ovolo.geometry.regions.lettering import text_width
from ovolo.geometry.same import SAME_SHARE
from ovolo.geometry.types import Points

WEIGHTS = {
    "outline": 0.5, "solid": 0.35, "hatch": 0.18, "dim": 0.18, "wrong": 0.25, "arrow": 0.0,
    "frame": 0.5, "fine": 0.18,
}  # fmt: skip
"""The width of a line by its role, of the series of ISO 128-2 (0.13 0.18 0.25 0.35 0.5 0.7)."""

TEXT = 3.5
"""The height of capitals in dims, of the series of ISO 3098 (1.8 2.5 3.5 5 7)."""


class Stroke(Struct, frozen=True):
    """Curves drawn together in one role; filled where there is a colour (holes by even and odd)."""

    curves: tuple[Curve, ...]
    role: str
    fill: str = ""


class Label(Struct, frozen=True):
    """A line of text. `place` (2,) is the middle of its base line or, `anchor` saying so, its
    start or its end; `angle` in radians; `size` the height of its capitals."""

    text: str
    place: Points
    size: float = TEXT
    angle: float = 0.0
    role: str = "dim"
    anchor: str = "middle"

    @property
    def width(self) -> float:
        """Of the box it fills, seen along the paper."""
        return float(np.ptp(self.corners[:, 0]))

    @property
    def corners(self) -> Points:
        """The box it fills, (4, 2)."""
        width = text_width(self.text, self.size)
        left = {"start": 0.0, "middle": -width / 2, "end": -width}[self.anchor]
        low, high = -0.25 * self.size, 1.1 * self.size
        box = np.array([[left, low], [left + width, low], [left + width, high], [left, high]])
        c, s = np.cos(self.angle), np.sin(self.angle)
        corners: Points = self.place + box @ np.array([[c, s], [-s, c]])
        return corners


def fitted(label: Label, room: float, least: float = 0.0) -> Label:
    """A label that runs no farther than there is room: made smaller, down to the share `least` of its size;
    then cut."""
    if label.width <= room:
        return label
    found = replace(label, size=label.size * max(room / label.width, least))
    while found.text and found.width > room * (1 + SAME_SHARE):
        shorter = found.text.rstrip("…")[:-1].rstrip()
        found = replace(found, text=f"{shorter}…" if shorter else "")
    return found


class Group(Struct, frozen=True):
    """Marks that belong together under a name: those of a part, or all dims."""

    name: str
    title: str
    strokes: tuple[Stroke, ...] = ()
    labels: tuple[Label, ...] = ()


class Page(Struct, frozen=True):
    """A page of paper, its lower left corner at `low` (2,)."""

    title: str
    low: Points
    width: float
    height: float
    groups: tuple[Group, ...] = ()
    weight: float = 1.0
    """By how much lines are wider than on paper."""


def lines(segments: Iterable[tuple[ArrayLike, ArrayLike]], role: str) -> Iterator[Stroke]:
    """Straight lines, by their ends on paper, as strokes."""
    for a, b in segments:
        if np.linalg.norm(np.subtract(b, a)) > SAME_SHARE:
            yield Stroke((polyline(np.array([flat(a), flat(b)])),), role)


def flat(point: ArrayLike) -> Points:
    """A place on the paper as a point of space."""
    x, y, *_ = np.asarray(point, dtype=float)
    return np.array([x, y, 0.0])


def enlarged(groups: Iterable[Group], factor: float) -> list[Group]:
    """The same marks, larger by a factor."""
    matrix = np.diag([factor, factor, 1.0, 1.0])
    return [
        replace(
            group,
            strokes=tuple(
                replace(stroke, curves=tuple(curve.placed(matrix) for curve in stroke.curves))
                for stroke in group.strokes
            ),
            labels=tuple(
                replace(label, place=factor * label.place, size=factor * label.size)
                for label in group.labels
            ),
        )
        for group in groups
    ]


def moved(group: Group, shift: Points) -> Group:
    """The same marks elsewhere on the paper; `shift` is (2,)."""
    matrix = np.eye(4)
    matrix[:2, 3] = shift
    return replace(
        group,
        strokes=tuple(
            replace(stroke, curves=tuple(curve.placed(matrix) for curve in stroke.curves))
            for stroke in group.strokes
        ),
        labels=tuple(replace(label, place=label.place + shift) for label in group.labels),
    )


def extent(groups: Iterable[Group]) -> tuple[Points, Points] | None:
    """The corners (2,) of the box round all marks; None where there are none."""
    boxes = [
        curve.bounds()[:, :2] for g in groups for stroke in g.strokes for curve in stroke.curves
    ]
    boxes += [label.corners for group in groups for label in group.labels]
    if not boxes:
        return None
    corners = np.concatenate(boxes)
    return corners.min(axis=0), corners.max(axis=0)
