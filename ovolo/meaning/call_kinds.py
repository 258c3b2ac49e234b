"""The kinds of calls: functions of the sheet, function values, and words."""

from __future__ import annotations

import contextlib
from collections.abc import Sequence

from ovolo.meaning import checked_tree
from ovolo.meaning.checking import check, checks, unit_hint
from ovolo.meaning.other_names import other_argument
from ovolo.meaning.scope import Scope, SheetFunction, unknown_name
from ovolo.meaning.study_kinds import StudyFunction, study_call
from ovolo.problems import Failure, nearest_name
from ovolo.quantities.kinds import (
    NUMBER_KIND,
    Kind,
    ListOf,
    TableKind,
    is_number,
)
from ovolo.sheet import tree
from ovolo.words.all import WORDS
from ovolo.words.registry import Word
from ovolo.words.signature import Bindings, ColumnName, FunctionPattern, Signature

_DEEPEST = 60
"""How deeply functions may be used within functions."""


@checks(tree.Call)
def _call(node: tree.Call, scope: Scope) -> checked_tree.Typed:
    name = node.function
    local = scope.locals.get(name)
    kind = local if local is not None else scope.lines(name)
    if isinstance(kind, SheetFunction):
        place = checked_tree.LocalName if local is not None else checked_tree.Line
        return _sheet_call(node, place(kind, node.name_span, name), kind, scope)
    if isinstance(kind, StudyFunction):
        return study_call(node, checked_tree.Line(kind, node.name_span, name), kind, scope)
    word = WORDS.get(name)
    if word is not None and not word.constant:
        return _word_call(node, word, scope)
    if kind is not None or word is not None:
        said = kind.said if kind is not None else "a constant"
        raise Failure(f"`{name}` is {said}, not a function", _no_call(node, kind), node.name_span)
    words = [word for word in WORDS if not WORDS[word].constant]
    failure = unknown_name(name, scope, words)
    if failure.hint.startswith("write a line"):
        failure.hint = f"write a function `{name}(…) = …`"
    raise failure.at(node.name_span)


def _no_call(node: tree.Call, kind: Kind | None) -> str:
    """What was meant by brackets behind something that is no function."""
    if not node.arguments:
        return f"write `{node.function}` without brackets"
    if isinstance(kind, ListOf) and len(node.arguments) == 1:
        return f"an item of it is `{node.function}[…]`"
    return "to multiply write *"


def _sheet_call(
    node: tree.Call, function: checked_tree.Typed, kind: SheetFunction, scope: Scope
) -> checked_tree.Typed:
    arguments = _placed_arguments(node, kind, scope)
    body = _body_for(kind, tuple(argument.kind for argument in arguments), scope)
    return checked_tree.FunctionCall(
        body.kind, node.span, function, node.function, kind.parameters, arguments, body,
        kind.definition.source,
    )  # fmt: skip


def _placed_arguments(
    node: tree.Call, kind: SheetFunction, scope: Scope
) -> tuple[checked_tree.Typed, ...]:
    """The arguments of a call in the order of the parameters, defaults filled in."""
    places: dict[str, checked_tree.Typed] = {}
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


def _body_for(kind: SheetFunction, kinds: tuple[Kind, ...], scope: Scope) -> checked_tree.Typed:
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
            failure.through = (definition.source.name, *failure.through)
            failure.span = None
        raise
    scope.uses[key] = body
    return body


def _word_call(node: tree.Call, word: Word, scope: Scope) -> checked_tree.Typed:
    if word.takes_key:
        node = _with_key_column(node, word)
    positions = _positions(node, word)
    checked = [check(argument.value, scope) for argument in node.arguments]
    misfits: list[_Misfit] = []
    candidates = [s for s in word.signatures if s.takes([_fills(s, p, word) for p in positions])]
    if not candidates:
        raise _wrong_count(node, word, positions)
    for signature in candidates:
        try:
            return _fitted(node, word, signature, positions, checked, scope)
        except _Misfit as misfit:
            misfits.append(misfit)
    # Of several signatures, that counts which went furthest before it did not fit.
    raise max(misfits, key=lambda one: one.place).failure


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

    def __init__(self, failure: Failure, place: int) -> None:
        self.failure = failure
        self.place = place


def _fills(signature: Signature, position: int | str, word: Word) -> int:
    """The place in a signature that an argument takes; beyond all places where it has none."""
    if isinstance(position, int):
        return position
    names = [
        accepts.fills or word.parameters[at].name for at, accepts in enumerate(signature.arguments)
    ]
    return names.index(position) if position in names else len(names) + 99


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
            near = nearest_name(argument.name, known) if len(argument.name) > 1 else None
            hint = f"did you mean `{near}`?" if near else f"write {word.usage}"
            hint = other_argument(argument.name, known) or hint
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
    checked: list[checked_tree.Typed],
    scope: Scope,
) -> checked_tree.Typed:
    """The call by one signature; raises _Misfit where an argument does not fit."""
    bound: Bindings = {}
    places = [_fills(signature, position, word) for position in positions]
    functions = []
    for place, argument, value in zip(places, node.arguments, checked, strict=True):
        pattern = signature.accepts(place).pattern
        fits = pattern.match(value.kind, bound)
        if fits:
            written = value.value if isinstance(value, checked_tree.Constant) else ""
            fits = pattern.match_literal(str(written), bound)
        if not fits:
            failure = _mismatch(word, signature, place, argument, value, bound, scope)
            raise _Misfit(failure, place)
        if isinstance(pattern, FunctionPattern):
            functions.append((place, argument, value, pattern))
    applied: dict[int, checked_tree.Typed] = {}
    for place, argument, value, pattern in functions:
        applied[place] = _applied(word, argument, value, pattern, bound, scope)
    positional: dict[int, checked_tree.Typed] = {}
    named: list[tuple[str, checked_tree.Typed]] = []
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
    if word.seeded and all(name != "seed" for name, _ in named):
        named.append(("seed", _seed(node, scope)))
    leading: list[checked_tree.Typed] = []
    while len(leading) in positional:  # up to the first that is left out
        leading.append(positional.pop(len(leading)))
    for at, value in positional.items():
        named.append((_python_name(word, at), value))
    whole = [
        at if isinstance(at, str) or at < len(leading) else _python_name(word, at) for at in whole
    ]
    _remark_bare_angle(node, word, checked, scope)
    _remark_decimals(node, word, scope)
    result = signature.result.build(bound)
    return checked_tree.WordCall(
        result, node.span, word, tuple(leading), tuple(named), tuple(whole)
    )


def _seed(node: tree.Call, scope: Scope) -> checked_tree.Typed:
    """The study's `seed`, or 0 where it has none."""
    kind = scope.lines("seed")
    if kind is None:
        return checked_tree.Constant(NUMBER_KIND, node.span, 0.0)
    if not is_number(kind):
        raise Failure(f"the `seed` of this study is {kind.said}", "it must be a plain number")
    return checked_tree.Line(kind, node.span, "seed")


def _python_name(word: Word, position: int) -> str:
    return word.parameters[position].name


def _mismatch(
    word: Word,
    signature: Signature,
    place: int,
    argument: tree.Argument,
    value: checked_tree.Typed,
    bound: Bindings,
    scope: Scope,
) -> Failure:
    accepts = signature.accepts(place)
    if isinstance(accepts.pattern, ColumnName) and isinstance(value, checked_tree.Constant):
        missing = _missing_column(str(value.value), bound, argument)
        if missing is not None:
            return missing
    name = accepts.fills or word.parameters[min(place, len(word.parameters) - 1)].name
    wanted = accepts.pattern.said(bound)
    written = scope.written(argument.value)
    hint = word.hint
    with contextlib.suppress(NotImplementedError, KeyError):  # some patterns name no one kind
        hint = unit_hint(argument.value, scope, value.kind, accepts.pattern.build(bound)) or hint
    return Failure(
        f"`{word.name}` wants {wanted} for `{name}`, and `{written}` is {value.kind.said}",
        hint or f"write {word.usage}",
        argument.span,
    )


def _missing_column(written: str, bound: Bindings, argument: tree.Argument) -> Failure | None:
    """That a table has no such column; None where it has."""
    table = bound.get("table")
    if not isinstance(table, TableKind) or table.column_kind(written) is not None:
        return None
    names = [name for name, _ in table.columns]
    near = nearest_name(written, names)
    hint = f"did you mean `{near}`?" if near else f"columns: {', '.join(names)}"
    return Failure(f"the table has no column `{written}`", hint, argument.span)


def _applied(
    word: Word,
    argument: tree.Argument,
    value: checked_tree.Typed,
    pattern: FunctionPattern,
    bound: Bindings,
    scope: Scope,
) -> checked_tree.Typed:
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
    return checked_tree.Applied(
        kind, argument.span, value, kind.parameters[:count], body, kind.definition.source
    )


def _first_parameters(kind: SheetFunction, count: int) -> SheetFunction:
    if count == len(kind.parameters):
        return kind
    raise Failure("a function handed on must use all its arguments", "write t -> f(t)")


def _remark_decimals(node: tree.Call, word: Word, scope: Scope) -> None:
    """A quiet hint where `round(x, 2)` may be meant to leave two decimals."""
    if word.name not in ("round", "floor", "ceil") or len(node.arguments) != 2:
        return
    multiple = node.arguments[1].value
    if isinstance(multiple, tree.Number) and multiple.bare and multiple.value in range(1, 7):
        places = int(multiple.value)
        said = f"this goes to multiples of {places}; to {places} decimals: "
        said += f"`{word.name}(…, {10.0**-places:.{places}f})`"
        scope.remarks.append((said, multiple.span))


def _remark_bare_angle(
    node: tree.Call, word: Word, checked: list[checked_tree.Typed], scope: Scope
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
