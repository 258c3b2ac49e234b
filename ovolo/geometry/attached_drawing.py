"""Plots: the curves of an attached drawing, by layer."""

from __future__ import annotations

import re
from collections.abc import Mapping

from msgspec import Struct

from ovolo.geometry.curves.curve import Curve
from ovolo.quantities.kinds import CURVE, ListOf, Record

EVERYTHING = "all"


def left_out(passed: Mapping[str, int]) -> list[str]:
    """In words how many of each type were not read, for they are no curves."""
    said = ", ".join(f"{count:,} x {kind}" for kind, count in passed.items())
    return [f"left out, for they are no curves: {said}"] if said else []


def as_layer(title: str) -> str:
    """The name of a layer as a sheet can write it."""
    name = re.sub(r"\W", "_", title.strip()) or "layer"
    return f"_{name}" if name[0].isdigit() else name


class AttachedDrawing(Struct, frozen=True, eq=False):
    """Curves by the names of their layers, as a sheet can write them; `titles` are the names as
    the file has them. `.all` holds every curve."""

    name: str
    layers: dict[str, list[Curve]]
    titles: dict[str, str]
    digest: str
    unit: str = ""
    """Which unit was taken, where the file says none."""

    notes: tuple[str, ...] = ()
    """What else a person should know of how it was read, such as what was left out."""

    @property
    def kind(self) -> Record:
        return Record(
            fields=tuple((layer, ListOf(item=CURVE)) for layer in (*self.layers, EVERYTHING))
        )

    @property
    def fingerprint(self) -> str:
        """What tells it from other values."""
        return f"drawing {self.digest}"

    def __getitem__(self, layer: str) -> list[Curve]:
        if layer == EVERYTHING:
            return [curve for curves in self.layers.values() for curve in curves]
        return self.layers[layer]
