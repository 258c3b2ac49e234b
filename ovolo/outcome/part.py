"""Parts: the outcomes that are drawn, counted, measured and handed over."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np

from ovolo.geometry.curve import Curve
from ovolo.geometry.mesh import Mesh
from ovolo.geometry.placement import Matrix
from ovolo.geometry.region import Region, hatched
from ovolo.geometry.solid import Copies, Shape, Solid
from ovolo.geometry.surface import Surface
from ovolo.meaning.colours import tint
from ovolo.problems import Failure
from ovolo.quantities.dimension import LENGTH
from ovolo.quantities.kinds import CURVE, GEOMETRY, REGION, SOLID, SURFACE, Kind, ListOf, PointKind
from ovolo.running.evaluate import LineOutcome
from ovolo.running.values import Gap
from ovolo.sheet import tree
from ovolo.words.measuring import overall, pieces


@dataclass(frozen=True, slots=True, eq=False)
class Placed:
    """One shape in n places: `matrices` is (n, 4, 4); `items` the index of each in its part."""

    shape: Shape
    matrices: Matrix
    items: np.ndarray[Any, Any]


@dataclass(frozen=True)
class Part:
    """A part by its name. `value` is a geometry or a list of it; gaps in it are left out."""

    name: str
    label: str
    colour: str
    kind: Kind | None
    value: Any
    line: int
    hatch: tuple[float, float] | None = None
    """Angle (radians) and spacing (mm) of the hatch of its regions."""

    density: float | None = None
    """kg/mm³ of what it is made of."""

    @property
    def mass(self) -> float | None:
        """kg, of solids whose material is said."""
        if self.density is None or self.volume is None:
            return None
        return self.volume * self.density

    @property
    def hatching(self) -> np.ndarray[Any, Any]:
        """The lines of its hatch in space, (n, 2, 3); none where it cannot be made."""
        return self._hatching[0]

    @property
    def hatch_failure(self) -> Failure | None:
        """What stands against its hatch."""
        return self._hatching[1]

    @cached_property
    def _hatching(self) -> tuple[np.ndarray[Any, Any], Failure | None]:
        nothing = np.empty((0, 2, 3))
        if self.hatch is None:
            return nothing, None
        try:
            found = [hatched(region, *self.hatch) for region in self.regions]
        except Failure as failure:
            return nothing, failure
        return (np.concatenate(found) if found else nothing), None

    @cached_property
    def count(self) -> int:
        """How many items it has."""
        return sum(_count(p) for p in _groups(self.value) if not isinstance(p, Gap))

    @cached_property
    def groups(self) -> list[Placed]:
        """Its solids gathered by shape, so that copies stay one shape."""
        found: dict[str, tuple[Shape, list[Matrix], list[Any]]] = {}
        at = 0
        for piece in _groups(self.value):
            if isinstance(piece, Solid | Copies):
                matrices = piece.matrices if isinstance(piece, Copies) else piece.matrix[None]
                entry = found.setdefault(piece.shape.key, (piece.shape, [], []))
                entry[1].append(matrices)
                entry[2].append(np.arange(at, at + len(matrices)))
            at += _count(piece)
        return [
            Placed(shape, np.concatenate(matrices), np.concatenate(items))
            for shape, matrices, items in found.values()
        ]

    @property
    def regions(self) -> list[Region]:
        return [piece for piece in pieces(self.value) if isinstance(piece, Region)]

    @property
    def curves(self) -> list[Curve]:
        return [piece for piece in pieces(self.value) if isinstance(piece, Curve)]

    @property
    def surfaces(self) -> list[Surface]:
        return [piece for piece in pieces(self.value) if isinstance(piece, Surface)]

    @property
    def points(self) -> np.ndarray[Any, Any]:
        """The points (n, 3) in it; a part has none, construction geometry may."""
        found = [p.reshape(-1, 3) for p in _groups(self.value) if isinstance(p, np.ndarray)]
        return np.concatenate(found) if found else np.empty((0, 3))

    @cached_property
    def triangles(self) -> int:
        return sum(group.shape.triangle_count * len(group.matrices) for group in self.groups)

    @cached_property
    def volume(self) -> float | None:
        """mm³, of solids."""
        if self.kind != SOLID:
            return None
        return float(sum(piece.volume for piece in pieces(self.value)))

    @cached_property
    def area(self) -> float | None:
        """mm², of regions and surfaces, and of the surface of solids."""
        if self.kind not in (SOLID, REGION, SURFACE):
            return None
        return float(sum(piece.area for piece in pieces(self.value)))

    @property
    def length(self) -> float | None:
        """mm, of curves."""
        if self.kind != CURVE:
            return None
        return float(sum(piece.length for piece in pieces(self.value)))

    @cached_property
    def bounds(self) -> list[list[float]] | None:
        if not self.count:
            return None
        found: list[list[float]] = overall(self.value).tolist()
        return found

    @cached_property
    def closed(self) -> bool:
        """Whether every solid in it is watertight."""
        return self.kind == SOLID and all(group.shape.closed for group in self.groups)

    def meshes(self) -> Iterator[Mesh]:
        """The mesh of every solid where it stands."""
        for group in self.groups:
            for matrix in group.matrices:
                yield Solid(group.shape, matrix).mesh

    def as_json(self) -> dict[str, Any]:
        return {
            "label": self.label,
            "items": self.count,
            "volume": self.volume,
            "area": self.area,
            "length": self.length,
            "bounds": self.bounds,
            "closed": self.closed,
            "triangles": self.triangles,
            **({} if self.mass is None else {"mass": self.mass}),
        }


def part_of(name: str, content: tree.Part, line: LineOutcome) -> Part:
    kind = line.line.kind
    while isinstance(kind, ListOf):
        kind = kind.item
    colour = tint(content.colour)
    terms = line.result.terms if line.result is not None else {}
    hatch = None
    if "hatch angle" in terms:
        hatch = float(terms["hatch angle"]), float(terms["hatch spacing"])
    at = line.line.statement.line
    density = float(terms["density"]) if "density" in terms else None
    return Part(name, content.label, colour, kind, line.value, at, hatch, density)


def construction_of(line: LineOutcome) -> Part | None:
    """The geometry of a line that is no part, to be shown for once; None where it has none."""
    kind = line.line.kind
    while isinstance(kind, ListOf):
        kind = kind.item
    if not line.has_value or not (isinstance(kind, PointKind) or kind in GEOMETRY):
        return None
    if isinstance(kind, PointKind) and kind.dimension != LENGTH:
        return None
    name = line.line.name or ""
    return Part(name, "", "", kind, line.value, line.line.statement.line)


def _groups(value: Any) -> Iterator[Any]:
    """Single geometries, copies of one solid, and gaps, within anything made of them."""
    if isinstance(value, list):
        for item in value:
            yield from _groups(item)
    else:
        yield value


def _count(piece: Any) -> int:
    """How many places of the list a piece takes; a gap takes one, too."""
    return len(piece) if isinstance(piece, Copies) else 1
