"""Where a line of one text is in another."""

from __future__ import annotations

import re
from difflib import SequenceMatcher

_NAME = re.compile(r"\s*(?:(?:input|part|check|dim)\s+)?([^\W\d]\w*)")


def line_after(old: str, new: str, line: int) -> int | None:
    """The number (from 1) that a line of the old text has in the new one; None where it is gone. A line that
    was changed where it stands is still itself, and so is one whose name stands elsewhere now."""
    before, after = old.split("\n"), new.split("\n")
    if not 1 <= line <= len(before):
        return None
    at = line - 1
    matcher = SequenceMatcher(None, before, after, autojunk=False)
    for kind, start, end, new_start, new_end in matcher.get_opcodes():
        if not start <= at < end:
            continue
        if kind == "equal":
            return new_start + at - start + 1
        moved = _named_like(before[at], after)
        if moved is not None:
            return moved + 1
        same_count = kind == "replace" and end - start == new_end - new_start
        return new_start + at - start + 1 if same_count else None
    return None


def _named_like(line: str, lines: list[str]) -> int | None:
    """Where a line of the same name stands; None where there is none, or more than one."""
    name = _name_of(line)
    found = [at for at, other in enumerate(lines) if name and _name_of(other) == name]
    return found[0] if len(found) == 1 else None


def _name_of(line: str) -> str:
    found = _NAME.match(line)
    return found[1] if found and "=" in line else ""
