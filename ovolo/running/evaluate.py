"""Evaluating a checked program: every line has its own outcome.

A line is run again only where its text or the values it needs have changed (`Memo`).
"""

from __future__ import annotations

import re
import time
from collections.abc import Iterable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from functools import cached_property
from typing import Any

import numpy as np
from msgspec import Struct, field
from msgspec.structs import replace

from ovolo.geometry.digest import digest
from ovolo.geometry.solids.solid import Solid, make_meshes
from ovolo.geometry.tolerance import divided_to
from ovolo.meaning import checked_tree
from ovolo.meaning.attachments import Attached
from ovolo.meaning.program import (
    Checked,
    Program,
    ProgramLine,
    Waits,
    problem_at,
)
from ovolo.meaning.study_kinds import StudyFunction
from ovolo.problems import Failure, Note, Problem, unforeseen
from ovolo.quantities.kinds import FunctionKind
from ovolo.quantities.show import DisplayUnits
from ovolo.remembering import Remembered
from ovolo.running.code import Frame, until
from ovolo.running.compile import Run, compiled
from ovolo.running.doubts import in_doubt
from ovolo.running.limits import limits_passed
from ovolo.running.under_way import go_on
from ovolo.running.values import Gap, InDoubt, LimitReached, fingerprint
from ovolo.running.weight import weight_of
from ovolo.sheet.statements.registry import type_of
from ovolo.words.measures_taken import Doubt, Taken, measuring
from ovolo.words.measuring import pieces
from ovolo.words.remarks import remarking

TIME_LIMIT = 5.0
"""Seconds for one evaluation of a sheet, where nothing else is asked for."""

GRACE = 0.25
"""Seconds each further line gets once the time is used up, so that one endless line does not
take the others with it."""


class LineResult(Struct, eq=False, dict=True):
    """What running one line gave: its value and the values of its terms, or its failure.

    `key` says what it was computed from. Never changed once made.
    """

    value: Any = None
    terms: Mapping[str, Any] = field(default_factory=dict)
    failure: Failure | None = None
    gaps: tuple[Gap, ...] = ()
    left_out: int = 0
    key: object = ""
    doubt: InDoubt = InDoubt(None)
    """By how much it may be wrong, by the measures in it and in what it needs."""

    soft: tuple[Failure, ...] = ()
    """What stands against the line although it has a value: a used study beyond its limits."""

    checks: tuple[UsedCheck, ...] = ()
    """The checks of the studies that it uses."""

    remarks: tuple[str, ...] = ()
    """What its words remark on what they gave."""

    @property
    def is_sure(self) -> bool:
        """Whether what says yes or no says so however far off the figures are that decide it."""
        return not (isinstance(self.value, bool | np.bool_) and self.doubt.off == (1.0,))

    @property
    def within(self) -> float | None:
        """By what share it may be wrong; None where nothing was measured."""
        return self.doubt.share

    @cached_property
    def print(self) -> object:
        """What tells this value from others. A function is told by what it was made from."""
        is_code = isinstance(self.value, dict | Program)
        return self.key if is_code else fingerprint(self.value)


class LineOutcome(Struct, frozen=True):
    """A line with its result; `problems` are those of this line."""

    line: ProgramLine
    result: LineResult | None
    problems: tuple[Problem, ...] = ()
    remarks: tuple[Note, ...] = ()
    """What running remarks on it."""

    @property
    def notes(self) -> tuple[Note, ...]:
        """All quiet remarks on the line."""
        return (*self.line.notes, *self.remarks)

    @property
    def has_value(self) -> bool:
        return self.result is not None and self.result.failure is None

    @property
    def value(self) -> Any:
        return None if self.result is None else self.result.value


class UsedCheck(Struct, frozen=True):
    """A check of a study that is used, as it came out there."""

    title: str
    outcome: LineOutcome
    units: DisplayUnits


class State(Struct, eq=False):
    """Where an evaluation stands: by line its outcome, by name its value and result."""

    settings: Mapping[str, Any]
    tolerance: float
    """To what round things are divided."""

    outcomes: dict[int, LineOutcome] = field(default_factory=dict)
    values: dict[str, Any] = field(default_factory=dict)
    results: dict[str, LineResult] = field(default_factory=dict)

    def forget(self, lines: Iterable[ProgramLine]) -> None:
        for line in lines:
            self.outcomes.pop(id(line), None)
            if line.name is not None:
                self.values.pop(line.name, None)
                self.results.pop(line.name, None)


def _weight(result: LineResult) -> int:
    return weight_of(result.value) + sum(weight_of(term) for term in result.terms.values())


class Memo:
    """Results of lines by what they were computed from, at most so many.

    Beside that, the last state of the last program, for an input that is being turned.
    """

    def __init__(self, most: int | None = None) -> None:
        self._results = Remembered[LineResult](_weight, most)
        self._last: tuple[Program, State] | None = None

    def clear(self) -> None:
        self._results.clear()
        self._last = None

    def get(self, key: object) -> LineResult | None:
        return self._results.get(key)

    def put(self, key: object, result: LineResult) -> None:
        self._results.put(key, result)

    def begin(
        self, program: Program, settings: Mapping[str, Any], tolerance: float
    ) -> tuple[State, list[ProgramLine]]:
        """A state to go on from, and the lines that must be run in it."""
        if self._last is None or self._last[0] is not program:
            return State(settings, tolerance), program.order
        last = self._last[1]
        if last.tolerance != tolerance:
            return State(settings, tolerance), program.order
        names = {*settings, *last.settings}
        changed = frozenset(
            name
            for name in names
            if fingerprint(settings.get(name)) != fingerprint(last.settings.get(name))
        )
        stale = program.downstream(changed)
        state = State(
            settings,
            tolerance,
            dict(last.outcomes),
            dict(last.values),
            dict(last.results),
        )
        state.forget(stale)
        return state, stale

    def end(self, program: Program, state: State) -> None:
        """Keeps the state, unless a limit left some lines undone."""
        limited = any(
            outcome.result is not None and isinstance(outcome.result.failure, LimitReached)
            for outcome in state.outcomes.values()
        )
        self._last = None if limited else (program, state)


def evaluate(
    program: Program,
    settings: Mapping[str, Any] | None = None,
    memo: Memo | None = None,
    time_limit: float | None = None,
    tolerance: float | None = None,
) -> list[LineOutcome]:
    """The outcome of every line, in the order of the text.

    `settings` are run-time values of inputs by name, instead of those in the text. Round things are
    divided to the study's own tolerance (mm), or to that of the study which uses it.
    """
    memo = memo or Memo()
    tolerance = program.tolerance if tolerance is None else tolerance
    state, stale = memo.begin(program, dict(settings or {}), tolerance)
    evaluation = _Evaluation(program, state, memo, time_limit)
    with running(tolerance):
        for line in stale:
            evaluation.run_line(line)
    memo.end(program, state)
    return [state.outcomes[id(line)] for line in program.lines]


def evaluate_only(
    program: Program,
    wanted: Iterable[ProgramLine],
    settings: Mapping[str, Any] | None = None,
    memo: Memo | None = None,
    time_limit: float | None = None,
    tolerance: float | None = None,
) -> list[LineOutcome]:
    """The outcomes of some lines, in their order in the text; only they and what they need are run. Round
    things are divided to the study's own tolerance (mm), or to another."""
    tolerance = program.tolerance if tolerance is None else tolerance
    state = State(dict(settings or {}), tolerance)
    evaluation = _Evaluation(program, state, memo or Memo(), time_limit)
    with running(tolerance):
        for line in program.upstream(wanted):
            evaluation.run_line(line)
    return [state.outcomes[id(line)] for line in program.lines if id(line) in state.outcomes]


@contextmanager
def running(tolerance: float) -> Iterator[None]:
    """What holds while lines are run: how finely round things are divided, and that figures which
    do not exist are errors."""
    with divided_to(tolerance), np.errstate(all="raise", under="ignore"):
        yield


class _Evaluation:
    def __init__(
        self, program: Program, state: State, memo: Memo, time_limit: float | None
    ) -> None:
        self.program = program
        self.state = state
        self.settings, self.values = state.settings, state.values
        self.memo = memo
        self.units = str(program.units)
        self.deadline = time.monotonic() + (TIME_LIMIT if time_limit is None else time_limit)

    def run_line(self, line: ProgramLine) -> None:
        go_on()
        outcome = self._outcome(line)
        self.state.outcomes[id(line)] = outcome
        first = line.name is not None and self.program.by_name[line.name] is line
        if outcome.has_value and outcome.result is not None and first and line.name:
            self.values[line.name] = outcome.result.value
            self.state.results[line.name] = outcome.result

    def _outcome(self, line: ProgramLine) -> LineOutcome:
        if line.problem is not None:
            return LineOutcome(line, None, (line.problem,))
        for need in line.needs:
            if need not in self.values:
                needed = self.program.by_name[need].statement.line
                problem = problem_at(line.statement, Waits(need, needed))
                return LineOutcome(line, None, (problem,))
        try:
            key = self._key(line)
        except Exception as error:
            failure = unforeseen(error, f"what line {line.statement.line} is made from")
            return LineOutcome(line, None, (problem_at(line.statement, failure),))
        result = self.memo.get(key)
        if result is None:
            result = self._run(line, key)
            if not isinstance(result.failure, LimitReached):
                self.memo.put(key, result)
        else:
            remembered: LineOutcome | None = line.remembered
            if remembered is not None and remembered.result is result:
                return remembered
        try:
            problems, notes = _problems(line, result, self.program), _notes(line, result)
        except Exception as error:
            failure = unforeseen(error, f"what is said of line {line.statement.line}")
            problems, notes = (problem_at(line.statement, failure),), []
        outcome = LineOutcome(line, result, problems, tuple(notes))
        line.remembered, line.told = outcome, None
        return outcome

    def _key(self, line: ProgramLine) -> object:
        """What the result of a line depends on: its text, the kinds it deals in, the units it
        is shown in, the content of its file, and the values it needs."""
        if not line.fixed_key:
            kinds = [str(self.program.by_name[need].kind) for need in line.needs]
            line.fixed_key = digest(
                line.statement.text,
                str(line.kind),
                kinds,
                self.units,
                _file(line),
            )
        given = self.settings.get(line.name or "")
        needs = [self.state.results[need] for need in line.needs]
        prints = [(one.print, one.doubt) if one.within else one.print for one in needs]
        return (
            line.fixed_key,
            self.state.tolerance,
            None if given is None else fingerprint(given),
            *prints,
        )

    def _run(self, line: ProgramLine, key: object) -> LineResult:
        checked = line.checked
        assert checked is not None
        if isinstance(checked.kind, FunctionKind) and checked.value is None:
            return LineResult({}, key=key)
        deadline = max(self.deadline, time.monotonic() + GRACE)
        run = Run(self.values, self.program.units, [])
        with until(deadline):
            with measuring() as taken, remarking() as remarks:
                result = self._run_until(line, checked, run, key)
            result.remarks = tuple(remarks)
            if result.failure is None:
                result.doubt = self._in_doubt(line, checked, run, result.value, taken)
        return result

    def _in_doubt(
        self, line: ProgramLine, checked: Checked, run: Run, value: Any, taken: Sequence[Taken]
    ) -> InDoubt:
        results = {need: self.state.results[need] for need in self._read_by(line)}
        needs = {need: (one.value, one.doubt) for need, one in results.items() if one.within is not None}  # fmt: skip
        if not taken and not needs:
            return _UNMEASURED
        steps = run.steps

        def again(
            values: Mapping[str, Any], doubt: Doubt | None, piece: checked_tree.Typed | None
        ) -> Any:
            assert checked.value is not None
            role = "value" if piece is None else f"piece {id(piece)}"
            once_more = replace(run, values={**self.values, **values}, gaps=[], soft=[], checks=[])
            with measuring(doubt):
                return _closure(checked, role, piece or checked.value)({None: once_more})

        try:
            return in_doubt(checked.value, value, taken, needs, steps, again)
        except Exception as error:  # the value stands, and what it is made from is known
            if not isinstance(error, LimitReached):
                unforeseen(error, f"how far line {line.statement.line} may be wrong")
            shares = [one.share for one in taken] + [
                doubt.share or 0 for _, doubt in needs.values()
            ]
            return InDoubt(max(shares, default=None))

    def _read_by(self, line: ProgramLine) -> list[str]:
        """The values that a line reads, itself and in the functions that it calls."""
        found: dict[str, None] = {}
        waiting = list(line.needs)
        while waiting:
            name = waiting.pop()
            if name in found:
                continue
            found[name] = None
            needed = self.program.by_name[name]
            if isinstance(needed.kind, FunctionKind):
                waiting += needed.needs
        return list(found)

    def _run_until(self, line: ProgramLine, checked: Checked, run: Run, key: object) -> LineResult:
        frame = {None: run}
        try:
            terms = {
                role: _closure(checked, role, node)(frame) for role, node in checked.terms.items()
            }
            own = type_of(line.content)
            assert own is not None  # it was checked
            value = own.run(line.content, _UnderWay(self.settings, terms, checked, frame))
            if own.draws:
                make_meshes(value)  # here, where the limit holds
        except Failure as failure:
            return LineResult(failure=failure, gaps=tuple(run.gaps))
        except MemoryError:
            return LineResult(
                failure=LimitReached(
                    "this line needs too much memory", "make it smaller or coarser"
                )
            )
        except RecursionError:
            return LineResult(failure=Failure("this is nested too deeply", "name a piece of it"))
        except Exception as error:  # the net: it costs this line alone
            if isinstance(error, ArithmeticError) or str(error) in _BEYOND_MEASURE:
                return LineResult(
                    failure=Failure(
                        "a figure in this line is too large, or too small, to be worked with",
                        "lengths are at home between 1e-6 mm and 1e12 mm",
                    )
                )
            return LineResult(failure=unforeseen(error, f"line {line.statement.line}"))
        return LineResult(
            value, terms, None, tuple(run.gaps), run.left_out, key,
            soft=tuple(run.soft), checks=tuple(dict.fromkeys(run.checks)),
        )  # fmt: skip


_UNMEASURED = InDoubt(None)

UNSURE = "what decides this may be off by more than it is apart: a finer tolerance tells"
"""What is said of a yes or no that might be the other, were its figures off by what they may be."""

_BEYOND_MEASURE = ("Maximum allowed size exceeded", "Values exceed permitted range")
"""What NumPy and the kernel say of figures that are too large for them."""


class _UnderWay(Struct, frozen=True):
    """A line while it runs, as its statement looks at it."""

    settings: Mapping[str, Any]
    terms: Mapping[str, Any]
    checked: Checked
    frame: Frame

    def value(self) -> Any:
        if self.checked.value is None:
            return None
        return _closure(self.checked, "value", self.checked.value)(self.frame)


def _file(line: ProgramLine) -> str:
    """The digest of the file or the study that a line reads, which its text does not tell."""
    value = line.checked.value if line.checked is not None else None
    held = value.value if isinstance(value, checked_tree.Constant) else None
    if isinstance(line.kind, StudyFunction):
        return line.kind.digest
    if isinstance(held, Solid):
        return held.key
    return held.digest if isinstance(held, Attached) else ""


def _closure(checked: Checked, role: str, node: checked_tree.Typed) -> Any:
    found = checked.compiled.get(role)
    if found is None:
        found = checked.compiled[role] = compiled(node)
    return found


def _problems(line: ProgramLine, result: LineResult, program: Program) -> tuple[Problem, ...]:
    problems = _problems_of_gaps(line, result.gaps)
    causes: dict[object, Failure] = {}
    for failure in result.soft:
        causes.setdefault(_cause(failure.message, failure.hint), failure)
    problems += [problem_at(line.statement, failure) for failure in causes.values()]
    if result.failure is not None:
        problems.append(problem_at(line.statement, result.failure))
    elif (own := type_of(line.content)) is not None and own.limited:
        problems.extend(limits_passed(line, result.value, result.terms, program))
    return tuple(problems)


_FIGURE = re.compile(r"-?\d+(?:\.\d+)?(?:e[-+]?\d+)?")


def _cause(message: str, hint: str) -> tuple[str, str]:
    """What tells causes apart: they are one where what is said of them differs by its figures alone."""
    return _FIGURE.sub("#", message), _FIGURE.sub("#", hint)


def _problems_of_gaps(line: ProgramLine, gaps: Sequence[Gap]) -> list[Problem]:
    """One problem for each cause, with the items it struck. Items that were passed on without one
    only wait."""
    causes: dict[object, list[Gap]] = {}
    for gap in gaps:
        cause = _cause(gap.message, gap.hint)
        causes.setdefault((cause, gap.span, gap.passed_on), []).append(gap)
    found = []
    for struck in causes.values():
        first = struck[0]
        message = f"made of what could not be made: {first.message}" if first.passed_on else first.message  # fmt: skip
        problem = problem_at(line.statement, Failure(message, first.hint, first.span), first.index)
        items = tuple(sorted({gap.index for gap in struck}))
        found.append(replace(problem, items=items, item=items[0], waiting=first.passed_on))
    return found


def _notes(line: ProgramLine, result: LineResult) -> list[Note]:
    place = line.statement.line, 1
    return _of_its_value(line, result, place) + [Note(*place, said) for said in result.remarks]


def _of_its_value(line: ProgramLine, result: LineResult, place: tuple[int, int]) -> list[Note]:
    why = getattr(result.value, "why_empty", "")
    own = type_of(line.content)
    if own is not None and own.draws and result.failure is None and _is_empty(result):
        return [Note(*place, f"this part is empty{': ' if why else ''}{why}")]
    if why:
        return [Note(*place, f"this is empty: {why}")]
    if result.left_out:
        count = "1 item was" if result.left_out == 1 else f"{result.left_out} items were"
        return [Note(*place, f"{count} left out, for they could not be made")]
    if not result.is_sure:
        return [Note(*place, UNSURE)]
    return []


def _is_empty(result: LineResult) -> bool:
    """Whether a part has no items although its condition, if any, holds."""
    shown = result.terms.get("condition", True)
    return bool(shown) and next(iter(pieces(result.value)), None) is None
