"""The closed surfaces of a file, put together to what they enclose.

A mesh often holds several: bodies beside each other, hollows within them, bodies that overlap. The kernel adds up what
each encloses, so that what lies in two bodies would count twice, and a body that is inside out be taken from the others.
"""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass

import manifold3d
import numpy as np
from numpy.typing import NDArray

from ovolo.formats.mending import edges_of
from ovolo.geometry.meshes.mesh import Mesh
from ovolo.geometry.solids.solid import manifold_of, near_each_other, united

_SAME_VOLUME = 1e-9
"""By what share two sums of the same volumes may differ."""


def enclosed(mesh: Mesh, report: list[str]) -> manifold3d.Manifold:
    """What the surfaces of a closed mesh enclose; the mesh as it is, unless something had to be put right, which `report` is
    told."""
    surfaces = _surfaces(mesh)
    boxes = np.array([(one.corners.min(axis=0), one.corners.max(axis=0)) for one in surfaces])
    groups = near_each_other(boxes)
    if len(groups) == len(surfaces) and all(one.volume() > 0 for one in surfaces):
        return manifold_of(mesh)
    found = [_together([surfaces[at] for at in some]) for some in groups]
    told = len(report)
    if turned := sum(one.turned for one in found):
        report.append(f"{turned} of {len(surfaces)} closed surfaces turned inside out")
    if any(one.crossing for one in found):
        report.append("what lies in several closed surfaces counts once")
    return manifold_of(mesh) if len(report) == told else united([one.body for one in found])


@dataclass(frozen=True, slots=True)
class _Found:
    """What some surfaces enclose, how many of them were inside out, and whether some cross or lie in each other."""

    body: manifold3d.Manifold
    turned: int
    crossing: bool


def _together(surfaces: Sequence[Mesh]) -> _Found:
    """What surfaces that may touch enclose: what runs the other way than a larger one that it lies in is a hollow."""
    signed = np.array([one.volume() for one in surfaces])
    inside_out = bool(signed.sum() < 0)
    signed = -signed if inside_out else signed
    bodies = [manifold_of(one) for one in surfaces]
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
    crossing = abs(whole.volume() - signed.sum()) > _SAME_VOLUME * np.abs(signed).sum()
    return _Found(whole, len(surfaces) - strays if inside_out else strays, bool(crossing))


def _beside(bodies: Sequence[manifold3d.Manifold], whole: manifold3d.Manifold) -> list[bool]:
    """Of each body whether it has nothing in common with another."""
    if (united(bodies) - whole).is_empty():
        return [False] * len(bodies)
    return [(whole ^ body).is_empty() for body in bodies]


def _surfaces(mesh: Mesh) -> list[Mesh]:
    """The surfaces of a mesh, each of triangles that hang together by their edges."""
    from scipy.sparse import coo_array
    from scipy.sparse.csgraph import connected_components

    _, edge, _ = edges_of(mesh.triangles.astype(np.int64))
    order = np.argsort(edge, kind="stable")
    same = edge[order[1:]] == edge[order[:-1]]
    ends = order[:-1][same] // 3, order[1:][same] // 3
    links = coo_array((np.ones(len(ends[0]), dtype=bool), ends), shape=(len(mesh.triangles),) * 2)
    count, label = connected_components(links.tocsr(), directed=False)
    if count == 1:
        return [mesh]
    by_surface = np.argsort(label, kind="stable")
    parts = np.split(mesh.triangles[by_surface], np.cumsum(np.bincount(label))[:-1])
    return [_alone(mesh, part) for part in parts]


def _alone(mesh: Mesh, triangles: NDArray[np.int32]) -> Mesh:
    """Some triangles of a mesh, with the corners that they use."""
    used, own = np.unique(triangles, return_inverse=True)
    return Mesh(mesh.corners[used], own.reshape(-1, 3).astype(np.int32))
