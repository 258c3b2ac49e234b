"""Attached files, each read by what its ending says it is."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from pathlib import PurePath

from ovolo.formats.dxf_in import read_dxf
from ovolo.formats.image import read_image
from ovolo.formats.solid_in import read_solid
from ovolo.formats.svg_in import read_svg
from ovolo.formats.table_csv import read_table, shown_rows
from ovolo.geometry.cast import Cast
from ovolo.geometry.underlay import Underlay
from ovolo.meaning.program import Attached
from ovolo.problems import Failure
from ovolo.quantities.table import Table

MOST_BYTES = 20_000_000
"""The most that any attached file may have; each reader has its own limit below that."""

READERS: dict[str, Callable[[bytes, str], Attached]] = {
    "csv": read_table, "dxf": read_dxf, "svg": read_svg,
    "png": read_image, "jpg": read_image, "jpeg": read_image,
    "stl": read_solid, "3mf": read_solid,
}  # fmt: skip
"""Endings of files that a sheet can read, and what reads them."""


def read_attached(data: bytes, name: str) -> Attached:
    """A file as a sheet takes it. Raises Failure, also for an ending that is not known."""
    ending = PurePath(name).suffix.lstrip(".").lower()
    reader = READERS.get(ending)
    if reader is None:
        known = ", ".join(f".{one}" for one in READERS)
        raise Failure(f"{name} ends in no format that can be read", f"known: {known}")
    return reader(data, name)


def read_files(files: Mapping[str, bytes]) -> dict[str, Attached | Failure]:
    """Each attached file as a sheet takes it, or what stands against reading it."""
    found: dict[str, Attached | Failure] = {}
    for name, data in files.items():
        try:
            found[name] = read_attached(data, name)
        except Failure as failure:
            found[name] = failure
    return found


def shown(read: Attached, count: int) -> tuple[list[str], list[list[str]], int]:
    """A file as a person looks at it: heads, the first rows, and how many rows there are."""
    if isinstance(read, Table):
        heads = [f"{c} [{read.units[c]}]" if c in read.units else c for c in read.columns]
        return heads, list(shown_rows(read, count)), len(read)
    if isinstance(read, Underlay):
        return ["width [pixels]", "height [pixels]"], [[f"{read.width}", f"{read.height}"]], 1
    if isinstance(read, Cast):
        return _cast_shown(read)
    rows = [
        [layer, read.titles[layer], str(len(curves)), f"{sum(c.length for c in curves):.6g}"]
        for layer, curves in read.layers.items()
    ]
    return ["layer", "in the file", "curves", "length [mm]"], rows[:count], len(rows)


def _cast_shown(cast: Cast) -> tuple[list[str], list[list[str]], int]:
    """The size of a solid, and what was mended in it."""
    low, high = cast.solid.bounds()
    size = " x ".join(f"{x:.6g}" for x in high - low)
    rows = [
        ["size [mm]", size],
        ["volume [mm³]", f"{cast.solid.volume:.6g}"],
        ["triangles", f"{cast.triangles:,}"],
        *(["mended", said] for said in cast.mended or ("nothing needed mending",)),
    ]
    return ["", ""], rows, len(rows)
