"""Parts: the outcomes that are drawn, counted, measured and handed over."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from functools import cached_property
from typing import Any

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from ovolo.geometry.coat import Coat, everything, places_of
from ovolo.geometry.curves.curve import Curve
from ovolo.geometry.meshes.mesh import Mesh
from ovolo.geometry.placement import Matrix
from ovolo.geometry.regions.region import Region, hatched
from ovolo.geometry.solids.solid import Copies, Shape, Solid, drawn_bounds
from ovolo.geometry.surfaces.surface import Surface
from ovolo.geometry.thing import Drawable, Thing
from ovolo.meaning import checked_tree
from ovolo.meaning.scope import SheetFunction
from ovolo.problems import Failure
from ovolo.quantities.dimension import LENGTH
from ovolo.quantities.kinds import (
    CURVE,
    GEOMETRY,
    REGION,
    SOLID,
    SURFACE,
    Kind,
    PointKind,
    innermost,
)
from ovolo.quantities.show import DisplayUnits
from ovolo.running.evaluate import LineOutcome
from ovolo.running.tinting import Tinting, TintSource, tint_source
from ovolo.running.values import Gap
from ovolo.sheet import tree
from ovolo.sheet.colours import tint
from ovolo.words.measuring import overall, pieces


class Placed(Struct, frozen=True, eq=False):
    """One shape in n places: `matrices` is (n, 4, 4); `items` the index of each in its part."""

    shape: Shape
    matrices: Matrix
    items: np.ndarray[Any, Any]
    coat: Coat | None = None


class Part(Struct, frozen=True, dict=True):
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

    tint_source: TintSource | None = None
    """What its items are coloured by, where that is said."""

    colour_said: bool = False
    """Whether its colour is said here, and not only where its items come from."""

    role: str = ""
    """What it is where the study is printed: an area for `support`, or for `no support`."""

    @property
    def tinting(self) -> Tinting | None:
        """The colours of its items, and the legend; none where they cannot be made."""
        return self._tinting[0]

    @property
    def tint_failure(self) -> Failure | None:
        """What stands against colouring it."""
        return self._tinting[1]

    @cached_property
    def _tinting(self) -> tuple[Tinting | None, Failure | None]:
        if self.tint_source is not None:
            try:
                return self.tint_source.tinting(self.value), None
            except Failure as failure:
                return None, failure
        colours = {coat.colour for coat in self.coats if coat is not None and coat.colour}
        if self.colour_said or not colours or colours == {self.colour}:
            return None, None
        return _tinting_of_coats(self.coats, self.colour), None

    @cached_property
    def coats(self) -> list[Coat | None]:
        """What clings to each of its items from the study that it comes from."""
        return [
            coat
            for piece in everything(self.value)
            for coat in [getattr(piece, "coat", None)] * places_of(piece)
        ]

    @property
    def mass(self) -> float | None:
        """kg, of solids whose material is said here or where they come from."""
        if self.kind != SOLID:
            return None
        masses = [mass_of(piece, self.density) for piece in pieces(self.value)]
        known = [one for one in masses if one is not None]
        return sum(known) if known and len(known) == len(masses) else None

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
        return sum(places_of(p) for p in everything(self.value) if not isinstance(p, Gap))

    @cached_property
    def groups(self) -> list[Placed]:
        """Its solids gathered by shape, so that copies stay one shape."""
        found: dict[object, tuple[Solid | Copies, list[Matrix], list[Any]]] = {}
        at = 0
        for piece in everything(self.value):
            if isinstance(piece, Solid | Copies):
                matrices = piece.matrices if isinstance(piece, Copies) else piece.matrix[None]
                entry = found.setdefault((piece.shape.key, piece.coat), (piece, [], []))
                entry[1].append(matrices)
                entry[2].append(np.arange(at, at + len(matrices)))
            at += places_of(piece)
        return [
            Placed(one.shape, np.concatenate(matrices), np.concatenate(items), one.coat)
            for one, matrices, items in found.values()
        ]

    @property
    def regions(self) -> list[Region]:
        return [piece for _, piece in self.indexed_regions]

    @property
    def curves(self) -> list[Curve]:
        return [piece for _, piece in self.indexed_curves]

    @property
    def surfaces(self) -> list[Surface]:
        return [piece for _, piece in self.indexed_surfaces]

    @property
    def indexed_regions(self) -> list[tuple[int, Region]]:
        """Its regions, each with the number of its item."""
        return [(at, piece) for at, piece in self._indexed() if isinstance(piece, Region)]

    @property
    def indexed_curves(self) -> list[tuple[int, Curve]]:
        return [(at, piece) for at, piece in self._indexed() if isinstance(piece, Curve)]

    @property
    def indexed_surfaces(self) -> list[tuple[int, Surface]]:
        return [(at, piece) for at, piece in self._indexed() if isinstance(piece, Surface)]

    @property
    def indexed_drawables(self) -> list[tuple[int, Drawable]]:
        """What has a picture of its own, each with the number of its item; what is empty has none."""
        return [(at, piece) for at, piece in self._indexed() if isinstance(piece, Drawable) and not piece.is_empty]  # fmt: skip

    def _indexed(self) -> Iterator[tuple[int, Any]]:
        """Its pieces with their numbers; a gap has one, too."""
        at = 0
        for piece in everything(self.value):
            yield at, piece
            at += places_of(piece)

    def colour_of(self, item: int) -> str:
        """The colour of one of its items, #RRGGBB."""
        return self.colour if self.tinting is None else self.tinting.of_items[item]

    @property
    def points(self) -> np.ndarray[Any, Any]:
        """The points (n, 3) in it; a part has none, construction geometry may."""
        found = [p.reshape(-1, 3) for p in everything(self.value) if isinstance(p, np.ndarray)]
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
    def drawn_bounds(self) -> list[list[float]] | None:
        """The least and greatest corner of what is drawn of it: by its chords, for the view alone."""
        found = [drawn_bounds(group.shape, group.matrices) for group in self.groups if not group.shape.is_empty]  # fmt: skip
        found += [one.drawn_bounds() for _, one in self.indexed_drawables]
        if not found:
            return None
        stacked = np.array(found)
        bounds: list[list[float]] = [stacked[:, 0].min(axis=0).tolist(), stacked[:, 1].max(axis=0).tolist()]  # fmt: skip
        return bounds

    def bounds_of(self, item: int) -> np.ndarray[Any, Any] | None:
        """The least and greatest corner (2, 3) of one of its items; None where there is none."""
        for at, piece in self._indexed():
            if at <= item < at + places_of(piece) and isinstance(piece, Thing):
                own = piece[item - at] if isinstance(piece, Copies) else piece
                bounds: np.ndarray[Any, Any] = own.bounds()
                return bounds
        return None

    @cached_property
    def closed(self) -> bool:
        """Whether every solid in it is watertight."""
        return self.kind == SOLID and all(group.shape.closed for group in self.groups)

    @property
    def coloured_groups(self) -> list[tuple[Placed, str]]:
        """Its solids gathered by shape and by colour."""
        if self.tinting is None:
            return [(group, self.colour) for group in self.groups]
        colours = np.array(self.tinting.of_items, dtype=object)
        found = []
        for group in self.groups:
            own = colours[group.items]
            for colour in dict.fromkeys(own):
                at = np.flatnonzero(own == colour)
                found.append(
                    (Placed(group.shape, group.matrices[at], group.items[at], group.coat), colour)
                )
        return found

    def meshes(self) -> Iterator[Mesh]:
        """The mesh of every solid where it stands."""
        for group in self.groups:
            for matrix in group.matrices:
                yield Solid(group.shape, matrix).mesh

    def _exactness(self) -> dict[str, Any]:
        """Whether what is measured of it is exact, else by what share it may be wrong."""
        every = [
            piece.within_of(one) for piece in pieces(self.value) for one in ("volume", "surface")
        ]
        within = max(every, default=0.0)
        return {"exact": within == 0, **({} if within == 0 else {"within": within})}

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
            **self._exactness(),
            **({} if self.mass is None else {"mass": self.mass}),
        }


def part_of(name: str, content: tree.Part, line: LineOutcome, units: DisplayUnits) -> Part:
    kind = innermost(line.line.kind)
    colour = tint(content.colour) if content.colour else _colour_of_all(line.value)
    terms = line.result.terms if line.result is not None else {}
    hatch = None
    if "hatch angle" in terms:
        hatch = float(terms["hatch angle"]), float(terms["hatch spacing"])
    at = line.line.statement.line
    density = float(terms["density"]) if "density" in terms else None
    return Part(
        name, content.label, colour, kind, line.value, at, hatch, density,
        tint_source(content, terms, line.line.checked, units), bool(content.colour), content.role,
    )  # fmt: skip


def _colour_of_all(value: Any) -> str:
    """The colour that all pieces bring along; that of what has none where they differ."""
    colours = {getattr(piece.coat, "colour", "") for piece in everything(value) if hasattr(piece, "coat")}  # fmt: skip
    return tint(colours.pop() if len(colours) == 1 else "")


def mass_of(piece: Solid | Copies, density: float | None) -> float | None:
    """kg of a solid by a density (kg/mm³), or by that of where it comes from; None without either."""
    if density is None and piece.coat is not None:
        density = piece.coat.density
    return None if density is None else piece.volume * density


def _tinting_of_coats(coats: list[Coat | None], plain: str) -> Tinting:
    """The colours of items that come from other studies, and whose they are."""
    colours = [coat.colour if coat is not None and coat.colour else plain for coat in coats]
    legend = {
        coat.label: colour
        for coat, colour in zip(coats, colours, strict=True)
        if coat is not None and coat.colour
    }
    return Tinting(tuple(colours), tuple(legend.items()))


LOOSE = (SOLID, REGION, SURFACE)
"""What is drawn although no part shows it: else it would be nowhere to be seen."""


def loose_parts(lines: Sequence[LineOutcome]) -> list[tuple[LineOutcome, Part]]:
    """The solids, regions and surfaces that are no part yet, as parts in plain plaster: lines that no
    other geometry and no function is made from. What is only placed once more has not gone into
    anything: it is still to be seen, unless that is a part."""
    used = {name for one in lines if _makes_geometry(one) for name in _gone_into(one)}
    return [
        (one, replace(made, colour=tint("")))
        for one in lines
        if isinstance(one.line.content, tree.Formula) and one.line.name not in used
        if innermost(one.line.kind) in LOOSE
        for made in [construction_of(one)]
        if made is not None
    ]


def _gone_into(line: LineOutcome) -> set[str]:
    """The names that a line makes its geometry from."""
    names = set(line.line.needs)
    value = line.line.checked.value if line.line.checked is not None else None
    if isinstance(line.line.content, tree.Part):
        return names
    while isinstance(value, checked_tree.WordCall) and value.word.trade == "placing":
        value = value.positional[0] if value.positional else None
    return names - {value.name} if isinstance(value, checked_tree.Line) else names


def _makes_geometry(line: LineOutcome) -> bool:
    kind = innermost(line.line.kind)
    made = kind in GEOMETRY or isinstance(kind, SheetFunction)
    return made or isinstance(line.line.content, tree.Part)  # also where that part fails


def construction_of(line: LineOutcome) -> Part | None:
    """The geometry of a line that is no part, to be shown for once; None where it has none."""
    kind = innermost(line.line.kind)
    if not line.has_value or not (isinstance(kind, PointKind) or kind in GEOMETRY):
        return None
    if isinstance(kind, PointKind) and kind.dimension != LENGTH:
        return None
    name = line.line.name or ""
    return Part(name, "", "", kind, line.value, line.line.statement.line)
