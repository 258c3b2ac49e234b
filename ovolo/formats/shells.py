"""The closed surfaces of a file, put together to what they enclose.

A mesh often holds several: bodies beside each other, hollows within them, bodies that touch or overlap. The kernel adds up
what each encloses, so that what lies in two bodies would count twice, walls between bodies that touch be surface, and a body
that is inside out be taken from the others.
"""

from __future__ import annotations

import itertools
from collections.abc import Sequence

import manifold3d
import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from ovolo.formats.mending import half_edges
from ovolo.geometry.groups import groups_of
from ovolo.geometry.meshes.mesh import Mesh
from ovolo.geometry.solids.solid import kernels_own, manifold_of, near_each_other, united

_SAME = 1e-9
"""By what share two sums of the same volumes or surfaces may differ."""


def enclosed(mesh: Mesh, report: list[str]) -> manifold3d.Manifold:
    """What the surfaces of a closed mesh enclose; the mesh as it is, unless something had to be put right, which `report` is
    told."""
    surfaces = [body for one in _surfaces(mesh) for body in _apart(one)]
    boxes = np.array([one.bounding_box() for one in surfaces]).reshape(-1, 2, 3)
    groups = near_each_other(boxes)
    if len(groups) == len(surfaces) and all(one.volume() > 0 for one in surfaces):
        return manifold_of(mesh)
    found = [_together([surfaces[at] for at in some]) for some in groups]
    told = len(report)
    if turned := sum(one.turned for one in found):
        report.append(f"{turned} of {len(surfaces)} closed surfaces turned inside out")
    if any(one.crossing for one in found):
        report.append("what lies in several closed surfaces counts once")
    elif any(one.touching for one in found):
        report.append("bodies that touch joined")
    return manifold_of(mesh) if len(report) == told else united([one.body for one in found])


class _Found(Struct, frozen=True):
    """What some surfaces enclose, how many of them were inside out, and whether some cross or lie in each other, or touch."""

    body: manifold3d.Manifold
    turned: int
    crossing: bool
    touching: bool


def _together(surfaces: Sequence[manifold3d.Manifold]) -> _Found:
    """What surfaces that may touch enclose: what runs the other way than a larger one that it lies in is a hollow."""
    signed = np.array([one.volume() for one in surfaces])
    inside_out = bool(signed.sum() < 0)
    signed = -signed if inside_out else signed
    bodies = [_outside_out(one) for one in surfaces]
    whole, strays = manifold3d.Manifold(), 0
    by_size = np.argsort(-np.abs(signed), kind="stable").tolist()
    for hollow, run in itertools.groupby(by_size, lambda at: bool(signed[at] < 0)):
        some = list(run)
        if hollow:
            lost = _beside([bodies[at] for at in some], whole)
            whole -= united([bodies[at] for at in some])
            some = [at for at, outside in zip(some, lost, strict=True) if outside]
            signed[some] *= -1
            strays += len(some)
        whole = united([whole, *(bodies[at] for at in some)])
    surface = sum(one.surface_area() for one in bodies)
    return _Found(
        whole,
        len(surfaces) - strays if inside_out else strays,
        bool(abs(whole.volume() - signed.sum()) > _SAME * np.abs(signed).sum()),
        bool(abs(whole.surface_area() - surface) > _SAME * surface),
    )


def _outside_out(surface: manifold3d.Manifold) -> manifold3d.Manifold:
    if surface.volume() >= 0:
        return surface
    raw = surface.to_mesh64()
    corners, triangles = np.array(raw.vert_properties[:, :3]), np.array(raw.tri_verts[:, ::-1])
    return kernels_own(Mesh(corners, triangles.astype(np.int32)))


def _beside(bodies: Sequence[manifold3d.Manifold], whole: manifold3d.Manifold) -> list[bool]:
    """Of each body whether it has nothing in common with another."""
    if (united(bodies) - whole).is_empty():
        return [False] * len(bodies)
    return [(whole ^ body).is_empty() for body in bodies]


def _surfaces(mesh: Mesh) -> list[Mesh]:
    """The surfaces of a mesh, each of triangles that hang together by their edges."""
    _, edge, _ = half_edges(mesh.triangles.astype(np.int64))
    order = np.argsort(edge, kind="stable")
    same = edge[order[1:]] == edge[order[:-1]]
    beside = np.column_stack([order[:-1][same] // 3, order[1:][same] // 3])
    label = groups_of(beside, len(mesh.triangles))
    if not label.any():
        return [mesh]
    by_surface = np.argsort(label, kind="stable")
    parts = np.split(mesh.triangles[by_surface], np.cumsum(np.bincount(label))[:-1])
    return [_alone(mesh, part) for part in parts]


def _alone(mesh: Mesh, triangles: NDArray[np.int32]) -> Mesh:
    """Some triangles of a mesh, with the corners that they use."""
    used, own = np.unique(triangles, return_inverse=True)
    return Mesh(mesh.corners[used], own.reshape(-1, 3).astype(np.int32))


def _apart(surface: Mesh) -> list[manifold3d.Manifold]:
    """A surface as the kernel has it: several, where they have but edges in common."""
    whole = kernels_own(surface)
    _, _, counts = half_edges(surface.triangles.astype(np.int64))
    return whole.decompose() if counts.max() > 2 else [whole]
