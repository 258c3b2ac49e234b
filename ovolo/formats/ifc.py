"""IFC4 (ISO 16739-1), written with ifcopenshell: every part an assembly, every item a proxy in it;
copies of a shape share one representation map. Lengths are in mm.
"""

from __future__ import annotations

import uuid
from collections.abc import Iterable, Iterator, Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ovolo.formats.format import SOLIDS, Format
from ovolo.geometry.mesh import Mesh
from ovolo.geometry.placement import determinant
from ovolo.geometry.solid import Shape, Solid
from ovolo.outcome.part import Part
from ovolo.sheet.colours import channels

Floats = NDArray[np.float64]
_MIRROR = np.diag([-1.0, 1.0, 1.0, 1.0])


def write_ifc(parts: Sequence[Part], title: str) -> bytes:
    model = _Model(title or "Study")
    for part in parts:
        model.add_part(part)
    return model.written()


class _Model:
    """A project with one storey, in which the parts stand."""

    def __init__(self, title: str) -> None:
        import ifcopenshell

        self.title, self.count = title, 0
        self.file = ifcopenshell.file(schema="IFC4")
        self.origin = self.make("IfcAxis2Placement3D", self.point((0.0, 0.0, 0.0)))
        self.context = self.make(
            "IfcGeometricRepresentationContext", None, "Model", 3, 1e-5, self.origin, None
        )
        self.maps: dict[tuple[str, bool, str], Any] = {}
        self.styles: dict[str, Any] = {}
        self.storey = self._setting(title)
        self.assemblies: list[Any] = []

    def make(self, kind: str, *values: Any) -> Any:
        return self.file.create_entity(kind, *values)

    def rooted(self, kind: str, **values: Any) -> Any:
        """An entity with an identity that is the same each time the same study is written."""
        import ifcopenshell.guid

        self.count += 1
        name = f"{self.title}/{self.count}/{kind}"
        identity = ifcopenshell.guid.compress(uuid.uuid5(uuid.NAMESPACE_URL, name).hex)
        return self.file.create_entity(kind, GlobalId=identity, **values)

    def point(self, place: Iterable[float]) -> Any:
        return self.make("IfcCartesianPoint", [float(one) for one in place])

    def direction(self, way: Floats) -> Any:
        return self.make("IfcDirection", [float(one) for one in way])

    def placement(self, above: Any = None) -> Any:
        return self.make("IfcLocalPlacement", above, self.origin)

    def _setting(self, title: str) -> Any:
        units = [
            self.make("IfcSIUnit", None, "LENGTHUNIT", "MILLI", "METRE"),
            self.make("IfcSIUnit", None, "AREAUNIT", None, "SQUARE_METRE"),
            self.make("IfcSIUnit", None, "VOLUMEUNIT", None, "CUBIC_METRE"),
            self.make("IfcSIUnit", None, "PLANEANGLEUNIT", None, "RADIAN"),
        ]
        project = self.rooted(
            "IfcProject", Name=title, RepresentationContexts=[self.context],
            UnitsInContext=self.make("IfcUnitAssignment", units),
        )  # fmt: skip
        above, place = project, None
        for kind in ("IfcSite", "IfcBuilding", "IfcBuildingStorey"):
            place = self.placement(place)
            inner = self.rooted(kind, Name=title, ObjectPlacement=place, CompositionType="ELEMENT")
            self.rooted("IfcRelAggregates", RelatingObject=above, RelatedObjects=[inner])
            above = inner
        return above

    def add_part(self, part: Part) -> None:
        """One item stands for itself; several are gathered in an assembly."""
        title = part.label or part.name
        several = part.count > 1
        placed = self.placement(self.storey.ObjectPlacement)
        items = [
            self.rooted(
                "IfcBuildingElementProxy", Name=f"{title} {item + 1}" if several else title,
                ObjectPlacement=self.placement(placed) if several else placed,
                Representation=self.make("IfcProductDefinitionShape", None, None, [self._shape(mapped)]),
                Tag=f"{part.name}.{item}" if several else part.name,
            )
            for item, mapped in self._mapped(part)
        ]  # fmt: skip
        if not several:
            self.assemblies += items
            return
        whole = self.rooted("IfcElementAssembly", Name=title, ObjectPlacement=placed, Tag=part.name)
        self.rooted("IfcRelAggregates", RelatingObject=whole, RelatedObjects=items)
        self.assemblies.append(whole)

    def _shape(self, mapped: Any) -> Any:
        return self.make(
            "IfcShapeRepresentation", self.context, "Body", "MappedRepresentation", [mapped]
        )

    def _mapped(self, part: Part) -> Iterator[tuple[int, Any]]:
        """Each item as a map in its place, by its number."""
        for group, colour in part.coloured_groups:
            for matrix, item in zip(group.matrices, group.items, strict=True):
                yield int(item), self._item(group.shape, matrix, colour)

    def _item(self, shape: Shape, matrix: Floats, colour: str) -> Any:
        """A map holds no shear, so what is sheared has a map of its own."""
        gram = matrix[:3, :3].T @ matrix[:3, :3]
        sheared = np.abs(gram - np.diag(np.diag(gram))).max() > 1e-9 * float(gram.max())
        if sheared:
            source = self._map(f"{shape.key}:{matrix.tobytes().hex()}", False, colour, Solid(shape, matrix).mesh)  # fmt: skip
            return self.make("IfcMappedItem", source, self._operator(np.eye(4)))
        mirrored = bool(determinant(matrix) < 0)
        mesh = shape.mesh
        if mirrored:
            mesh = Mesh(mesh.corners * [-1.0, 1.0, 1.0], mesh.triangles[:, ::-1])
            matrix = matrix @ _MIRROR
        source = self._map(shape.key, mirrored, colour, mesh)
        return self.make("IfcMappedItem", source, self._operator(matrix))

    def _operator(self, matrix: Floats) -> Any:
        scales = np.linalg.norm(matrix[:3, :3], axis=0)
        axes = [self.direction(matrix[:3, at] / scales[at]) for at in range(3)]
        return self.make(
            "IfcCartesianTransformationOperator3DnonUniform", axes[0], axes[1],
            self.point(matrix[:3, 3]), float(scales[0]), axes[2], float(scales[1]), float(scales[2]),
        )  # fmt: skip

    def _map(self, key: str, mirrored: bool, colour: str, mesh: Mesh) -> Any:
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

    def _style(self, colour: str) -> Any:
        if colour not in self.styles:
            shares = [channel / 255 for channel in channels(colour)]
            shading = self.make("IfcSurfaceStyleShading", self.make("IfcColourRgb", None, *shares), 0.0)  # fmt: skip
            self.styles[colour] = self.make("IfcSurfaceStyle", colour, "BOTH", [shading])
        return self.styles[colour]

    def written(self) -> bytes:
        self.rooted(
            "IfcRelContainedInSpatialStructure", RelatedElements=self.assemblies,
            RelatingStructure=self.storey,
        )  # fmt: skip
        header = self.file.header
        header.file_name.name = self.title
        header.file_name.time_stamp = "1970-01-01T00:00:00"
        header.file_name.originating_system = "Ovolo"
        return bytes(self.file.to_string(), "utf-8")


FORMATS = (
    Format(
        "ifc", "IFC", 60, kinds=SOLIDS, said="solid", offered="Solids as IFC",
        write=lambda outcome, parts, settled: write_ifc(parts, outcome.program.title),
    ),
)  # fmt: skip
