"""Two changes of one text put together, line by line."""

from __future__ import annotations

from dataclasses import dataclass, field

from studio.together.differences import differences


@dataclass(frozen=True, slots=True)
class Clash:
    """A line that both have changed: what it was, what either made of it (None: took it out)."""

    base: str
    mine: str | None
    theirs: str | None


@dataclass(frozen=True, slots=True)
class _Changes:
    """What became of each line of a text, and what was put in before it (behind the last: at its count)."""

    lines: dict[int, str | None] = field(default_factory=dict)
    added: dict[int, list[str]] = field(default_factory=dict)


def merged(base: str, mine: str, theirs: str, over: bool = False) -> str | list[Clash]:
    """The text with both changes; the clashes, where both changed one line in different ways. Mine may go
    `over` theirs there.

    A three-way merge as that of diff3, but that neighbouring lines are told apart, and that lines which both
    put in at one place are both kept, theirs first.
    """
    lines = base.split("\n")
    own, other = _changes(lines, mine.split("\n")), _changes(lines, theirs.split("\n"))
    found: list[str] = []
    clashes: list[Clash] = []
    for at in range(len(lines) + 1):
        added, own_added = other.added.get(at, []), own.added.get(at, [])
        found += added if added == own_added else added + own_added
        if at == len(lines):
            break
        line = lines[at]
        kept, own_kept = other.lines.get(at, line), own.lines.get(at, line)
        if not over and kept not in (line, own_kept) and own_kept != line:
            clashes.append(Clash(line, own_kept, kept))
        result = kept if own_kept == line else own_kept
        found += [] if result is None else [result]
    return clashes or "\n".join(found)


def _changes(base: list[str], new: list[str]) -> _Changes:
    found = _Changes()
    for start, end, new_start, new_end in differences(base, new):
        given = new[new_start:new_end]
        count = min(end - start, len(given))  # as many are changed where they stand
        for at, line in zip(range(start, start + count), given, strict=False):
            found.lines[at] = line
        for at in range(start + count, end):
            found.lines[at] = None
        if given[count:]:
            found.added[end] = given[count:]
    return found
