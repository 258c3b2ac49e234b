"""The band that works: where along one input the lines that follow from it fail, all others as they stand."""

from __future__ import annotations

import itertools
import re
import time
from collections.abc import Mapping
from typing import Any

from msgspec import Struct

from ovolo.exploring.axes import Axis, axes_of, axis_of, parted, plain
from ovolo.fields import fields_told
from ovolo.meaning.program import Program
from ovolo.outcome.outcome import Outcome
from ovolo.running.evaluate import Memo, evaluate

PLACES = 41
"""At so many places along the input it is tried first, or at all its values where it has fewer."""

SECONDS = 8.0
"""Of patience, of work of its own: what others do beside it changes no band."""

CLOSER = 14
"""So often the way to an end of a band is halved."""


class Band(Struct, frozen=True):
    """A stretch of an input (mm, radians, kg, s) on which the study fails, and why; of an input that is
    chosen one of its choices."""

    low: Any
    high: Any
    why: str


class Bands(Struct, frozen=True):
    """The stretches on which a study fails along one input, and whether all of it was tried."""

    name: str
    failing: list[Band]
    whole: bool

    def as_json(self) -> dict[str, Any]:
        return fields_told(self)


def bands_of(
    program: Program,
    name: str,
    present: Mapping[str, Any] | None = None,
    memo: Memo | None = None,
    seconds: float = SECONDS,
) -> Bands:
    """Where what follows from the input `name` fails along it. Raises Failure where it cannot be varied. What lies
    between two places that hold is taken to hold: this is tried, not proved."""
    present = dict(present or {})
    axis = axis_of(axes_of(program, present), program, name)
    trying = _Trying(program, present, axis, memo or Memo(), time.thread_time() + seconds)
    if axis.choices:
        found = [Band(plain(axis, v), plain(axis, v), why) for v in axis.choices if (why := trying.why(v))]  # fmt: skip
    else:
        found = trying.stretches()
    return Bands(name, found, trying.whole)


class _Trying:
    def __init__(
        self, program: Program, present: Mapping[str, Any], axis: Axis, memo: Memo, until: float
    ) -> None:
        self.program, self.present, self.axis, self.memo = program, present, axis, memo
        self.until, self.whole = until, True
        self._own = {one.statement.line for one in program.downstream(frozenset([axis.name]))}
        self._known: dict[Any, str] = {}

    def why(self, value: Any) -> str:
        """Why what follows from the input fails at a value; empty where it is well, or there is no time left to know."""
        if value in self._known:
            return self._known[value]
        if time.thread_time() > self.until:
            self.whole = False
            return ""
        lines = evaluate(self.program, {**self.present, self.axis.name: value}, self.memo)
        reasons = Outcome(self.program, lines).reasons
        self._known[value] = next((said for line, said in reasons if line in self._own), "")
        return self._known[value]

    def stretches(self) -> list[Band]:
        places = self.axis.evenly(PLACES)
        tried = [(value, self.why(value)) for value in places]
        found: list[Band] = []
        for cause, group in itertools.groupby(tried, key=lambda pair: _cause(pair[1])):
            if not cause:
                continue
            stretch = list(group)
            values = [value for value, _ in stretch]
            why = stretch[0][1]
            low, high = self._edge(places, values[0], -1, why), self._edge(places, values[-1], 1, why)  # fmt: skip
            found.append(Band(low, high, why))
        return found

    def _edge(self, places: list[float], fails: float, way: int, why: str) -> float:
        """How far a stretch goes beyond its last place, on steps of the input."""
        at = places.index(fails) + way
        if not 0 <= at < len(places):
            return fails
        alike = parted(self.axis, fails, places[at], lambda one: _cause(self.why(one)) == _cause(why), CLOSER)  # fmt: skip
        return alike[0]


def _cause(why: str) -> str:
    """A reason without its figures: the same cause says other figures at other values."""
    return re.sub(r"-?\d+(?:[.,]\d+)?(?:e[-+]?\d+)?", "#", why)
