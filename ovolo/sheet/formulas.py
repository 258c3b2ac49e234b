"""Reading expressions: tokens become a tree by recursive descent, operators by their precedence.

From loose to tight: or; and; not; comparisons (chained) with their tolerance; ranges; + and -;
*, / and &; the sign; ^ (from the right). Precedence climbing (Richards and Whitby-Strevens,
BCPL: the language and its compiler, 1979). What may stand where is written down in grammar.lark.
"""

from __future__ import annotations

import math
import re
from collections.abc import Callable

from msgspec.structs import replace

from ovolo.problems import Failure, Span
from ovolo.quantities.dimension import NUMBER
from ovolo.quantities.typed import read_literal
from ovolo.quantities.units import unit_named
from ovolo.sheet import tree
from ovolo.sheet.cursor import Cursor, checked_name
from ovolo.sheet.halts import VALUE
from ovolo.sheet.keywords import RESERVED
from ovolo.sheet.tokens import FIGURE, Token

_NEGATION, _COMPARISON, _RANGE, _SUM, _UNARY, _POWER = 3, 4, 5, 6, 8, 9
_COMPARISONS = dict.fromkeys(("<", "<=", ">", ">=", "==", "!="), _COMPARISON)

_LEVELS = {
    "or": 1, "and": 2, "..": _RANGE, "+": _SUM, "-": _SUM, "*": 7, "/": 7, "&": 7, "^": _POWER, **_COMPARISONS,
}  # fmt: skip

PRECEDENCE = {**_LEVELS, "not": _NEGATION, "negative": _UNARY}
"""How tightly each operator of the tree binds, for what writes expressions out."""

_SIGNS = ("+", "-")

_BELONGS = {
    "by": "a step follows a range: 0 .. 10 by 2",
    "within": "a tolerance follows a comparison: a == b within 0.5 mm",
    "..": "a range has one start and one end: 0 .. 10",
}

DEEPEST = 150
"""How deeply expressions may stand within each other, or operators follow each other."""


class Reading(Cursor):
    """Reads expressions. Every method raises Failure where it cannot, with its place."""

    __slots__ = ("last_brackets",)

    def __init__(self, code: str, start: int = 0, end: int | None = None) -> None:
        super().__init__(code, start, end)
        self.last_brackets = (-1, -1)
        """The numbers of the token that opened the brackets read last, and of the one behind them."""

    # Expressions

    def expression(self) -> tree.Node:
        if self.kind == "if":
            return self._choice()
        start = self.at
        if self.kind == "name" and self.kind_at(1) == "->":
            token = self.take()
            self.take()
            return self._lambda(token.start, [tree.Name(token.span, token.text)])
        if self.kind == "(" and self.kind_at(1) == ")" and self.kind_at(2) == "->":
            opening = self.take()
            self.take(), self.take()
            return self._lambda(opening.start, [])
        found = self.chain()
        if self.kind == "->" and self.last_brackets == (start, self.at):
            self.take()
            names = list(found.coordinates) if isinstance(found, tree.Point) else [found]
            return self._lambda(self.tokens[start].start, names)
        return found

    def chain(self) -> tree.Node:
        """Operands with operators between them."""
        found = self._climb(0)
        if self.kind in _BELONGS:
            raise Failure(
                f"`{self.token.text}` has nothing to belong to",
                _BELONGS[self.kind],
                self.token.span,
            )
        return found

    def _choice(self) -> tree.Choice:
        start = self.take().start
        condition = self.expression()
        self.expect("then", after_value=True)
        chosen = self.expression()
        self.expect("else", after_value=True)
        other = self.expression()
        return tree.Choice((start, other.span[1]), condition, chosen, other)

    def _lambda(self, start: int, names: list[tree.Node]) -> tree.Lambda:
        parameters = []
        for name in names:
            if not isinstance(name, tree.Name):
                raise Failure(
                    "what stands before -> must be names", "for example (u, v) -> u + v", name.span
                )
            parameters.append(tree.Parameter(name.span, name.name))
        body = self.expression()
        return tree.Lambda((start, body.span[1]), tuple(parameters), body)

    # Operators

    def _climb(self, least: int) -> tree.Node:
        """The longest piece from here whose operators bind at least so tightly."""
        kind = self.kind
        left = self._signed() if kind in _SIGNS else self._not(least) if kind == "not" else self._operand()  # fmt: skip
        least = max(least, 1)
        while (level := _LEVELS.get(self.kind, 0)) >= least:
            if level == _COMPARISON:
                left = self._comparison(left)
            elif level < _NEGATION:
                left = self._logical(left, level)
            elif level == _RANGE:
                left = self._range(left)
            else:
                left = self._binary(left, level)
        return left

    def _signed(self) -> tree.Node:
        sign = self.take()
        operand = self._climb(_UNARY)
        span = sign.start, operand.span[1]
        if sign.kind == "+":
            return operand
        if isinstance(operand, tree.Number):
            return tree.Number(span, -operand.value, operand.dimension, operand.unit)
        return tree.Unary(span, "-", operand)

    def _not(self, least: int) -> tree.Not:
        word = self.take()
        if least > _NEGATION:
            raise Failure("`not` stands in brackets here", "for example (not a) == b", word.span)
        operand = self._climb(_NEGATION)
        return tree.Not((word.start, operand.span[1]), operand)

    def _binary(self, left: tree.Node, level: int) -> tree.Binary:
        operator = self.take()
        right = self._climb(_UNARY if level == _POWER else level + 1)
        if level == _POWER:
            _refuse_doubtful_power(left, operator)
        return tree.Binary((left.span[0], right.span[1]), operator.kind, left, right, operator.span)

    def _logical(self, left: tree.Node, level: int) -> tree.Logical:
        word = self.kind
        operands = [left]
        while self.takes(word):
            operands.append(self._climb(level + 1))
        return tree.Logical((left.span[0], operands[-1].span[1]), word, tuple(operands))

    def _comparison(self, left: tree.Node) -> tree.Comparison:
        operands, operators = [left], []
        while self.kind in _COMPARISONS:
            operators.append(self.take().kind)
            operands.append(self._climb(_COMPARISON + 1))
        within = self._climb(_SUM) if self.takes("within") else None
        span = left.span[0], (within or operands[-1]).span[1]
        if within is not None and set(operators) - {"==", "!="}:
            raise Failure("`within` belongs to == or !=", "for example a == b within 0.5 mm", span)
        return tree.Comparison(span, tuple(operands), tuple(operators), within)

    def _range(self, start: tree.Node) -> tree.Range:
        self.take()
        end = self._climb(_SUM)
        step = self._climb(_SUM) if self.takes("by") else None
        if self.kind == "..":
            raise Failure("this range has two ends", _BELONGS[".."], self.token.span)
        return tree.Range((start.span[0], (step or end).span[1]), start, end, step)

    # Operands

    def _operand(self) -> tree.Node:
        """A figure, a text, a name, a call, a list or what stands in brackets, and what is taken
        of it by points and square brackets."""
        kind = self.kind
        if kind == "name" or kind in _WORDS:
            found = self._named()
        else:
            read = _OPERANDS.get(kind)
            if read is None:
                raise self.halt(VALUE)
            found = read(self)
        while True:
            if self.kind == ".":
                found = self._member(found)
            elif self.kind == "[":
                found = self._index(found)
            else:
                return found

    def _named(self) -> tree.Node:
        token = checked_name(self.take())
        if self.kind != "(":
            return tree.Name(token.span, token.text)
        arguments = self._arguments()
        return tree.Call(self.span_from(token.start), token.text, arguments, token.span)

    def _member(self, owner: tree.Node) -> tree.Node:
        self.take()
        token = self.any_name()
        if self.kind != "(":
            return tree.Member((owner.span[0], token.end), owner, token.text)
        checked_name(token)
        arguments = (tree.Argument(owner.span, None, owner), *self._arguments())
        return tree.Call(self.span_from(owner.span[0]), token.text, arguments, token.span)

    def _index(self, owner: tree.Node) -> tree.Index:
        self.take()
        index = self.expression()
        self.expect("]", after_value=True)
        return tree.Index(self.span_from(owner.span[0]), owner, index)

    def _arguments(self) -> tuple[tree.Argument, ...]:
        self.take()
        arguments = []
        while self.kind != ")":
            arguments.append(self._argument())
            if not self.takes(","):
                break
        self.expect(")", after_value=bool(arguments))
        return tuple(arguments)

    def _argument(self) -> tree.Argument:
        token = self.token
        if (token.kind == "name" or token.kind in RESERVED) and self.kind_at(1) == "=":
            self.take(), self.take()
            value = self.expression()
            return tree.Argument((token.start, value.span[1]), token.text, value)
        value = self.expression()
        return tree.Argument(value.span, None, value)

    def _brackets(self) -> tree.Node:
        opened = self.at
        start = self.take().start
        items = [self.expression()]
        while self.takes(","):
            items.append(self.expression())
        self.expect(")", after_value=True)
        self.last_brackets = opened, self.at
        span = self.span_from(start)
        if len(items) > 1:
            return tree.Point(span, tuple(items))
        if isinstance(items[0], tree.Number):
            return replace(items[0], span=span, bracketed=True)
        return replace(items[0], span=span)  # the brackets belong to the place of what they hold

    def _list(self) -> tree.Node:
        start = self.take().start
        if self.takes("]"):
            return tree.ListOfItems(self.span_from(start), ())
        items = [self.expression()]
        if self.kind == "for":
            return self._comprehension(start, items[0])
        while self.takes(",") and self.kind != "]":
            items.append(self.expression())
        self.expect("]", after_value=True)
        return tree.ListOfItems(self.span_from(start), tuple(items))

    def _comprehension(self, start: int, body: tree.Node) -> tree.Comprehension:
        each = []
        while self.kind == "for":
            begin = self.take().start
            name = self.name()
            self.expect("in")
            source = self.chain()
            condition = self.chain() if self.takes("if") else None
            each.append(tree.Each(self.span_from(begin), name.text, source, condition))
        self.expect("]", after_value=True)
        return tree.Comprehension(self.span_from(start), body, tuple(each))

    # Figures and texts

    def _number(self) -> tree.Number:
        token = self.take()
        return tree.Number(token.span, _finite(float(token.text), token.span), NUMBER)

    def _quantity(self) -> tree.Number:
        token = self.take()
        figure = _LEADING_FIGURE.match(token.text)
        assert figure
        unit = unit_named(token.text[figure.end() :].strip())
        value = _finite(float(figure[0]) * unit.size, token.span)
        return tree.Number(token.span, value, unit.dimension, unit.symbol)

    def _literal(self) -> tree.Number:
        """A figure that a value box takes as well: a fraction, feet and inches, minutes, a slope."""
        token = self.take()
        try:
            value, dimension = read_literal(token.text)
        except Failure as failure:
            raise failure.at(token.span) from None
        unit = _LITERAL_UNITS[token.kind](token.text)
        return tree.Number(token.span, _finite(value, token.span), dimension, unit)

    def _text(self) -> tree.Text:
        token = self.take()
        return tree.Text(token.span, pieces_of_text(self.code, token))

    def _yes_or_no(self) -> tree.YesNo:
        token = self.take()
        return tree.YesNo(token.span, token.kind == "yes")


_OPERANDS: dict[str, Callable[[Reading], tree.Node]] = {
    "number": Reading._number, "quantity": Reading._quantity, "text": Reading._text,
    **dict.fromkeys(("fraction", "feet_inches", "sexagesimal", "slope"), Reading._literal),
    "(": Reading._brackets, "[": Reading._list, "yes": Reading._yes_or_no, "no": Reading._yes_or_no,
}  # fmt: skip
"""What an operand begins with, if not with a name."""

_WORDS = RESERVED - _OPERANDS.keys()

_LITERAL_UNITS: dict[str, Callable[[str], str]] = {
    "fraction": lambda text: re.sub(r"^[\d\s/]+", "", text),
    "feet_inches": lambda text: "ft in" if "ft" in text else "'",
    "sexagesimal": lambda text: "°'",
    "slope": lambda text: ":" + text.partition(":")[2],
}
_LEADING_FIGURE = re.compile(FIGURE)


def _refuse_doubtful_power(base: tree.Node, operator: Token) -> None:
    """`1 ft 6 in^2` and `2 mm^1.5`: the power could be that of the unit or of the quantity."""
    if isinstance(base, tree.Number) and not base.bare and not base.bracketed:
        raise Failure(
            "this power could be that of the unit or of the quantity",
            "put the quantity in brackets, as in (2 mm)^3; a unit takes a whole power, as in 2 mm^3",
            operator.span,
        )


def _finite(value: float, span: Span) -> float:
    if math.isinf(value):
        raise Failure("this is too large", "numbers go up to about 1.8e308", span)
    return value


_PIECE_OF_TEXT = re.compile(r"\{\{|\}\}|\{([^{}]*)\}|\\.|[{}]|[^{}\\]+")


def pieces_of_text(code: str, token: Token) -> tuple[str | tree.Node, ...]:
    """The pieces of a text: what stands in single braces is an expression."""
    pieces: list[str | tree.Node] = []
    for found in _PIECE_OF_TEXT.finditer(code, token.start + 1, token.end - 1):
        piece = found[0]
        if found[1] is not None:
            pieces.append(expression_in(code, *found.span(1)))
        elif piece in "{}":
            raise Failure(
                f"the brace `{piece}` in this text has no partner",
                "write {{ or }} for a brace itself",
                found.span(),
            )
        else:
            pieces.append(unescaped(piece[0] if piece in ("{{", "}}") else piece))
    return tuple(pieces)


def unescaped(text: str) -> str:
    return re.sub(r"\\(.)", r"\1", text)


def expression_in(code: str, start: int = 0, end: int | None = None) -> tree.Node:
    """The tree of a piece that is one expression."""
    reading = Reading(code, start, end)
    found = reading.expression()
    reading.end(after_value=True)
    if len(reading.tokens) > DEEPEST:
        refuse_deep(found)
    return found


def refuse_deep(found: tree.Node | tree.Content) -> None:
    """Raises Failure where operations stand within each other beyond all measure."""
    level: list[tree.Node | tree.Content] = [found]
    for _ in range(DEEPEST):
        level = [child for node in level for child in tree.children(node)]
        if not level:
            return
    raise Failure(
        f"more than {DEEPEST} operations stand within each other here",
        "name a piece of it in a line of its own; long sums are written sum([a, b, c])",
        getattr(level[0], "span", None),
    )
