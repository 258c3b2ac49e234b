"""The outcome of a study: the one object that the command line, the stage and the files read."""

from __future__ import annotations

import itertools
import time
from collections.abc import Callable, Mapping
from functools import cached_property, partial
from typing import Any, TypeVar

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from ovolo.meaning import checked_tree
from ovolo.meaning.attachments import Tables
from ovolo.meaning.checked_sheet import checked_program
from ovolo.meaning.program import Program, ProgramLine, problem_at
from ovolo.outcome.dims import Dim, dim_of
from ovolo.outcome.part import Part, part_of
from ovolo.problems import Failure, Problem, unforeseen
from ovolo.quantities.dimension import NUMBER, Dimension, base_units
from ovolo.quantities.kinds import (
    GEOMETRY,
    TEXT,
    YES_NO,
    FunctionKind,
    Kind,
    ListOf,
    PointKind,
    Quantity,
    Record,
    innermost,
    plural,
)
from ovolo.quantities.show import (
    DisplayUnits,
    Shown,
    show_quantity,
    shown_in,
    side_by_side,
    told_apart,
)
from ovolo.quantities.units import Unit
from ovolo.running.code import until
from ovolo.running.evaluate import LineOutcome, Memo, evaluate
from ovolo.running.values import Gap
from ovolo.sheet import tree
from ovolo.sheet.literals import shown_unit
from ovolo.sheet.statements.registry import type_of

Made = TypeVar("Made")

UNKNOWN = "…"
"""Stands for a figure that is not known, or not yet."""

SHOW_LIMIT = 3.0
"""Seconds in which what a line gives is made ready to be shown."""


class Check(Struct, frozen=True):
    """A check: `passed` is None where it could not be tried; `measured` says its numbers; it is not `sure` where these
    may be off by more than they are apart."""

    text: str
    message: str
    passed: bool | None
    line: int
    measured: str
    sure: bool = True


class Outcome(Struct, frozen=True, dict=True):
    """Everything a study yields for one setting of its inputs."""

    program: Program
    lines: list[LineOutcome]
    in_motion: bool = False
    """Whether a hand is turning an input, and what is measured is not known yet (`in_motion.py`)."""

    @property
    def units(self) -> DisplayUnits:
        return self.program.units

    def is_coming(self, line: ProgramLine) -> bool:
        """Whether what a line says comes once the hand rests: it makes, measures or needs geometry, and its
        outcome is a figure, a yes or no, or a sentence."""
        if not self.in_motion or line.statement.line not in self.program.of_geometry:
            return False
        known = type_of(line.content)
        is_said = isinstance(line.content, tree.Formula | tree.Check) or (
            known is not None and known.says
        )
        is_figure = innermost(line.kind) not in GEOMETRY and not isinstance(line.kind, FunctionKind)
        return is_said and is_figure

    @cached_property
    def problems(self) -> list[Problem]:
        """All problems, in the order of the text."""
        own = {id(line.problem) for line in self.program.lines if line.problem}
        found = [problem for problem in self.program.problems if id(problem) not in own]
        for line in self.lines:
            found.extend(line.problems)
        found.extend(self._wrong_dims())
        found.extend(self._wrong_clauses())
        _ = self.checks
        found.extend(self.unforeseen)
        return sorted(found, key=lambda problem: (problem.line, problem.item or 0, problem.column))

    @cached_property
    def parts(self) -> dict[str, Part]:
        return {
            line.line.name: part
            for line in self.lines
            if isinstance(line.line.content, tree.Part) and line.line.name and line.has_value
            for part in self.kept(
                partial(part_of, line.line.name, line.line.content, line, self.units), line
            )
        }

    @cached_property
    def checks(self) -> list[Check]:
        return [
            check
            for line in self.lines
            if isinstance(line.line.content, tree.Check)
            for check in self.kept(partial(_check, line, self.units), line)
        ] + self._used_checks()

    def _used_checks(self) -> list[Check]:
        """The checks of the studies that are used: each once, as it comes out where it fails."""
        found: dict[tuple[str, str], Check] = {}
        for line in self.lines:
            for used in line.result.checks if line.result is not None else ():
                one = _check(used.outcome, used.units)
                message = unfilled_message(used.outcome) if self.in_motion else one.message
                said = f"in “{used.title}”: {message}".removesuffix(": ")
                here = replace(one, message=said, line=line.line.statement.line)
                known = found.get((used.title, one.text))
                if known is None or (known.passed and not one.passed):
                    found[used.title, one.text] = here
        return list(found.values())

    @cached_property
    def dims(self) -> list[Dim]:
        return [
            dim
            for line in self.lines
            if isinstance(line.line.content, tree.Dim) and line.has_value
            for dim in self.kept(partial(dim_of, line), line)
        ]

    @cached_property
    def unforeseen(self) -> list[Problem]:
        """What went wrong while parts, dims and checks were made ready to be shown."""
        return []

    def kept(self, make: Callable[[], Made], line: LineOutcome) -> list[Made]:
        """What is made of a line to be shown; nothing, and a problem, where that goes wrong or takes
        too long."""
        try:
            with until(time.monotonic() + SHOW_LIMIT):
                return [make()]
        except Exception as error:  # the net: it costs this line alone
            failure = error if isinstance(error, Failure) else unforeseen(error, f"line {line.line.statement.line}")  # fmt: skip
            self.unforeseen.append(problem_at(line.line.statement, failure))
            return []

    @property
    def failed_checks(self) -> list[Check]:
        return [check for check in self.checks if check.passed is False]

    @property
    def wrongs(self) -> list[tuple[int, str]]:
        """What is wrong with its lines, in few words, each with its line; also a part of nothing, though
        nothing says that it may be empty."""
        problems = [(one.line, one.in_few_words) for one in self.problems if not one.waiting]
        lost = [
            (line.statement.line, f"part `{line.name}` has no items")
            for line in self.program.lines
            if isinstance(line.content, tree.Part) and line.content.condition is None
            and line.name in self.parts and not self.parts[line.name].count
        ]  # fmt: skip
        return problems + lost

    @property
    def reasons(self) -> list[tuple[int, str]]:
        """Why a trial of it fails, in few words, each with its line: what is wrong, then the checks that fail."""
        return self.wrongs + [(one.line, one.message or one.text) for one in self.failed_checks]

    @property
    def well(self) -> bool:
        """Whether there are neither problems nor failed checks."""
        return not self.problems and not self.failed_checks

    def _wrong_dims(self) -> list[Problem]:
        return [
            Problem(
                dim.line, 1, None,
                f"this dim says {show_quantity(dim.value, dim.dimension, self.units)}, but "
                f"the drawing measures {show_quantity(dim.measured, dim.dimension, self.units)}",
                "check its points against its formula",
            )
            for dim in self.dims
            if dim.wrong
        ]  # fmt: skip

    def _wrong_clauses(self) -> list[Problem]:
        failures = [
            (part, failure)
            for part in self.parts.values()
            for failure in (part.hatch_failure, part.tint_failure)
        ]
        return [
            Problem(part.line, 1, part.name, failure.message, failure.hint)
            for part, failure in failures
            if failure is not None
        ]

    def with_chords(self, share: float, time_limit: float) -> Outcome:
        """The same, with chords that may miss what is round by this share of what they may here."""
        settings = {
            line.line.name: line.value
            for line in self.lines
            if isinstance(line.line.content, tree.Input) and line.line.name and line.has_value
        }
        tolerance = self.program.tolerance * share
        lines = evaluate(self.program, settings, time_limit=time_limit, tolerance=tolerance)
        return Outcome(self.program, lines)

    @property
    def notes(self) -> list[str]:
        """The sentences of the sheet, with their figures."""
        return [str(line.value) for line in self.lines if is_said(line)]

    def as_json(self) -> dict[str, Any]:
        """The results as the command line prints them: mm, degrees, kg, s."""
        return {
            "study": self.program.title,
            "values": {
                line.line.name: value_json(line, self.units)
                for line in self.lines
                if line.line.name
                and line.has_value
                and not isinstance(line.line.content, tree.Part)
            },
            "parts": {name: part.as_json() for name, part in self.parts.items()},
            "checks": [
                {"text": c.text, "message": c.message, "passed": c.passed, "line": c.line}
                for c in self.checks
            ],
            "problems": [problem.as_json() for problem in self.problems],
        }


def is_said(line: LineOutcome) -> bool:
    """Whether a line is a sentence, and can be said."""
    known = type_of(line.line.content)
    return known is not None and known.says and line.has_value


def outcome_of(
    text: str,
    settings: Mapping[str, Any] | None = None,
    memo: Memo | None = None,
    time_limit: float | None = None,
    tables: Tables | None = None,
) -> Outcome:
    """Reads, checks and runs a sheet with its attached tables."""
    program = checked_program(text, tables)
    return Outcome(program, evaluate(program, settings, memo, time_limit))


def unit_shown(line: LineOutcome, dimension: Dimension, units: DisplayUnits) -> Unit:
    """The unit a line's figures are shown in: those of an input that is a ratio, so many per cent or
    inches by the foot as it is written."""
    figure = getattr(line.line.content, "value", None)
    if not isinstance(line.line.content, tree.Input):
        figure = None
    if isinstance(figure, tree.ListOfItems) and figure.items:
        figure = figure.items[0]
    return shown_unit(figure if isinstance(figure, tree.Number) else None, dimension, units)


def show_line(line: LineOutcome, units: DisplayUnits) -> Shown:
    """The value of a line as a person reads it."""
    kind = line.line.kind
    assert kind is not None
    if isinstance(kind, Quantity) and kind.dimension == NUMBER:
        unit = unit_shown(line, NUMBER, units)
        if unit.symbol:
            return shown_in(float(line.value), unit)
    return show_value(line.value, kind, units)


def value_json(line: LineOutcome, units: DisplayUnits) -> dict[str, Any]:
    kind = line.line.kind
    assert kind is not None
    shown = show_line(line, units)
    return {
        "kind": kind.word,
        "value": plain_value(line.value, kind),
        "unit": _unit_of(kind),
        "text": str(shown),
        "line": line.line.statement.line,
        "label": getattr(line.line.content, "label", ""),
        **exactness_json(line),
    }


def exactness_json(line: LineOutcome) -> dict[str, Any]:
    """Whether the measures in a value are exact, else by what share they may be wrong; nothing where
    it has none."""
    within = line.result.within if line.result is not None else None
    if within is None or line.line.kind in GEOMETRY:
        return {}
    return {"exact": within == 0, **({} if within == 0 else {"within": within})}


_JSON_UNITS = {
    "number": "", "length": "mm", "angle": "deg", "area": "mm^2", "volume": "mm^3",
    "mass": "kg", "time": "s",
}  # fmt: skip


def _unit_of(kind: Kind) -> str:
    """The unit of the value in results, which is not the one it is shown in."""
    if isinstance(kind, ListOf) and kind.item is not None:
        return _unit_of(kind.item)
    if isinstance(kind, PointKind):
        kind = Quantity(dimension=kind.dimension)
    if not isinstance(kind, Quantity):
        return ""
    if kind.word != "other":
        return _JSON_UNITS[kind.word]
    return base_units(kind.dimension).replace("rad", "deg")


def size_of_result(kind: Kind) -> float:
    """By what a value is multiplied in results, where angles are degrees."""
    dimension = getattr(kind, "dimension", None)
    if dimension is None or not dimension.angle:
        return 1.0
    return float(np.degrees(1.0) ** float(dimension.angle))


def plain_value(value: Any, kind: Kind | None) -> Any:
    """A value as JSON has it: numbers, lists, texts, booleans; None for geometry and gaps."""
    if isinstance(value, Gap) or kind is None or kind in GEOMETRY:
        return None
    match kind:
        case Quantity():
            return _whole_if_whole(float(value) * size_of_result(kind))
        case PointKind():
            return [
                _whole_if_whole(float(c) * size_of_result(kind)) for c in kind.coordinates(value)
            ]
        case ListOf():
            return [plain_value(item, kind.item) for item in itertools.islice(value, 200_000)]
        case Record():
            return {name: plain_value(value[name], field) for name, field in kind.fields}
    if kind == YES_NO:
        return bool(value)
    return str(value) if kind == TEXT else None


def _whole_if_whole(value: float) -> float | int:
    return int(value) if value.is_integer() and abs(value) < 2**53 else value


def show_value(value: Any, kind: Kind, units: DisplayUnits) -> Shown:
    """Any value as a person reads it, in one line."""
    match kind:
        case Quantity():
            return show_quantity(float(value), kind.dimension, units)
        case PointKind():
            coordinates = [float(c) for c in kind.coordinates(value)]
            beside = max(map(abs, coordinates))
            shown = [show_quantity(c, kind.dimension, units, beside) for c in coordinates]
            return Shown("(" + ", ".join(one.number for one in shown) + ")", shown[0].unit)
        case ListOf():
            return _show_list(value, kind, units)
        case Record():
            said = (f"{n} {show_value(value[n], field, units)}" for n, field in kind.fields)
            return Shown(", ".join(said))
    if kind == YES_NO:
        return Shown("yes" if value else "no")
    if kind == TEXT:
        return Shown(f'"{value}"')
    return Shown(f"empty {kind.name}" if getattr(value, "is_empty", False) else kind.name)


def _show_list(value: Any, kind: ListOf, units: DisplayUnits) -> Shown:
    count = len(value)
    if kind.item is None or not count:
        return Shown("empty list")
    if not isinstance(kind.item, Quantity) and kind.item not in (TEXT, YES_NO):
        return Shown(f"{count} {plural(kind.item) if count > 1 else kind.item.name}")
    first = list(itertools.islice(value, 4))
    more = f" … ({count})" if count > len(first) else ""
    if isinstance(kind.item, Quantity):
        figures = [float(item) for item in first if not isinstance(item, Gap)]
        together = iter(side_by_side(figures, kind.item.dimension, units))
        shown = [Shown("–") if isinstance(item, Gap) else next(together) for item in first]
    else:
        shown = [
            Shown("–") if isinstance(item, Gap) else show_value(item, kind.item, units)
            for item in first
        ]
    unit = next((one.unit for one in shown if one.unit), "")
    return Shown(", ".join(one.number for one in shown) + more, unit)


def _check(line: LineOutcome, units: DisplayUnits) -> Check:
    content = line.line.content
    assert isinstance(content, tree.Check)
    return Check(
        line.line.statement.in_one_line(content.condition.span),
        check_message(line),
        bool(line.value) if line.has_value else None,
        line.line.statement.line,
        _measured(line, units),
        line.result is None or line.result.is_sure,
    )


def check_message(line: LineOutcome) -> str:
    """What is said of a check, its braces filled in where it could be tried."""
    terms = line.result.terms if line.result is not None else {}
    return str(terms["message"]) if "message" in terms else unfilled_message(line)


def unfilled_message(line: LineOutcome) -> str:
    """The same without the figures in its braces."""
    content = line.line.content
    said = content.said if isinstance(content, tree.Check) else None
    if said is None:
        return str(getattr(content, "message", ""))
    return "".join(one if isinstance(one, str) else UNKNOWN for one in said.pieces)


def _measured(line: LineOutcome, units: DisplayUnits) -> str:
    """The numbers of a comparison, such as "550 mm <= 600 mm <= 700 mm"."""
    compared = line.line.checked.value if line.line.checked is not None else None
    if not line.has_value or not isinstance(compared, checked_tree.Compared):
        return ""
    values = [line.result.terms[f"side {at}"] for at in range(len(compared.operands))]  # type: ignore[union-attr]
    kind = compared.operands[0].kind
    if isinstance(kind, Quantity):
        shown = [str(one) for one in told_apart(values, kind.dimension, units)]
    else:
        shown = [
            str(show_value(value, operand.kind, units))
            for value, operand in zip(values, compared.operands, strict=True)
        ]
    said = [shown[0]]
    for operator, right in zip(compared.operators, shown[1:], strict=True):
        said += [operator, right]
    return " ".join(said)
