"""What worker processes do for the cutting bench. Everything here takes and gives plain data."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from ovolo.benches.answers import (
    BarCutSaid,
    CutBarsSaid,
    CutLaidSaid,
    CutMeasuredSaid,
    DrawnSectionSaid,
    LaidOutSaid,
    refused_said,
)
from ovolo.benches.cutting import outputs
from ovolo.benches.cutting.bar_list import Section, sections_on_bars, shown_bars
from ovolo.benches.cutting.bars import Saw
from ovolo.benches.cutting.cutter import Cutter
from ovolo.benches.cutting.plan import ROLES, CutPlan, NothingCut, Sheet, cut_plan, role_of
from ovolo.benches.cutting.program import program
from ovolo.benches.cutting.shown import shown_measured, shown_parts, shown_plan
from ovolo.benches.cutting.simulated import SimulatedCutter, measured
from ovolo.benches.profile import rail
from ovolo.formats.attached import Files
from ovolo.outcome.outcome import Outcome
from ovolo.problems import Failure
from ovolo.remembering import Remembered
from ovolo.running.under_way import so_far
from studio.engine import tasks
from studio.engine.machines import Said, machine_of, roles_of
from studio.engine.naming import name_of

_OF_A_PIECE = 20_000
"""Bytes that a laid piece holds with its cuts, about."""

_SAWING = 4.0


@dataclass(frozen=True)
class _Made:
    """A plan, or why there is none."""

    plan: CutPlan | None
    failure: Failure | None = None

    @property
    def refused(self) -> Sequence[Failure]:
        """Why pieces are not cut."""
        if self.plan is not None:
            return self.plan.refused
        return self.failure.refused if isinstance(self.failure, NothingCut) else ()


def _weight(made: _Made) -> int:
    return 10_000 + _OF_A_PIECE * (sum(len(nest.laid) for _, nest in made.plan.nests) if made.plan else 0)  # fmt: skip


_PLANS = Remembered[_Made](_weight, most=6)


def _outcome(text: str, files: Files, said: Said) -> Outcome:
    return tasks.outcome_at(text, said.get("set") or {}, files)


def _plan(text: str, files: Files, said: Said) -> _Made:
    cutter, roles = machine_of(Cutter, said), said.get("roles") or {}
    key = name_of(text, sorted(files.items()), said.get("set"), cutter, sorted(roles.items()))
    made = _PLANS.get(key)
    if made is None:
        try:
            parts = list(_outcome(text, files, said).parts.values())
            made = _Made(cut_plan(parts, cutter, roles_of(said, parts), told=so_far))
        except Failure as failure:
            made = _Made(None, failure)
        _PLANS.put(key, made)
    return made


def lay(text: str, files: Files, said: Said) -> CutLaidSaid:
    """The pieces on their sheets, and on bars. What can be set is told also where nothing is cut."""
    cutter, outcome = machine_of(Cutter, said), _outcome(text, files, said)
    parts = list(outcome.parts.values())
    roles = roles_of(said, parts)
    made = _plan(text, files, said)
    failure = made.failure
    known: LaidOutSaid = {
        "rail": rail(cutter),
        "title": cutter.title,
        "parts": shown_parts(parts, roles),
        "roles": list(ROLES),
        "refused": refused_said(made.refused),
        "failure": None if failure is None else {"said": failure.message, "hint": failure.hint},
    }
    plan = None if made.plan is None else shown_plan(made.plan)
    return {**known, "plan": plan, "bars": _bars(outcome, cutter, roles)}


def _bars(outcome: Outcome, cutter: Cutter, roles: Mapping[str, str]) -> CutBarsSaid:
    """The pieces sawn from bars; where there is nothing to saw, why."""
    parts = [part for part in outcome.parts.values() if role_of(part, roles) == "cut"]
    try:
        sections = sections_on_bars(parts, cutter.bar, Saw(cutter.kerf, cutter.trim), _SAWING)
    except Failure as failure:
        return {"said": failure.message, "sections": []}
    drawn: list[DrawnSectionSaid] = [
        {**shown, "drawn": _drawn(section)}
        for shown, section in zip(shown_bars(sections, outcome.units), sections, strict=True)
    ]
    return {
        "said": "",
        "sections": drawn,
        "bar": cutter.bar,
        "kerf": cutter.kerf,
        "trim": cutter.trim,
    }


def _drawn(section: Section) -> list[BarCutSaid]:
    bars = () if section.plan is None else section.plan.bars
    return [{"number": bar.number, "cuts": list(bar.cuts), "rest": bar.rest} for bar in bars]


def _sheet_of(text: str, files: Files, said: Said) -> tuple[CutPlan, Sheet]:
    made = _plan(text, files, said)
    if made.plan is None:
        assert made.failure is not None
        raise made.failure
    number = int(said.get("plate") or 0)
    if not 0 <= number < len(made.plan.sheets):
        raise Failure(f"there is no sheet {number + 1}", f"there are {len(made.plan.sheets)}")
    return made.plan, made.plan.sheets[number]


def run(text: str, files: Files, said: Said) -> CutMeasuredSaid:
    """What the simulated cutter makes of a sheet (`plate`). Raises Failure."""
    plan, sheet = _sheet_of(text, files, said)
    machine = SimulatedCutter(plan.cutter)
    machine.run(program(sheet.nest, sheet.number, sheet.cuts, ""))
    return shown_measured(measured(sheet.nest, sheet.number, machine), machine)


def file(text: str, files: Files, said: Said) -> bytes:
    """A file of a sheet (`plate`), or of all: what it is says its ending. Raises Failure."""
    plan, sheet = _sheet_of(text, files, said)
    title = str(said.get("title") or "")
    makers = {
        "dxf": lambda: outputs.write_dxf(sheet),
        "svg": lambda: outputs.write_svg(sheet),
        "gcode": lambda: outputs.write_code(sheet, title),
        "pdf": lambda: outputs.write_labels(plan, title),
        "csv": lambda: outputs.write_list(plan),
    }
    if said.get("file") not in makers:
        raise Failure(f"a sheet is not handed over as `{said.get('file')}`", ", ".join(makers))
    made: bytes = makers[said["file"]]()
    return made
