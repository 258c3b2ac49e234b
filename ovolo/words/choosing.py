"""Choosing: preferred numbers, nearest and next sizes, setting out."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

import numpy as np

from ovolo.problems import Failure, FailureOfFigures
from ovolo.quantities.show import shown_in
from ovolo.quantities.table import Table
from ovolo.quantities.units import unit_named
from ovolo.words.registry import word
from ovolo.words.rounding import NOISE, snapped

Values = Any

# ISO 3:1973, basic series. R5, R10 and R20 are each every other of the next.
_R40 = (
    1.00, 1.06, 1.12, 1.18, 1.25, 1.32, 1.40, 1.50, 1.60, 1.70, 1.80, 1.90, 2.00, 2.12, 2.24, 2.36,
    2.50, 2.65, 2.80, 3.00, 3.15, 3.35, 3.55, 3.75, 4.00, 4.25, 4.50, 4.75, 5.00, 5.30, 5.60, 6.00,
    6.30, 6.70, 7.10, 7.50, 8.00, 8.50, 9.00, 9.50,
)  # fmt: skip
SERIES = {"R5": _R40[::8], "R10": _R40[::4], "R20": _R40[::2], "R40": _R40}


@word(
    "number, text? -> number", "length, text? -> length", "mass, text? -> mass",
    example='preferred(37 mm, "R10")', gives="40 mm", hint='the series in quotes: preferred(x, "R10")',
)  # fmt: skip
def preferred(x: float, series: str = "R10") -> float:
    """The preferred number (ISO 3) at or above x, of series R5, R10, R20 or R40; lengths in mm.

    x: the value
    series: R5, R10, R20 or R40
    """
    if series not in SERIES:
        raise Failure(f'"{series}" is not a series of preferred numbers', "R5, R10, R20 or R40")
    if x <= 0:
        raise FailureOfFigures(
            "there is no preferred number for {x}", "preferred numbers are above 0", x=(x, "x")
        )
    decade = 10.0 ** math.floor(math.log10(x))
    for factor in (*SERIES[series], 10.0):
        candidate = factor * decade
        if candidate >= x * (1 - NOISE):
            return float(f"{candidate:.12g}")
    return 10 * decade


def _sizes(sizes: Values, name: str) -> Values:
    found = np.asarray(sizes, dtype=float)
    if not len(found):
        raise Failure(f"`{name}` has no sizes to choose from", "the list is empty")
    return found


def _at_or_above(sizes: Values, x: float, whose: str) -> int:
    """Where the least size stands that is not below x, which was given as an argument. Raises Failure where all are."""
    found = _sizes(sizes, "next_up")
    fitting = np.flatnonzero(found >= x - _noise(x, found))
    if not len(fitting):
        raise FailureOfFigures(
            "no size is {x} or more; the largest is {largest}",
            x=(x, whose),
            largest=(float(found.max()), whose),
        )
    return int(fitting[np.argmin(found[fitting])])


def _at_or_below(sizes: Values, x: float, whose: str) -> int:
    found = _sizes(sizes, "next_down")
    fitting = np.flatnonzero(found <= x + _noise(x, found))
    if not len(fitting):
        raise FailureOfFigures(
            "no size is {x} or less; the smallest is {smallest}",
            x=(x, whose),
            smallest=(float(found.min()), whose),
        )
    return int(fitting[np.argmax(found[fitting])])


def _noise(x: float, sizes: Values = ()) -> float:
    """By how much a size may be missed by noise alone: by its own size and that of the others."""
    return NOISE * max(abs(x), float(np.max(np.abs(sizes), initial=0.0))) * 1e-3


def _nearest(sizes: Values, x: float, whose: str) -> int:
    """Where the size nearest to x stands; of two as near, the larger."""
    found = _sizes(sizes, "nearest")
    away = np.abs(found - x)
    closest = np.flatnonzero(away <= away.min() + _noise(x, found))
    return int(closest[np.argmax(found[closest])])


def _chosen(rule: Callable[[Values, float, str], int], sizes: Values, x: Any, y: Any) -> Any:
    """The size of a list, or the row of a table by one of its columns."""
    if isinstance(sizes, Table):
        return sizes.row(rule(sizes[x], y, "y"))
    return float(sizes[rule(sizes, x, "x")])


@word(
    "list Q, Q -> Q", "row table, column Q, Q -> row",
    example="next_up([6 mm, 8 mm, 10 mm], 7 mm)", gives="8 mm",
)  # fmt: skip
def next_up(sizes: Values, x: Any, y: Any = None) -> Any:
    """The least size of a list that is not below x. Of a table: `next_up(bolts, "hole", x)`
    is the row whose `hole` is that size; `.size` is a cell of it.

    sizes: a list of sizes, or a table
    x: the size needed; of a table, the name of a column
    y: of a table, the size needed
    """
    return _chosen(_at_or_above, sizes, x, y)


@word(
    "list Q, Q -> Q", "row table, column Q, Q -> row",
    example="next_down([6 mm, 8 mm, 10 mm], 9 mm)", gives="8 mm",
)  # fmt: skip
def next_down(sizes: Values, x: Any, y: Any = None) -> Any:
    """The greatest size of a list that is not above x; of a table, its row.

    sizes: a list of sizes, or a table
    x: the size allowed; of a table, the name of a column
    y: of a table, the size allowed
    """
    return _chosen(_at_or_below, sizes, x, y)


@word(
    "list Q, Q -> Q", "row table, column Q, Q -> row",
    example="nearest([6 mm, 8 mm, 10 mm], 8.9 mm)", gives="8 mm",
)  # fmt: skip
def nearest(sizes: Values, x: Any, y: Any = None) -> Any:
    """The size of a list nearest to x (of two as near, the larger); of a table, its row.

    sizes: a list of sizes, or a table
    x: the size wanted; of a table, the name of a column
    y: of a table, the size wanted
    """
    return _chosen(_nearest, sizes, x, y)


@word(
    "row table, column T, key column U, U -> cell",
    example='lookup(sizes, "hole", size = "M8")', gives="9 mm",
    above='file sizes = "sizes.csv"',
)  # fmt: skip
def lookup(table: Table, column: str, key_column: str, key: Any) -> Any:
    """The cell of a column in the row where another column has a value:
    `lookup(sizes, "hole", size = "M8")`.

    table: the table
    column: the column whose cell is wanted
    key_column: the column to search
    key: what to search for in it
    """
    keys = table[key_column]
    if isinstance(key, str):
        found = [at for at, one in enumerate(keys) if one == key]
    else:
        found = list(
            np.flatnonzero(np.abs(np.asarray(keys, dtype=float) - key) <= _noise(key, keys))
        )
    said = _shown(key, table, key_column)
    if not found:
        offered = ", ".join(_shown(one, table, key_column) for one in list(keys)[:6])
        more = " …" if len(keys) > 6 else ""
        raise Failure(
            f"no row of {table.name} has {said} in `{key_column}`", f"it has {offered}{more}"
        )
    if len(found) > 1:
        raise Failure(f"{len(found)} rows of {table.name} have {said} in `{key_column}`")
    return table.row(found[0])[column]


def _shown(cell: Any, table: Table, column: str) -> str:
    """A cell as a person reads it, in the unit of its column."""
    if isinstance(cell, str):
        return f'"{cell}"'
    unit = table.units.get(column)
    return str(shown_in(float(cell), unit_named(unit))) if unit else f"{float(cell):g}"


@word(
    "row table -> list row",
    example="first(rows(sizes)).hole", gives="6.6 mm", above='file sizes = "sizes.csv"',
)  # fmt: skip
def rows(table: Table) -> list[dict[str, Any]]:
    """The rows of a table, to run over: `[f(row.hole) for row in rows(sizes)]`.

    table: the table
    """
    return [table.row(at) for at in range(len(table))]


@word("Q, Q -> whole", example="fit(5 m, 1.2 m)", gives="5")
def fit(length: float, max_pitch: float) -> float:
    """The least whole number of equal bays of which none is longer than max_pitch; at least 1.

    length: what is divided
    max_pitch: the longest bay allowed
    """
    if max_pitch <= 0:
        raise FailureOfFigures(
            "the largest pitch is {most}", "it must be more than 0", most=(max_pitch, "max_pitch")
        )
    if length < 0:
        raise FailureOfFigures(
            "the length to be divided is {length}",
            "it must not be below 0",
            length=(length, "length"),
        )
    return max(float(np.ceil(snapped(length / max_pitch))), 1.0)


@word(
    "Q, Q, Q -> {n: whole, gap: Q, pitch: Q}",
    example="fit_gaps(1 m, 28 mm, 99 mm).n", gives="8",
)  # fmt: skip
def fit_gaps(length: float, width: float, max_gap: float) -> dict[str, float]:
    """The fewest pieces of a width that leave equal gaps between them and at both ends, none
    larger than max_gap: `.n` pieces, `.gap`, `.pitch` from piece to piece.

    length: the clear length
    width: the width of a piece
    max_gap: the widest gap allowed
    """
    if max_gap <= 0:
        raise FailureOfFigures(
            "the largest gap is {most}", "it must be more than 0", most=(max_gap, "max_gap")
        )
    if width < 0 or length < 0:
        raise Failure("a length and a width must not be below 0")
    # n pieces and n + 1 gaps: (length - n width) / (n + 1) <= max_gap.
    n = max(float(np.ceil(snapped((length - max_gap) / (width + max_gap)))), 0.0)
    gap = (length - n * width) / (n + 1)
    if gap < -NOISE:
        raise FailureOfFigures(
            f"{n:g} pieces {{width}} wide do not fit into {{length}}",
            "make the gaps larger",
            width=(width, "width"),
            length=(length, "length"),
        )
    return {"n": n, "gap": gap, "pitch": gap + width}
