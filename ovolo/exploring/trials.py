"""Trials: what a study gives for one setting of a plan. Plain data, the same wherever it is made."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Iterator, Mapping, Sequence
from typing import Any

from msgspec import Struct, field

from ovolo.exploring.axes import Axis, plain
from ovolo.exploring.plans import Plan, Setting
from ovolo.fields import fields_told
from ovolo.meaning.program import Program, ProgramLine
from ovolo.outcome.outcome import Check, Outcome, plain_value, show_line
from ovolo.outcome.part import Part
from ovolo.problems import Failure
from ovolo.quantities.dimension import MASS
from ovolo.quantities.kinds import GEOMETRY, YES_NO, FunctionKind, Quantity, innermost
from ovolo.quantities.show import show_quantity
from ovolo.running.evaluate import Memo, evaluate, evaluate_only
from ovolo.sheet import tree

SECONDS = 5.0
"""A trial takes no longer than a sheet may."""


class TriedPart(Struct, frozen=True):
    """A part of a trial: its pieces and its mass (kg; None where it is not known), also as it is said."""

    label: str
    pieces: int
    mass: float | None
    mass_said: str


class Trial(Struct, frozen=True):
    """One trial of a plan. `settings` are run-time values of the inputs that the plan varies, `values`
    those of the lines with a figure, both with how they are said; of each part, where parts were
    wanted, its pieces and its mass (kg, or None)."""

    number: int
    title: str
    settings: dict[str, Any]
    said: dict[str, str]
    values: dict[str, float | bool | str]
    texts: dict[str, str]
    checks: list[Check] = field(default_factory=list)
    problems: list[str] = field(default_factory=list)
    parts: dict[str, TriedPart] = field(default_factory=dict)

    @property
    def reasons(self) -> list[str]:
        """Why it fails, in few words; none where it does not."""
        failing = [one.message or one.text for one in self.checks if one.passed is False]
        return [*self.problems, *failing]

    @property
    def why(self) -> str:
        return next(iter(self.reasons), "")

    def as_json(self) -> dict[str, Any]:
        return fields_told(self) | {"reasons": self.reasons, "why": self.why}


def trials(
    program: Program, plan: Plan, numbers: Iterable[int], parts: bool = False
) -> Iterator[Trial]:
    """The trials of some settings of a plan, by their numbers from 0: values, checks and problems, and
    where they are wanted the `parts`. Without them only lines that are no geometry, and what checks
    need, are worked out."""
    memo = Memo(500)
    wanted = None if parts else wanted_lines(program)
    for number in numbers:
        yield trial(program, plan.axes, number, plan.settings[number], wanted, memo)


def wanted_lines(program: Program) -> list[ProgramLine]:
    """The lines that tell of a trial without its parts."""
    return [line for line in program.lines if not _is_built(line)]


def _is_built(line: ProgramLine) -> bool:
    """Whether a line is something that is drawn, or only there for drawing."""
    drawn = isinstance(line.content, tree.Part | tree.Dim)
    return drawn or isinstance(line.kind, FunctionKind) or innermost(line.kind) in GEOMETRY


def _shown(axes: Sequence[Axis], setting: Setting) -> dict[str, Any]:
    return {axis.name: setting.values.get(axis.name, axis.present) for axis in axes}


def shown_settings(plan: Plan, number: int) -> dict[str, Any]:
    """The values of all axes at a setting of a plan, as a screen has them."""
    shown = _shown(plan.axes, plan.settings[number])
    return {axis.name: plain(axis, shown[axis.name]) for axis in plan.axes}


def trial(
    program: Program,
    axes: Sequence[Axis],
    number: int,
    setting: Setting,
    wanted: list[ProgramLine] | None = None,
    memo: Memo | None = None,
) -> Trial:
    """One setting tried; all of the study, or only the lines that are `wanted` and what they need."""
    shown = _shown(axes, setting)
    settings = {axis.name: plain(axis, shown[axis.name]) for axis in axes}
    said = {axis.name: axis.said(shown[axis.name], program.units) for axis in axes}
    if setting.refused:
        return Trial(number, setting.title, settings, said, {}, {}, problems=[setting.refused])
    if wanted is None:
        lines = evaluate(program, setting.values, memo, SECONDS)
    else:
        lines = evaluate_only(program, wanted, setting.values, memo, SECONDS)
    outcome = Outcome(program, lines)
    values, texts = values_of(outcome)
    parts = {} if wanted is not None else {n: _told(p, outcome) for n, p in outcome.parts.items()}
    wrongs = [said for _, said in outcome.wrongs]
    return Trial(
        number, setting.title, settings, said, values, texts, outcome.checks, wrongs, parts
    )


def built(program: Program, setting: Setting, memo: Memo | None = None) -> Outcome:
    """All of the study at one setting, for a drawing or a file of it. Raises Failure where that was refused."""
    if setting.refused:
        raise Failure(setting.refused)
    return Outcome(program, evaluate(program, setting.values, memo))


def values_of(outcome: Outcome) -> tuple[dict[str, float | bool | str], dict[str, str]]:
    """By name the plain values of the lines with one figure, yes or no, or a text (mm, degrees, kg, s),
    and how they are said."""
    values: dict[str, float | bool | str] = {}
    texts = {}
    for line in outcome.lines:
        name, kind = line.line.name, line.line.kind
        told = (
            isinstance(kind, Quantity)
            or kind == YES_NO
            or (kind is not None and kind.word == "text")
        )
        if not name or not told or not line.has_value:
            continue
        value = plain_value(line.value, kind)
        if isinstance(value, bool | int | float | str):
            values[name], texts[name] = value, str(show_line(line, outcome.units)).strip('"')
    return values, texts


def _told(part: Part, outcome: Outcome) -> TriedPart:
    mass = part.mass
    mass_said = "" if mass is None else str(show_quantity(mass, MASS, outcome.units))
    return TriedPart(part.label, part.count, mass, mass_said)


# --- as a table ---


def as_csv(trials: Iterable[Mapping[str, Any]], names: Sequence[str] = ()) -> str:
    """Trials (as JSON has them) as CSV: number, title, inputs, values (all, or those named), pieces and
    masses of parts, whether all is well, and why not. Figures in mm, degrees, kg, s."""
    found = list(trials)
    inputs = _names(one["settings"] for one in found)
    values = list(names) or [n for n in _names(one["values"] for one in found) if n not in inputs]
    parts = _names(one["parts"] for one in found)
    made = io.StringIO()
    writer = csv.writer(made, lineterminator="\n")
    titled = any(one["title"] for one in found)
    head = ["number", *(["title"] if titled else []), *inputs, *values]
    head += [f"{name} {what}" for name in parts for what in ("pieces", "mass [kg]")]
    writer.writerow([*head, "well", "why not"])
    for one in found:
        row = [one["number"] + 1, *([one["title"]] if titled else [])]
        row += [_cell(one["values"].get(name, one["settings"].get(name, ""))) for name in inputs]
        row += [_cell(one["values"].get(name, "")) for name in values]
        for name in parts:
            part = one["parts"].get(name, {})
            row += [part.get("pieces", ""), _cell(part.get("mass", ""))]
        writer.writerow([*row, "no" if one["why"] else "yes", one["why"]])
    return made.getvalue()


def _names(tables: Iterable[Mapping[str, Any]]) -> list[str]:
    return list(dict.fromkeys(name for table in tables for name in table))


def _cell(value: Any) -> Any:
    if isinstance(value, bool):
        return "yes" if value else "no"
    return "" if value is None else value


def check_names(program: Program, names: Iterable[str]) -> None:
    """Raises Failure where one of the names is no line with a value."""
    for name in names:
        if name not in program.by_name:
            raise Failure(f"no line is called `{name}`")
