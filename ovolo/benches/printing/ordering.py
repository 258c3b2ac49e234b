"""In which order lines are laid: from where the machine is, the nearest first."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ovolo.geometry.types import Floats, Points

MOST_COMPARED = 4_000
"""Of more lines each goes to the next as they come: there they lie side by side."""


def nearest_first(
    lines: Sequence[Points] | Floats, last: Points | None
) -> list[tuple[int, Points]]:
    """The lines (n, 2), or straight ones (k, 2, 2), each from the end that is nearest to where the one
    before it ended; a closed one from its nearest corner; with its number among those given. `last` is
    where it begins (2,); at the first line where that is None.

    >>> two = [np.array([[5.0, 0], [9, 0]]), np.array([[4.0, 0], [0, 0]])]
    >>> [(at, line.tolist()) for at, line in nearest_first(two, np.zeros(2))]
    [(1, [[0.0, 0.0], [4.0, 0.0]]), (0, [[5.0, 0.0], [9.0, 0.0]])]
    """
    if not len(lines):
        return []
    place = lines[0][0] if last is None else last
    if len(lines) > MOST_COMPARED:
        return _as_they_come(lines, place)
    corners, firsts = _all_begins(lines)
    owner = np.repeat(np.arange(len(lines)), np.diff(firsts)).tolist()
    x, y = np.array(corners).T
    found = []
    for _ in range(len(lines)):
        across, along = x - place[0], y - place[1]
        at = int((across * across + along * along).argmin())
        one = owner[at]
        first, onward = firsts[one], firsts[one + 1]
        x[first:onward] = np.inf  # it is laid
        found.append((one, _from(lines[one], at - first)))
        place = found[-1][1][-1]
    return found


def _all_begins(lines: Sequence[Points] | Floats) -> tuple[Points, list[int]]:
    """Where lines may begin, one after another, and which is the first of each; one more at the end."""
    if isinstance(lines, np.ndarray) and lines.shape[1] == 2:  # none of them is closed
        return lines.reshape(-1, 2), list(range(0, 2 * len(lines) + 1, 2))
    begins = [_begins(line) for line in lines]
    return np.concatenate(begins), np.cumsum([0, *map(len, begins)]).tolist()


def _is_closed(line: Points) -> bool:
    return bool(len(line) > 2 and line[0, 0] == line[-1, 0] and line[0, 1] == line[-1, 1])


def _begins(line: Points) -> Points:
    """Where a line may begin: at its ends, a closed one at each corner."""
    return line[:-1] if _is_closed(line) else line[[0, -1]]


def _from(line: Points, begin: int) -> Points:
    if not _is_closed(line):
        return line if begin == 0 else line[::-1]
    return line if begin == 0 else np.concatenate([line[begin:-1], line[: begin + 1]])


def _as_they_come(lines: Sequence[Points] | Floats, place: Points) -> list[tuple[int, Points]]:
    found: list[tuple[int, Points]] = []
    for at, line in enumerate(lines):
        ends = _begins(line)
        found.append((at, _from(line, int(((ends - place) ** 2).sum(axis=1).argmin()))))
        place = found[-1][1][-1]
    return found
