"""A part as a program takes it: measures, meshes and outlines as arrays, ready for other libraries."""

from __future__ import annotations

from typing import Any

import numpy as np

from ovolo.geometry.meshes.mesh import Indices
from ovolo.geometry.regions.region import polygons_of
from ovolo.geometry.types import Floats
from ovolo.outcome.part import Part as Made
from ovolo.problems import Failure


class Part:
    """A part of a study. Lengths are in mm, areas in mm², volumes in mm³, masses in kg."""

    def __init__(self, made: Made) -> None:
        self._made = made

    def __repr__(self) -> str:
        return f"<part {self.name}: {self.count} {'piece' if self.count == 1 else 'pieces'}>"

    @property
    def name(self) -> str:
        return self._made.name

    @property
    def label(self) -> str:
        return self._made.label

    @property
    def count(self) -> int:
        """The number of its pieces."""
        return self._made.count

    @property
    def volume(self) -> float | None:
        """In mm³, of all pieces; None where it has no solids."""
        return self._made.volume

    @property
    def area(self) -> float | None:
        """In mm²: of its surface, or of its regions."""
        return self._made.area

    @property
    def length(self) -> float | None:
        """In mm, of its curves."""
        return self._made.length

    @property
    def mass(self) -> float | None:
        """In kg; None where its material is not said."""
        return self._made.mass

    @property
    def bounds(self) -> Floats | None:
        """The least and the greatest corner, (2, 3) in mm; None where there is nothing."""
        found = self._made.bounds
        return None if found is None else np.array(found, float)

    @property
    def placements(self) -> Floats:
        """Where its pieces are: (n, 4, 4), each the matrix that puts a shape in its place."""
        found = [group.matrices for group in self._made.groups]
        return np.concatenate(found) if found else np.zeros((0, 4, 4))

    def mesh(self) -> tuple[Floats, Indices]:
        """All its solids as one mesh: corners (n, 3) in mm, and triangles (m, 3) of their numbers, anticlockwise
        seen from outside. Raises Failure where it has none."""
        corners, triangles, before = [], [], 0
        for one in self._made.meshes():
            corners.append(one.corners)
            triangles.append(one.triangles + before)
            before += len(one.corners)
        if not corners:
            raise Failure(f"the part `{self.name}` has no solids", "its regions are `polygons()`")
        return np.concatenate(corners), np.concatenate(triangles)

    def trimesh(self) -> Any:
        """As a mesh of trimesh, which must be installed. Raises Failure where it has no solids."""
        import trimesh

        corners, triangles = self.mesh()
        return trimesh.Trimesh(corners, triangles, process=False)

    def polygons(self) -> list[Any]:
        """Its regions as polygons of shapely, in the plan (mm), round lines as chords of the sheet's
        tolerance. Raises Failure where it has none."""
        found = [one for region in self._made.regions for one in polygons_of(region.in_plan().flat)]
        if not found:
            raise Failure(f"the part `{self.name}` has no regions", "its solids are `mesh()`")
        return found
