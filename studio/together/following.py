"""Where the lines of one text are in another."""

from __future__ import annotations

import re
from collections import defaultdict
from functools import cached_property

from studio.together.differences import Difference, differences

_NAME = re.compile(r"\s*(?:(?:input|part|check|dim)\s+)?([^\W\d]\w*)")


class Following:
    """The lines of an old text, followed into a new one."""

    def __init__(self, old: str, new: str) -> None:
        self._before, self._after = old.split("\n"), new.split("\n")

    def line_after(self, line: int) -> int | None:
        """The number (from 1) that a line of the old text has in the new one; None where it is gone. A line that
        was changed where it stands is still itself, and so is one whose name stands elsewhere now."""
        if not 1 <= line <= len(self._before):
            return None
        at = line - 1
        grown = 0  # so many lines there are more before it
        for start, end, new_start, new_end in self._differences:
            if at < start:
                break
            if at < end:
                same_count = end - start == new_end - new_start
                in_place = new_start + at - start + 1 if same_count else None
                return self._named_like(self._before[at]) or in_place
            grown = new_end - end
        return line + grown

    def _named_like(self, line: str) -> int | None:
        """The number of the line of the same name; None where there is none, or more than one."""
        found = self._named.get(_name_of(line), [])
        return found[0] if len(found) == 1 else None

    @cached_property
    def _differences(self) -> list[Difference]:
        return differences(self._before, self._after)

    @cached_property
    def _named(self) -> dict[str, list[int]]:
        """The numbers of the new lines, by the name that they bear."""
        found: defaultdict[str, list[int]] = defaultdict(list)
        for number, line in enumerate(self._after, 1):
            if name := _name_of(line):
                found[name].append(number)
        return dict(found)


def _name_of(line: str) -> str:
    found = _NAME.match(line)
    return found[1] if found and "=" in line else ""
