"""Checked trees become closures.

Each closure takes a frame (local names to values; under None the run at hand) and gives a
value. Where a local name stands for n values at once (the loop variable of a comprehension),
everything computed from it is made for all n together; what cannot be done so raises
OneByOne, and the comprehension makes its items one by one with the same closures' single
form. Errors of single items never differ between the two: where anything fails together, the
items are made one by one.

The rules for each kind of node stand in expressions.py, comprehensions.py and calls.py.
"""

from __future__ import annotations

import math
import signal
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from functools import cache
from typing import Any

import numpy as np
from msgspec import Struct, field

from ovolo.meaning import checked_tree
from ovolo.problems import Failure, OneByOne, Span
from ovolo.quantities.kinds import (
    CURVE,
    REGION,
    SOLID,
    SURFACE,
    YES_NO,
    Kind,
    PointKind,
    Quantity,
)
from ovolo.quantities.show import DisplayUnits, show_quantity
from ovolo.running.under_way import go_on
from ovolo.running.values import (
    Gap,
    LimitReached,
    empty_item,
)
from ovolo.words.rounding import snapped

Frame = dict[Any, Any]


Closure = Callable[[Frame], Any]


Together = frozenset[str]
"""The local names that stand for n values at once."""


MOST_CHARACTERS = 10_000


ALONE: Together = frozenset()


class Run(Struct):
    """One line being run: the values of lines so far, and what is noticed on the way."""

    values: dict[str, Any]
    units: DisplayUnits
    gaps: list[Gap]
    left_out: int = 0
    steps: int = 0
    """Items of loops gone through, and functions called."""

    soft: list[Failure] = field(default_factory=list)
    """What stands against the line although it has a value."""

    checks: list[Any] = field(default_factory=list)
    """The checks of the studies that it uses."""

    made: dict[object, tuple[tuple[Any, ...], Any]] = field(default_factory=dict)
    """By the place of a call what it had the last time, and what it made of that."""

    def made_before(self, place: object, given: tuple[Any, ...]) -> Any:
        """What the call at a place made, if it had the very same the last time, or equal figures and texts; else None."""
        before = self.made.get(place)
        return before[1] if before is not None and _all_same(before[0], given) else None


def _all_same(before: tuple[Any, ...], now: tuple[Any, ...]) -> bool:
    return all(
        one is other or (type(one) is type(other) and isinstance(one, _PLAIN) and one == other)
        for one, other in zip(before, now, strict=True)
    )


_PLAIN = (float, int, bool, str)


def is_worth_keeping(kind: Kind, many: bool) -> bool:
    """Whether what is made here is kept for when the same is to be made again, as often in a loop."""
    return not many and kind in (CURVE, REGION, SOLID, SURFACE)


_deadline: ContextVar[float] = ContextVar("deadline of the line at hand", default=math.inf)


def deadline() -> float:
    """When the line that is run now is stopped. It belongs to that line alone: a function that was
    made in an earlier run, and is called now, has the time that there is now."""
    return _deadline.get()


@contextmanager
def until(moment: float) -> Iterator[None]:
    """A line, or a study, that is run until a moment of `time.monotonic`."""
    token = _deadline.set(moment)
    alarm = _alarm(moment)
    try:
        yield
    finally:
        _deadline.reset(token)
        if alarm:
            _alarm(_deadline.get())


def check_time() -> None:
    """Raises LimitReached where the line has run too long, GivenUp where nobody waits for it any more."""
    go_on()
    _end_if_late()


def _end_if_late() -> None:
    if time.monotonic() > _deadline.get():
        raise LimitReached(
            "this line takes too long and was stopped",
            "make it shorter or coarser: a smaller count, a larger tolerance",
        )


def _alarm(moment: float) -> bool:
    """Sets the clock that ends a line at a moment wherever it is, also where nobody looks at the time;
    for the main thread alone, which is where workers work."""
    if threading.current_thread() is not threading.main_thread():
        return False
    if moment == math.inf:
        signal.setitimer(signal.ITIMER_REAL, 0.0)
        return True
    _listen()
    # Again and again: where it goes off while rubbish is collected, what it raises is lost.
    signal.setitimer(signal.ITIMER_REAL, max(moment - time.monotonic(), 0.0) + _LATE, _AGAIN)
    return True


_LATE = 0.05
"""Seconds by which the clock goes off after the moment, so that who looks at the time comes first."""

_AGAIN = 2.0
"""Seconds until it goes off again, if the line still runs; long after whatever the line leaves has been put right."""


@cache
def _listen() -> None:
    """Once for a process and those that it forks: to ask who listens takes longer than most lines."""
    signal.signal(signal.SIGALRM, _ring)


def _ring(number: int, frame: object) -> None:
    _end_if_late()


class Code(Struct, frozen=True, eq=False):
    run: Closure
    many: bool = False
    """Whether it gives n values at once."""


Rule = Callable[[Any, Together], Code]
_RULES: dict[type[checked_tree.Typed], Rule] = {}


def compiles(kind: type[checked_tree.Typed]) -> Callable[[Rule], Rule]:
    """Enters the rule that compiles nodes of one kind."""

    def enter(rule: Rule) -> Rule:
        _RULES[kind] = rule
        return rule

    return enter


def compiled(node: checked_tree.Typed) -> Closure:
    """The closure of an expression outside any comprehension."""
    token = _bodies.set({}) if _bodies.get() is None else None
    try:
        return compiled_node(node, ALONE).run
    finally:
        if token is not None:
            _bodies.reset(token)


_bodies: ContextVar[dict[tuple[int, Together], Code] | None] = ContextVar("bodies", default=None)


def compiled_body(node: checked_tree.Typed, together: Together) -> Code:
    """The code of a function's body: made once for all its calls within an expression, for functions
    that call functions would else be made over and over."""
    known = _bodies.get()
    if known is None:
        return compiled_node(node, together)
    key = id(node), together
    if key not in known:
        known[key] = compiled_node(node, together)
    return known[key]


def compiled_node(node: checked_tree.Typed, together: Together) -> Code:
    return _RULES[type(node)](node, together)


def alone(node: checked_tree.Typed, together: Together) -> Closure:
    """A closure that must not depend on n values at once."""
    code = compiled_node(node, together)
    if code.many:
        raise OneByOne
    return code.run


def count_of(frame: Frame, together: Together) -> int:
    return len(frame[next(iter(together))])


def only(frame: Frame, together: Together, where: Any) -> Frame:
    """The frame with only some of the n values of each name."""
    some = dict(frame)
    for name in together:
        if name in some:
            some[name] = some[name][where]
    return some


def width_of(kind: Kind) -> tuple[tuple[int, ...], Any]:
    """The shape of one value in an array of them, and its type."""
    if isinstance(kind, Quantity):
        return (), float
    if isinstance(kind, PointKind):
        return (3,), float
    if kind == YES_NO:
        return (), bool
    raise OneByOne


def shown_text(value: Any, kind: Kind | None, units: DisplayUnits) -> str:
    """A number, quantity, point, text or yes/no as a person reads it."""
    if kind == YES_NO:
        return "yes" if value else "no"
    if isinstance(kind, Quantity):
        return str(show_quantity(float(value), kind.dimension, units))
    if isinstance(kind, PointKind):
        coordinates = kind.coordinates(value)
        return "({})".format(
            ", ".join(str(show_quantity(float(c), kind.dimension, units)) for c in coordinates)
        )
    return str(value)


def with_gaps(items: list[Any], run: Run) -> list[Any]:
    """The items a word made; where it gives a failure instead of one, there is a gap."""
    failures = [item if isinstance(item, Failure) else empty_item(item) for item in items]
    if not any(failures):
        return items
    kept = list(items)
    for index, failure in enumerate(failures):
        if failure is not None:
            kept[index] = Gap(index, failure.message, failure.hint, failure.span)
            run.gaps.append(kept[index])
    return kept


def array_of(value: Any) -> Any:
    if not isinstance(value, np.ndarray):
        raise OneByOne
    return value


def as_whole(value: Any, name: str, span: Span) -> Any:
    """A count as an int, or counts as an array of ints; refuses fractions."""
    if isinstance(value, float) and value.is_integer():
        return int(value)
    near = snapped(value)
    if np.any(near != np.rint(near)):
        worst = float(np.atleast_1d(value)[np.atleast_1d(near != np.rint(near))][0])
        raise Failure(
            f"`{name}` wants a whole number here, and this is {worst:.6g}",
            "use floor, ceil or round",
            span,
        )
    return int(near) if np.ndim(near) == 0 else near.astype(np.int64)
