"""Turns what the grammar finds into the syntax tree."""

from __future__ import annotations

import math
import re
from dataclasses import replace
from functools import cache
from pathlib import Path
from typing import Any

from lark import Lark, Token, Tree
from lark.tree import Meta

from ovolo.problems import Failure, Span
from ovolo.quantities.dimension import NUMBER
from ovolo.quantities.typed import read_literal
from ovolo.quantities.units import UNIT_PATTERN, unit_named
from ovolo.sheet import tree
from ovolo.sheet.keywords import RESERVED
from ovolo.sheet.operators import Piece, chain_tree, token_span

STARTS = [
    "input", "formula", "function", "part", "check", "dim", "dim_round", "dim_angle", "dim_level", "preset", "file", "use", "study", "tolerance",
    "block_head", "expression",
]  # fmt: skip

_FIGURE = r"(?:\d+\.\d+|\.\d+|\d+)(?:[eE][-+]?\d+)?"
_FRACTION = r"(?:\d+[ \t])?\d+\/\d+"
_UNIT = UNIT_PATTERN.replace("/", "\\/")
_LITERALS = rf"""
SEXAGESIMAL.7: /{_FIGURE}\s?°\s?\d+(?:\.\d+)?'(?:\s?\d+(?:\.\d+)?")?/
FEET_INCHES.7: /{_FIGURE}\s?ft\s?(?:{_FRACTION}|{_FIGURE})\s?in(?!\w)|{_FIGURE}'(?:[ \t]?-?[ \t]?(?:{_FRACTION}|{_FIGURE})")?/
FRACTION.6: /{_FRACTION}[ \t]?(?:{_UNIT})/
SLOPE.5: /{_FIGURE}:{_FIGURE}(?![\w.])/
QUANTITY.4: /{_FIGURE}[ \t]?(?:{_UNIT})/
"""


def _span(meta: Meta) -> Span:
    return (meta.start_pos, meta.end_pos) if not meta.empty else (0, 0)


def _plain(token: Token | None) -> str:
    """The characters of a text token, without looking for braces."""
    return "" if token is None else _unescaped(token[1:-1])


def _unescaped(text: str) -> str:
    return re.sub(r"\\(.)", r"\1", text)


def _checked_name(token: Token) -> str:
    if token in RESERVED:
        raise Failure(
            f"`{token}` is a word of the language and cannot be a name",
            f"for example `{token}_`",
            token_span(token),
        )
    return str(token)


class _Build:
    """One method a rule of the grammar; each is given the place and the children."""

    def number(self, meta: Meta, token: Token) -> tree.Number:
        return tree.Number(_span(meta), _finite(float(token), meta), NUMBER)

    def quantity(self, meta: Meta, token: Token) -> tree.Number:
        found = re.match(_FIGURE, token)
        assert found
        unit = unit_named(token[found.end() :].strip())
        value = _finite(float(found[0]) * unit.size, meta)
        return tree.Number(_span(meta), value, unit.dimension, unit.symbol)

    def fraction(self, meta: Meta, token: Token) -> tree.Number:
        unit = re.sub(r"^[\d\s/]+", "", token)
        return self._as_typed(meta, token, unit)

    def feet_inches(self, meta: Meta, token: Token) -> tree.Number:
        return self._as_typed(meta, token, "ft in" if "ft" in token else "'")

    def sexagesimal(self, meta: Meta, token: Token) -> tree.Number:
        return self._as_typed(meta, token, "°'")

    def slope(self, meta: Meta, token: Token) -> tree.Number:
        return self._as_typed(meta, token, ":" + token.partition(":")[2])

    def _as_typed(self, meta: Meta, token: Token, unit: str) -> tree.Number:
        """A literal that a value box takes, too."""
        try:
            value, dimension = read_literal(token)
        except Failure as failure:
            raise failure.at(_span(meta)) from None
        return tree.Number(_span(meta), _finite(value, meta), dimension, unit)

    def text(self, meta: Meta, token: Token) -> tree.Text:
        return tree.Text(_span(meta), tuple(_pieces(token)))

    def yes(self, meta: Meta) -> tree.YesNo:
        return tree.YesNo(_span(meta), True)

    def no(self, meta: Meta) -> tree.YesNo:
        return tree.YesNo(_span(meta), False)

    def name(self, meta: Meta, token: Token) -> tree.Name:
        return tree.Name(_span(meta), _checked_name(token))

    def brackets(self, meta: Meta, *items: tree.Node) -> tree.Node:
        if len(items) == 1:  # the brackets belong to the place of what they hold
            if isinstance(items[0], tree.Number):
                return replace(items[0], span=_span(meta), bracketed=True)
            return replace(items[0], span=_span(meta))
        return tree.Point(_span(meta), items)

    def list(self, meta: Meta, *items: tree.Node | None) -> tree.ListOfItems:
        return tree.ListOfItems(_span(meta), tuple(item for item in items if item is not None))

    def each(
        self, meta: Meta, name: Token, source: tree.Node, condition: tree.Node | None
    ) -> tree.Each:
        return tree.Each(_span(meta), _checked_name(name), source, condition)

    def comprehension(self, meta: Meta, body: tree.Node, *each: tree.Each) -> tree.Comprehension:
        return tree.Comprehension(_span(meta), body, each)

    def chain(self, meta: Meta, *pieces: Piece) -> tree.Node:
        return chain_tree(pieces)

    def choice(
        self, meta: Meta, condition: tree.Node, chosen: tree.Node, other: tree.Node
    ) -> tree.Choice:
        return tree.Choice(_span(meta), condition, chosen, other)

    def lambda_(self, meta: Meta, *pieces: Any) -> tree.Lambda:
        *heads, body = pieces
        names: list[Token | tree.Node] = list(heads)
        if heads and isinstance(heads[0], tree.Point):
            names = list(heads[0].coordinates)
        parameters = []
        for name in names:
            if isinstance(name, Token):
                parameters.append(tree.Parameter(token_span(name), _checked_name(name)))
            elif isinstance(name, tree.Name):
                parameters.append(tree.Parameter(name.span, name.name))
            else:
                raise Failure(
                    "what stands before -> must be names", "for example (u, v) -> u + v", name.span
                )
        return tree.Lambda(_span(meta), tuple(parameters), body)

    def member(self, meta: Meta, owner: tree.Node, name: Token) -> tree.Member:
        return tree.Member(_span(meta), owner, str(name))

    def index(self, meta: Meta, owner: tree.Node, index: tree.Node) -> tree.Index:
        return tree.Index(_span(meta), owner, index)

    def call(
        self, meta: Meta, name: Token, arguments: tuple[tree.Argument, ...] | None
    ) -> tree.Call:
        return tree.Call(_span(meta), _checked_name(name), arguments or (), token_span(name))

    def method(
        self,
        meta: Meta,
        owner: tree.Node,
        name: Token,
        arguments: tuple[tree.Argument, ...] | None,
    ) -> tree.Call:
        first = tree.Argument(owner.span, None, owner)
        everything = (first, *(arguments or ()))
        return tree.Call(_span(meta), _checked_name(name), everything, token_span(name))

    def arguments(self, meta: Meta, *arguments: tree.Argument | None) -> tuple[tree.Argument, ...]:
        return tuple(argument for argument in arguments if argument is not None)

    def argument(self, meta: Meta, value: tree.Node) -> tree.Argument:
        return tree.Argument(value.span, None, value)

    def named_argument(self, meta: Meta, name: Token, value: tree.Node) -> tree.Argument:
        return tree.Argument(_span(meta), str(name), value)

    def parameter(self, meta: Meta, name: Token, default: tree.Node | None) -> tree.Parameter:
        return tree.Parameter(token_span(name), _checked_name(name), default)

    def parameters(
        self, meta: Meta, *parameters: tree.Parameter | None
    ) -> tuple[tree.Parameter, ...]:
        found = tuple(parameter for parameter in parameters if parameter is not None)
        for at, parameter in enumerate(found):
            if any(parameter.name == other.name for other in found[:at]):
                raise Failure(f"`{parameter.name}` is given twice", "", parameter.span)
        return found

    def limits(self, meta: Meta, low: tree.Node, high: tree.Node) -> dict[str, Any]:
        return {"low": low, "high": high}

    def step(self, meta: Meta, step: tree.Node) -> dict[str, Any]:
        return {"step": step}

    def choices(self, meta: Meta, *choices: tree.Node) -> dict[str, Any]:
        return {"choices": choices}

    def internal(self, meta: Meta) -> dict[str, Any]:
        return {"internal": True}

    def when(self, meta: Meta, condition: tree.Node) -> dict[str, Any]:
        return {"condition": condition}

    def hatch(self, meta: Meta, angle: tree.Node, spacing: tree.Node) -> dict[str, Any]:
        return {"hatch": (angle, spacing)}

    def material(self, meta: Meta, density: tree.Node) -> dict[str, Any]:
        return {"material": density}

    def colour(self, meta: Meta, colour: Token) -> dict[str, Any]:
        return {"colour": str(colour)}

    def colour_by(
        self, meta: Meta, colour: Token | None, by: Token, values: tree.Node
    ) -> dict[str, Any]:
        return {"colour": "" if colour is None else str(colour), "by": values}

    def colour_between(
        self, meta: Meta, low: Token, high: Token, by: Token, values: tree.Node
    ) -> dict[str, Any]:
        return {"between": (str(low), str(high)), "by": values}

    def input(self, meta: Meta, name: Token, value: tree.Node, *rest: Any) -> tree.Input:
        *clauses, label = rest
        settings = _clauses(clauses, _span(meta))
        return tree.Input(
            _checked_name(name), value, token_span(name), label=_plain(label), **settings
        )

    def formula(
        self, meta: Meta, name: Token, value: tree.Node, label: Token | None
    ) -> tree.Formula:
        return tree.Formula(_checked_name(name), value, token_span(name), None, _plain(label))

    def function(
        self,
        meta: Meta,
        name: Token,
        parameters: tuple[tree.Parameter, ...] | None,
        value: tree.Node,
        label: Token | None,
    ) -> tree.Formula:
        return tree.Formula(
            _checked_name(name), value, token_span(name), parameters or (), _plain(label)
        )

    def part(self, meta: Meta, name: Token, value: tree.Node, *rest: Any) -> tree.Part:
        *clauses, label = rest
        settings = _clauses(clauses, _span(meta))
        return tree.Part(
            _checked_name(name), value, token_span(name), label=_plain(label), **settings
        )

    def check(self, meta: Meta, condition: tree.Node, message: Token | None) -> tree.Check:
        said = None if message is None else tree.Text(token_span(message), tuple(_pieces(message)))
        return tree.Check(condition, _plain(message), said)

    def dim(
        self,
        meta: Meta,
        quantity: tree.Node,
        start: tree.Node,
        end: tree.Node,
        offset: tree.Node | None,
    ) -> tree.Dim:
        return tree.Dim(quantity, start, end, offset)

    def dim_round(
        self, meta: Meta, form: Token, quantity: tree.Node, centre: tree.Node, rim: tree.Node
    ) -> tree.Dim:
        return tree.Dim(quantity, centre, rim, form=str(form))

    def dim_angle(
        self,
        meta: Meta,
        quantity: tree.Node,
        apex: tree.Node,
        start: tree.Node,
        end: tree.Node,
        offset: tree.Node | None,
    ) -> tree.Dim:
        return tree.Dim(quantity, start, end, offset, "angle", apex)

    def dim_level(
        self, meta: Meta, quantity: tree.Node, place: tree.Node, datum: tree.Node | None
    ) -> tree.Dim:
        return tree.Dim(quantity, datum, place, form="level")

    def setting(self, meta: Meta, name: Token, value: tree.Node) -> tree.Setting:
        return tree.Setting(_span(meta), str(name), value)

    def preset(self, meta: Meta, title: Token, *settings: tree.Setting) -> tree.Preset:
        return tree.Preset(_plain(title), settings)

    def file(
        self, meta: Meta, name: Token, file_name: Token, calibration: tree.Calibration | None
    ) -> tree.File:
        return tree.File(_checked_name(name), _plain(file_name), token_span(name), calibration)

    def calibration(
        self, meta: Meta, start: tree.Node, end: tree.Node, distance: tree.Node, *clauses: Any
    ) -> tree.Calibration:
        span = _span(meta)
        return tree.Calibration(span, start, end, distance, **_clauses(list(clauses), span))

    def placed_at(self, meta: Meta, place: tree.Node) -> dict[str, Any]:
        return {"place": place}

    def turned_by(self, meta: Meta, turn: tree.Node) -> dict[str, Any]:
        return {"turn": turn}

    def strength(self, meta: Meta, strength: tree.Node) -> dict[str, Any]:
        return {"strength": strength}

    def use(self, meta: Meta, name: Token, study: Token) -> tree.Use:
        return tree.Use(_checked_name(name), _plain(study), token_span(name))

    def study(self, meta: Meta, title: Token) -> tree.Study:
        return tree.Study(_plain(title))

    def tolerance(self, meta: Meta, value: tree.Node) -> tree.Tolerance:
        return tree.Tolerance(value)

    def block_head(
        self, meta: Meta, name: Token, *rest: Any
    ) -> tuple[str, Span, tuple[tree.Parameter, ...] | None]:
        return _checked_name(name), token_span(name), rest[0] if rest else None


def _clauses(clauses: list[dict[str, Any]], span: Span) -> dict[str, Any]:
    settings: dict[str, Any] = {}
    said: set[str] = set()
    for clause in clauses:
        names = {_CLAUSE_NAMES[key] for key in clause}
        if names & said:
            raise Failure(f"this line gives its {min(names & said)} twice", "", span)
        said |= names
        settings.update(clause)
    return settings


_CLAUSE_NAMES = {
    "low": "limits", "high": "limits", "step": "step", "choices": "choices", "internal": "`internal`",
    "condition": "condition", "colour": "colour", "by": "colour", "between": "colour", "hatch": "hatch", "material": "material", "place": "place",
    "turn": "turn", "strength": "strength",
}  # fmt: skip


def _finite(value: float, meta: Meta) -> float:
    if math.isinf(value):
        raise Failure("this is too large", "numbers go up to about 1.8e308", _span(meta))
    return value


def _pieces(token: Token) -> list[str | tree.Node]:
    """The pieces of a text: what stands in single braces is an expression."""
    start = (token.start_pos or 0) + 1
    body = token[1:-1]
    pieces: list[str | tree.Node] = []
    for found in re.finditer(r"\{\{|\}\}|\{([^{}]*)\}|\\.|[{}]|[^{}\\]+", body):
        piece = found[0]
        if found[1] is not None:
            at = start + found.start() + 1
            pieces.append(parse("expression", " " * at + found[1]))
        elif piece in "{}":
            raise Failure(
                f"the brace `{piece}` in this text has no partner",
                "write {{ or }} for a brace itself",
                (start + found.start(), start + found.end()),
            )
        else:
            pieces.append(_unescaped(piece[0] if piece in ("{{", "}}") else piece))
    return pieces


@cache
def _parser() -> Lark:
    grammar = Path(__file__).with_name("grammar.lark").read_text(encoding="utf-8")
    return Lark(
        grammar + _LITERALS,
        parser="lalr",
        start=STARTS,
        propagate_positions=True,
        maybe_placeholders=True,
    )


_rules = _Build()


def _built(node: Any) -> Any:
    """The syntax tree of what the grammar found. (Lark's own Transformer does the same; calling
    the methods ourselves takes half its time.)"""
    if not isinstance(node, Tree):
        return node
    children = [_built(child) for child in node.children]
    return getattr(_rules, node.data)(node.meta, *children)


def parse(start: str, text: str) -> Any:
    """The tree for `text`, read by the grammar rule `start`; raises UnexpectedInput or Failure."""
    found = _built(_parser().parse(text, start=start))
    _refuse_deep(found)
    return found


_DEEPEST = 150
"""How deeply expressions may stand within each other, or operators follow each other."""


def _refuse_deep(found: Any) -> None:
    level = [
        node
        for node in (found if isinstance(found, tuple) else (found,))
        if isinstance(node, tree.Node | tree.Content)
    ]
    for _ in range(_DEEPEST):
        level = [child for node in level for child in tree.children(node)]
        if not level:
            return
    raise Failure(
        f"more than {_DEEPEST} operations stand within each other here",
        "name a piece of it in a line of its own; long sums are written sum([a, b, c])",
        getattr(level[0], "span", None),
    )
