"""Solids that come from files, with what was mended in them."""

from __future__ import annotations

from msgspec import Struct

from ovolo.geometry.solids.solid import Solid
from ovolo.quantities.kinds import SOLID, Kind


class AttachedSolid(Struct, frozen=True, eq=False):
    """The solid of an attached file; `mended` says in words what was put right in it."""

    name: str
    solid: Solid
    digest: str
    mended: tuple[str, ...]
    triangles: int
    unit: str = ""
    """Which unit was taken, where the file says none."""

    @property
    def kind(self) -> Kind:
        return SOLID
