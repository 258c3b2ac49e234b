"""Closures of calls: words, functions of the sheet, function values."""

from __future__ import annotations

import inspect
from collections.abc import Callable
from functools import cached_property
from typing import Any

import numpy as np

from ovolo.meaning import checked_tree
from ovolo.problems import Failure, FailureOfFigures, OneByOne
from ovolo.quantities.dimension import NUMBER, Dimension
from ovolo.quantities.kinds import ListOf, Quantity, innermost
from ovolo.quantities.show import DisplayUnits, told_apart
from ovolo.running.code import (
    ALONE,
    Closure,
    Code,
    Frame,
    Together,
    as_whole,
    check_time,
    compiled_body,
    compiled_node,
    compiles,
    is_worth_keeping,
    with_gaps,
)
from ovolo.running.noise import settled_node
from ovolo.running.values import (
    Gap,
    LimitReached,
    as_list,
    gaps_in,
    refuse_empty,
    refuse_gaps,
)


@compiles(checked_tree.WordCall)
def _word_call(node: checked_tree.WordCall, together: Together) -> Code:
    word, span = node.word, node.span
    arguments = [*((at, value) for at, value in enumerate(node.positional)), *node.named]
    compile_one = settled_node if word.settles else compiled_node
    codes = [(at, compile_one(value, together), value) for at, value in arguments]
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
    function, takes_empty = word.function, word.takes_empty
    item_kind = node.kind.item if isinstance(node.kind, ListOf) else None
    site = object() if is_worth_keeping(node.kind, many) else None

    def run(frame: Frame) -> Any:
        values = [argument(frame) for argument in positional]
        others = {name: argument(frame) for name, argument in named}
        if site is not None:
            before = frame[None].made_before(site, (*values, *others.values()))
            if before is not None:
                return before
        if not takes_empty:
            refuse_empty(values, span)
        try:
            result = function(*values, **others)
            if type(result) is not list:
                if site is not None:
                    frame[None].made[site] = (*values, *others.values()), result
                return result
            return as_list(with_gaps(result, frame[None]), item_kind)
        except FailureOfFigures as failure:
            raise failure.shown(_shown_by(node, frame[None].units)).at(span) from None
        except Failure as failure:
            raise failure.at(span) from None
        except (OverflowError, FloatingPointError, ZeroDivisionError):
            raise Failure(
                f"the result of `{word.name}` is too large or does not exist", "", span
            ) from None

    return Code(run, many)


def _shown_by(
    node: checked_tree.WordCall, units: DisplayUnits
) -> Callable[[list[tuple[float, str]]], list[str]]:
    """How figures of arguments, or that functions give, are said: by their kinds, in the units of the study, with as many
    digits as tell them apart."""
    names = inspect.signature(node.word.function).parameters
    given = {**dict(zip(names, node.positional, strict=False)), **dict(node.named)}

    def dimension(parameter: str) -> Dimension | None:
        of = given.get(parameter)
        kind = of.body.kind if isinstance(of, checked_tree.Applied) else of and of.kind
        found = innermost(kind) if kind else None
        return found.dimension if isinstance(found, Quantity) else None

    def shown(figures: list[tuple[float, str]]) -> list[str]:
        dimensions = [dimension(parameter) or NUMBER for _, parameter in figures]
        said = [""] * len(figures)
        for one in dict.fromkeys(dimensions):
            at = [number for number, other in enumerate(dimensions) if other == one]
            together = told_apart([float(figures[number][0]) for number in at], one, units)
            for number, text in zip(at, together, strict=True):
                said[number] = str(text)
        return said

    return shown


def _argument(code: Code, value: checked_tree.Typed, name: str, whole: bool, gaps: str) -> Closure:
    inner, span = code.run, value.span
    if whole:
        return lambda frame: as_whole(inner(frame), name, span)
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


@compiles(checked_tree.FunctionCall)
def _function_call(node: checked_tree.FunctionCall, together: Together) -> Code:
    arguments = [compiled_node(argument, together) for argument in node.arguments]
    many = frozenset(
        name for name, code in zip(node.parameters, arguments, strict=True) if code.many
    )
    captured = _captured(node.function, together)
    body = compiled_body(node.body, many)
    runs = list(zip(node.parameters, [code.run for code in arguments], strict=True))
    title, source, span = node.title, node.source, node.span

    def run(frame: Frame) -> Any:
        check_time()
        frame[None].steps += 1
        inner = {**captured(frame), None: frame[None]}
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


def _captured(function: checked_tree.Typed, together: Together) -> Closure:
    """The local values around a function; those of n at once cannot be carried along."""
    if isinstance(function, checked_tree.LocalName) and together:
        raise OneByOne
    return compiled_node(function, together).run


@compiles(checked_tree.FunctionValue)
def _function_value(node: checked_tree.FunctionValue, together: Together) -> Code:
    if together:
        raise OneByOne
    return Code(lambda frame: {name: value for name, value in frame.items() if name is not None})


@compiles(checked_tree.Applied)
def _applied(node: checked_tree.Applied, together: Together) -> Code:
    captured = _captured(node.function, together)
    body = _Body(node)
    return Code(lambda frame: _Handed(body, {**captured(frame), None: frame[None]}))


class _Body:
    """The body of a function that is handed to a word, for single values and for many at once."""

    def __init__(self, node: checked_tree.Applied) -> None:
        self.node = node
        self.parameters = node.parameters
        self.single = compiled_body(node.body, ALONE).run

    @cached_property
    def many(self) -> Closure:
        """For arrays; refuses always where some of it goes only one by one."""
        try:
            code = compiled_node(self.node.body, frozenset(self.parameters))
        except OneByOne:
            return _refused
        return code.run if code.many else _refused


def _refused(frame: Frame) -> Any:
    raise OneByOne


class _Handed:
    """A function as a word has it: its body among the values it was made among."""

    def __init__(self, body: _Body, around: Frame) -> None:
        self.body, self.around = body, around

    def __call__(self, *values: Any) -> Any:
        check_time()
        self.around[None].steps += 1
        node = self.body.node
        inner = {**self.around, **dict(zip(self.body.parameters, values, strict=True))}
        try:
            return self.body.single(inner)
        except Failure as failure:
            if node.source.name is not None:
                failure.message = f"in `{node.source.name}`: {failure.message}"
                failure.span = node.span
            raise

    def at_once(self, *values: Any) -> Any:
        """The results for arrays of values. Raises OneByOne where that is not the same."""
        check_time()
        self.around[None].steps += max(map(np.size, values), default=1)
        return self.body.many({**self.around, **dict(zip(self.body.parameters, values, strict=True))})  # fmt: skip
