"""Closures of studies used as functions. The same study with the same inputs is worked out once."""

from __future__ import annotations

import itertools
import time
from typing import TYPE_CHECKING, Any

from msgspec import Struct
from msgspec.structs import replace

from ovolo.geometry.coat import Coat, coated
from ovolo.meaning import checked_tree
from ovolo.meaning.study_kinds import CHECKS_PASS, StudyFunction, geometry_within, part_lines
from ovolo.problems import Failure, Problem
from ovolo.quantities.kinds import Kind, ListOf
from ovolo.quantities.show import DisplayUnits
from ovolo.remembering import Remembered
from ovolo.running.code import Code, Frame, Run, Together, alone, check_time, compiles, deadline
from ovolo.running.tinting import tint_source
from ovolo.running.values import Gap, LimitReached, Yielded, fingerprint
from ovolo.running.weight import weight_of
from ovolo.sheet import tree
from ovolo.sheet.colours import tint
from ovolo.words.measuring import pieces

if TYPE_CHECKING:
    from ovolo.running.evaluate import LineOutcome, Memo, UsedCheck

_MOST_STUDIES = 50


class Use(Struct, frozen=True):
    """A study worked out for some values of its inputs: what it yields, the items that could not be
    made, the inputs beyond their limits, and its checks."""

    yielded: Yielded
    gaps: tuple[Gap, ...]
    soft: tuple[Failure, ...]
    checks: tuple[UsedCheck, ...]


def _weight(use: Use) -> int:
    return weight_of(use.yielded) + sum(weight_of(one) for one in use.yielded.fields.values())


_USES = Remembered[Use](_weight)
_MEMOS: Remembered[Memo] = Remembered(lambda memo: 0, _MOST_STUDIES)
"""The results of the lines of a study; what they weigh they say themselves."""


@compiles(checked_tree.StudyCall)
def _study_call(node: checked_tree.StudyCall, together: Together) -> Code:
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
            found = _worked_out(kind, settings, item, deadline())
        except LimitReached as failure:
            raise LimitReached(f"in “{title}”: {failure.message}", failure.hint) from None
        except Failure as failure:
            raise Failure(f"in “{title}”: {failure.message}", failure.hint, span) from None
        the_run.gaps.extend(
            Gap(g.index, f"in “{title}”: {g.message}", g.hint, span) for g in found.gaps
        )
        the_run.soft.extend(
            Failure(f"in “{title}”: {one.message}", one.hint, span) for one in found.soft
        )
        the_run.checks.extend(found.checks)
        return found.yielded

    return Code(run)


def _worked_out(
    kind: StudyFunction, settings: dict[str, Any], item: Kind | None, until: float
) -> Use:
    """A study for some values of its inputs, remembered. Raises Failure where a part cannot be
    made."""
    from ovolo.geometry.tolerance import chord_tolerance
    from ovolo.running.evaluate import Memo, evaluate

    prints = tuple((name, fingerprint(value)) for name, value in sorted(settings.items()))
    # A study is divided to the tolerance of the one that uses it, which its own lines do not tell.
    study = kind.digest, chord_tolerance()
    key = (*study, prints)
    known = _USES.get(key)
    if known is not None:
        return known
    memo = _MEMOS.get(study)
    if memo is None:
        memo = Memo()
        _MEMOS.put(study, memo)
    limit = max(until - time.monotonic(), 0.0)
    lines = evaluate(kind.program, settings, memo, limit, chord_tolerance())
    found = _use(kind, lines, settings, item, key)
    _USES.put(key, found)
    return found


def _use(
    kind: StudyFunction,
    lines: list[LineOutcome],
    settings: dict[str, Any],
    item: Kind | None,
    key: object,
) -> Use:
    from ovolo.running.evaluate import UsedCheck

    program = kind.program
    by_line = {id(one.line): one for one in lines}
    parts = [by_line[id(line)] for line in part_lines(program)]
    given = [one for one in lines if one.line.name in settings]
    _refuse_problems([*parts, *given], lines)
    values = {one.line.name: _in_coat(one, program.units) for one in parts}
    pieces_of_parts = [
        (geometry_within(one.line.kind) == item, _single(values[one.line.name])) for one in parts
    ]
    fields: dict[str, Any] = {}
    for one in lines:
        name = one.line.name
        if name and program.by_name[name] is one.line:
            value = values.get(name, one.value)
            fields[name] = value if one.has_value else _why(one, lines)
    checks = [one for one in lines if isinstance(one.line.content, tree.Check)]
    fields.setdefault(CHECKS_PASS, all(one.has_value and bool(one.value) for one in checks))
    yielded = Yielded(
        [piece for usual, found in pieces_of_parts if usual for piece in found],
        [piece for usual, found in pieces_of_parts if not usual for piece in found],
        fields,
        key,
        {
            one.line.name: one.result.doubt
            for one in lines
            if one.line.name and one.result is not None
        },
    )
    results = [one.result for one in lines if one.result is not None]
    return Use(
        yielded,
        tuple(gap for one in parts if one.result is not None for gap in one.result.gaps),
        tuple(
            Failure(problem.message, problem.hint) for one in given for problem in one.problems
        ) + tuple(failure for result in results for failure in result.soft),
        tuple(UsedCheck(kind.title, one, program.units) for one in checks)
        + tuple(check for result in results for check in result.checks),
    )  # fmt: skip


def _in_coat(one: LineOutcome, units: DisplayUnits) -> Any:
    """The value of a part, each of its pieces with the label, the colour and the material that it
    has there."""
    content, value = one.line.content, one.value
    assert isinstance(content, tree.Part)
    if not one.has_value or one.result is None:
        return value
    density = one.result.terms.get("density")
    colour = tint(content.colour) if content.colour else ""
    coat = Coat(content.label or content.name.replace("_", " "), colour, density)
    source = tint_source(content, one.result.terms, one.line.checked, units)
    if source is None:
        return coated(value, itertools.repeat(coat))
    try:
        colours = source.tinting(value).of_items
    except Failure:  # which the study itself tells
        return coated(value, itertools.repeat(coat))
    return coated(value, (replace(coat, colour=colour) for colour in colours))


def _single(value: Any) -> list[Any]:
    """Every piece for itself, also those that are copies of one solid."""
    found: list[Any] = []
    for piece in pieces(value):
        found.extend(piece if hasattr(piece, "__len__") else [piece])
    return found


def _refuse_problems(needed: list[LineOutcome], lines: list[LineOutcome]) -> None:
    """Refuses parts that cannot be made and inputs that have no value; gaps and inputs beyond their
    limits are told otherwise."""
    for one in needed:
        if one.result is not None and isinstance(one.result.failure, LimitReached):
            raise one.result.failure
        if not one.has_value:
            raise _why(one, lines)


def _why(one: LineOutcome, lines: list[LineOutcome]) -> Failure:
    """The problem that keeps a line from its value: its own, or that of a line it waits for."""
    problem: Problem | None = next((p for p in one.problems if not p.waiting), None)
    if problem is None:
        problem = next((p for other in lines for p in other.problems if not p.waiting), None)
    if problem is None:
        return Failure(f"`{one.line.name}` has no value")
    return Failure(f"{problem.message} (line {problem.line})", problem.hint)
