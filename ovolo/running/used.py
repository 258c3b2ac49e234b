"""Closures of studies used as functions. The same study with the same inputs is worked out once."""

from __future__ import annotations

import time
from collections import OrderedDict
from typing import TYPE_CHECKING, Any

from ovolo.meaning import typed
from ovolo.meaning.program import Program
from ovolo.meaning.used import CHECKS_PASS, StudyFunction, inner, part_lines
from ovolo.problems import Failure, Problem
from ovolo.quantities.kinds import Kind, ListOf
from ovolo.running.code import Code, Frame, Run, Together, alone, check_time, compiles, deadline
from ovolo.running.values import Gap, LimitReached, Yielded, fingerprint
from ovolo.sheet import tree
from ovolo.words.measuring import pieces

if TYPE_CHECKING:
    from ovolo.running.evaluate import LineOutcome, Memo

_MOST_YIELDS = 2_000
_MOST_STUDIES = 50
_YIELDS: OrderedDict[object, tuple[Yielded, tuple[Gap, ...]]] = OrderedDict()
_MEMOS: OrderedDict[tuple[str, float], Memo] = OrderedDict()


@compiles(typed.StudyCall)
def _study_call(node: typed.StudyCall, together: Together) -> Code:
    arguments = [
        (name, alone(one, together)) for name, one in zip(node.names, node.arguments, strict=True)
    ]
    kind, span = node.function.kind, node.span
    assert isinstance(kind, StudyFunction)
    title = kind.title
    item = node.kind.item if isinstance(node.kind, ListOf) else None

    def run(frame: Frame) -> Any:
        the_run: Run = frame[None]
        check_time()
        settings = {name: argument(frame) for name, argument in arguments}
        try:
            found, gaps = _worked_out(kind, settings, item, deadline())
        except LimitReached as failure:
            raise LimitReached(f"in “{title}”: {failure.message}", failure.hint) from None
        except Failure as failure:
            raise Failure(f"in “{title}”: {failure.message}", failure.hint, span) from None
        the_run.gaps.extend(Gap(g.index, f"in “{title}”: {g.message}", g.hint, span) for g in gaps)
        return found

    return Code(run)


def _worked_out(
    kind: StudyFunction, settings: dict[str, Any], item: Kind | None, until: float
) -> tuple[Yielded, tuple[Gap, ...]]:
    """What a study yields for some values of its inputs, remembered. Raises Failure where an input
    is beyond its limits or a part cannot be made."""
    from ovolo.geometry.tolerance import chord_tolerance
    from ovolo.running.evaluate import Memo, evaluate

    prints = tuple((name, fingerprint(value)) for name, value in sorted(settings.items()))
    # A study is divided to the tolerance of the one that uses it, which its own lines do not tell.
    study = kind.digest, chord_tolerance()
    key = (*study, prints)
    known = _YIELDS.get(key)
    if known is not None:
        _YIELDS.move_to_end(key)
        return known
    memo = _MEMOS.pop(study, None) or Memo()
    _MEMOS[study] = memo
    if len(_MEMOS) > _MOST_STUDIES:
        _MEMOS.popitem(last=False)
    limit = max(until - time.monotonic(), 0.0)
    lines = evaluate(kind.program, settings, memo, limit, chord_tolerance())
    found = _yielded(kind.program, lines, settings, item, key)
    _YIELDS[key] = found
    if len(_YIELDS) > _MOST_YIELDS:
        _YIELDS.popitem(last=False)
    return found


def _yielded(
    program: Program,
    lines: list[LineOutcome],
    settings: dict[str, Any],
    item: Kind | None,
    key: object,
) -> tuple[Yielded, tuple[Gap, ...]]:
    by_line = {id(one.line): one for one in lines}
    needed = [by_line[id(line)] for line in part_lines(program)]
    needed += [one for one in lines if one.line.name in settings]
    _refuse_problems(needed, lines)
    gaps: list[Gap] = []
    parts: list[Any] = []
    for one in needed:
        if one.result is not None and isinstance(one.line.content, tree.Part):
            gaps.extend(one.result.gaps)
            if inner(one.line.kind) == item:
                parts.extend(_single(one.value))
    fields: dict[str, Any] = {}
    for one in lines:
        if one.line.name and program.by_name[one.line.name] is one.line:
            fields[one.line.name] = one.value if one.has_value else _why(one, lines)
    checks = [one for one in lines if isinstance(one.line.content, tree.Check)]
    fields.setdefault(CHECKS_PASS, all(one.has_value and bool(one.value) for one in checks))
    return Yielded(parts, fields, key), tuple(gaps)


def _single(value: Any) -> list[Any]:
    """Every piece for itself, also those that are copies of one solid."""
    found: list[Any] = []
    for piece in pieces(value):
        found.extend(piece if hasattr(piece, "__len__") else [piece])
    return found


def _refuse_problems(needed: list[LineOutcome], lines: list[LineOutcome]) -> None:
    """Refuses parts that cannot be made and inputs beyond their limits; gaps are told otherwise."""
    for one in needed:
        if one.result is not None and isinstance(one.result.failure, LimitReached):
            raise one.result.failure
        is_part = isinstance(one.line.content, tree.Part)
        if (is_part and not one.has_value) or (not is_part and one.problems):
            raise _why(one, lines)


def _why(one: LineOutcome, lines: list[LineOutcome]) -> Failure:
    """The problem that keeps a line from its value: its own, or that of a line it waits for."""
    problem: Problem | None = next((p for p in one.problems if not p.waiting), None)
    if problem is None:
        problem = next((p for other in lines for p in other.problems if not p.waiting), None)
    if problem is None:
        return Failure(f"`{one.line.name}` has no value")
    return Failure(f"{problem.message} (line {problem.line})", problem.hint)
