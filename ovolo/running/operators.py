"""The rules of the operators, for single values and for arrays of them."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable
from typing import Any

import numpy as np
from msgspec import Struct

from ovolo.geometry.regions import region as regions
from ovolo.geometry.solids import booleans as solids
from ovolo.geometry.solids.solid import Copies
from ovolo.problems import Failure
from ovolo.quantities.show import NOISE
from ovolo.running.values import refuse_gaps
from ovolo.words.measuring import pieces

Values = Any


class Rule(Struct, frozen=True):
    """`single` works on floats, points or shapes; `many` on arrays of them, or is None where
    the rule is not for arrays."""

    single: Callable[..., Any]
    many: Callable[..., Any] | None = None


def _finite(value: float) -> float:
    if not math.isfinite(value):
        raise OverflowError
    return value


def _divide(a: float, b: float) -> float:
    if b == 0:
        raise ZeroDivisionError
    return _finite(a / b)


def _divide_point(p: Values, k: Values) -> Values:
    if np.any(np.equal(k, 0)):
        raise ZeroDivisionError
    return p / np.asarray(k)[..., None]


def _power(a: Values, b: Values) -> Values:
    if np.any(np.less(a, 0) & (np.rint(b) != b)):
        raise Failure(
            f"{np.min(a):.6g} to the power of {np.min(b):.6g} does not exist",
            "a negative base needs a whole exponent",
        )
    if np.any(np.equal(a, 0) & np.less(b, 0)):
        raise ZeroDivisionError
    return np.power(a, b)


def _single_power(a: float, b: float) -> float:
    return _finite(float(_power(np.float64(a), np.float64(b))))


def _scale(p: Values, k: Values) -> Values:
    return p * np.asarray(k)[..., None]


def _with_list(combine: Callable[..., Any], operator: str) -> Callable[[Any, Any], Any]:
    """`thing operator list`: with everything in the list at once; with an empty list, the thing."""

    def rule(first: Any, rest: Any) -> Any:
        others = [one for piece in pieces(rest) for one in _singly(piece)]
        return _something_left(combine, operator, first, *others) if others else first

    return rule


def _something_left(combine: Callable[..., Any], operator: str, first: Any, *others: Any) -> Any:
    """Solids or regions put together. Refuses to go on with nothing, unless one of them was empty
    before: then that is what is told of it."""
    made = combine(operator, first, *others)
    if made.is_empty and not any(one.is_empty for one in (first, *others)):
        raise Failure(made.why_empty, f"guard it with `if`; {_HINTS[operator]}")
    return made


_HINTS = {
    "+": "they are too thin",
    "-": "what is cut away covers all of it",
    "&": "they have nothing in common",
}


def _singly(piece: Any) -> Iterable[Any]:
    return piece if isinstance(piece, Copies) else (piece,)


RULES: dict[str, Rule] = {
    "add": Rule(lambda a, b: a + b, np.add),
    "subtract": Rule(lambda a, b: a - b, np.subtract),
    "multiply": Rule(lambda a, b: _finite(a * b), np.multiply),
    "divide": Rule(_divide, np.divide),
    "negate": Rule(lambda a: -a, np.negative),
    "power": Rule(_single_power, _power),
    "scale point": Rule(_scale, _scale),
    "scale point by": Rule(lambda k, p: _scale(p, k), lambda k, p: _scale(p, k)),
    "divide point": Rule(_divide_point, _divide_point),
}


def _each(name: str, sides: str) -> Callable[..., Any]:
    """An operator for each item of the left list, of the right one, or of both."""
    rule = RULES[name].many
    assert rule is not None

    def run(*values: Any) -> Any:
        lists = {"left": values[:1], "right": values[1:], "both": values}[sides]
        for one in lists:
            refuse_gaps(one, "a list")
        if len({len(one) for one in lists}) > 1:
            said = " and ".join(str(len(one)) for one in lists)
            raise Failure(
                f"the lists have {said} items", "lists that go together are of one length"
            )
        if name.startswith("divide"):
            _refuse_nothing(values[1], sides != "left")
        return rule(*values)

    return run


def _refuse_nothing(divisor: Any, is_list: bool) -> None:
    nothing = np.flatnonzero(np.equal(divisor, 0))
    if len(nothing) and is_list:
        raise Failure(
            f"division by zero: item {nothing[0]} of what it is divided by is 0",
            "leave it out: [x for x in xs if x != 0]",
        )
    if len(nothing):
        raise ZeroDivisionError


for _name in [name for name, rule in RULES.items() if rule.many is not None]:
    for _sides in ("left",) if _name == "negate" else ("left", "right", "both"):
        RULES[f"each {_name} of {_sides}"] = Rule(_each(_name, _sides))
for _sign in "+-&":
    for _name, _combine in (("region", regions.combined), ("solid", solids.combined)):
        RULES[f"{_name} {_sign}"] = Rule(
            lambda a, b, combine=_combine, sign=_sign: _something_left(combine, sign, a, b)
        )
        RULES[f"{_name} {_sign} list"] = Rule(_with_list(_combine, _sign))


def _noise(a: Values, b: Values, size: float) -> Values:
    return NOISE * np.maximum(size, np.maximum(np.abs(a), np.abs(b)))


def compare(
    operator: str, a: Values, b: Values, within: Values = None, size: float = 1.0
) -> Values:
    """One link of a comparison of numbers, elementwise; True where it holds. `size` is the usual
    size of their dimension."""
    tolerance = _noise(a, b, size) if within is None else within + _noise(a, b, size)
    match operator:
        case "<=":
            return a <= b + tolerance
        case ">=":
            return a >= b - tolerance
        case "<":
            return a < b - tolerance
        case ">":
            return a > b + tolerance
        case "==":
            return np.abs(a - b) <= tolerance
    return np.abs(a - b) > tolerance


def compare_points(
    operator: str, a: Values, b: Values, within: Values = None, size: float = 1.0
) -> Values:
    """Points are equal where they are no further apart than the tolerance."""
    gap = np.linalg.norm(a - b, axis=-1)
    away = np.maximum(np.linalg.norm(a, axis=-1), np.linalg.norm(b, axis=-1))
    tolerance = NOISE * np.maximum(size, away) + (0.0 if within is None else within)
    return gap <= tolerance if operator == "==" else gap > tolerance


def equal(a: Any, b: Any, within: Values = None, size: float = 1.0) -> bool:
    """Whether two values of one kind are equal, lists item by item."""
    if isinstance(a, np.ndarray) and a.dtype != bool:
        return len(a) == len(b) and bool(np.all(compare("==", a, b, within, size)))
    if isinstance(a, np.ndarray | list):
        pairs = zip(a, b, strict=False)
        return len(a) == len(b) and all(equal(x, y, within, size) for x, y in pairs)
    if isinstance(a, float):
        return bool(compare("==", a, b, within, size))
    return bool(a == b)
