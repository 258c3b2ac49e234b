"""IFC4 (ISO 16739-1): every part an assembly, every item a proxy in it; copies of a shape share one
representation map, which is that of their type. A placed study is an assembly in its own place; those
that are set alike are occurrences of one type. Lengths are in mm.
"""

from __future__ import annotations

import string
import uuid
from collections.abc import Iterable, Iterator, Sequence
from typing import Any

import numpy as np

from ovolo.formats.exchange import DERIVED, Entities, Entity, Word, exchange_file
from ovolo.formats.format import CHORDS, SOLIDS, Format
from ovolo.geometry.meshes.mesh import Mesh
from ovolo.geometry.placement import Matrix, determinant, keeps_lengths
from ovolo.geometry.same import SAME_SHARE
from ovolo.geometry.solids.solid import Shape, Solid
from ovolo.geometry.types import Floats
from ovolo.outcome.outcome import Outcome
from ovolo.outcome.part import Part
from ovolo.outcome.placed_pieces import PlacedPiece, placed_piece
from ovolo.sheet.colours import channels

_MIRROR = np.diag([-1.0, 1.0, 1.0, 1.0])


def write_ifc(outcome: Outcome, parts: Sequence[Part]) -> bytes:
    model = _Model(outcome.program.title or "Study")
    for part in parts:
        model.add_part(part, placed_piece(outcome, part))
    return model.written()


class _Model:
    """A project with one storey, in which the parts stand."""

    def __init__(self, title: str) -> None:
        self.title, self.count = title, 0
        self.file = Entities()
        self.make = self.file.make
        self.origin = self.make("IfcAxis2Placement3D", self.point((0.0, 0.0, 0.0)), None, None)
        self.context = self.make(
            "IfcGeometricRepresentationContext", None, "Model", 3, 1e-5, self.origin, None
        )
        self.maps: dict[tuple[str, bool, str], Entity] = {}
        self.styles: dict[str, Entity] = {}
        self.storey_place, self.storey = self._setting(title)
        self.assemblies: list[Entity] = []
        self.occurrences: dict[str, tuple[PlacedPiece, list[Entity]]] = {}
        """Of placed studies, those that are alike together."""

        self.shaped: dict[Entity, tuple[str, list[Entity]]] = {}
        """The items of each map, with the name that their type has."""

    def rooted(self, kind: str, *values: Any) -> Entity:
        """An entity with an identity that is the same each time the same study is written; it has
        no owner's history."""
        self.count += 1
        name = f"{self.title}/{self.count}/{kind}"
        identity = _compressed(uuid.uuid5(uuid.NAMESPACE_URL, name))
        return self.make(kind, identity, None, *values)

    def aggregated(self, above: Entity, parts: list[Entity]) -> None:
        self.rooted("IfcRelAggregates", None, None, above, parts)

    def point(self, place: Iterable[float]) -> Entity:
        return self.make("IfcCartesianPoint", [float(one) for one in place])

    def direction(self, way: Floats) -> Entity:
        return self.make("IfcDirection", [float(one) for one in way])

    def placement(self, above: Entity | None = None, place: Matrix | None = None) -> Entity:
        """In a place that keeps lengths; at the origin of what is above, where none is said."""
        if place is None:
            return self.make("IfcLocalPlacement", above, self.origin)
        axes = self.make(
            "IfcAxis2Placement3D", self.point(place[:3, 3]),
            self.direction(place[:3, 2]), self.direction(place[:3, 0]),
        )  # fmt: skip
        return self.make("IfcLocalPlacement", above, axes)

    def _setting(self, title: str) -> tuple[Entity, Entity]:
        """The storey with its place, in a building, a site and a project of the same name."""
        units = [
            self.make("IfcSIUnit", DERIVED, Word(kind), Word(prefix) if prefix else None, Word(unit))
            for kind, prefix, unit in (
                ("LENGTHUNIT", "MILLI", "METRE"), ("AREAUNIT", "", "SQUARE_METRE"),
                ("VOLUMEUNIT", "", "CUBIC_METRE"), ("PLANEANGLEUNIT", "", "RADIAN"),
            )
        ]  # fmt: skip
        above = self.rooted(
            "IfcProject", title, None, None, None, None, [self.context],
            self.make("IfcUnitAssignment", units),
        )  # fmt: skip
        place: Entity | None = None
        for kind, further in (("IfcSite", 5), ("IfcBuilding", 3), ("IfcBuildingStorey", 1)):
            place = self.placement(place)
            inner = self.rooted(
                kind, title, None, None, place, None, None, Word("ELEMENT"), *[None] * further
            )
            self.aggregated(above, [inner])
            above = inner
        assert place is not None
        return place, above

    def add_part(self, part: Part, piece: PlacedPiece | None = None) -> None:
        """One item stands for itself; several, and what is a placed study, are gathered in an assembly."""
        title = part.label or part.name
        rigid = piece is not None and _is_rigid(piece.place)
        several = part.count > 1 or rigid
        place = piece.place if piece is not None and rigid else None
        placed = self.placement(self.storey_place, place)
        back: Matrix = np.linalg.inv(np.eye(4) if place is None else place).astype(np.float64)
        items = []
        for item, source, mapped in self._mapped(part, back):
            items.append(
                self.rooted(
                    "IfcBuildingElementProxy", f"{title} {item + 1}" if several else title, None, None,
                    self.placement(placed) if several else placed,
                    self.make("IfcProductDefinitionShape", None, None, [self._shape(mapped)]),
                    f"{part.name}.{item}" if several else part.name, None,
                )
            )  # fmt: skip
            self.shaped.setdefault(source, (title, []))[1].append(items[-1])
        if not several:
            self.assemblies += items
            return
        whole = self.rooted(
            "IfcElementAssembly", title, None, None, placed, None, part.name, None, None
        )
        self.aggregated(whole, items)
        self.assemblies.append(whole)
        if piece is not None and rigid:
            self.occurrences.setdefault(piece.alike, (piece, []))[1].append(whole)

    def _shape(self, mapped: Entity) -> Entity:
        return self.make(
            "IfcShapeRepresentation", self.context, "Body", "MappedRepresentation", [mapped]
        )

    def _mapped(self, part: Part, back: Matrix) -> Iterator[tuple[int, Entity, Entity]]:
        """Each item by its number: its map, and the map in its place; `back` takes it to where the
        assembly has its origin."""
        for group, colour in part.coloured_groups:
            for matrix, item in zip(group.matrices, group.items, strict=True):
                yield int(item), *self._item(group.shape, back @ matrix, colour)

    def _item(self, shape: Shape, matrix: Floats, colour: str) -> tuple[Entity, Entity]:
        """A map holds no shear, so what is sheared has a map of its own."""
        gram = matrix[:3, :3].T @ matrix[:3, :3]
        sheared = np.abs(gram - np.diag(np.diag(gram))).max() > SAME_SHARE * float(gram.max())
        if sheared:
            source = self._map(f"{shape.key}:{matrix.tobytes().hex()}", False, colour, Solid(shape, matrix).mesh)  # fmt: skip
            return source, self.make("IfcMappedItem", source, self._operator(np.eye(4)))
        mirrored = bool(determinant(matrix) < 0)
        mesh = shape.mesh
        if mirrored:
            mesh = Mesh(mesh.corners * [-1.0, 1.0, 1.0], mesh.triangles[:, ::-1])
            matrix = matrix @ _MIRROR
        source = self._map(shape.key, mirrored, colour, mesh)
        return source, self.make("IfcMappedItem", source, self._operator(matrix))

    def _operator(self, matrix: Floats) -> Entity:
        scales = np.linalg.norm(matrix[:3, :3], axis=0)
        axes = [self.direction(matrix[:3, at] / scales[at]) for at in range(3)]
        return self.make(
            "IfcCartesianTransformationOperator3DnonUniform", axes[0], axes[1],
            self.point(matrix[:3, 3]), float(scales[0]), axes[2], float(scales[1]), float(scales[2]),
        )  # fmt: skip

    def _map(self, key: str, mirrored: bool, colour: str, mesh: Mesh) -> Entity:
        known = self.maps.get((key, mirrored, colour))
        if known is None:
            faces = self.make(
                "IfcTriangulatedFaceSet",
                self.make("IfcCartesianPointList3D", mesh.corners.tolist()),
                None, True, (mesh.triangles + 1).tolist(), None,
            )  # fmt: skip
            self.make("IfcStyledItem", faces, [self._style(colour)], None)
            shape = self.make("IfcShapeRepresentation", self.context, "Body", "Tessellation", [faces])  # fmt: skip
            known = self.make("IfcRepresentationMap", self.origin, shape)
            self.maps[key, mirrored, colour] = known
        return known

    def _style(self, colour: str) -> Entity:
        if colour not in self.styles:
            shares = [channel / 255 for channel in channels(colour)]
            shading = self.make("IfcSurfaceStyleShading", self.make("IfcColourRgb", None, *shares), 0.0)  # fmt: skip
            self.styles[colour] = self.make("IfcSurfaceStyle", colour, Word("BOTH"), [shading])
        return self.styles[colour]

    def _types(self) -> None:
        """What all items of one map have in common, and all placed studies that are set alike."""
        undefined = Word("NOTDEFINED")
        for source, (title, items) in self.shaped.items():
            kind = self.rooted(
                "IfcBuildingElementProxyType", title, None, None, None, [source], None, None, undefined
            )  # fmt: skip
            self.rooted("IfcRelDefinesByType", None, None, items, kind)
        for piece, wholes in self.occurrences.values():
            kind = self.rooted(
                "IfcElementAssemblyType", piece.study, piece.settings or None, None, None, None, None, None, undefined
            )  # fmt: skip
            self.rooted("IfcRelDefinesByType", None, None, wholes, kind)

    def written(self) -> bytes:
        self._types()
        self.rooted("IfcRelContainedInSpatialStructure", None, None, self.assemblies, self.storey)
        return exchange_file(
            "ViewDefinition [CoordinationView]", self.title, "IFC4", self.file.said
        )


def _is_rigid(place: Matrix) -> bool:
    """Whether it keeps lengths, and left from right."""
    return keeps_lengths(place) and bool(determinant(place) > 0)


_DIGITS = string.digits + string.ascii_uppercase + string.ascii_lowercase + "_$"


def _compressed(identity: uuid.UUID) -> str:
    """An identity in 22 characters, as IFC writes it: the first byte in two figures to the base 64,
    then three bytes in four (buildingSMART, IFC GUID)."""
    first, rest = identity.bytes[0], identity.bytes[1:]
    numbers = [(first, 2), *((int.from_bytes(rest[at : at + 3]), 4) for at in range(0, 15, 3))]
    return "".join(
        _DIGITS[number >> 6 * (count - 1 - at) & 63]
        for number, count in numbers
        for at in range(count)
    )


FORMATS = (
    Format(
        "ifc", "IFC", 60, kinds=SOLIDS, said="solid", offered="Solids as IFC", options=(CHORDS,),
        write=lambda outcome, parts, settled: write_ifc(outcome, parts),
    ),
)  # fmt: skip
