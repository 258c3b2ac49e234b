"""Checking an expression: names are found, kinds and dimensions settled, before anything runs."""

from __future__ import annotations

import contextlib
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

from ovolo.meaning import typed
from ovolo.meaning.operators import operator_kind, power_kind, with_unit
from ovolo.problems import Failure, Span, nearest_name
from ovolo.quantities.dimension import NUMBER
from ovolo.quantities.kinds import (
    NUMBER_KIND,
    TEXT,
    YES_NO,
    FunctionKind,
    Kind,
    ListOf,
    PointKind,
    Quantity,
    Record,
    TableKind,
    Together,
    is_number,
    plural,
    same_kind,
)
from ovolo.sheet import tree
from ovolo.words.all import WORDS
from ovolo.words.registry import Word
from ovolo.words.signature import Accepts, Bindings, ColumnName, FunctionPattern, Signature

MOST_USES = 20_000
"""How often functions may be checked for new kinds in one sheet."""

_DEEPEST = 60
_AXES = {"x": 0, "y": 1, "z": 2}


@dataclass(eq=False)
class Scope:
    """What names mean at one place: local names here and outside, then lines, then words."""

    lines: Callable[[str], Kind | None]
    """The kind of a line by its name; None where there is no such line. May raise Failure."""

    names: Callable[[], list[str]]
    text: str
    """The text of the statement, for messages."""

    locals: dict[str, Kind] = field(default_factory=dict)
    depth: int = 0
    budget: list[int] = field(default_factory=lambda: [MOST_USES])
    remarks: list[tuple[str, Span]] = field(default_factory=list)
    """Quiet hints found on the way."""

    uses: dict[object, typed.Typed] = field(default_factory=dict)
    """Bodies already checked, by function and the kinds it was used with."""

    def within(self, names: dict[str, Kind]) -> Scope:
        return Scope(
            self.lines, self.names, self.text, {**self.locals, **names},
            self.depth, self.budget, self.remarks, self.uses,
        )  # fmt: skip

    def written(self, node: tree.Node) -> str:
        """A piece of the statement as it is written, without brackets around it."""
        start, end = node.span
        said = " ".join(self.text[start:end].split())
        bracketed = said.startswith("(") and not isinstance(node, tree.Point | tree.Lambda)
        return said[1:-1] if bracketed and _closes_last(said) else said


def _closes_last(said: str) -> bool:
    """Whether the first bracket is closed by the last."""
    depth = 0
    for at, character in enumerate(said):
        depth += (character == "(") - (character == ")")
        if depth == 0:
            return at == len(said) - 1
    return False


@dataclass(frozen=True, slots=True, eq=False)
class Definition:
    """Where a function's body stands, and the names around it."""

    body: tree.Node
    parameters: tuple[tree.Parameter, ...]
    scope: Scope
    source: typed.Source
    name: str


@dataclass(frozen=True, slots=True, eq=False)
class SheetFunction(FunctionKind):
    """The kind of one particular function: it knows its definition."""

    definition: Definition = field(repr=False, default=None)  # type: ignore[assignment]

    __eq__ = object.__eq__
    __hash__ = object.__hash__


def function_kind(definition: Definition) -> SheetFunction:
    names = tuple(parameter.name for parameter in definition.parameters)
    required = sum(parameter.default is None for parameter in definition.parameters)
    return SheetFunction(parameters=names, required=required, definition=definition)


def check(node: tree.Node, scope: Scope) -> typed.Typed:
    """The checked tree of an expression. Raises Failure with the place within the statement."""
    rule = _RULES[type(node)]
    try:
        return rule(node, scope)
    except Failure as failure:
        raise failure.at(node.span) from None


def check_as(node: tree.Node, scope: Scope, wanted: Kind, what: str) -> typed.Typed:
    """The same, refusing anything but the wanted kind."""
    checked = check(node, scope)
    if same_kind(checked.kind, wanted) is None:
        raise Failure(
            f"{what} must be {wanted.said}; `{scope.written(node)}` is {checked.kind.said}",
            _unit_hint(node, scope, checked.kind, wanted),
            node.span,
        )
    return checked


def _unit_hint(node: tree.Node, scope: Scope, found: Kind, wanted: Kind) -> str:
    """How a plain number becomes the quantity that is wanted."""
    if not (is_number(found) and isinstance(wanted, Quantity)) or wanted.dimension == NUMBER:
        return ""
    unit = {"length": "mm", "angle": "°", "area": "mm^2", "volume": "mm^3"}.get(wanted.word)
    if unit is None:
        return ""
    return f"give the number a unit: `{with_unit(scope.written(node), unit)}`"


def _number(node: tree.Number, scope: Scope) -> typed.Typed:
    return typed.Constant(Quantity(dimension=node.dimension), node.span, node.value)


def _yes_no(node: tree.YesNo, scope: Scope) -> typed.Typed:
    return typed.Constant(YES_NO, node.span, node.value)


def _text(node: tree.Text, scope: Scope) -> typed.Typed:
    if all(isinstance(piece, str) for piece in node.pieces):
        return typed.Constant(TEXT, node.span, "".join(map(str, node.pieces)))
    pieces: list[str | typed.Typed] = []
    for piece in node.pieces:
        if isinstance(piece, str):
            pieces.append(piece)
            continue
        checked = check(piece, scope)
        if not isinstance(checked.kind, Quantity | PointKind) and checked.kind not in (
            TEXT,
            YES_NO,
        ):
            raise Failure(f"{checked.kind.said} cannot be put into a text", "", piece.span)
        pieces.append(checked)
    return typed.JoinedText(TEXT, node.span, tuple(pieces))


def _name(node: tree.Name, scope: Scope) -> typed.Typed:
    name = node.name
    if name in scope.locals:
        return typed.LocalName(scope.locals[name], node.span, name)
    kind = scope.lines(name)
    if kind is not None:
        return typed.Line(kind, node.span, name)
    word = WORDS.get(name)
    if word is not None and word.constant:
        return typed.Constant(word.signatures[0].result.build({}), node.span, word.function())
    if word is not None:
        raise Failure(f"`{name}` is a word that takes arguments", f"write {word.usage}")
    raise unknown_name(name, scope)


def unknown_name(name: str, scope: Scope, also: Sequence[str] = ()) -> Failure:
    known = [*scope.locals, *scope.names(), *also]
    near = nearest_name(name, known)
    hint = f"did you mean `{near}`?" if near else f"write a line `{name} = …`"
    return Failure(f"nothing here is called `{name}`", hint)


def _unary(node: tree.Unary, scope: Scope) -> typed.Typed:
    operand = check(node.operand, scope)
    if not isinstance(operand.kind, Quantity | PointKind):
        raise Failure(f"minus {operand.kind.said} makes no sense")
    return typed.Operation(operand.kind, node.span, "negate", (operand,), node.span, "")


def _binary(node: tree.Binary, scope: Scope) -> typed.Typed:
    left, right = check(node.left, scope), check(node.right, scope)
    said = scope.written(node.left), scope.written(node.right)
    try:
        if node.operator == "^":
            rule, kind = power_kind(left.kind, right.kind, _figure(right))
        else:
            rule, kind = operator_kind(node.operator, left.kind, right.kind, said)
    except Failure as failure:
        raise failure.at(node.operator_span) from None
    return typed.Operation(kind, node.span, rule, (left, right), node.operator_span, said[1])


def _figure(node: typed.Typed) -> float | None:
    """The value of an exponent that is written out: 2, -1, 1/2."""
    match node:
        case typed.Constant(value=float() as value):
            return value
        case typed.Operation(rule="divide", operands=(a, b)):
            above, below = _figure(a), _figure(b)
            return above / below if above is not None and below else None
        case typed.Operation(rule="negate", operands=(a,)):
            inner = _figure(a)
            return None if inner is None else -inner
    return None


def _comparison(node: tree.Comparison, scope: Scope) -> typed.Typed:
    operands = [check(operand, scope) for operand in node.operands]
    for index, operator in enumerate(node.operators):
        left, right = operands[index], operands[index + 1]
        said = [scope.written(operand) for operand in node.operands[index : index + 2]]
        if same_kind(left.kind, right.kind) is None:
            hint = _unit_hint(node.operands[index + 1], scope, right.kind, left.kind) or _unit_hint(
                node.operands[index], scope, left.kind, right.kind
            )
            raise Failure(
                f"{left.kind.said} ({said[0]}) cannot be compared with {right.kind.said} ({said[1]})",
                hint, node.operands[index + 1].span,
            )  # fmt: skip
        if not _comparable(left.kind, operator):
            raise Failure(f"{plural(left.kind)} cannot be compared by {operator}")
    within = None
    if node.within is not None:
        kind = operands[0].kind
        wanted: Kind = Quantity(dimension=kind.dimension) if isinstance(kind, PointKind) else kind
        within = check_as(node.within, scope, wanted, "the tolerance after `within`")
    return typed.Compared(YES_NO, node.span, tuple(operands), node.operators, within)


def _comparable(kind: Kind, operator: str) -> bool:
    if isinstance(kind, Quantity):
        return True
    if operator not in ("==", "!="):
        return False
    if isinstance(kind, ListOf):
        return kind.item is None or _comparable(kind.item, operator)
    return isinstance(kind, PointKind) or kind in (TEXT, YES_NO)


def _logical(node: tree.Logical, scope: Scope) -> typed.Typed:
    operands = tuple(
        check_as(operand, scope, YES_NO, f"each side of `{node.operator}`")
        for operand in node.operands
    )
    return typed.Both(YES_NO, node.span, node.operator, operands)


def _not(node: tree.Not, scope: Scope) -> typed.Typed:
    operand = check_as(node.operand, scope, YES_NO, "what follows `not`")
    return typed.Opposite(YES_NO, node.span, operand)


def _choice(node: tree.Choice, scope: Scope) -> typed.Typed:
    condition = check_as(node.condition, scope, YES_NO, "what follows `if`")
    chosen, other = check(node.chosen, scope), check(node.other, scope)
    kind = same_kind(chosen.kind, other.kind)
    if kind is None:
        hint = _unit_hint(node.other, scope, other.kind, chosen.kind) or _unit_hint(
            node.chosen, scope, chosen.kind, other.kind
        )
        raise Failure(
            f"`then` gives {chosen.kind.said}, but `else` gives {other.kind.said}",
            hint or "both must be of one kind",
            node.other.span,
        )
    return typed.Chosen(kind, node.span, condition, chosen, other)


def _range(node: tree.Range, scope: Scope) -> typed.Typed:
    start = check(node.start, scope)
    if not isinstance(start.kind, Quantity):
        raise Failure(f"a range runs over numbers or quantities, not {plural(start.kind)}")
    end = check_as(node.end, scope, start.kind, "the end of this range")
    step = None
    if node.step is not None:
        step = check_as(node.step, scope, start.kind, "the step of this range")
    elif start.kind.dimension != NUMBER:
        raise Failure(
            f"a range of {plural(start.kind)} needs a step", "for example 0 mm .. 1 m by 50 mm"
        )
    return typed.Steps(ListOf(item=start.kind), node.span, start, end, step)


def _list(node: tree.ListOfItems, scope: Scope) -> typed.Typed:
    items = tuple(check(item, scope) for item in node.items)
    kind: Kind | None = None
    for item, written in zip(items, node.items, strict=True):
        together = item.kind if kind is None else same_kind(kind, item.kind)
        if together is None:
            assert kind is not None
            raise Failure(
                f"a list holds one kind: it begins with {kind.said}, and "
                f"`{scope.written(written)}` is {item.kind.said}",
                _unit_hint(written, scope, item.kind, kind),
                written.span,
            )
        kind = together
    return typed.Items(ListOf(item=kind), node.span, items)


def _comprehension(node: tree.Comprehension, scope: Scope) -> typed.Typed:
    loops = []
    for each in node.each:
        source = check(each.source, scope)
        if not isinstance(source.kind, ListOf):
            raise Failure(
                f"`for` runs over a list or a range, and this is {source.kind.said}",
                f"for example for {each.name} in 0 .. {scope.written(each.source)} - 1"
                if is_number(source.kind)
                else "",
                each.source.span,
            )
        scope = scope.within({each.name: source.kind.item or NUMBER_KIND})
        condition = None
        if each.condition is not None:
            condition = check_as(each.condition, scope, YES_NO, "what follows `if`")
        loops.append(typed.Loop(source.kind, each.span, each.name, source, condition))
    body = check(node.body, scope)
    return typed.ForEach(ListOf(item=body.kind), node.span, tuple(loops), body)


def _point(node: tree.Point, scope: Scope) -> typed.Typed:
    if len(node.coordinates) > 3:
        raise Failure(
            f"a point has two or three coordinates, not {len(node.coordinates)}",
            "a list is written in square brackets: [a, b, c, d]",
        )
    first = check(node.coordinates[0], scope)
    if not isinstance(first.kind, Quantity):
        raise Failure(
            f"a coordinate is a length or a number, not {first.kind.said}", "",
            node.coordinates[0].span,
        )  # fmt: skip
    rest = [
        check_as(coordinate, scope, first.kind, "every coordinate of this point")
        for coordinate in node.coordinates[1:]
    ]
    kind = PointKind(dimension=first.kind.dimension, flat=len(rest) == 1)
    return typed.PointOf(kind, node.span, (first, *rest))


def _member(node: tree.Member, scope: Scope) -> typed.Typed:
    owner = check(node.owner, scope)
    match owner.kind:
        case PointKind() if node.name in _AXES:
            kind: Kind | None = Quantity(dimension=owner.kind.dimension)
            return typed.Coordinate(kind or NUMBER_KIND, node.span, owner, _AXES[node.name])
        case Record():
            kind, known = owner.kind.field_kind(node.name), [name for name, _ in owner.kind.fields]
        case TableKind():
            column = owner.kind.column_kind(node.name)
            kind = None if column is None else ListOf(item=column)
            known = [name for name, _ in owner.kind.columns]
        case _:
            kind, known = None, ["x", "y", "z"] if isinstance(owner.kind, PointKind) else []
    if kind is not None:
        return typed.Field(kind, node.span, owner, node.name)
    near = nearest_name(node.name, known)
    hint = f"did you mean .{near}?" if near else ", ".join(f".{name}" for name in known)
    if node.name in WORDS and not known:
        hint = f"a word is called with brackets: .{node.name}()"
    raise Failure(f"{owner.kind.said} has no `.{node.name}`", hint)


def _index(node: tree.Index, scope: Scope) -> typed.Typed:
    owner = check(node.owner, scope)
    index = check_as(node.index, scope, NUMBER_KIND, "an index")
    written = scope.written(node.owner)
    if isinstance(owner.kind, Together):
        figure = _figure(index)
        if figure is None or figure not in range(len(owner.kind.items)):
            raise Failure(
                f"`{written}` holds {len(owner.kind.items)} values of different kinds",
                f"its index must be written as a figure from 0 to {len(owner.kind.items) - 1}",
            )
        return typed.ItemAt(owner.kind.items[int(figure)], node.span, owner, index, written)
    if isinstance(owner.kind, TableKind):
        row = Record(fields=owner.kind.columns)
        return typed.ItemAt(row, node.span, owner, index, written)
    if not isinstance(owner.kind, ListOf):
        raise Failure(f"only a list has items; `{written}` is {owner.kind.said}")
    return typed.ItemAt(owner.kind.item or NUMBER_KIND, node.span, owner, index, written)


def _lambda(node: tree.Lambda, scope: Scope) -> typed.Typed:
    definition = Definition(node.body, node.parameters, scope, typed.Source(), "this function")
    return typed.FunctionValue(function_kind(definition), node.span)


def _block(node: tree.Block, scope: Scope) -> typed.Typed:
    lines: list[tuple[str, typed.Typed]] = []
    for local in node.locals:
        if any(local.name == name for name, _ in lines):
            raise Failure(f"`{local.name}` is already a local line of this block", "", local.span)
        if local.parameters is not None:
            definition = Definition(
                local.value, local.parameters, scope, typed.Source(), local.name
            )
            value: typed.Typed = typed.FunctionValue(function_kind(definition), local.span)
        else:
            value = check(local.value, scope)
        lines.append((local.name, value))
        scope = scope.within({local.name: value.kind})
    result = check(node.value, scope)
    return typed.Locals(result.kind, node.span, tuple(lines), result)


def _call(node: tree.Call, scope: Scope) -> typed.Typed:
    name = node.function
    local = scope.locals.get(name)
    kind = local if local is not None else scope.lines(name)
    if isinstance(kind, SheetFunction):
        place = typed.LocalName if local is not None else typed.Line
        return _sheet_call(node, place(kind, node.name_span, name), kind, scope)
    word = WORDS.get(name)
    if word is not None and not word.constant:
        return _word_call(node, word, scope)
    if kind is not None or word is not None:
        said = kind.said if kind is not None else "a constant"
        raise Failure(f"`{name}` is {said}, not a function", "to multiply write *", node.name_span)
    words = [word for word in WORDS if not WORDS[word].constant]
    failure = unknown_name(name, scope, words)
    if failure.hint.startswith("write a line"):
        failure.hint = f"write a function `{name}(…) = …`"
    raise failure.at(node.name_span)


def _sheet_call(
    node: tree.Call, function: typed.Typed, kind: SheetFunction, scope: Scope
) -> typed.Typed:
    arguments = _placed_arguments(node, kind, scope)
    body = _body_for(kind, tuple(argument.kind for argument in arguments), scope)
    return typed.FunctionCall(
        body.kind, node.span, function, node.function, kind.parameters, arguments, body,
        kind.definition.source,
    )  # fmt: skip


def _placed_arguments(
    node: tree.Call, kind: SheetFunction, scope: Scope
) -> tuple[typed.Typed, ...]:
    """The arguments of a call in the order of the parameters, defaults filled in."""
    places: dict[str, typed.Typed] = {}
    usage = f"{node.function}({', '.join(kind.parameters)})"
    for position, argument in enumerate(node.arguments):
        name = argument.name
        if name is None:
            if position >= len(kind.parameters):
                raise Failure(
                    f"`{node.function}` takes {_count(kind.parameters)}, and here are "
                    f"{len(node.arguments)}",
                    f"write {usage}",
                    argument.span,
                )
            name = kind.parameters[position]
        elif name not in kind.parameters:
            near = nearest_name(name, list(kind.parameters))
            hint = f"did you mean `{near}`?" if near else f"write {usage}"
            raise Failure(f"`{node.function}` has no argument `{name}`", hint, argument.span)
        if name in places:
            raise Failure(f"`{name}` is given twice", f"write {usage}", argument.span)
        places[name] = check(argument.value, scope)
    for parameter in kind.definition.parameters:
        if parameter.name not in places:
            if parameter.default is None:
                raise Failure(f"`{node.function}` needs `{parameter.name}`", f"write {usage}")
            places[parameter.name] = check(parameter.default, kind.definition.scope)
    return tuple(places[name] for name in kind.parameters)


def _count(parameters: Sequence[object]) -> str:
    return {0: "no arguments", 1: "1 argument"}.get(len(parameters), f"{len(parameters)} arguments")


def _body_for(kind: SheetFunction, kinds: tuple[Kind, ...], scope: Scope) -> typed.Typed:
    """A function's body checked for the kinds of its arguments; remembered per use."""
    definition = kind.definition
    key = (definition, kinds)
    known = scope.uses.get(key)
    if known is not None:
        return known
    scope.budget[0] -= 1
    if scope.depth >= _DEEPEST or scope.budget[0] < 0:
        raise Failure(
            f"`{definition.name}` is used within itself too deeply", "a function cannot use itself"
        )
    inner = definition.scope.within(dict(zip(kind.parameters, kinds, strict=True)))
    inner.depth = scope.depth + 1
    inner.uses, inner.budget = scope.uses, scope.budget
    try:
        body = check(definition.body, inner)
    except Failure as failure:
        if definition.source.name is not None:
            where = f"in `{definition.source.name}` (line {definition.source.line}): "
            raise Failure(where + failure.message, failure.hint) from None
        raise
    scope.uses[key] = body
    return body


def _word_call(node: tree.Call, word: Word, scope: Scope) -> typed.Typed:
    if any(_is_key_column(s.arguments[-2:]) for s in word.signatures):
        node = _with_key_column(node, word)
    positions = _positions(node, word)
    checked = [check(argument.value, scope) for argument in node.arguments]
    failure: Failure | None = None
    candidates = [s for s in word.signatures if s.takes([_fills(s, p, word) for p in positions])]
    if not candidates:
        raise _wrong_count(node, word, positions)
    for signature in candidates:
        try:
            return _fitted(node, word, signature, positions, checked, scope)
        except _Misfit as misfit:
            failure = failure or misfit.failure
    assert failure is not None
    raise failure


def _is_key_column(accepted: Sequence[Accepts]) -> bool:
    return any(isinstance(one.pattern, ColumnName) and one.pattern.is_key for one in accepted)


def _with_key_column(node: tree.Call, word: Word) -> tree.Call:
    """`lookup(t, "hole", size = "M8")` as `lookup(t, "hole", "size", "M8")`: the name of the
    last argument is that of a column."""
    if not node.arguments or node.arguments[-1].name is None:
        return node
    *before, key = node.arguments
    name = tree.Argument(key.span, None, tree.Text(key.span, (key.name or "",)))
    value = tree.Argument(key.span, None, key.value)
    return tree.Call(node.span, node.function, (*before, name, value), node.name_span)


class _Misfit(Exception):
    """An argument does not fit a signature; another signature may."""

    def __init__(self, failure: Failure) -> None:
        self.failure = failure


def _fills(signature: Signature, position: int | str, word: Word) -> int:
    """The place in a signature that an argument takes; beyond all places where it has none."""
    names = [
        accepts.fills or word.parameters[at].name for at, accepts in enumerate(signature.arguments)
    ]
    if isinstance(position, str):
        return names.index(position) if position in names else len(names) + 99
    return position


def _positions(node: tree.Call, word: Word) -> list[int | str]:
    """For each argument its position, or its name."""
    places: list[int | str] = []
    known = [parameter.name for parameter in word.parameters if not parameter.many]
    for position, argument in enumerate(node.arguments):
        if argument.name is None:
            places.append(position)
        elif argument.name in known:
            if argument.name in places or known.index(argument.name) in places:
                raise Failure(
                    f"`{argument.name}` is given twice", f"write {word.usage}", argument.span
                )
            places.append(argument.name)
        else:
            near = nearest_name(argument.name, known)
            hint = f"did you mean `{near}`?" if near else f"write {word.usage}"
            raise Failure(f"`{word.name}` has no argument `{argument.name}`", hint, argument.span)
    return places


def _wrong_count(node: tree.Call, word: Word, positions: list[int | str]) -> Failure:
    given = len(node.arguments)
    for at, accepts in enumerate(word.signatures[0].arguments):
        name = word.parameters[at].name
        if not (accepts.optional or accepts.many or at in positions or name in positions):
            return Failure(f"`{word.name}` needs `{name}`", f"write {word.usage}", node.name_span)
    said = "1 argument" if given == 1 else f"{given or 'no'} arguments"
    return Failure(f"`{word.name}` does not go with {said}", f"write {word.usage}", node.name_span)


def _fitted(
    node: tree.Call,
    word: Word,
    signature: Signature,
    positions: list[int | str],
    checked: list[typed.Typed],
    scope: Scope,
) -> typed.Typed:
    """The call by one signature; raises _Misfit where an argument does not fit."""
    bound: Bindings = {}
    places = [_fills(signature, position, word) for position in positions]
    functions = []
    for place, argument, value in zip(places, node.arguments, checked, strict=True):
        pattern = signature.accepts(place).pattern
        fits = pattern.match(value.kind, bound)
        if fits and isinstance(pattern, ColumnName):
            written = value.value if isinstance(value, typed.Constant) else ""
            fits = pattern.match_column(str(written), bound) is not None
        if not fits:
            raise _Misfit(_mismatch(word, signature, place, argument, value, bound, scope))
        if isinstance(pattern, FunctionPattern):
            functions.append((place, argument, value, pattern))
    applied: dict[int, typed.Typed] = {}
    for place, argument, value, pattern in functions:
        applied[place] = _applied(word, argument, value, pattern, bound, scope)
    positional: dict[int, typed.Typed] = {}
    named: list[tuple[str, typed.Typed]] = []
    whole: list[int | str] = []
    for place, value in zip(places, checked, strict=True):
        accepts = signature.accepts(place)
        at: int | str = accepts.fills or place
        final = applied.get(place, value)
        if isinstance(at, str):
            named.append((at, final))
        else:
            positional[at] = final
        if accepts.pattern.whole:
            whole.append(at)
    if word.seeded:
        named.append(("seed", _seed(node, scope)))
    leading = [positional.pop(at) for at in range(len(positional)) if at in positional]
    for at, value in positional.items():
        named.append((_python_name(word, at), value))
    whole = [
        at if isinstance(at, str) or at < len(leading) else _python_name(word, at) for at in whole
    ]
    _remark_bare_angle(node, word, checked, scope)
    result = signature.result.build(bound)
    return typed.WordCall(result, node.span, word, tuple(leading), tuple(named), tuple(whole))


def _seed(node: tree.Call, scope: Scope) -> typed.Typed:
    """The study's `seed`, or 0 where it has none."""
    kind = scope.lines("seed")
    if kind is None:
        return typed.Constant(NUMBER_KIND, node.span, 0.0)
    if not is_number(kind):
        raise Failure(f"the `seed` of this study is {kind.said}", "it must be a plain number")
    return typed.Line(kind, node.span, "seed")


def _python_name(word: Word, position: int) -> str:
    return word.parameters[position].name


def _mismatch(
    word: Word,
    signature: Signature,
    place: int,
    argument: tree.Argument,
    value: typed.Typed,
    bound: Bindings,
    scope: Scope,
) -> Failure:
    accepts = signature.accepts(place)
    name = accepts.fills or word.parameters[min(place, len(word.parameters) - 1)].name
    wanted = accepts.pattern.said(bound)
    written = scope.written(argument.value)
    hint = word.hint
    with contextlib.suppress(NotImplementedError, KeyError):  # some patterns name no one kind
        hint = _unit_hint(argument.value, scope, value.kind, accepts.pattern.build(bound)) or hint
    return Failure(
        f"`{word.name}` wants {wanted} for `{name}`, and `{written}` is {value.kind.said}",
        hint or f"write {word.usage}",
        argument.span,
    )


def _applied(
    word: Word,
    argument: tree.Argument,
    value: typed.Typed,
    pattern: FunctionPattern,
    bound: Bindings,
    scope: Scope,
) -> typed.Typed:
    """A function argument with its body checked for what the word will give it."""
    kind = value.kind
    assert isinstance(kind, SheetFunction)
    count = len(pattern.parameters)
    if not kind.required <= count <= len(kind.parameters):
        raise Failure(
            f"`{word.name}` wants {pattern.said(bound)}; this one takes {_count(kind.parameters)}",
            f"write {word.usage}",
            argument.span,
        )
    kinds = tuple(parameter.build(bound) for parameter in pattern.parameters)
    body = _body_for(_first_parameters(kind, count), kinds, scope)
    if not pattern.result.match(body.kind, bound):
        raise Failure(
            f"`{word.name}` wants a function that gives {pattern.result.said(bound)}; "
            f"this one gives {body.kind.said}",
            f"write {word.usage}",
            argument.span,
        )
    return typed.Applied(
        kind, argument.span, value, kind.parameters[:count], body, kind.definition.source
    )


def _first_parameters(kind: SheetFunction, count: int) -> SheetFunction:
    if count == len(kind.parameters):
        return kind
    raise Failure("a function handed on must use all its arguments", "write t -> f(t)")


def _remark_bare_angle(
    node: tree.Call, word: Word, checked: list[typed.Typed], scope: Scope
) -> None:
    """A quiet hint where a bare number such as 30 is handed to sin."""
    if word.name not in ("sin", "cos", "tan") or not node.arguments:
        return
    value = node.arguments[0].value
    if isinstance(value, tree.Number) and value.bare and value.value != 0:
        scope.remarks.append(
            (
                f"{value.value:g} is read as radians; degrees are written {value.value:g}°",
                value.span,
            )
        )


_RULES: dict[type[tree.Node], Callable[..., typed.Typed]] = {
    tree.Number: _number,
    tree.YesNo: _yes_no,
    tree.Text: _text,
    tree.Name: _name,
    tree.Unary: _unary,
    tree.Binary: _binary,
    tree.Comparison: _comparison,
    tree.Logical: _logical,
    tree.Not: _not,
    tree.Choice: _choice,
    tree.Range: _range,
    tree.ListOfItems: _list,
    tree.Comprehension: _comprehension,
    tree.Point: _point,
    tree.Member: _member,
    tree.Index: _index,
    tree.Lambda: _lambda,
    tree.Block: _block,
    tree.Call: _call,
}
