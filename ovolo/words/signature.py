"""How a word says what kinds it takes and gives: `"region, length, angle? -> solid"`.

The notation, from loose to tight:

    kinds     number length angle area volume mass time yes/no text point table
              curve region solid surface per_length (so many for each length)
    place     a column and a row, written as a point: (2, 1)
    whole     a number that must be whole when the sheet runs (a count, an index)
    Q R       any quantity; Q^2, Q^1/2, Q*R, Q/R are computed from them
    point Q   a point whose coordinates are Q; `flat point Q` lies in plan
    T U       any kind
    shape     any geometry or point, or a list of it; gives back the same
    list T    a list
    many solid        one, or a list of them, or lists within lists
    (T, U -> T)       a function
    {n: whole, gap: Q}  a set of named values
    pair T U          two values side by side
    row table         a table; then `column Q` is the name of a column of it, written as a text,
                      `key column U` that of another, `row` a row of the table, `cell` a cell
                      of the column
    unit Q    a unit of Q, written as a text
    a or b    either
    a?        may be left out; a... any number of these
    by: a     fills the parameter of that name instead of the one at its position
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from fractions import Fraction

from msgspec import Struct

from ovolo.problems import Failure
from ovolo.quantities.dimension import LENGTH, NUMBER, Dimension, power, product
from ovolo.quantities.kinds import (
    ANGLE_KIND,
    AREA_KIND,
    CURVE,
    EDGE,
    GEOMETRY,
    LENGTH_KIND,
    MASS_KIND,
    NUMBER_KIND,
    POINT,
    REGION,
    SOLID,
    SURFACE,
    TEXT,
    TIME_KIND,
    VOLUME_KIND,
    YES_NO,
    FunctionKind,
    Kind,
    ListOf,
    PointKind,
    Quantity,
    Record,
    TableKind,
    Together,
    plain_list,
    plural,
    same_kind,
)
from ovolo.quantities.show import FEET_INCHES
from ovolo.quantities.units import unit_named

Bindings = dict[str, Kind]

_KINDS: dict[str, Kind] = {
    "number": NUMBER_KIND, "whole": NUMBER_KIND, "length": LENGTH_KIND, "angle": ANGLE_KIND,
    "area": AREA_KIND, "volume": VOLUME_KIND, "mass": MASS_KIND, "time": TIME_KIND,
    "yes/no": YES_NO, "text": TEXT, "curve": CURVE, "region": REGION, "solid": SOLID,
    "surface": SURFACE, "edge": EDGE, "place": PointKind(dimension=NUMBER, flat=True), "per_length": Quantity(dimension=power(LENGTH, -1)),
}  # fmt: skip


class Pattern:
    """What a word accepts in one place, or gives."""

    whole = False

    def match(self, kind: Kind, bound: Bindings) -> bool:
        """Whether a value of this kind fits; binds the variables it settles."""
        raise NotImplementedError

    def match_literal(self, written: str, bound: Bindings) -> bool:
        """Whether what is written out fits (empty where it is a formula)."""
        return True

    def build(self, bound: Bindings) -> Kind:
        """The kind this stands for, the variables being bound."""
        raise NotImplementedError

    def said(self, bound: Bindings) -> str:
        """In words, with its article."""
        raise NotImplementedError


class Exactly(Pattern, Struct, frozen=True):
    kind: Kind
    whole: bool = False

    def match(self, kind: Kind, bound: Bindings) -> bool:
        if isinstance(self.kind, PointKind):
            return isinstance(kind, PointKind) and kind.dimension == self.kind.dimension
        return kind == self.kind

    def build(self, bound: Bindings) -> Kind:
        return self.kind

    def said(self, bound: Bindings) -> str:
        return "a whole number" if self.whole else self.kind.said


class AnyTable(Pattern, Struct, frozen=True):
    def match(self, kind: Kind, bound: Bindings) -> bool:
        return isinstance(kind, TableKind)

    def said(self, bound: Bindings) -> str:
        return "a table"


class QuantityOf(Pattern, Struct, frozen=True):
    """A product of powers of quantity variables; a single one binds when matched."""

    factors: tuple[tuple[str, Fraction], ...]

    def match(self, kind: Kind, bound: Bindings) -> bool:
        if not isinstance(kind, Quantity):
            return False
        if len(self.factors) == 1 and self.factors[0][0] not in bound:
            name, exponent = self.factors[0]
            bound[name] = (
                kind if exponent == 1 else Quantity(dimension=power(kind.dimension, 1 / exponent))
            )
            return True
        return self.build(bound) == kind

    def build(self, bound: Bindings) -> Kind:
        if len(self.factors) == 1 and self.factors[0][1] == 1:
            return bound.get(self.factors[0][0], NUMBER_KIND)
        dimension: Dimension = NUMBER
        for name, exponent in self.factors:
            kind = bound.get(name, NUMBER_KIND)
            assert isinstance(kind, Quantity)
            dimension = product(dimension, power(kind.dimension, exponent))
        return Quantity(dimension=dimension)

    def said(self, bound: Bindings) -> str:
        if all(name in bound for name, _ in self.factors):
            return self.build(bound).said
        return "a number or a quantity"


class PointOf(Pattern, Struct, frozen=True):
    quantity: QuantityOf
    flat: bool = False

    def match(self, kind: Kind, bound: Bindings) -> bool:
        return isinstance(kind, PointKind) and self.quantity.match(
            Quantity(dimension=kind.dimension), bound
        )

    def build(self, bound: Bindings) -> Kind:
        kind = self.quantity.build(bound)
        assert isinstance(kind, Quantity)
        return PointKind(dimension=kind.dimension, flat=self.flat)

    def said(self, bound: Bindings) -> str:
        return "a point"


class Variable(Pattern, Struct, frozen=True):
    name: str

    def match(self, kind: Kind, bound: Bindings) -> bool:
        known = bound.get(self.name)
        merged = kind if known is None else same_kind(known, kind)
        if merged is None:
            return False
        bound[self.name] = merged
        return True

    def build(self, bound: Bindings) -> Kind:
        return bound.get(self.name, ListOf())

    def said(self, bound: Bindings) -> str:
        return bound[self.name].said if self.name in bound else "a value"


class Shape(Pattern, Struct, frozen=True):
    """Any geometry or point, or a list of it."""

    def match(self, kind: Kind, bound: Bindings) -> bool:
        inner: Kind | None = kind
        while isinstance(inner, ListOf):
            inner = inner.item
        if inner is not None and inner not in GEOMETRY and not isinstance(inner, PointKind):
            return False
        bound["shape"] = plain_list(kind)
        return True

    def build(self, bound: Bindings) -> Kind:
        return bound["shape"]

    def said(self, bound: Bindings) -> str:
        return "a solid, a region, a curve or a point, or a list of them"


class ListPattern(Pattern, Struct, frozen=True):
    item: Pattern

    @property
    def whole(self) -> bool:  # type: ignore[override]
        """Whether its items are whole numbers."""
        return self.item.whole

    def match(self, kind: Kind, bound: Bindings) -> bool:
        if not isinstance(kind, ListOf):
            return False
        return kind.item is None or self.item.match(kind.item, bound)

    def build(self, bound: Bindings) -> Kind:
        return ListOf(item=self.item.build(bound))

    def said(self, bound: Bindings) -> str:
        if isinstance(self.item, Exactly):
            return f"a list of {plural(self.item.kind)}"
        return "a list"


class Many(Pattern, Struct, frozen=True):
    """One of a kind, or a list of them, however deep."""

    item: Exactly

    def match(self, kind: Kind, bound: Bindings) -> bool:
        inner: Kind | None = kind
        while isinstance(inner, ListOf):
            inner = inner.item
        return inner is None or inner == self.item.kind

    def build(self, bound: Bindings) -> Kind:
        return self.item.kind

    def said(self, bound: Bindings) -> str:
        return f"{self.item.kind.said} or a list of {plural(self.item.kind)}"


class FunctionPattern(Pattern, Struct, frozen=True):
    parameters: tuple[Pattern, ...]
    result: Pattern

    def match(self, kind: Kind, bound: Bindings) -> bool:
        return isinstance(kind, FunctionKind)

    def said(self, bound: Bindings) -> str:
        count = len(self.parameters)
        return f"a function of {count} value{'s' if count > 1 else ''}, such as t -> …"


class RecordPattern(Pattern, Struct, frozen=True):
    fields: tuple[tuple[str, Pattern], ...]

    def match(self, kind: Kind, bound: Bindings) -> bool:
        return isinstance(kind, Record)

    def build(self, bound: Bindings) -> Kind:
        return Record(fields=tuple((name, item.build(bound)) for name, item in self.fields))

    def said(self, bound: Bindings) -> str:
        return "a set of values"


class PairOf(Pattern, Struct, frozen=True):
    """Two values side by side: a list where they are of one kind."""

    left: Pattern
    right: Pattern

    def build(self, bound: Bindings) -> Kind:
        left, right = self.left.build(bound), self.right.build(bound)
        together = same_kind(left, right)
        return Together(items=(left, right)) if together is None else ListOf(item=together)


class RowsOf(Pattern, Struct, frozen=True):
    """A table whose row, or a cell of it, the word gives."""

    def match(self, kind: Kind, bound: Bindings) -> bool:
        if not isinstance(kind, TableKind):
            return False
        bound["table"], bound["row"] = kind, Record(fields=kind.columns)
        return True

    def said(self, bound: Bindings) -> str:
        return "a table"


class ColumnName(Pattern, Struct, frozen=True):
    """The name of a column, written as a text, whose cells fit a pattern."""

    cell: Pattern
    is_key: bool = False

    def match(self, kind: Kind, bound: Bindings) -> bool:
        return kind == TEXT

    def match_literal(self, written: str, bound: Bindings) -> bool:
        table = bound.get("table")
        cell = table.column_kind(written) if isinstance(table, TableKind) else None
        if cell is None or not self.cell.match(cell, bound):
            return False
        if not self.is_key:
            bound["cell"] = cell
        return True

    def said(self, bound: Bindings) -> str:
        table = bound.get("table")
        names = [name for name, _ in table.columns] if isinstance(table, TableKind) else []
        of_these = f" ({', '.join(names)})" if names else ""
        return f"the name of a column in quotes{of_these}"


class UnitName(Pattern, Struct, frozen=True):
    """A unit of a quantity that another argument has settled, written as a text."""

    quantity: QuantityOf

    def match(self, kind: Kind, bound: Bindings) -> bool:
        return kind == TEXT

    def match_literal(self, written: str, bound: Bindings) -> bool:
        wanted = self.quantity.build(bound)
        if written == FEET_INCHES:
            return wanted == LENGTH_KIND
        try:
            return Quantity(dimension=unit_named(written).dimension) == wanted
        except Failure:
            return False

    def said(self, bound: Bindings) -> str:
        return "a unit of it in quotes"


class Bound(Pattern, Struct, frozen=True):
    """What another argument has settled."""

    name: str

    def build(self, bound: Bindings) -> Kind:
        return bound.get(self.name, ListOf())


class Either(Pattern, Struct, frozen=True):
    choices: tuple[Pattern, ...]

    def match(self, kind: Kind, bound: Bindings) -> bool:
        return any(choice.match(kind, bound) for choice in self.choices)

    def said(self, bound: Bindings) -> str:
        return " or ".join(choice.said(bound) for choice in self.choices)


class Accepts(Struct, frozen=True):
    """One argument of a signature."""

    pattern: Pattern
    optional: bool = False
    many: bool = False
    fills: str = ""
    """The parameter it fills, where that is not the one at its position."""


class Signature(Struct, frozen=True):
    written: str
    arguments: tuple[Accepts, ...]
    result: Pattern

    def takes(self, given: Sequence[int]) -> bool:
        """Whether arguments at just these positions satisfy the signature."""
        many = bool(self.arguments) and self.arguments[-1].many
        if not many and any(position >= len(self.arguments) for position in given):
            return False
        return all(
            accepts.optional or accepts.many or position in given
            for position, accepts in enumerate(self.arguments)
        )

    def accepts(self, position: int) -> Accepts:
        return self.arguments[min(position, len(self.arguments) - 1)]


_TOKEN = re.compile(r"\s*(->|\.\.\.|yes/no|[A-Za-z_]+|\^-?\d+(?:/\d+)?|[(),?{}:*/])")


class _Reader:
    """A small recursive reader of the notation above."""

    def __init__(self, written: str) -> None:
        self.tokens = _TOKEN.findall(written)
        if "".join(self.tokens) != re.sub(r"\s+", "", written):
            raise ValueError(f"signature cannot be read: {written}")

    def next_is(self, token: str) -> bool:
        return bool(self.tokens) and self.tokens[0] == token

    def take(self, token: str | None = None) -> str:
        found: str = self.tokens.pop(0)
        if token is not None and found != token:
            raise ValueError(f"expected {token}, found {found}")
        return found

    def signature(self, written: str) -> Signature:
        arguments = []
        while not self.next_is("->"):
            fills = ""
            if len(self.tokens) > 1 and self.tokens[1] == ":":
                fills = self.take()
                self.take(":")
            pattern = self.either()
            optional = self.next_is("?") and bool(self.take())
            many = self.next_is("...") and bool(self.take())
            arguments.append(Accepts(pattern, optional, many, fills))
            if self.next_is(","):
                self.take()
        self.take("->")
        return Signature(written, tuple(arguments), self.either())

    def either(self) -> Pattern:
        choices = [self.single()]
        while self.next_is("or"):
            self.take()
            choices.append(self.single())
        return choices[0] if len(choices) == 1 else Either(tuple(choices))

    def single(self) -> Pattern:
        if self.next_is("("):
            return self.function()
        if self.next_is("{"):
            return self.record()
        word = self.take()
        if word == "list":
            return ListPattern(self.single())
        if word == "many":
            item = self.single()
            assert isinstance(item, Exactly)
            return Many(item)
        if word == "flat":
            self.take("point")
            return PointOf(self.quantity(self.take()), flat=True)
        if word == "point":
            return PointOf(self.quantity(self.take())) if self._variable_next() else Exactly(POINT)
        if word == "pair":
            return PairOf(self.single(), self.single())
        if word == "row":
            if self.next_is("table"):
                self.take()
                return RowsOf()
            return Bound("row")
        if word == "cell":
            return Bound("cell")
        if word == "column":
            return ColumnName(self.single())
        if word == "key":
            self.take("column")
            return ColumnName(self.single(), is_key=True)
        if word == "unit":
            return UnitName(self.quantity(self.take()))
        if word == "shape":
            return Shape()
        if word == "table":
            return AnyTable()
        if word in ("T", "U"):
            return Variable(word)
        if word in ("Q", "R"):
            return self.quantity(word)
        return Exactly(_KINDS[word], whole=word == "whole")

    def _variable_next(self) -> bool:
        return bool(self.tokens) and self.tokens[0] in ("Q", "R")

    def quantity(self, word: str) -> QuantityOf:
        factors = [(word, self.exponent())]
        while self.next_is("*") or self.next_is("/"):
            sign = 1 if self.take() == "*" else -1
            factors.append((self.take(), sign * self.exponent()))
        return QuantityOf(tuple(factors))

    def exponent(self) -> Fraction:
        if self.tokens and self.tokens[0].startswith("^"):
            return Fraction(self.take()[1:])
        return Fraction(1)

    def function(self) -> Pattern:
        self.take("(")
        parameters = []
        while not self.next_is("->"):
            parameters.append(self.either())
            if self.next_is(","):
                self.take()
        self.take("->")
        result = self.either()
        self.take(")")
        return FunctionPattern(tuple(parameters), result)

    def record(self) -> Pattern:
        self.take("{")
        fields = []
        while not self.next_is("}"):
            name = self.take()
            self.take(":")
            fields.append((name, self.either()))
            if self.next_is(","):
                self.take()
        self.take("}")
        return RecordPattern(tuple(fields))


def read_signature(written: str) -> Signature:
    return _Reader(written).signature(written)
