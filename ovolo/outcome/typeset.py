"""Formulas set like mathematics: syntax trees as LaTeX.

The LaTeX is made of what every renderer of it knows (amsmath). Whatever a person wrote (names,
texts, units) is escaped, so that it can only ever be read as itself.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from functools import singledispatchmethod

from ovolo.quantities.show import Shown, follows_closely, grouped, written_unit
from ovolo.quantities.units import unit_named
from ovolo.sheet import tree
from ovolo.sheet.formulas import PRECEDENCE
from ovolo.words.all import WORDS

ValueOf = Callable[[str], str | None]
"""The LaTeX that stands for a name of the sheet, or None where the name itself does."""

_ESCAPES = {
    "\\": r"\textbackslash ", "{": r"\{", "}": r"\}", "$": r"\$", "&": r"\&", "#": r"\#",
    "^": r"\textasciicircum ", "_": r"\_", "~": r"\textasciitilde ", "%": r"\%",
}  # fmt: skip
_SIGNS = {
    "*": r"\cdot", "&": r"\cap", "<=": r"\le", ">=": r"\ge", "==": "=", "!=": r"\ne",
}  # fmt: skip
"""Operators that are not set as they are written."""

_AROUND = {"abs": ("|", "|"), "floor": (r"\lfloor ", r"\rfloor "), "ceil": (r"\lceil ", r"\rceil ")}
_ATOM = 100
_COMMA = r",\; "
_UNARY = PRECEDENCE["negative"]


def text(written: str) -> str:
    """A piece of text as it stands, in upright letters."""
    return rf"\text{{{''.join(_ESCAPES.get(letter, letter) for letter in written)}}}"


def name(written: str) -> str:
    """A name, in italics."""
    return rf"\textit{{{''.join(_ESCAPES.get(letter, letter) for letter in written)}}}"


def shown(value: Shown) -> str:
    """A value with its unit, thousands set apart."""
    number = grouped(value.number).replace("\u2009", r"\,")
    plain = number.replace(r"\,", "").replace(".", "").replace("-", "").isdigit()
    said = number if plain else text(value.number)
    if not value.unit:
        return said
    space = "" if follows_closely(value.unit) else r"\,"
    return said + space + text(value.unit)


def formula(node: tree.Node, written: str, value_of: ValueOf = lambda name: None) -> str:
    """An expression as LaTeX; `written` is the text of the statement it stands in."""
    return _Typesetter(written, value_of).set(node)


def parameter_list(names: Iterable[str]) -> str:
    """Names in brackets, as they follow that of a function."""
    return rf"\left({_COMMA.join(map(name, names))}\right)"


def _rows(environment: str, rows: Iterable[str]) -> str:
    return rf"\begin{{{environment}}}" + r" \\ ".join(rows) + rf"\end{{{environment}}}"


class _Typesetter:
    def __init__(self, written: str, value_of: ValueOf, bound: frozenset[str] = frozenset()):
        self.written = written
        self.value_of = value_of
        self.bound = bound

    def set(self, node: tree.Node, least: float = 0) -> str:
        """The node, in brackets where it binds less than `least`."""
        said = self._set(node)
        return rf"\left({said}\right)" if _binding(node) < least else said

    def within(self, names: Iterable[str]) -> _Typesetter:
        """For an inner scope, whose own names stand as they are."""
        return _Typesetter(self.written, self.value_of, self.bound | set(names))

    def listed(self, nodes: Iterable[tree.Node]) -> str:
        return _COMMA.join(self.set(node) for node in nodes)

    @singledispatchmethod
    def _set(self, node: tree.Node) -> str:
        return text(self.written[slice(*node.span)])

    @_set.register
    def _(self, node: tree.Number) -> str:
        figure = self.written[slice(*node.span)].strip()
        while figure.startswith("(") and figure.endswith(")"):
            figure = figure[1:-1].strip()
        if node.unit and figure.endswith(node.unit):
            digits = figure.removesuffix(node.unit).strip()
            if digits.replace(".", "", 1).isdigit():
                return shown(Shown(digits, written_unit(unit_named(node.unit))))
        return figure if figure.replace(".", "", 1).isdigit() else text(figure)

    @_set.register
    def _(self, node: tree.Text) -> str:
        return text(self.written[slice(*node.span)])

    @_set.register
    def _(self, node: tree.YesNo) -> str:
        return text("yes" if node.value else "no")

    @_set.register
    def _(self, node: tree.Name) -> str:
        if node.name not in self.bound:
            value = self.value_of(node.name)
            if value is not None:
                return value
        return r"\pi" if node.name == "pi" else name(node.name)

    @_set.register
    def _(self, node: tree.Unary) -> str:
        return f"{node.operator}{self.set(node.operand, _UNARY)}"

    @_set.register
    def _(self, node: tree.Binary) -> str:
        if node.operator == "/":
            return rf"\dfrac{{{self.set(node.left)}}}{{{self.set(node.right)}}}"
        if node.operator == "^":
            base = self.set(node.left, _ATOM)
            if self._has_unit(node.left) and not base.startswith(r"\left("):
                base = rf"\left({base}\right)"
            return rf"{base}^{{{self.set(node.right)}}}"
        binding = _binding(node)
        left, right = self.set(node.left, binding), self.set(node.right, binding + 0.1)
        return f"{left} {_SIGNS.get(node.operator, node.operator)} {right}"

    def _has_unit(self, node: tree.Node) -> bool:
        """Whether a figure with its unit stands for a node: (30 mm)², not 30 mm²."""
        if isinstance(node, tree.Name) and node.name not in self.bound:
            return r"\text{" in (self.value_of(node.name) or "")
        return isinstance(node, tree.Number) and not node.bare

    @_set.register
    def _(self, node: tree.Comparison) -> str:
        least = _binding(node) + 0.1
        said = [self.set(node.operands[0], least)]
        for operator, operand in zip(node.operators, node.operands[1:], strict=True):
            said += [_SIGNS.get(operator, operator), self.set(operand, least)]
        if node.within is not None:
            said += [rf"\;{text('within')}\;", self.set(node.within, least)]
        return " ".join(said)

    @_set.register
    def _(self, node: tree.Logical) -> str:
        joint = rf"\;{text(node.operator)}\;"
        return joint.join(self.set(operand, _binding(node) + 0.1) for operand in node.operands)

    @_set.register
    def _(self, node: tree.Not) -> str:
        return rf"{text('not')}\;{self.set(node.operand, _binding(node))}"

    @_set.register
    def _(self, node: tree.Choice) -> str:
        rows = []
        other: tree.Node = node
        while isinstance(other, tree.Choice):
            rows.append(rf"{self.set(other.chosen)} & {text('if ')}{self.set(other.condition)}")
            other = other.other
        rows.append(f"{self.set(other)} & {text('otherwise')}")
        return _rows("cases", rows)

    @_set.register
    def _(self, node: tree.Range) -> str:
        said = rf"{self.set(node.start)} \ldots {self.set(node.end)}"
        return said if node.step is None else rf"{said}\;{text('by')}\;{self.set(node.step)}"

    @_set.register
    def _(self, node: tree.ListOfItems) -> str:
        return rf"\left[{self.listed(node.items)}\right]"

    @_set.register
    def _(self, node: tree.Comprehension) -> str:
        inner = self
        loops = []
        for each in node.each:
            source = inner.set(each.source)
            inner = inner.within([each.name])
            sign = "=" if isinstance(each.source, tree.Range) else r"\in"
            loops.append(f"{name(each.name)} {sign} {source}")
            if each.condition is not None:
                loops.append(inner.set(each.condition))
        return rf"\left[\,{inner.set(node.body)}\;\middle|\;{_COMMA.join(loops)}\,\right]"

    @_set.register
    def _(self, node: tree.Point) -> str:
        return rf"\left({self.listed(node.coordinates)}\right)"

    @_set.register
    def _(self, node: tree.Call) -> str:
        values = [argument.value for argument in node.arguments]
        if node.function == "sqrt" and len(values) == 1:
            return rf"\sqrt{{{self.set(values[0])}}}"
        if node.function in _AROUND and len(values) == 1:
            before, after = _AROUND[node.function]
            return rf"\left{before}{self.set(values[0])}\right{after}"
        said = _COMMA.join(self._argument(argument) for argument in node.arguments)
        return rf"{_function(node.function)}\left({said}\right)"

    def _argument(self, argument: tree.Argument) -> str:
        value = self.set(argument.value)
        return value if argument.name is None else f"{text(argument.name)} = {value}"

    @_set.register
    def _(self, node: tree.Member) -> str:
        return f"{self.set(node.owner, _ATOM)}{text('.' + node.name)}"

    @_set.register
    def _(self, node: tree.Index) -> str:
        return f"{self.set(node.owner, _ATOM)}_{{{self.set(node.index)}}}"

    @_set.register
    def _(self, node: tree.Lambda) -> str:
        names = [parameter.name for parameter in node.parameters]
        before = name(names[0]) if len(names) == 1 else parameter_list(names)
        return rf"{before} \mapsto {self.within(names).set(node.body)}"

    @_set.register
    def _(self, node: tree.Block) -> str:
        inner = self
        rows = []
        for local in node.locals:
            parameters = [parameter.name for parameter in local.parameters or ()]
            head = name(local.name)
            if local.parameters is not None:
                head += parameter_list(parameters)
            rows.append(f"{head} &= {inner.within(parameters).set(local.value)}")
            inner = inner.within([local.name])
        rows.append(rf"&\phantom{{=}}\; {inner.set(node.value)}")
        return _rows("aligned", rows)


def _function(written: str) -> str:
    """A word of the language upright, a function of the sheet in italics."""
    if written in WORDS:
        escaped = "".join(_ESCAPES.get(letter, letter) for letter in written)
        return rf"\operatorname{{{escaped}}}"
    return name(written)


def _binding(node: tree.Node) -> float:
    """How strongly a node holds together, on the scale of the operators."""
    match node:
        case tree.Binary(operator="/"):
            return _ATOM - 1  # a fraction needs brackets only as the base of a power
        case tree.Binary(operator=operator) | tree.Logical(operator=operator):
            return PRECEDENCE[operator]
        case tree.Comparison():
            return PRECEDENCE["=="]
        case tree.Not():
            return PRECEDENCE["not"]
        case tree.Range():
            return PRECEDENCE[".."]
        case tree.Lambda() | tree.Choice() | tree.Block():
            return 0
        case tree.Unary():
            return _UNARY
        case tree.Number(value=value) if value < 0:
            return _UNARY
    return _ATOM
