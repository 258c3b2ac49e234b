"""Checked trees become closures.

Each closure takes a frame (local names to values; under None the run at hand) and gives a
value. Where a local name stands for n values at once (the loop variable of a comprehension),
everything computed from it is made for all n together; what cannot be done so raises
OneByOne, and the comprehension makes its items one by one with the same closures' single
form. Errors of single items never differ between the two: where anything fails together, the
items are made one by one.
"""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import partial
from typing import Any

import numpy as np

from ovolo.geometry.solid import Copies, Solid
from ovolo.meaning import typed
from ovolo.problems import Failure, OneByOne, Span
from ovolo.quantities.kinds import (
    SOLID,
    YES_NO,
    Kind,
    ListOf,
    PointKind,
    Quantity,
    is_number,
)
from ovolo.quantities.show import DisplayUnits, show_quantity
from ovolo.quantities.table import Table
from ovolo.running.operators import RULES, compare, compare_points, equal
from ovolo.running.values import (
    MOST_ITEMS,
    Gap,
    LimitReached,
    as_list,
    check_count,
    gaps_in,
    refuse_gaps,
)
from ovolo.words.rounding import snapped

Frame = dict[Any, Any]
Closure = Callable[[Frame], Any]
Together = frozenset[str]
"""The local names that stand for n values at once."""

MOST_CHARACTERS = 10_000
ALONE: Together = frozenset()


@dataclass(slots=True)
class Run:
    """One evaluation: the values of lines so far, limits, and what is noticed on the way."""

    values: dict[str, Any]
    units: DisplayUnits
    deadline: float
    gaps: list[Gap]
    left_out: int = 0

    def check_time(self) -> None:
        if time.monotonic() > self.deadline:
            raise LimitReached(
                "this line takes too long and was stopped", "make it shorter or coarser"
            )


@dataclass(frozen=True, slots=True)
class Code:
    run: Closure
    many: bool = False
    """Whether it gives n values at once."""


def compiled(node: typed.Typed) -> Closure:
    """The closure of an expression outside any comprehension."""
    return _compile(node, ALONE).run


def _compile(node: typed.Typed, together: Together) -> Code:
    return _RULES[type(node)](node, together)


def _constant(node: typed.Constant, together: Together) -> Code:
    value = node.value
    return Code(lambda frame: value)


def _line(node: typed.Line, together: Together) -> Code:
    name = node.name
    return Code(lambda frame: frame[None].values[name])


def _local(node: typed.LocalName, together: Together) -> Code:
    name = node.name
    return Code(lambda frame: frame[name], name in together)


def _joined_text(node: typed.JoinedText, together: Together) -> Code:
    pieces = [
        (piece, None) if isinstance(piece, str) else (_alone(piece, together), piece.kind)
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


def shown_text(value: Any, kind: Kind | None, units: DisplayUnits) -> str:
    """A number, quantity, point, text or yes/no as a person reads it."""
    if kind == YES_NO:
        return "yes" if value else "no"
    if isinstance(kind, Quantity):
        return str(show_quantity(float(value), kind.dimension, units))
    if isinstance(kind, PointKind):
        coordinates = value[:2] if kind.flat else value
        return "({})".format(
            ", ".join(str(show_quantity(float(c), kind.dimension, units)) for c in coordinates)
        )
    return str(value)


def _alone(node: typed.Typed, together: Together) -> Closure:
    """A closure that must not depend on n values at once."""
    code = _compile(node, together)
    if code.many:
        raise OneByOne
    return code.run


def _operation(node: typed.Operation, together: Together) -> Code:
    codes = [_compile(operand, together) for operand in node.operands]
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

    def run(frame: Frame) -> Any:
        a, b = left(frame), right(frame)
        try:
            return function(a, b)
        except ZeroDivisionError:
            raise Failure(
                f"division by zero: `{said}` is 0",
                f"guard it, for example `if {said} == 0 then … else …`", span,
            ) from None  # fmt: skip
        except (OverflowError, FloatingPointError):
            raise Failure(
                "the result is too large for a number", "numbers go up to about 1.8e308", span
            ) from None
        except Failure as failure:
            raise failure.at(node.span if shape else span) from None

    return Code(run)


def _compared(node: typed.Compared, together: Together) -> Code:
    codes = [_compile(operand, together) for operand in node.operands]
    within = None if node.within is None else _compile(node.within, together)
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
    if isinstance(kind, Quantity):
        return partial(compare, operator)
    if isinstance(kind, PointKind):
        return partial(compare_points, operator)
    if many and kind != YES_NO:
        raise OneByOne
    if many:
        return lambda a, b, within: (a == b) if operator == "==" else (a != b)
    return lambda a, b, within: equal(a, b, within) == (operator == "==")


def _both(node: typed.Both, together: Together) -> Code:
    codes = [_compile(operand, together) for operand in node.operands]
    conjunction = node.operator == "and"
    if any(code.many for code in codes):
        return Code(partial(_both_together, codes, conjunction, together), True)
    runs = [code.run for code in codes]
    if conjunction:
        return Code(lambda frame: all(run(frame) for run in runs))
    return Code(lambda frame: any(run(frame) for run in runs))


def _both_together(codes: list[Code], conjunction: bool, together: Together, frame: Frame) -> Any:
    """Later operands are run only for the items they can still decide."""
    result = np.full(_count(frame, together), conjunction)
    for code in codes:
        open_ = np.flatnonzero(result == conjunction)
        if not len(open_):
            break
        result[open_] = code.run(_only(frame, together, open_) if code.many else frame)
    return result


def _count(frame: Frame, together: Together) -> int:
    return len(frame[next(iter(together))])


def _only(frame: Frame, together: Together, where: Any) -> Frame:
    """The frame with only some of the n values of each name."""
    some = dict(frame)
    for name in together:
        if name in some:
            some[name] = some[name][where]
    return some


def _opposite(node: typed.Opposite, together: Together) -> Code:
    code = _compile(node.operand, together)
    inner = code.run
    if code.many:
        return Code(lambda frame: np.logical_not(inner(frame)), True)
    return Code(lambda frame: not inner(frame))


def _chosen(node: typed.Chosen, together: Together) -> Code:
    condition = _compile(node.condition, together)
    chosen, other = _compile(node.chosen, together), _compile(node.other, together)
    test, yes, no = condition.run, chosen.run, other.run
    if not condition.many:
        if chosen.many != other.many:
            raise OneByOne
        return Code(lambda frame: yes(frame) if test(frame) else no(frame), chosen.many)
    width = _width(node.kind)

    def run(frame: Frame) -> Any:
        holds = test(frame)
        result = np.empty((len(holds), *width[0]), dtype=width[1])
        for code, where in ((chosen, np.flatnonzero(holds)), (other, np.flatnonzero(~holds))):
            if len(where):
                result[where] = code.run(_only(frame, together, where) if code.many else frame)
        return result

    return Code(run, True)


def _width(kind: Kind) -> tuple[tuple[int, ...], Any]:
    """The shape of one value in an array of them, and its type."""
    if isinstance(kind, Quantity):
        return (), float
    if isinstance(kind, PointKind):
        return (3,), float
    if kind == YES_NO:
        return (), bool
    raise OneByOne


def _steps(node: typed.Steps, together: Together) -> Code:
    start, end = _alone(node.start, together), _alone(node.end, together)
    step = None if node.step is None else _alone(node.step, together)
    whole = is_number(node.start.kind)

    def run(frame: Frame) -> Any:
        first, last = start(frame), end(frame)
        stride = 1.0 if step is None else step(frame)
        if stride == 0:
            raise Failure("the step of this range is 0", "it would never end", node.span)
        count = float(np.floor(snapped((last - first) / stride))) + 1
        check_count(count)
        if count <= 0:
            return np.empty(0)
        steps = np.arange(int(count), dtype=float)
        if step is None and float(first).is_integer():
            return steps + first if first else steps
        values = first + steps * stride
        return snapped(values) if whole else values

    return Code(run)


def _items(node: typed.Items, together: Together) -> Code:
    runs = [_alone(item, together) for item in node.items]
    assert isinstance(node.kind, ListOf)
    kind = node.kind.item

    def run(frame: Frame) -> Any:
        return as_list([item(frame) for item in runs], kind)

    return Code(run)


def _point_of(node: typed.PointOf, together: Together) -> Code:
    codes = [_compile(coordinate, together) for coordinate in node.coordinates]
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


def _for_each(node: typed.ForEach, together: Together) -> Code:
    sources = [_alone(node.loops[0].source, together)]
    if any(_mentions(part, together) for part in _parts_of_loops(node)):
        raise OneByOne
    whole = _whole_comprehension(node, sources[0])
    one_by_one: list[Callable[[Frame], list[Any]]] = []
    assert isinstance(node.kind, ListOf)
    kind = node.kind.item

    def run(frame: Frame) -> Any:
        if whole is not None:
            try:
                return whole(frame)
            except LimitReached:
                raise
            except (Failure, OneByOne, FloatingPointError, OverflowError, ZeroDivisionError):
                pass
        if not one_by_one:  # made when it is first needed, for often it never is
            one_by_one.append(_item_comprehension(node))
        return as_list(one_by_one[0](frame), kind)

    return Code(run)


def _parts_of_loops(node: typed.ForEach) -> Iterator[typed.Typed]:
    for loop in node.loops:
        yield loop.source
        if loop.condition is not None:
            yield loop.condition
    yield node.body


def _mentions(node: typed.Typed, together: Together) -> bool:
    """Whether an expression depends on any of these local names."""
    if not together:
        return False
    try:
        return _compile(node, together).many
    except OneByOne:
        return True


def _whole_comprehension(node: typed.ForEach, source: Closure) -> Closure | None:
    """The comprehension run once over arrays, or None where that cannot be."""
    names: Together = frozenset()
    stages: list[Callable[[Frame], Frame]] = []
    try:
        for at, loop in enumerate(node.loops):
            if _item_width(loop.source.kind) is None:
                return None
            if at == 0:
                stages.append(partial(_first_loop, loop.name, source))
            else:
                stages.append(_next_loop(loop, names))
            names = names | {loop.name}
            if loop.condition is not None:
                stages.append(partial(_filtered, _compile(loop.condition, names), names))
        body = _compile(node.body, names)
        width = None if node.body.kind == SOLID else _width(node.body.kind)
    except OneByOne:
        return None
    first = node.loops[0].name

    def run(frame: Frame) -> Any:
        inner = frame
        for stage in stages:
            inner = stage(inner)
        count = len(inner[first])
        frame[None].check_time()
        if not count:
            return [] if width is None else np.empty((0, *width[0]), dtype=width[1])
        value = body.run(inner)
        return _repeated(value, count) if not body.many else value

    return run


def _item_width(kind: Kind) -> tuple[int, ...] | None:
    assert isinstance(kind, ListOf)
    try:
        return _width(kind.item)[0] if kind.item is not None else None
    except OneByOne:
        return None


def _array(value: Any) -> Any:
    if not isinstance(value, np.ndarray):
        raise OneByOne
    return value


def _first_loop(name: str, source: Closure, frame: Frame) -> Frame:
    return {**frame, name: _array(source(frame))}


def _next_loop(loop: typed.Loop, names: Together) -> Callable[[Frame], Frame]:
    """A further `for`: for each item so far, all items of its own source."""
    if isinstance(loop.source, typed.Steps) and loop.source.step is None:
        start = _compile(loop.source.start, names)
        end = _compile(loop.source.end, names)
        if start.many or end.many:
            return partial(_ragged_loop, loop.name, start, end, names)
    source = _alone(loop.source, names)

    def stage(frame: Frame) -> Frame:
        items = _array(source(frame))
        count = _count(frame, names)
        check_count(count * len(items))
        inner = _only(frame, names, np.repeat(np.arange(count), len(items)))
        inner[loop.name] = np.tile(items, (count, *([1] * (items.ndim - 1))))
        return inner

    return stage


def _ragged_loop(name: str, start: Code, end: Code, names: Together, frame: Frame) -> Frame:
    count = _count(frame, names)
    first = np.broadcast_to(start.run(frame), count)
    last = np.broadcast_to(end.run(frame), count)
    sizes = np.maximum(np.floor(snapped(last - first)) + 1, 0).astype(np.int64)
    total = int(sizes.sum())
    check_count(total)
    which = np.repeat(np.arange(count), sizes)
    within = np.arange(total) - np.repeat(np.cumsum(sizes) - sizes, sizes)
    inner = _only(frame, names, which)
    inner[name] = snapped(first[which] + within)
    return inner


def _filtered(condition: Code, names: Together, frame: Frame) -> Frame:
    if not condition.many:
        keep = slice(None) if condition.run(frame) else slice(0, 0)
        return _only(frame, names, keep)
    return _only(frame, names, np.flatnonzero(condition.run(frame)))


def _repeated(value: Any, count: int) -> Any:
    """One value as a list of it."""
    if isinstance(value, Solid):
        return Copies(value.shape, np.repeat(value.matrix[None], count, axis=0))
    if isinstance(value, float | np.floating):
        return np.full(count, float(value))
    if isinstance(value, bool | np.bool_):
        return np.full(count, bool(value))
    if isinstance(value, np.ndarray) and value.shape == (3,):
        return np.tile(value, (count, 1))
    raise OneByOne


def _item_comprehension(node: typed.ForEach) -> Callable[[Frame], list[Any]]:
    """The comprehension item by item; an item that fails is a gap."""
    loops = [
        (
            loop.name,
            _compile(loop.source, ALONE).run,
            None if loop.condition is None else _compile(loop.condition, ALONE).run,
        )
        for loop in node.loops
    ]
    body = _compile(node.body, ALONE).run

    def frames(frame: Frame, depth: int) -> Iterator[Frame | Gap]:
        if depth == len(loops):
            yield frame
            return
        name, source, condition = loops[depth]
        items = source(frame)
        check_count(len(items))
        for item in items:
            if type(item) is Gap:
                yield item
                continue
            inner = {**frame, name: item}
            try:
                if condition is not None and not condition(inner):
                    continue
                yield from frames(inner, depth + 1)
            except LimitReached:
                raise
            except Failure as failure:
                yield Gap(0, failure.message, failure.hint, failure.span)

    def run(frame: Frame) -> list[Any]:
        results: list[Any] = []
        the_run: Run = frame[None]
        for inner in frames(frame, 0):
            the_run.check_time()
            index = len(results)
            if index >= MOST_ITEMS:
                check_count(index + 1)
            if isinstance(inner, Gap):
                gap = Gap(index, inner.message, inner.hint, inner.span)
            else:
                try:
                    results.append(body(inner))
                    continue
                except LimitReached:
                    raise
                except Failure as failure:
                    gap = Gap(index, failure.message, failure.hint, failure.span)
            results.append(gap)
            the_run.gaps.append(gap)
        return results

    return run


def _word_call(node: typed.WordCall, together: Together) -> Code:
    word, span = node.word, node.span
    arguments = [*((at, value) for at, value in enumerate(node.positional)), *node.named]
    codes = [(at, _compile(value, together), value) for at, value in arguments]
    many = any(code.many for _, code, _ in codes)
    if many:
        mixed = [value.kind for _, code, value in codes if not code.many]
        if not word.elementwise or any(isinstance(kind, ListOf) for kind in mixed):
            raise OneByOne
    prepared = [
        (at, _argument(code, value, word.name, at in node.whole, word.gaps))
        for at, code, value in codes
    ]
    positional = [run for at, run in prepared if isinstance(at, int)]
    named = [(at, run) for at, run in prepared if isinstance(at, str)]
    function = word.function
    item_kind = node.kind.item if isinstance(node.kind, ListOf) else None

    def run(frame: Frame) -> Any:
        values = [argument(frame) for argument in positional]
        others = {name: argument(frame) for name, argument in named}
        try:
            result = function(*values, **others)
            return as_list(result, item_kind) if type(result) is list else result
        except Failure as failure:
            raise failure.at(span) from None
        except (OverflowError, FloatingPointError, ZeroDivisionError):
            raise Failure(
                f"the result of `{word.name}` is too large or does not exist", "", span
            ) from None

    return Code(run, many)


def _argument(code: Code, value: typed.Typed, name: str, whole: bool, gaps: str) -> Closure:
    inner, span = code.run, value.span
    if whole:
        return lambda frame: _whole(inner(frame), name, span)
    if not isinstance(value.kind, ListOf) or gaps == "keep":
        return inner

    def run(frame: Frame) -> Any:
        found = inner(frame)
        if type(found) is not list:
            return found
        missing = gaps_in(found)
        if not missing:
            return found
        if gaps == "refuse":
            refuse_gaps(found, "this list")
        frame[None].left_out += len(missing)
        assert isinstance(value.kind, ListOf)
        return as_list([item for item in found if type(item) is not Gap], value.kind.item)

    return run


def _whole(value: Any, name: str, span: Span) -> Any:
    """A count as an int, or counts as an array of ints; refuses fractions."""
    near = snapped(value)
    if np.any(near != np.rint(near)):
        worst = float(np.atleast_1d(value)[np.atleast_1d(near != np.rint(near))][0])
        raise Failure(
            f"`{name}` wants a whole number here, and this is {worst:.6g}",
            "use floor, ceil or round",
            span,
        )
    return int(near) if np.ndim(near) == 0 else near.astype(np.int64)


def _function_call(node: typed.FunctionCall, together: Together) -> Code:
    arguments = [_compile(argument, together) for argument in node.arguments]
    many = frozenset(
        name for name, code in zip(node.parameters, arguments, strict=True) if code.many
    )
    captured = _captured(node.function, together)
    body = _compile(node.body, many)
    runs = list(zip(node.parameters, [code.run for code in arguments], strict=True))
    title, source, span = node.title, node.source, node.span

    def run(frame: Frame) -> Any:
        the_run: Run = frame[None]
        the_run.check_time()
        inner = {**captured(frame), None: the_run}
        for name, argument in runs:
            inner[name] = argument(frame)
        if source.name is None:
            return body.run(inner)
        try:
            return body.run(inner)
        except LimitReached as failure:
            failure.span = span
            raise
        except Failure as failure:
            failure.message = f"in `{title}`: {failure.message}"
            failure.span = span
            raise

    return Code(run, body.many)


def _captured(function: typed.Typed, together: Together) -> Closure:
    """The local values around a function; those of n at once cannot be carried along."""
    if isinstance(function, typed.LocalName) and together:
        raise OneByOne
    return _compile(function, together).run


def _function_value(node: typed.FunctionValue, together: Together) -> Code:
    if together:
        raise OneByOne
    return Code(lambda frame: {name: value for name, value in frame.items() if name is not None})


def _applied(node: typed.Applied, together: Together) -> Code:
    captured = _captured(node.function, together)
    body = _compile(node.body, ALONE).run
    parameters, source = node.parameters, node.source

    def run(frame: Frame) -> Callable[..., Any]:
        the_run: Run = frame[None]
        around = {**captured(frame), None: the_run}

        def call(*values: Any) -> Any:
            the_run.check_time()
            inner = {**around, **dict(zip(parameters, values, strict=True))}
            try:
                return body(inner)
            except Failure as failure:
                if source.name is not None:
                    failure.message = f"in `{source.name}`: {failure.message}"
                    failure.span = node.span
                raise

        return call

    return Code(run)


def _locals(node: typed.Locals, together: Together) -> Code:
    lines: list[tuple[str, Closure]] = []
    for name, value in node.lines:
        code = _compile(value, together)
        lines.append((name, code.run))
        together = together | {name} if code.many else together - {name}
    result = _compile(node.value, together)

    def run(frame: Frame) -> Any:
        inner = dict(frame)
        for name, line in lines:
            inner[name] = line(inner)
        return result.run(inner)

    return Code(run, result.many)


def _coordinate(node: typed.Coordinate, together: Together) -> Code:
    owner, axis = _compile(node.owner, together), node.axis
    inner = owner.run
    if owner.many:
        return Code(lambda frame: inner(frame)[:, axis], True)
    return Code(lambda frame: float(inner(frame)[axis]))


def _field(node: typed.Field, together: Together) -> Code:
    owner, name = _alone(node.owner, together), node.name
    return Code(lambda frame: owner(frame)[name])


def _item_at(node: typed.ItemAt, together: Together) -> Code:
    owner = _alone(node.owner, together)
    index = _compile(node.index, together)
    said, span = node.said, node.span
    where = index.run

    def run(frame: Frame) -> Any:
        items = owner(frame)
        at = _whole(where(frame), f"an index of {said}", node.index.span)
        if np.any((at >= len(items)) | (at < -len(items))):
            raise _out_of_range(said, len(items), at, span)
        if index.many:
            return _array(items)[at]
        item = items.row(at) if isinstance(items, Table) else items[at]
        if type(item) is Gap:
            raise Failure(
                f"item {item.index} of `{said}` could not be made: {item.message}", item.hint, span
            )
        return float(item) if isinstance(item, np.floating) else item

    if index.many:
        _width(node.kind)
    return Code(run, index.many)


def _out_of_range(said: str, count: int, at: Any, span: Span) -> Failure:
    if not count:
        return Failure(f"`{said}` is empty: it has no item {int(np.ravel(at)[0])}", "", span)
    outside = [int(i) for i in np.ravel(at) if not -count <= i < count]
    return Failure(
        f"`{said}` has {count} items; there is no item {outside[0]}",
        f"items are counted from 0 to {count - 1}, or from the end: -1 is the last",
        span,
    )


_RULES: dict[type[typed.Typed], Callable[[Any, Together], Code]] = {
    typed.Constant: _constant,
    typed.Line: _line,
    typed.LocalName: _local,
    typed.JoinedText: _joined_text,
    typed.Operation: _operation,
    typed.Compared: _compared,
    typed.Both: _both,
    typed.Opposite: _opposite,
    typed.Chosen: _chosen,
    typed.Steps: _steps,
    typed.Items: _items,
    typed.PointOf: _point_of,
    typed.ForEach: _for_each,
    typed.WordCall: _word_call,
    typed.FunctionCall: _function_call,
    typed.FunctionValue: _function_value,
    typed.Applied: _applied,
    typed.Locals: _locals,
    typed.Coordinate: _coordinate,
    typed.Field: _field,
    typed.ItemAt: _item_at,
}
