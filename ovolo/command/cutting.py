"""`ovolo cut`: the cut list of a study on bars; `ovolo nest`: its flat pieces on sheets, and their files."""

from __future__ import annotations

import argparse
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from ovolo.command.machines import add_machine, machine_said
from ovolo.command.sheets import outcome_said, sheet_command
from ovolo.command.telling import told
from ovolo.problems import Failure

_SECONDS = 60.0
_WORK = 6_000


def add_commands(commands: Any) -> None:
    """Adds the command to those of the parser."""
    cut = sheet_command(commands, "cut", _cut, "cut the pieces of a sheet from bars, the fewest there can be")  # fmt: skip
    cut.add_argument("--bar", required=True, metavar="LENGTH", help="of a bar: 6m")
    cut.add_argument("--kerf", default="", metavar="LENGTH", help="what a cut takes: 3mm")
    cut.add_argument("--trim", default="", metavar="LENGTH", help="what each end of a bar loses")
    cut.add_argument("--part", action="append", default=[], metavar="NAME")
    nest = sheet_command(commands, "nest", _nest, "lay the flat pieces of a sheet on stock, and write what cuts them")  # fmt: skip
    add_machine(nest, "kerf=0.3mm")
    nest.add_argument("--part", action="append", default=[], metavar="NAME")
    nest.add_argument("--to", metavar="FOLDER", help="writes DXF, SVG and G-code of each sheet, labels, the cut list")  # fmt: skip


def _cut(options: argparse.Namespace) -> int:
    from ovolo.benches.cutting.bar_list import as_json, bars_said, sections_on_bars, shown_bars

    outcome = outcome_said(options)
    parts = _parts(outcome, options.part)
    bar, saw = bars_said(vars(options), outcome.units)
    sections = sections_on_bars(parts, bar, saw, _SECONDS)
    lines = (
        line
        for one in shown_bars(sections, outcome.units)
        for line in (f"{one['title']}: {one['said']}", *(f"  {bar}" for bar in one["bars"]))
    )
    told(options, as_json(sections), lines)
    return 0 if all(one.plan is not None for one in sections) else 1


def _parts(outcome: Any, names: list[str]) -> list[Any]:
    """The parts of these names, or all. Raises Failure for a name that none has."""
    for name in names:
        if name not in outcome.parts:
            raise Failure(f"there is no part `{name}`", f"known: {', '.join(outcome.parts)}")
    return [part for name, part in outcome.parts.items() if name in names or not names]


def _nest(options: argparse.Namespace) -> int:
    from ovolo.benches.answers import refused_said
    from ovolo.benches.cutting.cutter import Cutter
    from ovolo.benches.cutting.plan import cut_plan
    from ovolo.benches.cutting.shown import shown_plan

    outcome = outcome_said(options)
    cutter = machine_said(Cutter, options)
    plan = cut_plan(_parts(outcome, options.part), cutter, {}, _WORK)
    told(options, {**shown_plan(plan), "refused": refused_said(plan.refused)}, _lines(plan))
    if options.to:
        count = _write(plan, Path(options.to), outcome.program.title or "study")
        if not options.json:
            print(f"wrote {count} files to {options.to}")
    return 1 if plan.refused else 0


def _lines(plan: Any) -> Iterator[str]:
    yield f"{plan.cutter.title}: sheets of {plan.cutter.width:g} × {plan.cutter.height:g} mm"
    for thickness, nest in plan.nests:
        of = "" if thickness is None else f" {thickness:g} mm thick"
        yield f"  {len(nest.laid)} pieces{of}: {nest.sheets} by {nest.by}, {100 * (1 - nest.taken):.1f} % waste of what is taken"  # fmt: skip
    for number, sheet in enumerate(plan.sheets, 1):
        effort = sheet.effort
        yield f"  sheet {number}: {effort.seconds:.0f} s, {effort.length / 1000:.2f} m cut, {effort.pierces} times down"  # fmt: skip
    for one in plan.refused:
        yield f"  problem: {one.said}"


def _write(plan: Any, folder: Path, title: str) -> int:
    """How many files were written."""
    from ovolo.benches.cutting import outputs

    folder.mkdir(parents=True, exist_ok=True)
    made = {
        "labels.pdf": outputs.write_labels(plan, title),
        "cut-list.csv": outputs.write_list(plan),
    }
    for number, sheet in enumerate(plan.sheets, 1):
        made |= {
            f"sheet-{number}.dxf": outputs.write_dxf(sheet),
            f"sheet-{number}.svg": outputs.write_svg(sheet),
            f"sheet-{number}.gcode": outputs.write_code(sheet, title),
        }
    for name, data in made.items():
        (folder / name).write_bytes(data)
    return len(made)
