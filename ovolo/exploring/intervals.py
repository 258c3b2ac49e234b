"""Interval arithmetic over checked formulas: what they can give while inputs stay within limits.

Many boxes of inputs at once, as arrays. Every result is rounded outward, so that what the formula gives
anywhere in a box lies between the ends (Moore, Kearfott and Cloud, Introduction to Interval Analysis,
2009). Where a formula may have no value in a box (a root of something negative, a division by 0), its
result is not `sure`.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from ovolo.meaning import checked_tree
from ovolo.meaning.program import Program
from ovolo.quantities.dimension import usual_size
from ovolo.quantities.kinds import Quantity
from ovolo.quantities.show import NOISE
from ovolo.words.rounding import snapped

Figures = NDArray[np.float64]
Flags = NDArray[np.bool_]


class Unsupported(Exception):
    """The formula needs something that has no interval: geometry, a list, a text made of figures."""


class Interval(Struct, frozen=True):
    """From `low` to `high` in each box; `sure` where there is a value everywhere in it."""

    low: Figures
    high: Figures
    sure: Flags

    @classmethod
    def of(cls, low: Any, high: Any, count: int) -> Interval:
        return cls(
            np.broadcast_to(np.asarray(low, float), count),
            np.broadcast_to(np.asarray(high, float), count),
            np.ones(count, bool),
        )


class Truth(Struct, frozen=True):
    """Whether a condition can hold, and can fail, somewhere in each box."""

    can_hold: Flags
    can_fail: Flags
    sure: Flags


Reading = Interval | Truth | str
"""What a formula gives in all boxes: figures, yes or no, or one text."""


def _outward(low: Any, high: Any, sure: Flags, places: int = 1) -> Interval:
    """The interval with its ends moved out by so many places of the last figure."""
    with np.errstate(all="ignore"):
        low, high = np.asarray(low, float), np.asarray(high, float)
        gap_low, gap_high = np.spacing(np.abs(low)), np.spacing(np.abs(high))
        below = np.where(np.isfinite(low), low - places * gap_low, -np.inf)
        above = np.where(np.isfinite(high), high + places * gap_high, np.inf)
    return Interval(below, above, sure & np.isfinite(below) & np.isfinite(above))


LIBRARY = 8
"""Places by which functions of NumPy may miss: its documented errors are below 4 of them."""


# --- operators ---


def _add(a: Interval, b: Interval) -> Interval:
    return _outward(a.low + b.low, a.high + b.high, a.sure & b.sure)


def _subtract(a: Interval, b: Interval) -> Interval:
    return _outward(a.low - b.high, a.high - b.low, a.sure & b.sure)


def _negate(a: Interval) -> Interval:
    return Interval(-a.high, -a.low, a.sure)


def _corners(rule: Callable[..., Any], a: Interval, b: Interval, places: int = 1) -> Interval:
    """Of a rule that goes one way along each of its sides: by the four corners."""
    with np.errstate(all="ignore"):
        found = np.stack([rule(x, y) for x in (a.low, a.high) for y in (b.low, b.high)])
    # 0 times what is beyond all figures is 0 here: the end itself is not reached.
    found = np.where(np.isnan(found), 0.0, found)
    return _outward(found.min(axis=0), found.max(axis=0), a.sure & b.sure, places)


def _multiply(a: Interval, b: Interval) -> Interval:
    return _corners(np.multiply, a, b)


def _divide(a: Interval, b: Interval) -> Interval:
    through = (b.low <= 0) & (b.high >= 0)
    safe = Interval(
        np.where(through, 1.0, b.low), np.where(through, 1.0, b.high), b.sure & ~through
    )
    found = _corners(np.divide, a, safe)
    return Interval(
        np.where(through, -np.inf, found.low), np.where(through, np.inf, found.high), found.sure
    )


def _power(a: Interval, b: Interval) -> Interval:
    if np.all(b.low == b.high) and np.all(np.rint(b.low) == b.low):
        return _whole_power(a, b)
    above = a.low > 0
    base = Interval(np.where(above, a.low, 1.0), np.where(above, a.high, 1.0), a.sure & above)
    found = _corners(np.power, base, b, LIBRARY)
    return Interval(
        np.where(above, found.low, -np.inf), np.where(above, found.high, np.inf), found.sure
    )


def _whole_power(a: Interval, b: Interval) -> Interval:
    """A whole exponent: goes one way on either side of 0; an even one has its least at 0."""
    n = b.low
    through = (a.low <= 0) & (a.high >= 0)
    with np.errstate(all="ignore"):
        one, other = np.power(a.low, n), np.power(a.high, n)
    low, high = np.minimum(one, other), np.maximum(one, other)
    even = np.mod(n, 2) == 0
    low = np.where(even & through & (n > 0), 0.0, low)
    pole = through & (n < 0)
    found = _outward(low, high, a.sure & b.sure & ~pole, LIBRARY)
    lowest = np.where(even & (n > 0), np.maximum(found.low, 0.0), found.low)
    return Interval(np.where(pole, -np.inf, lowest), np.where(pole, np.inf, found.high), found.sure)


OPERATORS: Mapping[str, Callable[..., Interval]] = {
    "add": _add,
    "subtract": _subtract,
    "negate": _negate,
    "multiply": _multiply,
    "divide": _divide,
    "power": _power,
}


# --- words ---


def _rising(rule: Callable[[Any], Any], places: int = LIBRARY) -> Callable[[Interval], Interval]:
    """A word that only rises: by its ends."""

    def word(x: Interval) -> Interval:
        with np.errstate(all="ignore"):
            return _outward(rule(x.low), rule(x.high), x.sure, places)

    return word


def _stepped(rule: Callable[[Any], Any]) -> Callable[..., Interval]:
    """Rounding to whole numbers, or to multiples; ends are whole, and stay so."""

    def word(x: Interval, multiple: Interval | None = None) -> Interval:
        with np.errstate(all="ignore"):
            if multiple is None:
                return Interval(rule(snapped(x.low)), rule(snapped(x.high)), x.sure)
            share = _divide(x, multiple)
            whole = Interval(rule(snapped(share.low)), rule(snapped(share.high)), share.sure)
        found = _multiply(whole, multiple)
        above = multiple.low > 0
        return Interval(found.low, found.high, found.sure & above)

    return word


def _half_away(x: Any) -> Any:
    doubled = snapped(np.abs(x) * 2) / 2
    return np.copysign(np.floor(doubled + 0.5), x)


def _sqrt(x: Interval) -> Interval:
    found = _outward(
        np.sqrt(np.maximum(x.low, 0)), np.sqrt(np.maximum(x.high, 0)), x.sure & (x.low >= -NOISE)
    )
    return Interval(np.maximum(found.low, 0.0), found.high, found.sure)


def _logarithm(rule: Callable[[Any], Any]) -> Callable[[Interval], Interval]:
    def word(x: Interval) -> Interval:
        above = x.low > 0
        with np.errstate(all="ignore"):
            low = np.where(above, rule(np.where(above, x.low, 1.0)), -np.inf)
            high = np.where(x.high > 0, rule(np.where(x.high > 0, x.high, 1.0)), np.inf)
        found = _outward(low, high, x.sure & above, LIBRARY)
        return Interval(found.low, found.high, x.sure & above)

    return word


def _arc(rule: Callable[[Any], Any], falling: bool) -> Callable[[Interval], Interval]:
    """asin and acos, which end at -1 and 1."""

    def word(x: Interval) -> Interval:
        inside = (x.low >= -1 - 1e-12) & (x.high <= 1 + 1e-12)
        ends = rule(np.clip(x.low, -1, 1)), rule(np.clip(x.high, -1, 1))
        low, high = ends[::-1] if falling else ends
        return _outward(low, high, x.sure & inside, LIBRARY)

    return word


_CIRCLE = 1e-15
"""By how much sine and cosine may be off beside their last places: the rounding of their angle."""


def _wave(rule: Callable[[Any], Any], crest: float) -> Callable[[Interval], Interval]:
    """Sine or cosine, whose crests lie at `crest` and whole turns from there."""

    def word(x: Interval) -> Interval:
        with np.errstate(all="ignore"):
            one, other = rule(x.low), rule(x.high)
            low, high = np.minimum(one, other), np.maximum(one, other)
            slack = _CIRCLE * (1 + np.maximum(np.abs(x.low), np.abs(x.high)))
            top = _holds_one(x, crest, slack)
            bottom = _holds_one(x, crest + np.pi, slack)
        low = np.where(bottom, -1.0, low - slack)
        high = np.where(top, 1.0, high + slack)
        wide = ~np.isfinite(x.low) | ~np.isfinite(x.high)
        low, high = np.where(wide, -1.0, low), np.where(wide, 1.0, high)
        return Interval(np.maximum(low, -1.0), np.minimum(high, 1.0), x.sure)

    return word


def _holds_one(x: Interval, first: float, slack: Any) -> Any:
    """Whether an interval holds one of the places `first` and whole turns from it."""
    turns = np.ceil((x.low - slack - first) / (2 * np.pi))
    return first + turns * 2 * np.pi <= x.high + slack


def _tan(x: Interval) -> Interval:
    slack = _CIRCLE * (1 + np.maximum(np.abs(x.low), np.abs(x.high)))
    with np.errstate(all="ignore"):
        halves = np.ceil((x.low - slack - np.pi / 2) / np.pi)
        pole = ~(np.pi / 2 + halves * np.pi > x.high + slack)
        low, high = np.tan(x.low), np.tan(x.high)
        low = low - slack * (1 + low * low)
        high = high + slack * (1 + high * high)
    found = _outward(low, high, x.sure & ~pole, LIBRARY)
    return Interval(
        np.where(pole, -np.inf, found.low), np.where(pole, np.inf, found.high), found.sure
    )


def _atan2(y: Interval, x: Interval) -> Interval:
    """By its corners, where the box is away from the origin and from the cut at half a turn."""
    found = _corners(np.arctan2, y, x, LIBRARY)
    cut = (x.low <= 0) & (y.low <= 0) & (y.high >= 0)
    # Places at which the angle is not least or greatest at a corner lie on the axes through the box.
    right = (y.low <= 0) & (y.high >= 0) & (x.high >= 0)
    low = np.where(cut, -np.pi, np.where(right, np.minimum(found.low, 0), found.low))
    high = np.where(cut, np.pi, np.where(right, np.maximum(found.high, 0), found.high))
    return _outward(low, high, y.sure & x.sure)


def _abs(x: Interval) -> Interval:
    through = (x.low <= 0) & (x.high >= 0)
    one, other = np.abs(x.low), np.abs(x.high)
    return Interval(np.where(through, 0.0, np.minimum(one, other)), np.maximum(one, other), x.sure)


def _cosh(x: Interval) -> Interval:
    size = _abs(x)
    found = _rising(np.cosh)(size)
    return Interval(np.maximum(found.low, 1.0), found.high, found.sure)


def _least(first: Interval, *more: Interval) -> Interval:
    for one in more:
        sure = first.sure & one.sure
        first = Interval(np.minimum(first.low, one.low), np.minimum(first.high, one.high), sure)
    return first


def _greatest(first: Interval, *more: Interval) -> Interval:
    for one in more:
        sure = first.sure & one.sure
        first = Interval(np.maximum(first.low, one.low), np.maximum(first.high, one.high), sure)
    return first


def _clamp(x: Interval, low: Interval, high: Interval) -> Interval:
    found = _least(_greatest(x, low), high)
    return Interval(found.low, found.high, found.sure & (low.high <= high.low))


def _mod(a: Interval, b: Interval) -> Interval:
    """Where the whole number of times is the same in all of a box, what is left; else all from 0 to b."""
    share = _divide(a, b)
    with np.errstate(all="ignore"):
        low, high = snapped(share.low), snapped(share.high)
        same = (np.floor(low) == np.floor(high)) & (low != np.rint(low))
        times = Interval(np.floor(low), np.floor(low), share.sure)
    left = _subtract(a, _multiply(times, b))
    above = b.low > 0
    return Interval(
        np.where(same & above, np.maximum(left.low, 0.0), np.minimum(b.low, 0.0)),
        np.where(same & above, np.minimum(left.high, b.high), np.maximum(b.high, 0.0)),
        share.sure,
    )


def _fraction(x: Interval) -> Interval:
    one = Interval.of(1.0, 1.0, len(x.low))
    return _mod(x, one)


def _sign(x: Interval) -> Interval:
    def rule(figures: Figures) -> Figures:
        return np.where(np.abs(figures) <= 1e-15, 0.0, np.sign(figures))

    return Interval(rule(x.low), rule(x.high), x.sure)


WORDS: Mapping[str, Callable[..., Interval]] = {
    "floor": _stepped(np.floor),
    "ceil": _stepped(np.ceil),
    "round": _stepped(_half_away),
    "mod": _mod,
    "abs": _abs,
    "min": _least,
    "max": _greatest,
    "clamp": _clamp,
    "sin": _wave(np.sin, np.pi / 2),
    "cos": _wave(np.cos, 0.0),
    "tan": _tan,
    "asin": _arc(np.arcsin, False),
    "acos": _arc(np.arccos, True),
    "atan": _rising(np.arctan),
    "atan2": _atan2,
    "sqrt": _sqrt,
    "rad": lambda x: x,
    "deg": _rising(np.degrees),
    "exp": _rising(np.exp),
    "ln": _logarithm(np.log),
    "log10": _logarithm(np.log10),
    "sinh": _rising(np.sinh),
    "cosh": _cosh,
    "tanh": _rising(np.tanh),
    "sign": _sign,
    "fraction": _fraction,
}
"""The words that have an interval."""


# --- formulas ---


class Boxes:
    """Many boxes of inputs: by input an interval, one truth for all or one text for all; the other inputs
    at their present values. Reads the formulas of a program in all of them at once."""

    def __init__(
        self, program: Program, count: int, given: Mapping[str, Reading], present: Mapping[str, Any]
    ) -> None:
        self.program, self.count, self.present = program, count, present
        self._known: dict[str, Reading] = dict(given)
        self._local: dict[str, Reading] = {}

    def line(self, name: str) -> Reading:
        """What the line of a name can give. Raises Unsupported."""
        if name not in self._known:
            line = self.program.by_name[name]
            if name in self.present:
                self._known[name] = self._constant(self.present[name])
            elif line.checked is None or line.checked.value is None:
                raise Unsupported(name)
            else:
                kept, self._local = self._local, {}
                try:
                    self._known[name] = self.read(line.checked.value)
                finally:
                    self._local = kept
        return self._known[name]

    def _constant(self, value: Any) -> Reading:
        if isinstance(value, bool | np.bool_):
            flags = np.full(self.count, bool(value))
            return Truth(flags, ~flags, np.ones(self.count, bool))
        if isinstance(value, str):
            return value
        if isinstance(value, int | float | np.floating):
            return Interval.of(float(value), float(value), self.count)
        raise Unsupported("a constant")

    def read(self, node: checked_tree.Typed) -> Reading:
        """What a formula can give. Raises Unsupported."""
        match node:
            case checked_tree.Constant(value=value):
                return self._constant(value)
            case checked_tree.Line(name=name):
                return self.line(name)
            case checked_tree.LocalName(name=name):
                return self._local[name] if name in self._local else self._none(name)
            case checked_tree.Operation(rule=rule, operands=operands) if rule in OPERATORS:
                return OPERATORS[rule](*(self.figures(one) for one in operands))
            case checked_tree.Compared():
                return self._compared(node)
            case checked_tree.Both():
                return self._both(node)
            case checked_tree.Opposite(operand=operand):
                truth = self.truth(operand)
                return Truth(truth.can_fail, truth.can_hold, truth.sure)
            case checked_tree.Chosen():
                return self._chosen(node)
            case checked_tree.WordCall():
                return self._word(node)
            case checked_tree.FunctionCall():
                return self._function(node)
            case checked_tree.Locals(lines=lines, value=value):
                for name, line in lines:
                    self._local = {**self._local, name: self.read(line)}
                return self.read(value)
        return self._none(type(node).__name__)

    def _none(self, what: str) -> Reading:
        raise Unsupported(what)

    def figures(self, node: checked_tree.Typed) -> Interval:
        found = self.read(node)
        if not isinstance(found, Interval):
            raise Unsupported("no figures")
        return found

    def truth(self, node: checked_tree.Typed) -> Truth:
        found = self.read(node)
        if not isinstance(found, Truth):
            raise Unsupported("no condition")
        return found

    def _word(self, node: checked_tree.WordCall) -> Reading:
        word = node.word
        if word.constant:
            return self._constant(word.function())
        rule = WORDS.get(word.name)
        if rule is None or node.whole:
            raise Unsupported(word.name)
        named = dict(node.named)
        arguments = [self.figures(one) for one in node.positional]
        for parameter in word.parameters[len(arguments) :]:
            if parameter.name in named:
                arguments.append(self.figures(named.pop(parameter.name)))
        if named:
            raise Unsupported(word.name)
        if word.name in ("min", "max") and len(arguments) < 2:
            raise Unsupported(word.name)
        return rule(*arguments)

    def _function(self, node: checked_tree.FunctionCall) -> Reading:
        if not isinstance(node.function, checked_tree.Line):
            raise Unsupported("a function that is a value")
        arguments = [self.read(one) for one in node.arguments]
        kept, self._local = self._local, dict(zip(node.parameters, arguments, strict=True))
        try:
            return self.read(node.body)
        finally:
            self._local = kept

    def _both(self, node: checked_tree.Both) -> Truth:
        """`and`, `or`: what stands further on counts only where it is come to."""
        joined = self.truth(node.operands[0])
        every = node.operator == "and"
        for operand in node.operands[1:]:
            one = self.truth(operand)
            comes = joined.can_hold if every else joined.can_fail
            sure = joined.sure & (one.sure | ~comes)
            if every:
                joined = Truth(joined.can_hold & one.can_hold, joined.can_fail | (comes & one.can_fail), sure)  # fmt: skip
            else:
                joined = Truth(joined.can_hold | (comes & one.can_hold), joined.can_fail & one.can_fail, sure)  # fmt: skip
        return joined

    def _chosen(self, node: checked_tree.Chosen) -> Reading:
        condition = self.truth(node.condition)
        if not condition.can_hold.any():
            return _no_surer(self.read(node.other), condition)
        if not condition.can_fail.any():
            return _no_surer(self.read(node.chosen), condition)
        return _either(condition, self.read(node.chosen), self.read(node.other))

    def _compared(self, node: checked_tree.Compared) -> Truth:
        values = [self.read(one) for one in node.operands]
        within = None if node.within is None else self.figures(node.within)
        kind = node.operands[0].kind
        size = usual_size(kind.dimension) if isinstance(kind, Quantity) else 1.0
        joined: Truth | None = None
        for operator, a, b in zip(node.operators, values, values[1:], strict=False):
            one = self._link(operator, a, b, within, size)
            if joined is None:
                joined = one
            else:
                joined = Truth(
                    joined.can_hold & one.can_hold,
                    joined.can_fail | one.can_fail,
                    joined.sure & (one.sure | ~joined.can_hold),
                )
        assert joined is not None
        if within is not None:
            joined = Truth(joined.can_hold, joined.can_fail, joined.sure & within.sure & (within.low >= 0))  # fmt: skip
        return joined

    def _link(
        self, operator: str, a: Reading, b: Reading, within: Interval | None, size: float
    ) -> Truth:
        if isinstance(a, Interval) and isinstance(b, Interval):
            return _figures_compared(operator, a, b, within, size)
        if isinstance(a, str) and isinstance(b, str):
            same = np.full(self.count, (a == b) == (operator == "=="))
            return Truth(same, ~same, np.ones(self.count, bool))
        if isinstance(a, Truth) and isinstance(b, Truth):
            same = (a.can_hold & b.can_hold) | (a.can_fail & b.can_fail)
            other = (a.can_hold & b.can_fail) | (a.can_fail & b.can_hold)
            sure = a.sure & b.sure
            return Truth(same, other, sure) if operator == "==" else Truth(other, same, sure)
        raise Unsupported("a comparison")


def _figures_compared(
    operator: str, a: Interval, b: Interval, within: Interval | None, size: float
) -> Truth:
    """One link of a comparison, with the tolerance that the language has (running/operators.py)."""
    sure = a.sure & b.sure
    with np.errstate(all="ignore"):
        largest = np.maximum.reduce([np.abs(a.low), np.abs(a.high), np.abs(b.low), np.abs(b.high)])
        most = 2 * NOISE * np.maximum(size, largest) + (0.0 if within is None else within.high)
        least = (0.0 if within is None else within.low) + 0.5 * NOISE * size
        if operator in (">", ">="):
            a, b, operator = b, a, "<" if operator == ">" else "<="
        if operator == "<=":  # holds where a <= b + tolerance
            return Truth(a.low <= b.high + most, a.high > b.low + least, sure)
        if operator == "<":  # holds where a < b - tolerance
            return Truth(a.low < b.high - least, ~(a.high < b.low - most), sure)
        near = (a.low <= b.high + most) & (b.low <= a.high + most)
        apart = np.maximum(a.high - b.low, b.high - a.low) > least
    return Truth(near, apart, sure) if operator == "==" else Truth(apart, near, sure)


def _no_surer(found: Reading, condition: Truth) -> Reading:
    if isinstance(found, Interval):
        return Interval(found.low, found.high, found.sure & condition.sure)
    if isinstance(found, Truth):
        return Truth(found.can_hold, found.can_fail, found.sure & condition.sure)
    if not condition.sure.all():
        raise Unsupported("a text that may not be there")
    return found


def _either(condition: Truth, chosen: Reading, other: Reading) -> Reading:
    """What comes of a choice: of either side, where both can be come to."""
    yes, no = condition.can_hold, condition.can_fail
    if isinstance(chosen, Interval) and isinstance(other, Interval):
        sure = condition.sure & (chosen.sure | ~yes) & (other.sure | ~no)
        low = np.minimum(np.where(yes, chosen.low, np.inf), np.where(no, other.low, np.inf))
        high = np.maximum(np.where(yes, chosen.high, -np.inf), np.where(no, other.high, -np.inf))
        return Interval(low, high, sure)
    if isinstance(chosen, Truth) and isinstance(other, Truth):
        sure = condition.sure & (chosen.sure | ~yes) & (other.sure | ~no)
        return Truth(
            (yes & chosen.can_hold) | (no & other.can_hold),
            (yes & chosen.can_fail) | (no & other.can_fail),
            sure,
        )
    if isinstance(chosen, str) and chosen == other:
        return chosen
    raise Unsupported("a choice of texts")
