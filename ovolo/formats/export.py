"""Writing the parts of an outcome to a file whose ending names the format."""

from __future__ import annotations

import io
import zipfile
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import PurePath

from ovolo.drawing.marks import Page
from ovolo.drawing.paper import Layout, drawn_sheet, full_size
from ovolo.formats.dxf import write_dxf
from ovolo.formats.flat import view_for
from ovolo.formats.gltf import write_glb
from ovolo.formats.ifc import write_ifc
from ovolo.formats.obj import write_obj
from ovolo.formats.pdf import write_pdf
from ovolo.formats.schedule_csv import write_schedule
from ovolo.formats.step import write_step
from ovolo.formats.stl import write_stl
from ovolo.formats.svg import write_svg
from ovolo.formats.threemf import write_3mf
from ovolo.outcome.outcome import Outcome
from ovolo.outcome.part import Part
from ovolo.problems import Failure, nearest_name
from ovolo.quantities.kinds import CURVE, GEOMETRY, REGION, SOLID, Kind


def _stl(outcome: Outcome, parts: list[Part]) -> bytes:
    return write_stl((mesh for part in parts for mesh in part.meshes()), outcome.program.title)


def _obj(outcome: Outcome, parts: list[Part]) -> bytes:
    return write_obj(parts, outcome.program.title)


def _glb(outcome: Outcome, parts: list[Part]) -> bytes:
    return write_glb(parts, outcome.program.title)


def _3mf(outcome: Outcome, parts: list[Part]) -> bytes:
    return write_3mf(parts, outcome.program.title)


def _step(outcome: Outcome, parts: list[Part]) -> bytes:
    return write_step(parts, outcome.program.title)


def _svg(outcome: Outcome, parts: list[Part]) -> bytes:
    return write_svg(full_size(outcome, view_for(parts), parts))


def _ifc(outcome: Outcome, parts: list[Part]) -> bytes:
    return write_ifc(parts, outcome.program.title)


def _csv(outcome: Outcome, parts: list[Part]) -> bytes:
    return write_schedule(parts)


@dataclass(frozen=True, slots=True)
class Writer:
    """What writes a format, and the kinds of parts it takes; `otherwise` those that it takes where
    there are none of these."""

    write: Callable[[Outcome, list[Part]], bytes]
    kinds: tuple[Kind, ...]
    said: str
    otherwise: tuple[Kind, ...] = ()

    def taken(self, parts: list[Part]) -> list[Part]:
        """Those of some parts that go into one file."""
        for kinds in (self.kinds, self.otherwise):
            found = [part for part in parts if part.kind in kinds and part.count]
            if found:
                return found
        return []


_FLAT = (CURVE, REGION)
WRITERS = {
    "stl": Writer(_stl, (SOLID,), "solid"),
    "3mf": Writer(_3mf, (SOLID,), "solid"),
    "obj": Writer(_obj, (SOLID,), "solid"),
    "glb": Writer(_glb, (SOLID,), "solid"),
    "step": Writer(_step, (SOLID,), "solid"),
    "ifc": Writer(_ifc, (SOLID,), "solid"),
    "dxf": Writer(write_dxf, _FLAT, "flat or solid", (SOLID,)),
    "svg": Writer(_svg, _FLAT, "flat"),
    "csv": Writer(_csv, GEOMETRY, "drawn"),
}
"""File endings and what writes them."""


SHEETS: dict[str, Callable[[Page], bytes]] = {"pdf": write_pdf, "svg": write_svg}
"""File endings of sheets of paper, and what writes them."""


def exported_sheet(
    outcome: Outcome, file_name: str, layout: Layout, names: Sequence[str] = ()
) -> bytes:
    """The bytes of a sheet of paper with a drawing of the named parts, or of all. Raises Failure."""
    ending = PurePath(file_name).suffix.lstrip(".").lower()
    if ending not in SHEETS:
        known = ", ".join(f".{name}" for name in SHEETS)
        raise Failure(f"`{file_name}` ends in no format of a sheet", f"known: {known}")
    parts = [_part(outcome, name) for name in names] or None
    return SHEETS[ending](drawn_sheet(outcome, layout, parts))


def exported(outcome: Outcome, file_name: str, names: Sequence[str] = ()) -> bytes:
    """The bytes of a file with the named parts, or with all parts that the format takes.

    Raises Failure for an unknown format or part, and where there is nothing to write.
    """
    ending = PurePath(file_name).suffix.lstrip(".").lower()
    if ending == "zip":
        return _one_file_each(outcome, PurePath(file_name).stem, names)
    writer = WRITERS.get(ending)
    if writer is None:
        known = ", ".join(f".{name}" for name in (*WRITERS, "stl.zip"))
        raise Failure(f"`{file_name}` ends in no format that can be written", f"known: {known}")
    parts = [_part(outcome, name) for name in names] or list(outcome.parts.values())
    taken = writer.taken(parts)
    if names and len(taken) < len(parts):
        wrong = next(part for part in parts if part not in taken)
        why = f"is not {writer.said}" if wrong.count else "has no items"
        if wrong.kind in (*writer.kinds, *writer.otherwise) and wrong.count:
            why = "is solid, another is flat,"
        raise Failure(f"the part `{wrong.name}` {why} and cannot be written as .{ending}")
    if not taken:
        raise Failure(
            f"this study has no {writer.said} parts to write", "a line `part name = …` makes one"
        )
    return writer.write(outcome, taken)


def _one_file_each(outcome: Outcome, inner: str, names: Sequence[str]) -> bytes:
    """A file for each part that the inner format takes: `parts.stl.zip` holds walls.stl and so on."""
    ending = PurePath(inner).suffix.lstrip(".").lower()
    writer = WRITERS.get(ending)
    if writer is None:
        raise Failure(f"`{inner}.zip` does not say what is in it", "for example parts.stl.zip")
    taken = names or [part.name for part in writer.taken(list(outcome.parts.values()))]
    if not taken:
        raise Failure(f"this study has no {writer.said} parts to write")
    made = io.BytesIO()
    with zipfile.ZipFile(made, "w", zipfile.ZIP_DEFLATED) as folder:
        for name in taken:
            entry = zipfile.ZipInfo(f"{name}.{ending}", (1980, 1, 1, 0, 0, 0))
            folder.writestr(
                entry, exported(outcome, f"{name}.{ending}", [name]), zipfile.ZIP_DEFLATED
            )
    return made.getvalue()


def _part(outcome: Outcome, name: str) -> Part:
    found = outcome.parts.get(name)
    if found is not None:
        return found
    line = outcome.program.by_name.get(name)
    problem = next((p for p in outcome.problems if line and p.name == name), None)
    if problem is not None:
        raise Failure(f"the part `{name}` has a problem: {problem.message}", problem.hint)
    near = nearest_name(name, list(outcome.parts))
    hint = f"did you mean `{near}`?" if near else f"parts: {', '.join(outcome.parts) or 'none'}"
    raise Failure(f"there is no part `{name}`", hint)
