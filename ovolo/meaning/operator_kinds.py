"""The kinds that operators take and give. Each rule name is a rule in running/operators.py."""

from __future__ import annotations

import re
from collections.abc import Callable
from fractions import Fraction

from ovolo.problems import Failure
from ovolo.quantities.dimension import (
    ANGLE,
    LENGTH,
    NUMBER,
    power,
    product,
    quotient,
)
from ovolo.quantities.kinds import (
    EDGE,
    REGION,
    SOLID,
    TEXT,
    FunctionKind,
    Kind,
    ListOf,
    PointKind,
    Quantity,
    innermost,
)

_VERBS = {
    "+": "plus",
    "-": "minus",
    "*": "times",
    "/": "divided by",
    "&": "and",
    "^": "to the power of",
}

ROUNDED_EDGE = (
    "`round` of a length alone is the finish of an edge; to round a length say to what multiple: "
    "`round(x, 1 mm)`"
)


Said = tuple[str, str]
"""How both sides of an operator are written."""


def operator_kind(
    operator: str, left: Kind, right: Kind, said: Callable[[], Said]
) -> tuple[str, Kind]:
    """The rule and the result of `left operator right`; `said` tells how both sides are written. With a
    list of figures or points, the operator is for each of its items.

    Raises Failure where the kinds do not go together.
    """
    return each_of(left, right, lambda a, b: _single_kind(operator, a, b, said))


def each_of(
    left: Kind, right: Kind, rule_of: Callable[[Kind, Kind], tuple[str, Kind]]
) -> tuple[str, Kind]:
    """The rule and the result of an operator for single values, or for each item of lists of
    figures and points."""
    if not isinstance(left, ListOf) and not isinstance(right, ListOf):
        return rule_of(left, right)
    a, b = (one.item if isinstance(one, ListOf) else one for one in (left, right))
    if not all(isinstance(one, Quantity | PointKind) for one in (a, b)):
        return rule_of(left, right)
    assert a is not None and b is not None
    rule, kind = rule_of(a, b)
    both = isinstance(left, ListOf) and isinstance(right, ListOf)
    sides = "both" if both else "left" if isinstance(left, ListOf) else "right"
    return f"each {rule} of {sides}", ListOf(item=kind)


def _single_kind(
    operator: str, left: Kind, right: Kind, written: Callable[[], Said]
) -> tuple[str, Kind]:
    match operator, left, right:
        case "+" | "-", Quantity(), Quantity() if left.dimension == right.dimension:
            return ("add" if operator == "+" else "subtract"), left
        case "+" | "-", PointKind(), PointKind() if left.dimension == right.dimension:
            flat = left.flat and right.flat
            rule = "add" if operator == "+" else "subtract"
            return rule, PointKind(dimension=left.dimension, flat=flat)
        case "+" | "-" | "&", Kind(), Kind() if left == right and left in (REGION, SOLID):
            return f"{left.name} {operator}", left
        case "+" | "-" | "&", Kind(), ListOf() if left in (REGION, SOLID) and (
            innermost(right) in (left, None)
        ):
            return f"{left.name} {operator} list", left
        case "*", Quantity(), Quantity():
            return "multiply", Quantity(dimension=product(left.dimension, right.dimension))
        case "/", Quantity(), Quantity():
            return "divide", Quantity(dimension=quotient(left.dimension, right.dimension))
        case "*", PointKind(), Quantity():
            dimension = product(left.dimension, right.dimension)
            return "scale point", PointKind(dimension=dimension, flat=left.flat)
        case "*", Quantity(), PointKind():
            dimension = product(left.dimension, right.dimension)
            return "scale point by", PointKind(dimension=dimension, flat=right.flat)
        case "/", PointKind(), Quantity():
            dimension = quotient(left.dimension, right.dimension)
            return "divide point", PointKind(dimension=dimension, flat=left.flat)
    said = written()
    raise Failure(
        f"{_side(left, said[0])} {_VERBS[operator]} {_side(right, said[1])} makes no sense",
        _hint(operator, left, right, said),
    )


def _side(kind: Kind, said: str) -> str:
    return f"{kind.said} ({said})" if len(said) <= 40 else kind.said


def _hint(operator: str, left: Kind, right: Kind, said: Said) -> str:
    if EDGE in (left, right):
        return ROUNDED_EDGE
    sides = ((left, right, said[0], said[1]), (right, left, said[1], said[0]))
    for this, other, written, partner in sides:
        if not isinstance(this, Quantity) or not isinstance(other, Quantity):
            continue
        dimensions = (this.dimension, other.dimension)
        if dimensions == (NUMBER, LENGTH):
            return f"give the number a unit: `{with_unit(written, 'mm')}`"
        if dimensions == (NUMBER, ANGLE):
            return f"give the number a unit: `{with_unit(written, '°')}`, or use `rad({partner})`"
        if dimensions == (ANGLE, LENGTH):
            return f"an arc's length is its radius times `rad({written})`"
    if {left, right} == {REGION, SOLID}:
        return "make the region a solid first: `extrude(region, 5 mm)`"
    for this, written in ((left, said[0]), (right, said[1])):
        if isinstance(this, FunctionKind):
            return f"call it with its arguments: `{written}(…)`"
    if TEXT in (left, right):
        return 'to put a value into a text, write it in braces: "{value}"'
    if isinstance(left, ListOf) or isinstance(right, ListOf):
        return "for each item write [… for item in list]"
    if operator in "+-" and isinstance(left, Quantity) and isinstance(right, Quantity):
        return "both sides must have the same dimension"
    return ""


def with_unit(said: str, unit: str) -> str:
    """How a plain number, as written, becomes a quantity: `5 mm`, `n * 1 mm`, `(n + 1) * 1 mm`."""
    gap = "" if unit == "°" else " "
    if re.fullmatch(r"[\d.]+", said):
        return f"{said}{gap}{unit}"
    factor = f"({said})" if any(sign in said for sign in "+-") else said
    return f"{factor} * 1{gap}{unit}"


_LARGEST_DENOMINATOR = 12
"""A decimal such as 0.25 is the power that it is exactly, down to twelfths; a fraction that is
written as one may be any."""


def power_kind(base: Kind, exponent: Kind, constant: Fraction | None) -> tuple[str, Kind]:
    """The rule and result of a power; `constant` is the exponent where it is written as a figure.

    A quantity may only be raised to a power that is known before running, and exactly, for its
    dimension depends on it.
    """
    if not isinstance(base, Quantity) or not isinstance(exponent, Quantity):
        raise Failure(f"{base.said} to the power of {exponent.said} makes no sense")
    if exponent.dimension != NUMBER:
        raise Failure(f"an exponent must be a plain number, and this is {exponent.said}")
    if base.dimension == NUMBER:
        return "power", base
    if constant is None:
        raise Failure(
            f"{base.said} can only be raised to a power written as a figure",
            "its dimension depends on the power; divide it by a unit first",
        )
    return "power", Quantity(dimension=power(base.dimension, constant))


def exact_decimal(value: float) -> Fraction:
    """A decimal exponent as the fraction that it is. Raises Failure where it is only near one."""
    near = Fraction(value).limit_denominator(_LARGEST_DENOMINATOR)
    if float(near) == value:
        return near
    said = near if abs(float(near) - value) < 5e-3 else Fraction(value).limit_denominator(1000)
    raise Failure(
        f"a quantity is raised to an exact power, and {value:g} is none",
        f"write the power as a fraction: ^({said})",
    )
