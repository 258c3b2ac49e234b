"""Closures of expressions, one rule for each kind of node."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Any

import numpy as np

from ovolo.meaning import checked_tree
from ovolo.problems import Failure, OneByOne, Span
from ovolo.quantities.dimension import NUMBER, usual_size
from ovolo.quantities.kinds import (
    YES_NO,
    Kind,
    ListOf,
    PointKind,
    Quantity,
    StudyYield,
    innermost,
    is_number,
)
from ovolo.quantities.show import DisplayUnits
from ovolo.quantities.table import Table
from ovolo.running.code import (
    MOST_CHARACTERS,
    Closure,
    Code,
    Frame,
    Together,
    alone,
    array_of,
    as_whole,
    compiled_node,
    compiles,
    count_of,
    is_worth_keeping,
    only,
    shown_text,
    width_of,
    with_gaps,
)
from ovolo.running.operators import RULES, compare, compare_points, equal
from ovolo.running.values import (
    Gap,
    LimitReached,
    as_list,
    check_count,
    refuse_gaps,
)
from ovolo.words.measures_taken import Inexact, InexactPlace
from ovolo.words.rounding import snapped


@compiles(checked_tree.Constant)
def _constant(node: checked_tree.Constant, together: Together) -> Code:
    value = node.value
    return Code(lambda frame: value)


@compiles(checked_tree.Line)
def _line(node: checked_tree.Line, together: Together) -> Code:
    name = node.name
    return Code(lambda frame: frame[None].values[name])


@compiles(checked_tree.LocalName)
def _local(node: checked_tree.LocalName, together: Together) -> Code:
    name = node.name
    return Code(lambda frame: frame[name], name in together)


@compiles(checked_tree.JoinedText)
def _joined_text(node: checked_tree.JoinedText, together: Together) -> Code:
    pieces = [
        (piece, None) if isinstance(piece, str) else (alone(piece, together), piece.kind)
        for piece in node.pieces
    ]

    def run(frame: Frame) -> str:
        said = "".join(
            piece if isinstance(piece, str) else shown_text(piece(frame), kind, frame[None].units)
            for piece, kind in pieces
        )
        if len(said) > MOST_CHARACTERS:
            raise LimitReached(f"this text has more than {MOST_CHARACTERS:,} characters")
        return said

    return Code(run)


@compiles(checked_tree.Operation)
def _operation(node: checked_tree.Operation, together: Together) -> Code:
    codes = [compiled_node(operand, together) for operand in node.operands]
    many = any(code.many for code in codes)
    rule = RULES[node.rule]
    if many and rule.many is None:
        raise OneByOne
    function = rule.many if many and rule.many is not None else rule.single
    span = node.operator_span
    if len(codes) == 1:
        inner = codes[0].run
        return Code(lambda frame: function(inner(frame)), many)
    left, right = codes[0].run, codes[1].run
    if many:
        return Code(lambda frame: function(left(frame), right(frame)), True)
    said, shape = node.said, rule.many is None
    site = object() if is_worth_keeping(node.kind, many) else None

    def run(frame: Frame) -> Any:
        a, b = left(frame), right(frame)
        if site is not None:
            before = frame[None].made_before(site, (a, b))
            if before is not None:
                return before
        try:
            made = function(a, b)
            if site is not None:
                frame[None].made[site] = (a, b), made
            return made
        except ZeroDivisionError:
            what = (
                f"0 has no power below 0: `{said}` is 0"
                if node.rule == "power"
                else f"division by zero: `{said}` is 0"
            )
            guard = f"guard it, for example `if {said} == {_nothing(node)} then … else …`"
            hint = (
                ""
                if isinstance(node.operands[1], checked_tree.Constant) and node.rule != "power"
                else guard
            )
            raise Failure(what, hint, span) from None
        except (OverflowError, FloatingPointError):
            raise Failure(
                "the result is too large for a number", "numbers go up to about 1.8e308", span
            ) from None
        except Failure as failure:
            raise failure.at(node.span if shape else span) from None

    return Code(run)


def _nothing(node: checked_tree.Operation) -> str:
    """0 of the kind of what must not be 0: `0 mm` of a length."""
    kind = node.operands[0 if node.rule == "power" else 1].kind
    if not isinstance(kind, Quantity) or kind.dimension == NUMBER:
        return "0"
    unit = DisplayUnits().unit_for(kind.dimension)
    symbol = "°" if unit.symbol == "deg" else unit.symbol
    return f"0{'' if symbol == '°' else ' '}{symbol}"


@compiles(checked_tree.Compared)
def _compared(node: checked_tree.Compared, together: Together) -> Code:
    codes = [compiled_node(operand, together) for operand in node.operands]
    within = None if node.within is None else compiled_node(node.within, together)
    many = any(code.many for code in codes) or (within is not None and within.many)
    kinds = [operand.kind for operand in node.operands]
    links = [_link(kinds[at], operator, many) for at, operator in enumerate(node.operators)]
    runs = [code.run for code in codes]

    def run(frame: Frame) -> Any:
        tolerance = None if within is None else within.run(frame)
        if tolerance is not None and np.any(np.less(tolerance, 0)):
            raise Failure("the tolerance after `within` is negative", "", node.span)
        left = runs[0](frame)
        holds: Any = True
        for link, right_run in zip(links, runs[1:], strict=True):
            right = right_run(frame)
            holds = holds & link(left, right, tolerance) if many else link(left, right, tolerance)
            if not many and not holds:
                return False
            left = right
        return holds if many else bool(holds)

    return Code(run, many)


def _link(kind: Kind, operator: str, many: bool) -> Callable[..., Any]:
    size = _usual_size(kind)
    if isinstance(kind, Quantity):
        return partial(compare, operator, size=size)
    if isinstance(kind, PointKind):
        return partial(compare_points, operator, size=size)
    if many and kind != YES_NO:
        raise OneByOne
    if many:
        return lambda a, b, within: (a == b) if operator == "==" else (a != b)
    return lambda a, b, within: equal(a, b, within, size) == (operator == "==")


def _usual_size(kind: Kind | None) -> float:
    """That of the figures in values of a kind."""
    kind = innermost(kind)
    return usual_size(kind.dimension) if isinstance(kind, Quantity | PointKind) else 1.0


@compiles(checked_tree.Both)
def _both(node: checked_tree.Both, together: Together) -> Code:
    codes = [compiled_node(operand, together) for operand in node.operands]
    conjunction = node.operator == "and"
    if any(code.many for code in codes):
        return Code(partial(_both_together, codes, conjunction, together), True)
    runs = [code.run for code in codes]
    if conjunction:
        return Code(lambda frame: all(run(frame) for run in runs))
    return Code(lambda frame: any(run(frame) for run in runs))


def _both_together(codes: list[Code], conjunction: bool, together: Together, frame: Frame) -> Any:
    """Later operands are run only for the items they can still decide."""
    result = np.full(count_of(frame, together), conjunction)
    for code in codes:
        open_ = np.flatnonzero(result == conjunction)
        if not len(open_):
            break
        result[open_] = code.run(only(frame, together, open_) if code.many else frame)
    return result


@compiles(checked_tree.Opposite)
def _opposite(node: checked_tree.Opposite, together: Together) -> Code:
    code = compiled_node(node.operand, together)
    inner = code.run
    if code.many:
        return Code(lambda frame: np.logical_not(inner(frame)), True)
    return Code(lambda frame: not inner(frame))


@compiles(checked_tree.Chosen)
def _chosen(node: checked_tree.Chosen, together: Together) -> Code:
    condition = compiled_node(node.condition, together)
    chosen, other = compiled_node(node.chosen, together), compiled_node(node.other, together)
    test, yes, no = condition.run, chosen.run, other.run
    if not condition.many:
        if chosen.many != other.many:
            raise OneByOne
        return Code(lambda frame: yes(frame) if test(frame) else no(frame), chosen.many)
    width = width_of(node.kind)

    def run(frame: Frame) -> Any:
        holds = test(frame)
        result = np.empty((len(holds), *width[0]), dtype=width[1])
        for code, where in ((chosen, np.flatnonzero(holds)), (other, np.flatnonzero(~holds))):
            if len(where):
                result[where] = code.run(only(frame, together, where) if code.many else frame)
        return result

    return Code(run, True)


@compiles(checked_tree.Steps)
def _steps(node: checked_tree.Steps, together: Together) -> Code:
    start, end = alone(node.start, together), alone(node.end, together)
    step = None if node.step is None else alone(node.step, together)
    whole = is_number(node.start.kind)

    def run(frame: Frame) -> Any:
        first, last = start(frame), end(frame)
        stride = 1.0 if step is None else step(frame)
        if stride == 0:
            raise Failure("the step of this range is 0", "it would never end", node.span)
        steps_in = float(snapped((last - first) / stride))
        if step is None and not steps_in.is_integer():
            raise Failure(
                f"this range goes in steps of 1 from {first:.12g} and misses its end {last:.12g}",
                "use floor, ceil or round, or give it a step: 0 .. 2.5 by 0.5", node.span,
            )  # fmt: skip
        count = float(np.floor(steps_in)) + 1
        check_count(count)
        if count <= 0:
            return np.empty(0)
        steps = np.arange(int(count), dtype=float)
        if step is None and float(first).is_integer():
            return steps + first if first else steps
        values = first + steps * stride
        return snapped(values) if whole else values

    return Code(run)


@compiles(checked_tree.Items)
def _items(node: checked_tree.Items, together: Together) -> Code:
    runs = [alone(item, together) for item in node.items]
    assert isinstance(node.kind, ListOf)
    kind = node.kind.item

    def run(frame: Frame) -> Any:
        return as_list(with_gaps([item(frame) for item in runs], frame[None]), kind)

    return Code(run)


@compiles(checked_tree.PointOf)
def _point_of(node: checked_tree.PointOf, together: Together) -> Code:
    codes = [compiled_node(coordinate, together) for coordinate in node.coordinates]
    runs = [code.run for code in codes]
    if any(code.many for code in codes):

        def run_many(frame: Frame) -> Any:
            found = [run(frame) for run in runs]
            padded = found if len(found) == 3 else [*found, 0.0]
            return np.stack(np.broadcast_arrays(*padded), axis=-1)

        return Code(run_many, True)
    if len(runs) == 2:
        x, y = runs
        return Code(lambda frame: np.array([x(frame), y(frame), 0.0]))
    return Code(lambda frame: np.array([run(frame) for run in runs]))


@compiles(checked_tree.Locals)
def _locals(node: checked_tree.Locals, together: Together) -> Code:
    lines: list[tuple[str, Closure]] = []
    for name, value in node.lines:
        code = compiled_node(value, together)
        lines.append((name, code.run))
        together = together | {name} if code.many else together - {name}
    result = compiled_node(node.value, together)

    def run(frame: Frame) -> Any:
        inner = dict(frame)
        for name, line in lines:
            inner[name] = line(inner)
        return result.run(inner)

    return Code(run, result.many)


@compiles(checked_tree.Coordinate)
def _coordinate(node: checked_tree.Coordinate, together: Together) -> Code:
    owner, axis = compiled_node(node.owner, together), node.axis
    inner = owner.run
    if owner.many:
        return Code(lambda frame: inner(frame)[:, axis], True)
    return Code(lambda frame: float(inner(frame)[axis]))


@compiles(checked_tree.Field)
def _field(node: checked_tree.Field, together: Together) -> Code:
    owner, name = alone(node.owner, together), node.name
    if isinstance(node.owner.kind, StudyYield):
        return Code(lambda frame: owner(frame).field(name))

    def read(frame: Frame) -> Any:
        found = owner(frame)[name]
        return found.taken() if isinstance(found, Inexact | InexactPlace) else found

    return Code(read)


@compiles(checked_tree.ItemAt)
def _item_at(node: checked_tree.ItemAt, together: Together) -> Code:
    owner = alone(node.owner, together)
    index = compiled_node(node.index, together)
    said, span = node.said, node.span
    where = index.run

    def run(frame: Frame) -> Any:
        items = owner(frame)
        at = as_whole(where(frame), f"an index of {said}", node.index.span)
        if np.any((at >= len(items)) | (at < -len(items))):
            raise _out_of_range(said, len(items), at, span)
        if index.many:
            return array_of(items)[at]
        item = items.row(at) if isinstance(items, Table) else items[at]
        if type(item) is Gap:
            raise Failure(
                f"item {item.index} of `{said}` could not be made: {item.message}", item.hint, span
            )
        return float(item) if isinstance(item, np.floating) else item

    if index.many:
        width_of(node.kind)
    return Code(run, index.many)


@compiles(checked_tree.ItemsAt)
def _items_at(node: checked_tree.ItemsAt, together: Together) -> Code:
    owner, indexes = alone(node.owner, together), alone(node.indexes, together)
    said, span, name = node.said, node.span, f"an index of {node.said}"

    def run(frame: Frame) -> Any:
        items, at = owner(frame), indexes(frame)
        refuse_gaps(at, "the list of indexes")
        at = as_whole(np.asarray(at, dtype=float), name, node.indexes.span)
        if np.any((at >= len(items)) | (at < -len(items))):
            raise _out_of_range(said, len(items), at, span)
        if isinstance(items, list):
            return [items[int(one)] for one in at]
        return items[np.asarray(at, dtype=int)]

    return Code(run)


def _out_of_range(said: str, count: int, at: Any, span: Span) -> Failure:
    if not count:
        return Failure(f"`{said}` is empty: it has no item {int(np.ravel(at)[0])}", "", span)
    outside = [int(i) for i in np.ravel(at) if not -count <= i < count]
    return Failure(
        f"`{said}` has {count} items; there is no item {outside[0]}",
        f"items are counted from 0 to {count - 1}, or from the end: -1 is the last",
        span,
    )
