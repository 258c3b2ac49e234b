"""The kinds of expressions, one rule for each kind of node."""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction

from ovolo.meaning import checked_tree
from ovolo.meaning.checking import check, check_as, checks, unit_hint
from ovolo.meaning.operator_kinds import Said, each_of, exact_decimal, operator_kind, power_kind
from ovolo.meaning.scope import Definition, Scope, function_kind, unknown_name
from ovolo.problems import Failure, nearest_name
from ovolo.quantities.dimension import NUMBER
from ovolo.quantities.kinds import (
    NUMBER_KIND,
    TEXT,
    YES_NO,
    Kind,
    ListOf,
    PointKind,
    Quantity,
    Record,
    StudyYield,
    TableKind,
    Together,
    is_number,
    plural,
    same_kind,
)
from ovolo.sheet import tree
from ovolo.words.all import WORDS

_AXES = {"x": 0, "y": 1, "z": 2}


@checks(tree.Number)
def _number(node: tree.Number, scope: Scope) -> checked_tree.Typed:
    return checked_tree.Constant(Quantity(dimension=node.dimension), node.span, node.value)


@checks(tree.YesNo)
def _yes_no(node: tree.YesNo, scope: Scope) -> checked_tree.Typed:
    return checked_tree.Constant(YES_NO, node.span, node.value)


@checks(tree.Text)
def _text(node: tree.Text, scope: Scope) -> checked_tree.Typed:
    if all(isinstance(piece, str) for piece in node.pieces):
        return checked_tree.Constant(TEXT, node.span, "".join(map(str, node.pieces)))
    pieces: list[str | checked_tree.Typed] = []
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
    return checked_tree.JoinedText(TEXT, node.span, tuple(pieces))


@checks(tree.Name)
def _name(node: tree.Name, scope: Scope) -> checked_tree.Typed:
    name = node.name
    if name in scope.locals:
        return checked_tree.LocalName(scope.locals[name], node.span, name)
    kind = scope.lines(name)
    if kind is not None:
        return checked_tree.Line(kind, node.span, name)
    word = WORDS.get(name)
    if word is not None and word.constant:
        return checked_tree.Constant(
            word.signatures[0].result.build({}), node.span, word.function()
        )
    if word is not None:
        raise Failure(f"`{name}` is a word that takes arguments", f"write {word.usage}")
    raise unknown_name(name, scope, [one for one in WORDS if WORDS[one].constant])


@checks(tree.Unary)
def _unary(node: tree.Unary, scope: Scope) -> checked_tree.Typed:
    operand = check(node.operand, scope)
    item = operand.kind.item if isinstance(operand.kind, ListOf) else operand.kind
    if not isinstance(item, Quantity | PointKind):
        raise Failure(f"minus {operand.kind.said} makes no sense")
    if item is not operand.kind:
        rule = "each negate of left"
        return checked_tree.Operation(operand.kind, node.span, rule, (operand,), node.span, "")
    return checked_tree.Operation(operand.kind, node.span, "negate", (operand,), node.span, "")


@checks(tree.Binary)
def _binary(node: tree.Binary, scope: Scope) -> checked_tree.Typed:
    left, right = check(node.left, scope), check(node.right, scope)

    def said() -> Said:
        return scope.written(node.left), scope.written(node.right)

    try:
        if node.operator == "^":
            plain = is_number(left.kind) or left.kind == ListOf(item=NUMBER_KIND)
            exact = None if plain else _exact(right)
            rule, kind = each_of(left.kind, right.kind, lambda a, b: power_kind(a, b, exact))
        else:
            rule, kind = operator_kind(node.operator, left.kind, right.kind, said)
    except Failure as failure:
        raise failure.at(node.operator_span) from None
    doubtful = scope.written(node.left if node.operator == "^" else node.right)
    return checked_tree.Operation(
        kind, node.span, rule, (left, right), node.operator_span, doubtful
    )


def _exact(node: checked_tree.Typed) -> Fraction | None:
    """The value of an exponent that is written out: 2, -1, 1/2, 0.25. Raises Failure where it is a
    decimal that only comes near a fraction."""
    match node:
        case checked_tree.Constant(value=float() as value):
            return exact_decimal(value)
        case checked_tree.Operation(rule=rule, operands=operands) if rule in _EXACTLY:
            figures = [_exact(one) for one in operands]
            if None in figures or (rule == "divide" and figures[1] == 0):
                return None
            return Fraction(_EXACTLY[rule](*figures))
    return None


_EXACTLY: dict[str, Callable[..., Fraction]] = {
    "divide": lambda a, b: a / b, "multiply": lambda a, b: a * b, "negate": lambda a: -a,
    "add": lambda a, b: a + b, "subtract": lambda a, b: a - b,
}  # fmt: skip


@checks(tree.Comparison)
def _comparison(node: tree.Comparison, scope: Scope) -> checked_tree.Typed:
    operands = [check(operand, scope) for operand in node.operands]
    for index, operator in enumerate(node.operators):
        left, right = operands[index], operands[index + 1]
        said = [scope.written(operand) for operand in node.operands[index : index + 2]]
        if same_kind(left.kind, right.kind) is None:
            hint = unit_hint(node.operands[index + 1], scope, right.kind, left.kind) or unit_hint(
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
    return checked_tree.Compared(YES_NO, node.span, tuple(operands), node.operators, within)


def _comparable(kind: Kind, operator: str) -> bool:
    if isinstance(kind, Quantity):
        return True
    if operator not in ("==", "!="):
        return False
    if isinstance(kind, ListOf):
        return kind.item is None or _comparable(kind.item, operator)
    return isinstance(kind, PointKind) or kind in (TEXT, YES_NO)


@checks(tree.Logical)
def _logical(node: tree.Logical, scope: Scope) -> checked_tree.Typed:
    operands = tuple(
        check_as(operand, scope, YES_NO, f"each side of `{node.operator}`")
        for operand in node.operands
    )
    return checked_tree.Both(YES_NO, node.span, node.operator, operands)


@checks(tree.Not)
def _not(node: tree.Not, scope: Scope) -> checked_tree.Typed:
    operand = check_as(node.operand, scope, YES_NO, "what follows `not`")
    return checked_tree.Opposite(YES_NO, node.span, operand)


@checks(tree.Choice)
def _choice(node: tree.Choice, scope: Scope) -> checked_tree.Typed:
    condition = check_as(node.condition, scope, YES_NO, "what follows `if`")
    chosen, other = check(node.chosen, scope), check(node.other, scope)
    kind = same_kind(chosen.kind, other.kind)
    if kind is None:
        hint = unit_hint(node.other, scope, other.kind, chosen.kind) or unit_hint(
            node.chosen, scope, chosen.kind, other.kind
        )
        raise Failure(
            f"`then` gives {chosen.kind.said}, but `else` gives {other.kind.said}",
            hint or "both must be of one kind",
            node.other.span,
        )
    return checked_tree.Chosen(kind, node.span, condition, chosen, other)


@checks(tree.Range)
def _range(node: tree.Range, scope: Scope) -> checked_tree.Typed:
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
    return checked_tree.Steps(ListOf(item=start.kind), node.span, start, end, step)


@checks(tree.ListOfItems)
def _list(node: tree.ListOfItems, scope: Scope) -> checked_tree.Typed:
    items = tuple(check(item, scope) for item in node.items)
    kind: Kind | None = None
    for item, written in zip(items, node.items, strict=True):
        together = item.kind if kind is None else same_kind(kind, item.kind)
        if together is None:
            assert kind is not None
            raise Failure(
                f"a list holds one kind: it begins with {kind.said}, and "
                f"`{scope.written(written)}` is {item.kind.said}",
                unit_hint(written, scope, item.kind, kind)
                or unit_hint(node.items[0], scope, kind, item.kind)
                or "for values side by side use zip, or a list for each kind",
                written.span,
            )
        kind = together
    return checked_tree.Items(ListOf(item=kind), node.span, items)


@checks(tree.Comprehension)
def _comprehension(node: tree.Comprehension, scope: Scope) -> checked_tree.Typed:
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
        loops.append(checked_tree.Loop(source.kind, each.span, each.name, source, condition))
    body = check(node.body, scope)
    return checked_tree.ForEach(ListOf(item=body.kind), node.span, tuple(loops), body)


@checks(tree.Point)
def _point(node: tree.Point, scope: Scope) -> checked_tree.Typed:
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
    return checked_tree.PointOf(kind, node.span, (first, *rest))


@checks(tree.Member)
def _member(node: tree.Member, scope: Scope) -> checked_tree.Typed:
    owner = check(node.owner, scope)
    match owner.kind:
        case PointKind() if node.name in _AXES:
            kind: Kind | None = Quantity(dimension=owner.kind.dimension)
            return checked_tree.Coordinate(kind or NUMBER_KIND, node.span, owner, _AXES[node.name])
        case StudyYield(failing=failing) if node.name in dict(failing):
            raise Failure(f"in “{owner.kind.title}”: {dict(failing)[node.name]}", "mend it there")
        case Record() | StudyYield():
            kind, known = owner.kind.field_kind(node.name), [name for name, _ in owner.kind.fields]
        case TableKind():
            column = owner.kind.column_kind(node.name)
            kind = None if column is None else ListOf(item=column)
            known = [name for name, _ in owner.kind.columns]
        case _:
            kind, known = None, ["x", "y", "z"] if isinstance(owner.kind, PointKind) else []
    if kind is not None:
        return checked_tree.Field(kind, node.span, owner, node.name)
    near = nearest_name(node.name, known)
    hint = f"did you mean .{near}?" if near else ", ".join(f".{name}" for name in known)
    if node.name in WORDS and not known:
        hint = f"a word is called with brackets: .{node.name}()"
    raise Failure(f"{owner.kind.said} has no `.{node.name}`", hint)


@checks(tree.Index)
def _index(node: tree.Index, scope: Scope) -> checked_tree.Typed:
    owner = check(node.owner, scope)
    index = check(node.index, scope)
    written = scope.written(node.owner)
    if index.kind in (ListOf(item=NUMBER_KIND), ListOf()) and isinstance(owner.kind, ListOf):
        _remark_backward_range(node.index, written, scope)
        kind = ListOf(item=owner.kind.item)
        return checked_tree.ItemsAt(kind, node.span, owner, index, written)
    if not is_number(index.kind):
        raise Failure(
            f"an index must be a number, or a list of them; `{scope.written(node.index)}` is "
            f"{index.kind.said}",
            "",
            node.index.span,
        )
    if isinstance(owner.kind, Together):
        figure = index.value if isinstance(index, checked_tree.Constant) else -1.0
        if figure not in range(len(owner.kind.items)):
            raise Failure(
                f"`{written}` holds {len(owner.kind.items)} values of different kinds",
                f"its index must be written as a figure from 0 to {len(owner.kind.items) - 1}",
            )
        return checked_tree.ItemAt(owner.kind.items[int(figure)], node.span, owner, index, written)
    if isinstance(owner.kind, TableKind):
        row = Record(fields=owner.kind.columns)
        return checked_tree.ItemAt(row, node.span, owner, index, written)
    if not isinstance(owner.kind, ListOf):
        raise Failure(f"only a list has items; `{written}` is {owner.kind.said}")
    return checked_tree.ItemAt(owner.kind.item or NUMBER_KIND, node.span, owner, index, written)


def _remark_backward_range(index: tree.Node, written: str, scope: Scope) -> None:
    """A quiet hint at `xs[1 .. -1]`, which is empty as every range that goes down."""
    match index:
        case tree.Range(start=tree.Number(value=start), end=tree.Number(value=end), step=None):
            if start >= 0 > end:
                last = f"len({written}) - {-end:g}"
                message = f"{start:g} .. {end:g} is empty; up to that item: {start:g} .. {last}"
                scope.remarks.append((message, index.span))


@checks(tree.Lambda)
def _lambda(node: tree.Lambda, scope: Scope) -> checked_tree.Typed:
    definition = Definition(
        node.body, node.parameters, scope, checked_tree.Source(), "this function"
    )
    return checked_tree.FunctionValue(function_kind(definition), node.span)


@checks(tree.Block)
def _block(node: tree.Block, scope: Scope) -> checked_tree.Typed:
    lines: list[tuple[str, checked_tree.Typed]] = []
    for local in node.locals:
        if any(local.name == name for name, _ in lines):
            raise Failure(f"`{local.name}` is already a local line of this block", "", local.span)
        if local.parameters is not None:
            definition = Definition(
                local.value, local.parameters, scope, checked_tree.Source(), local.name
            )
            value: checked_tree.Typed = checked_tree.FunctionValue(
                function_kind(definition), local.span
            )
        else:
            value = check(local.value, scope)
        lines.append((local.name, value))
        scope = scope.within({local.name: value.kind})
    result = check(node.value, scope)
    return checked_tree.Locals(result.kind, node.span, tuple(lines), result)
