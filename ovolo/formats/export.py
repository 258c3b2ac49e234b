"""Writing the parts of an outcome to a file whose ending names the format."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import PurePath

from ovolo.formats.stl import write_stl
from ovolo.outcome.outcome import Outcome
from ovolo.outcome.part import Part
from ovolo.problems import Failure, nearest_name
from ovolo.quantities.kinds import SOLID


def _stl(outcome: Outcome, parts: list[Part]) -> bytes:
    return write_stl((mesh for part in parts for mesh in part.meshes()), outcome.program.title)


WRITERS: dict[str, Callable[[Outcome, list[Part]], bytes]] = {"stl": _stl}
"""File endings and what writes them."""


def exported(outcome: Outcome, file_name: str, names: Sequence[str] = ()) -> bytes:
    """The bytes of a file with the named parts, or with all solid parts.

    Raises Failure for an unknown format or part, and where there is nothing to write.
    """
    ending = PurePath(file_name).suffix.lstrip(".").lower()
    if ending not in WRITERS:
        known = ", ".join(f".{name}" for name in WRITERS)
        raise Failure(f"`{file_name}` ends in no format that can be written", f"known: {known}")
    parts = [_part(outcome, name) for name in names] or list(outcome.parts.values())
    solid = [part for part in parts if part.kind == SOLID and part.count]
    if names and len(solid) < len(parts):
        empty = next(part for part in parts if part not in solid)
        why = "has no items" if empty.kind == SOLID else "is not solid"
        raise Failure(f"the part `{empty.name}` {why} and cannot be written as .{ending}")
    if not solid:
        raise Failure("this study has no solid parts to write", "a line `part name = …` makes one")
    return WRITERS[ending](outcome, solid)


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
