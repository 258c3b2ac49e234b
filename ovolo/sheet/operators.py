"""The precedence of operators: a flat chain of operands and operators becomes a tree.

From loose to tight: or; and; not; comparisons (chained) with their tolerance; ranges; + and -;
*, / and &; the sign; ^ (from the right). Precedence climbing (Richards and Whitby-Strevens,
BCPL: the language and its compiler, 1979).
"""

from __future__ import annotations

from collections.abc import Sequence

from lark import Token

from ovolo.problems import Failure, Span
from ovolo.sheet import tree

_LEVELS = {
    "OR": 1, "AND": 2, "NOT": 3, "COMPARISON": 4, "RANGE": 5, "SIGN": 6, "PRODUCT": 7, "POWER": 9,
}  # fmt: skip
_NEGATION, _COMPARISON, _SUM, _UNARY, _POWER = 3, 4, 6, 8, 9
_SPELLINGS = {"−": "-", "×": "*", "·": "*", "≤": "<=", "≥": ">=", "≠": "!="}

PRECEDENCE = {
    "or": 1, "and": 2, "not": _NEGATION, "..": 5, "+": _SUM, "-": _SUM, "*": 7, "/": 7, "&": 7,
    "negative": _UNARY, "^": _POWER,
    **dict.fromkeys(("<", "<=", ">", ">=", "==", "!="), _COMPARISON),
}  # fmt: skip
"""How tightly each operator of the tree binds, for what writes expressions out."""

Piece = tree.Node | Token


def token_span(token: Token) -> Span:
    start = token.start_pos or 0
    return start, start + len(token)


def _spelled(token: Token) -> str:
    return _SPELLINGS.get(token, str(token))


def chain_tree(pieces: Sequence[Piece]) -> tree.Node:
    """The tree of operands, prefixes and operators in the order they are written."""
    climbing = _Climbing(pieces)
    node = climbing.climb(0)
    rest = climbing.next_token()
    if rest is not None:
        raise Failure(
            f"`{rest}` has nothing to belong to", _BELONGS.get(rest.type, ""), token_span(rest)
        )
    return node


_BELONGS = {
    "BY": "a step follows a range: 0 .. 10 by 2",
    "WITHIN": "a tolerance follows a comparison: a == b within 0.5 mm",
    "RANGE": "a range has one start and one end: 0 .. 10",
}


def _refuse_doubtful_power(base: tree.Node, token: Token) -> None:
    """`1 ft 6 in^2` and `2 mm^1.5`: the power could be that of the unit or of the quantity."""
    if isinstance(base, tree.Number) and not base.bare and not base.bracketed:
        raise Failure(
            "this power could be that of the unit or of the quantity",
            "put the quantity in brackets, as in (2 mm)^3; a unit takes a whole power, as in 2 mm^3",
            token_span(token),
        )


class _Climbing:
    def __init__(self, pieces: Sequence[Piece]) -> None:
        self.pieces = pieces
        self.at = 0

    def next_token(self) -> Token | None:
        if self.at < len(self.pieces):
            piece = self.pieces[self.at]
            return piece if isinstance(piece, Token) else None
        return None

    def takes(self, kind: str) -> Token | None:
        token = self.next_token()
        if token is not None and token.type == kind:
            self.at += 1
            return token
        return None

    def climb(self, least: int) -> tree.Node:
        """The longest piece from here whose operators bind at least so tightly."""
        left = self.prefixed(least)
        while (token := self.next_token()) is not None:
            level = _LEVELS.get(token.type, -1)
            if level < max(least, 1):
                break
            left = self.joined(left, token, level)
        return left

    def prefixed(self, least: int) -> tree.Node:
        piece = self.pieces[self.at]
        self.at += 1
        if not isinstance(piece, Token):
            return piece
        start = token_span(piece)[0]
        if piece.type == "NOT":
            if least > _NEGATION:
                raise Failure(
                    "`not` stands in brackets here", "for example (not a) == b", token_span(piece)
                )
            operand = self.climb(_NEGATION)
            return tree.Not((start, operand.span[1]), operand)
        operand = self.climb(_UNARY)
        span = start, operand.span[1]
        if _spelled(piece) == "+":
            return operand
        if isinstance(operand, tree.Number):
            return tree.Number(span, -operand.value, operand.dimension, operand.unit)
        return tree.Unary(span, "-", operand)

    def joined(self, left: tree.Node, token: Token, level: int) -> tree.Node:
        if token.type in ("OR", "AND"):
            return self.logical(left, token, level)
        if token.type == "COMPARISON":
            return self.comparison(left)
        self.at += 1
        if token.type == "RANGE":
            return self.range(left)
        if level == _POWER:
            _refuse_doubtful_power(left, token)
        right = self.climb(_UNARY if level == _POWER else level + 1)
        span = left.span[0], right.span[1]
        return tree.Binary(span, _spelled(token), left, right, token_span(token))

    def logical(self, left: tree.Node, token: Token, level: int) -> tree.Node:
        operands = [left]
        while self.takes(token.type):
            operands.append(self.climb(level + 1))
        span = left.span[0], operands[-1].span[1]
        return tree.Logical(span, str(token), tuple(operands))

    def comparison(self, left: tree.Node) -> tree.Node:
        operands, operators = [left], []
        while token := self.takes("COMPARISON"):
            operators.append(_spelled(token))
            operands.append(self.climb(_COMPARISON + 1))
        within = self.climb(_SUM) if self.takes("WITHIN") else None
        span = left.span[0], (within or operands[-1]).span[1]
        if within is not None and set(operators) - {"==", "!="}:
            raise Failure("`within` belongs to == or !=", "for example a == b within 0.5 mm", span)
        return tree.Comparison(span, tuple(operands), tuple(operators), within)

    def range(self, start: tree.Node) -> tree.Node:
        end = self.climb(_SUM)
        step = self.climb(_SUM) if self.takes("BY") else None
        if rest := self.takes("RANGE"):
            raise Failure("this range has two ends", _BELONGS["RANGE"], token_span(rest))
        return tree.Range((start.span[0], (step or end).span[1]), start, end, step)
