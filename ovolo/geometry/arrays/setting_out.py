"""Setting out: where the items of an array fall on a length, on a ring, on a curve.

Counts are robust against noise of the last digits: a quotient within 1e-9 of a whole number is
that number. What remains of a length that a spacing does not divide goes where it is told to.
"""

from __future__ import annotations

import math

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from ovolo.geometry.curves.alike import Cubics
from ovolo.geometry.curves.curve import Curve, needs_pieces
from ovolo.geometry.curves.pieces import Piece
from ovolo.geometry.same import SAME_SHARE, SMALLEST
from ovolo.geometry.vectors import cross_product
from ovolo.problems import Failure

Values = NDArray[np.float64]

MOST_ITEMS = 200_000
"""How many items a list may have."""

RESTS = ("end", "start", "both", "stretch", "squeeze")
"""What may become of the remainder: it is left at the end, at the start or half at either; or the
spacing is made larger or smaller until it fits."""

CUT = "cut"
"""Of pieces, the last may also be cut to it."""

_NOISE = 1e-9


def whole_steps(length: float, step: float) -> int:
    """How often a step fits into a length. Common practice: the floor of the quotient.

    >>> whole_steps(1000.0, 300.0)
    3
    """
    if not step > 0:
        raise Failure(f"the spacing is {step:.6g} mm", "it must be more than 0")
    return math.floor(length / step + _NOISE)


def fewest_bays(length: float, largest: float) -> int:
    """The fewest equal bays of which none is longer than `largest`; at least 1.

    >>> fewest_bays(3240.0, 190.0)
    18
    """
    if not largest > 0:
        raise Failure(f"the largest spacing is {largest:.6g} mm", "it must be more than 0")
    return max(math.ceil(length / largest - _NOISE), 1)


def _refuse_rest(rest: str, allowed: tuple[str, ...]) -> None:
    if rest not in allowed:
        raise Failure(f'there is no way to leave the rest "{rest}"', f"one of {', '.join(allowed)}")


def stations(length: float, step: float, rest: str = "end") -> Values:
    """Places on a length, a step apart from each other, the first and last as far from the ends as
    the remainder says.

    >>> stations(1000.0, 300.0, "both").tolist()
    [50.0, 350.0, 650.0, 950.0]
    """
    _refuse_rest(rest, RESTS)
    if length < 0:
        raise Failure(f"the length to set out on is {length:.6g} mm", "it must not be below 0")
    if length <= _NOISE:
        return np.zeros(1)
    if rest == "squeeze":
        return _evenly(length, fewest_bays(length, step))
    steps = whole_steps(length, step)
    if rest == "stretch":
        return _evenly(length, max(steps, 1))
    left = length - steps * step
    begin = {"end": 0.0, "start": left, "both": left / 2}[rest]
    return begin + step * np.arange(steps + 1, dtype=float)


def _evenly(length: float, bays: int) -> Values:
    places: Values = np.linspace(0.0, length, bays + 1).astype(np.float64)
    return places


class Bay(Struct, frozen=True):
    """One piece of a length that is set out."""

    start: float
    length: float


def bays(
    length: float, piece: float, gap: float = 0.0, rest: str = "end", least: float = 0.0
) -> list[Bay]:
    """Pieces laid one after another over a length, with gaps between them. Common practice: n
    pieces and n - 1 gaps are no longer than the length; a cut piece that would be too short shares
    its length with the one before."""
    _refuse_rest(rest, (*RESTS, CUT))
    if not piece > 0 or gap < 0 or length < 0:
        raise Failure(
            f"pieces of {piece:.6g} mm with gaps of {gap:.6g} mm over {length:.6g} mm make no sense",
            "a piece is more than 0, a gap and a length are not below 0",
        )
    count = whole_steps(length + gap, piece + gap)
    left = length - (count * (piece + gap) - gap if count else 0.0)
    if rest in ("stretch", "squeeze"):
        count = max(count, 1) if rest == "stretch" else fewest_bays(length + gap, piece + gap)
        piece = (length + gap) / count - gap
        if piece <= 0:
            raise Failure(f"{length:.6g} mm leaves nothing beside its gaps", "make the gap smaller")
        left = 0.0
    begin = {"start": left, "both": left / 2}.get(rest, 0.0)
    found = [Bay(begin + at * (piece + gap), piece) for at in range(count)]
    over = left - gap if count else left
    if rest == CUT and over > _NOISE * max(length, 1.0):
        if found and over < least:
            half = (piece + over) / 2
            found[-1] = Bay(found[-1].start, half)
            over = half
        if over < least * (1 - _NOISE):
            raise Failure(
                f"the cut pieces would be {over:.6g} mm long, less than the least of {least:.6g} mm",
                "make the least length smaller, or the pieces longer",
            )
        found.append(Bay(length - over, over))
    return found


def angles(count: int, sweep: float, start: float = 0.0) -> Values:
    """The angles (radians) of n items on a ring; on a part of one the first and last stand at its
    ends, on a whole one the last does not fall on the first."""
    if abs(sweep) > 2 * math.pi * (1 + _NOISE):
        raise Failure(f"a ring of {math.degrees(sweep):.6g}° overlaps itself", "at most 360°")
    whole = abs(abs(sweep) - 2 * math.pi) <= _NOISE * 2 * math.pi
    parts = count if whole else count - 1
    return start + sweep * np.arange(count) / max(parts, 1)


def on_curve(curve: Curve, lengths: Values) -> tuple[Values, Values]:
    """Places and directions (n, 3) at lengths from the start of a curve, in any order."""
    needs_pieces(curve)
    over = np.flatnonzero((lengths < -SMALLEST) | (lengths > curve.length + SMALLEST))
    if len(over):
        raise Failure(
            f"there is nothing at {lengths[over[0]]:.6g} mm on a curve {curve.length:.6g} mm long"
        )
    places, ways = np.empty((len(lengths), 3)), np.empty((len(lengths), 3))
    which = np.minimum(np.searchsorted(curve.ends, lengths), len(curve.ends) - 1)
    within = lengths - np.concatenate([[0.0], curve.ends])[which]
    first = 0
    for run in curve.runs:
        count = len(run.poles) if isinstance(run, Cubics) else 1
        here = (which >= first) & (which < first + count)
        if np.any(here):
            places[here], ways[here] = _on_run(run, which[here] - first, within[here])
        first += count
    return places, ways


def _on_run(
    run: Piece | Cubics, which: NDArray[np.int64], lengths: Values
) -> tuple[Values, Values]:
    """Places and directions on pieces of a run, at lengths from the start of each."""
    if isinstance(run, Cubics):
        return run.at(which, run.parameters_at(which, lengths))
    steps = run.parameters_at(lengths)
    slopes = run.slope(steps)
    return run.at(steps), slopes / np.linalg.norm(slopes, axis=1, keepdims=True)


def frames(places: Values, ways: Values) -> Values:
    """The frames (n, 4, 4) at places: x along the ways, y level and to the left (y itself where a
    way stands upright), z square to both."""
    left = cross_product([0.0, 0.0, 1.0], ways)
    sizes = np.linalg.norm(left, axis=1)
    steep = sizes < SAME_SHARE
    left[steep], sizes[steep] = [0.0, 1.0, 0.0], 1.0
    left /= sizes[:, None]
    made = np.zeros((len(places), 4, 4))
    for column, vectors in enumerate((ways, left, cross_product(ways, left), places)):
        made[:, :3, column] = vectors
    made[:, 3, 3] = 1.0
    return made
