"""A text becomes logical lines: a statement may go on in indented lines, and ends in a comment."""

from __future__ import annotations

import re
from collections.abc import Iterator
from functools import lru_cache

from ovolo.remembering import remembers

BRACKETS = r"\((?:[^()]|\((?:[^()]|\((?:[^()]|\([^()]*\))*\))*\))*\)"
"""Brackets with up to three more in each other: the parameters of a function and their defaults."""

_SCAN = re.compile(
    r"""(?P<feet>\d'\s?-?\s?[\d ./]+")   # inches behind feet, not a text
      | (?P<angle>\d\s?°\s?\d+(?:\.\d+)?'(?:\s?\d+(?:\.\d+)?")?)   # minutes and seconds, not a text
      | (?P<text>"(?:\\.|[^"\\])*"?)
      | (?P<colour>\bcolour\s+(?:\w+\s+to\s+)?\#[0-9A-Fa-f]{3,6}(?:\s+to\s+\#[0-9A-Fa-f]{3,6})?)
      | (?P<comment>\#.*)
      | (?P<open>[(\[])
      | (?P<close>[)\]])""",
    re.VERBOSE,
)
_QUOTING = re.compile('["#]')
"""Where none of these stands, brackets are brackets."""

_GOES_ON = re.compile(
    r"(?:[-+*/^&=<>,(\[×·−≤≥≠]|\.\.|\b(?:and|or|not|then|else|if|in|by|within|to|from|for))\s*$"
)
BLOCK_HEAD = re.compile(rf"\s*[^\W\d]\w*\s*(?:{BRACKETS}\s*)?:\s*$")
FUNCTION_HEAD = re.compile(rf"\s*[^\W\d]\w*\s*{BRACKETS}\s*=(?!=)")
LOCAL_HEAD = re.compile(rf"\s*[^\W\d]\w*\s*(?:{BRACKETS}\s*)?=(?!=)")


def lines_of(text: str) -> list[str]:
    """The physical lines of a text; only a line feed ends one, so that a text is never altered."""
    return text.split("\n")


def with_line_feeds(text: str) -> str:
    """A text whose lines end in line feeds, whatever system it was written on (The Unicode Standard, 5.8)."""
    return text.replace("\r\n", "\n").replace("\r", "\n")


def logical_lines(text: str) -> Iterator[tuple[int, str]]:
    """First line number and text of each statement, together covering every line."""
    pending: list[str] = []
    first, depth, last_code, in_block = 1, 0, "", False
    lines = lines_of(text)
    indented_after = _indented_after(lines)
    for number, line in enumerate(lines, start=1):
        code, change = scan(line)
        indented = bool(code.strip()) and line[:1].isspace()
        continued = depth > 0 or in_block or goes_on(last_code)
        blank_inside = not code.strip() and bool(pending) and continued
        if pending and ((indented and continued) or (blank_inside and indented_after[number - 1])):
            pending.append(line)
            depth = max(depth + change, 0)
            last_code = code if code.strip() else last_code
            continue
        if pending:
            yield first, "\n".join(pending)
        pending, first, depth, last_code = [line], number, max(change, 0), code
        in_block = bool(BLOCK_HEAD.match(code)) and not indented
    if pending:
        yield first, "\n".join(pending)


def _indented_after(lines: list[str]) -> list[bool]:
    """For each line whether the next one that is not blank is indented."""
    found, indented = [False] * len(lines), False
    for at in range(len(lines) - 1, -1, -1):
        found[at] = indented
        if scan(lines[at])[0].strip():
            indented = lines[at][:1].isspace()
    return found


def goes_on(code: str) -> bool:
    """Whether a line ends so that the next one goes on with it."""
    return bool(_GOES_ON.search(code.rstrip()[-12:]))


@lru_cache(maxsize=50_000)
def scan(line: str) -> tuple[str, int]:
    """The line with its comment blanked out, and how many more brackets it opens than closes."""
    if not _QUOTING.search(line):
        opened = line.count("(") + line.count("[")
        return line, opened - line.count(")") - line.count("]")
    depth = 0
    for found in _SCAN.finditer(line):
        if found["comment"] is not None:
            return line[: found.start()].ljust(len(line)), depth
        depth += (found["open"] is not None) - (found["close"] is not None)
    return line, depth


remembers(scan.cache_clear)


def comment_start(line: str) -> int:
    """Where the comment of a physical line begins, or its length where it has none."""
    if "#" not in line:
        return len(line)
    for found in _SCAN.finditer(line):
        if found["comment"] is not None:
            return found.start()
    return len(line)


def unclosed_bracket(code: str) -> int | None:
    opened: list[int] = []
    for found in _SCAN.finditer(code):
        if found["open"] is not None:
            opened.append(found.start())
        elif found["close"] is not None and opened:
            opened.pop()
    return opened[-1] if opened else None
