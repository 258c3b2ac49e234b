"""Witnesses from outside: work done in a child process, so that a library which leaves things behind does so there; and
what lies within a solid, by rays (counted as in Möller and Trumbore)."""

from __future__ import annotations

import os
import pickle
from collections.abc import Callable
from typing import Any

import numpy as np

from ovolo.geometry.solids.solid import Solid


def in_child(work: Callable[[], Any]) -> Any:
    """What the work gives, done in a fork of this process; its failure is raised here."""
    reading, writing = os.pipe()
    child = os.fork()
    if not child:
        os.close(reading)
        try:
            answer: Any = ("done", work())
        except BaseException as error:
            answer = ("failed", repr(error))
        with os.fdopen(writing, "wb") as out:
            pickle.dump(answer, out)
        os._exit(0)
    os.close(writing)
    with os.fdopen(reading, "rb") as incoming:
        data = incoming.read()
    os.waitpid(child, 0)
    if not data:
        raise RuntimeError("the child ended without an answer")
    said, result = pickle.loads(data)
    if said == "failed":
        raise RuntimeError(result)
    return result


def inside(solid: Solid, points: Any) -> Any:
    """Whether points (n, 3) lie within a solid: an odd number of triangles lies along a ray."""
    corners = solid.mesh.corners[solid.mesh.triangles]
    way = np.array([0.3217, 0.5471, 0.7727])
    a, b, c = (corners[:, k] for k in range(3))
    across = np.cross(way, c - a)
    size = np.sum((b - a) * across, axis=1)
    counts = np.zeros(len(points), dtype=int)
    for at, point in enumerate(points):
        with np.errstate(all="ignore"):
            u = np.sum((point - a) * across, axis=1) / size
            turned = np.cross(point - a, b - a)
            v = turned @ way / size
            t = np.sum((c - a) * turned, axis=1) / size
        counts[at] = np.count_nonzero((u >= 0) & (v >= 0) & (u + v <= 1) & (t > 0))
    return counts % 2 == 1
