"""Writing the parts of an outcome to a file whose ending names the format."""

from __future__ import annotations

import io
import zipfile
from collections.abc import Sequence
from pathlib import PurePath

from ovolo.drawing.paper import drawn_sheet
from ovolo.drawing.title_block import Layout
from ovolo.formats.format import (
    Settled,
    dotted,
    ending_of,
    on_paper,
    share_of_chords,
    writable,
)
from ovolo.outcome.outcome import Outcome
from ovolo.outcome.part import Part
from ovolo.problems import Failure, meant

ZIPPED = "zip"
_SECONDS = 100.0
"""How long a sheet may be worked out anew for a file."""


def exported_sheet(
    outcome: Outcome, file_name: str, layout: Layout, names: Sequence[str] = ()
) -> bytes:
    """The bytes of a sheet of paper with a drawing of the named parts, or of all. Raises Failure."""
    format = on_paper().get(ending_of(file_name))
    if format is None or format.draw is None:
        raise Failure(f"`{file_name}` ends in no format of a sheet", f"known: {dotted(on_paper())}")
    parts = [_part(outcome, name) for name in names] or None
    return format.draw(drawn_sheet(outcome, layout, parts))


def exported(
    outcome: Outcome, file_name: str, names: Sequence[str] = (), options: Settled | None = None
) -> bytes:
    """The bytes of a file with the named parts, or with all parts that the format takes, written as
    its options say.

    Raises Failure for an unknown format, part or option, and where there is nothing to write.
    """
    ending = ending_of(file_name)
    if ending == ZIPPED:
        return _one_file_each(outcome, PurePath(file_name).stem, names, options)
    format = writable().get(ending)
    if format is None or format.write is None:
        known = dotted((*writable(), "stl.zip"))
        raise Failure(f"`{file_name}` ends in no format that can be written", f"known: {known}")
    settled = format.settled(options or {})
    if (share := share_of_chords(settled)) != 1:
        outcome = outcome.with_chords(share, _SECONDS)
    parts = [_part(outcome, name) for name in names] or list(outcome.parts.values())
    taken = format.taken(parts)
    if names and len(taken) < len(parts):
        wrong = next(part for part in parts if part not in taken)
        why = f"is not {format.said}" if wrong.count else "has no items"
        if wrong.kind in (*format.kinds, *format.otherwise) and wrong.count:
            why = "is solid, another is flat,"
        raise Failure(f"the part `{wrong.name}` {why} and cannot be written as .{ending}")
    if not taken:
        raise Failure(
            f"this study has no {format.said} parts to write", "a line `part name = …` makes one"
        )
    return format.write(outcome, taken, settled)


def _one_file_each(
    outcome: Outcome, inner: str, names: Sequence[str], options: Settled | None
) -> bytes:
    """A file for each part that the inner format takes: `parts.stl.zip` holds walls.stl and so on."""
    ending = ending_of(inner)
    format = writable().get(ending)
    if format is None:
        raise Failure(f"`{inner}.zip` does not say what is in it", "for example parts.stl.zip")
    taken = names or [part.name for part in format.taken(list(outcome.parts.values()))]
    if not taken:
        raise Failure(f"this study has no {format.said} parts to write")
    made = io.BytesIO()
    with zipfile.ZipFile(made, "w", zipfile.ZIP_DEFLATED) as folder:
        for name in taken:
            file = f"{name}.{ending}"
            entry = zipfile.ZipInfo(file, (1980, 1, 1, 0, 0, 0))
            data = exported(outcome, file, [name], options)
            folder.writestr(entry, data, zipfile.ZIP_DEFLATED)
    return made.getvalue()


def _part(outcome: Outcome, name: str) -> Part:
    found = outcome.parts.get(name)
    if found is not None:
        return found
    line = outcome.program.by_name.get(name)
    problem = next((p for p in outcome.problems if line and p.name == name), None)
    if problem is not None:
        raise Failure(f"the part `{name}` has a problem: {problem.message}", problem.hint)
    there = f"parts: {', '.join(outcome.parts) or 'none'}"
    raise Failure(f"there is no part `{name}`", meant(name, list(outcome.parts), there))
