"""3MF, written and read with lib3mf: named, coloured objects in mm; copies as placed items."""

from __future__ import annotations

import ctypes
import itertools
import uuid
from collections.abc import Sequence
from typing import Any

import numpy as np

from ovolo.geometry.meshes.mesh import Mesh
from ovolo.geometry.placement import Matrix
from ovolo.outcome.part import Part
from ovolo.problems import Failure
from ovolo.sheet.colours import channels


def write_3mf(parts: Sequence[Part], title: str) -> bytes:
    """Every shape of a part as an object, every place of it as an item to build."""
    import lib3mf

    wrapper = lib3mf.get_wrapper()
    model = wrapper.CreateModel()
    model.SetUnit(lib3mf.ModelUnit.MilliMeter)
    model.GetMetaDataGroup().AddMetaData("", "Title", title or "Study", "xs:string", True)
    colours = model.AddBaseMaterialGroup()
    for part in parts:
        materials: dict[str, int] = {}
        for number, (group, said) in enumerate(part.coloured_groups):
            if said not in materials:
                tint = wrapper.RGBAToColor(*channels(said), 255)
                materials[said] = colours.AddMaterial(part.label or part.name, tint)
            colour = materials[said]
            made = model.AddMeshObject()
            made.SetName(part.name if len(part.coloured_groups) == 1 else f"{part.name}.{number}")
            _fill(made, group.shape.mesh)
            made.SetObjectLevelProperty(colours.GetResourceID(), colour)
            for matrix in group.matrices:
                model.AddBuildItem(_upright(model, made, matrix, group.shape.mesh), _transform(matrix))  # fmt: skip
    _name_all(model)
    buffer: Any = model.QueryWriter("3mf").WriteToBuffer()
    return bytes(buffer)


def _name_all(model: Any) -> None:
    """The identifiers that the format wants (RFC 4122), counted: the same parts give the same bytes."""
    numbers = itertools.count()

    def name() -> str:
        return str(uuid.uuid5(uuid.NAMESPACE_OID, f"ovolo {next(numbers)}"))

    model.SetBuildUUID(name())
    for each, present in ((model.GetObjects(), "GetCurrentObject"), (model.GetBuildItems(), "GetCurrent")):  # fmt: skip
        while each.MoveNext():
            getattr(each, present)().SetUUID(name())


def _upright(model: Any, made: Any, matrix: Matrix, mesh: Mesh) -> Any:
    """The object, or for a mirrored place one of its own: the format allows none that turns a
    shape inside out."""
    if np.linalg.det(matrix[:3, :3]) > 0:
        return made
    mirrored = model.AddMeshObject()
    mirrored.SetName(made.GetName())
    _fill(mirrored, Mesh(mesh.corners * [-1.0, 1.0, 1.0], mesh.triangles[:, ::-1]))
    found = made.GetObjectLevelProperty()
    mirrored.SetObjectLevelProperty(found[0], found[1])
    return mirrored


def _fill(made: Any, mesh: Mesh) -> None:
    import lib3mf

    corners = np.ascontiguousarray(mesh.corners, dtype=np.float32)
    triangles = np.ascontiguousarray(mesh.triangles, dtype=np.uint32)
    made.SetGeometry(
        (lib3mf.Position * len(corners)).from_buffer_copy(corners.tobytes()),
        (lib3mf.Triangle * len(triangles)).from_buffer_copy(triangles.tobytes()),
    )


def _transform(matrix: Matrix) -> Any:
    import lib3mf

    if np.linalg.det(matrix[:3, :3]) < 0:
        matrix = matrix @ np.diag([-1.0, 1.0, 1.0, 1.0])
    made = lib3mf.Transform()
    for row in range(4):
        for column in range(3):
            made.Fields[row][column] = ctypes.c_float(float(matrix[column, row]))
    return made


_SIZES = (1e-3, 1.0, 10.0, 25.4, 304.8, 1000.0)
"""mm for a unit of a model, by the format's order: micron, mm, cm, inch, foot, metre."""


def meshes_of_3mf(data: bytes, name: str) -> list[Mesh]:
    """All items to build, where they stand, in mm, without supports. Raises Failure for what cannot be read."""
    import lib3mf

    wrapper = lib3mf.get_wrapper()
    model = wrapper.CreateModel()
    try:
        reader = model.QueryReader("3mf")
        reader.ReadFromBuffer(data)
    except lib3mf.ELib3MFException as error:
        raise Failure(f"{name} cannot be read as 3MF: {str(error)[:120]}") from None
    size = _SIZES[int(model.GetUnit())]
    found: list[Mesh] = []
    items = model.GetBuildItems()
    while items.MoveNext():
        item = items.GetCurrent()
        matrix = _matrix(item.GetObjectTransform())
        _collect(item.GetObjectResource(), matrix, size, found, 0)
    return found


def _matrix(transform: Any) -> Matrix:
    matrix = np.eye(4)
    for row in range(4):
        for column in range(3):
            matrix[column, row] = transform.Fields[row][column]
    return matrix


def _collect(resource: Any, matrix: Matrix, size: float, found: list[Mesh], depth: int) -> None:
    if depth > 20:
        raise Failure("its components are nested more than 20 deep")
    if resource.GetType() != type(resource.GetType()).Model:
        return  # what only holds the model up while it is printed, and what is no solid
    if resource.IsMeshObject():
        corners = np.array([list(p.Coordinates) for p in resource.GetVertices()], dtype=float)
        triangles = np.array([list(t.Indices) for t in resource.GetTriangleIndices()], dtype=np.int32)  # fmt: skip
        if len(triangles):
            placed = corners @ matrix[:3, :3].T + matrix[:3, 3]
            flipped = np.linalg.det(matrix[:3, :3]) < 0
            found.append(Mesh(placed * size, triangles[:, ::-1] if flipped else triangles))
        return
    for at in range(resource.GetComponentCount()):
        component = resource.GetComponent(at)
        _collect(component.GetObjectResource(), matrix @ _matrix(component.GetTransform()), size, found, depth + 1)  # fmt: skip
