"""A name that nothing bears becomes an input."""

from __future__ import annotations

from ovolo.meaning.attachments import Tables
from ovolo.meaning.checked_sheet import checked_program
from ovolo.meaning.program import Program
from ovolo.problems import Failure
from ovolo.sheet import edits, tree

_LITERALS = (
    "100 mm from 0 mm to 200 mm step 5 mm", "30° from 0° to 90° step 1°", "10 from 0 to 20 step 1",
    "yes", '"text"', "(100 mm, 0 mm)", "[100 mm, 200 mm]",
)  # fmt: skip
"""What a new input may be, the likeliest first."""


def with_input_for(text: str, name: str, line: int, tables: Tables | None = None) -> str:
    """The sheet with an input of this name above the line that needs it, of the first kind with
    which that line is well. Raises Failure where the name is taken or no kind fits."""
    program = checked_program(text, tables)
    if name in program.by_name:
        raise Failure(f"`{name}` is already the name of a line")
    statement = edits.statement_at(text, line)
    before = _message(program, line)
    for literal in _LITERALS:
        new = edits.inserted(text, line - 1, f"input {name} = {literal}")
        after = _message(checked_program(new, tables), line + 1)
        if after != before and (not after or _other_name(after, name)):
            return new
    said = statement.name or f"line {line}"
    raise Failure(f"no kind of input makes `{said}` well", f"write a line `{name} = …` yourself")


def _message(program: Program, line: int) -> str:
    """What stands against the line that begins here."""
    found = next((one for one in program.lines if one.statement.line == line), None)
    if found is None or isinstance(found.content, tree.Unreadable):
        raise Failure(f"line {line} cannot be read yet", "mend it first")
    return found.problem.message if found.problem is not None else ""


def _other_name(message: str, name: str) -> bool:
    """Whether it is another name that is missing now."""
    return message.startswith("nothing here is called") and f"`{name}`" not in message
