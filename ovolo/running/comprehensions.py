"""Closures of comprehensions: once over arrays where that is the same, else item by item."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from functools import partial
from typing import Any

import numpy as np

from ovolo.geometry.arrays.setting_out import MOST_ITEMS
from ovolo.geometry.solids.solid import Copies, Solid
from ovolo.meaning import checked_tree
from ovolo.problems import Failure, OneByOne
from ovolo.quantities.kinds import (
    SOLID,
    Kind,
    ListOf,
)
from ovolo.running.code import (
    ALONE,
    Closure,
    Code,
    Frame,
    Run,
    Together,
    alone,
    array_of,
    check_time,
    compiled_node,
    compiles,
    count_of,
    only,
    width_of,
)
from ovolo.running.values import (
    Gap,
    LimitReached,
    as_list,
    check_count,
    empty_item,
)
from ovolo.words.rounding import snapped


@compiles(checked_tree.ForEach)
def _for_each(node: checked_tree.ForEach, together: Together) -> Code:
    sources = [alone(node.loops[0].source, together)]
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


def _parts_of_loops(node: checked_tree.ForEach) -> Iterator[checked_tree.Typed]:
    for loop in node.loops:
        yield loop.source
        if loop.condition is not None:
            yield loop.condition
    yield node.body


def _mentions(node: checked_tree.Typed, together: Together) -> bool:
    """Whether an expression depends on any of these local names."""
    if not together:
        return False
    try:
        return compiled_node(node, together).many
    except OneByOne:
        return True


def _whole_comprehension(node: checked_tree.ForEach, source: Closure) -> Closure | None:
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
                stages.append(partial(_filtered, compiled_node(loop.condition, names), names))
        body = compiled_node(node.body, names)
        width = None if node.body.kind == SOLID else width_of(node.body.kind)
    except OneByOne:
        return None
    first = node.loops[0].name

    def run(frame: Frame) -> Any:
        inner = frame
        for stage in stages:
            inner = stage(inner)
        count = len(inner[first])
        frame[None].steps += count
        check_time()
        if not count:
            return [] if width is None else np.empty((0, *width[0]), dtype=width[1])
        value = body.run(inner)
        if empty_item(value) is not None:
            raise OneByOne  # where each of them is a gap
        return _repeated(value, count) if not body.many else value

    return run


def _item_width(kind: Kind) -> tuple[int, ...] | None:
    assert isinstance(kind, ListOf)
    try:
        return width_of(kind.item)[0] if kind.item is not None else None
    except OneByOne:
        return None


def _first_loop(name: str, source: Closure, frame: Frame) -> Frame:
    return {**frame, name: array_of(source(frame))}


def _next_loop(loop: checked_tree.Loop, names: Together) -> Callable[[Frame], Frame]:
    """A further `for`: for each item so far, all items of its own source."""
    if isinstance(loop.source, checked_tree.Steps) and loop.source.step is None:
        start = compiled_node(loop.source.start, names)
        end = compiled_node(loop.source.end, names)
        if start.many or end.many:
            return partial(_ragged_loop, loop.name, start, end, names)
    source = alone(loop.source, names)

    def stage(frame: Frame) -> Frame:
        items = array_of(source(frame))
        count = count_of(frame, names)
        check_count(count * len(items))
        inner = only(frame, names, np.repeat(np.arange(count), len(items)))
        inner[loop.name] = np.tile(items, (count, *([1] * (items.ndim - 1))))
        return inner

    return stage


def _ragged_loop(name: str, start: Code, end: Code, names: Together, frame: Frame) -> Frame:
    count = count_of(frame, names)
    first = np.broadcast_to(start.run(frame), count)
    last = np.broadcast_to(end.run(frame), count)
    steps = snapped(last - first)
    if np.any(steps != np.rint(steps)):
        raise OneByOne  # which says of each what it misses
    sizes = np.maximum(steps + 1, 0).astype(np.int64)
    total = int(sizes.sum())
    check_count(total)
    which = np.repeat(np.arange(count), sizes)
    within = np.arange(total) - np.repeat(np.cumsum(sizes) - sizes, sizes)
    inner = only(frame, names, which)
    inner[name] = snapped(first[which] + within)
    return inner


def _filtered(condition: Code, names: Together, frame: Frame) -> Frame:
    if not condition.many:
        keep = slice(None) if condition.run(frame) else slice(0, 0)
        return only(frame, names, keep)
    return only(frame, names, np.flatnonzero(condition.run(frame)))


def _repeated(value: Any, count: int) -> Any:
    """One value as a list of it."""
    if isinstance(value, Solid):
        return Copies(value.shape, np.repeat(value.matrix[None], count, axis=0), value.coat)
    if isinstance(value, float | np.floating):
        return np.full(count, float(value))
    if isinstance(value, bool | np.bool_):
        return np.full(count, bool(value))
    if isinstance(value, np.ndarray) and value.shape == (3,):
        return np.tile(value, (count, 1))
    raise OneByOne


def item_frames(node: checked_tree.ForEach) -> Callable[[Frame], Iterator[Frame | Gap]]:
    """The frame of each item of a comprehension in turn; a gap where an item of a source is one."""
    loops = [
        (
            loop.name,
            compiled_node(loop.source, ALONE).run,
            None if loop.condition is None else compiled_node(loop.condition, ALONE).run,
        )
        for loop in node.loops
    ]

    def frames(frame: Frame, depth: int) -> Iterator[Frame | Gap]:
        if depth == len(loops):
            yield frame
            return
        name, source, condition = loops[depth]
        items = source(frame)
        check_count(len(items))
        for item in items:
            if type(item) is Gap:
                yield Gap(item.index, item.message, item.hint, None, True)
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

    return lambda frame: frames(frame, 0)


def _item_comprehension(node: checked_tree.ForEach) -> Callable[[Frame], list[Any]]:
    """The comprehension item by item; an item that fails is a gap."""
    frames = item_frames(node)
    body = compiled_node(node.body, ALONE).run

    def run(frame: Frame) -> list[Any]:
        results: list[Any] = []
        the_run: Run = frame[None]
        for inner in frames(frame):
            the_run.steps += 1
            check_time()
            index = len(results)
            if index >= MOST_ITEMS:
                check_count(index + 1)
            if isinstance(inner, Gap):
                gap = Gap(index, inner.message, inner.hint, inner.span, inner.passed_on)
            else:
                try:
                    made = body(inner)
                    failure = empty_item(made)
                    if failure is not None:
                        raise failure
                    results.append(made)
                    continue
                except LimitReached:
                    raise
                except Failure as failure:
                    gap = Gap(index, failure.message, failure.hint, failure.span)
            results.append(gap)
            the_run.gaps.append(gap)
        return results

    return run
