"""`ovolo cut`: the cut list of a sheet on bars."""

from __future__ import annotations

import argparse
import json
from typing import Any

from ovolo.command.sheets import outcome_said, sheet_command
from ovolo.problems import Failure

_SECONDS = 60.0


def add_commands(commands: Any) -> None:
    """Adds the command to those of the parser."""
    cut = sheet_command(commands, "cut", _cut, "cut the pieces of a sheet from bars, the fewest there can be")  # fmt: skip
    cut.add_argument("--bar", required=True, metavar="LENGTH", help="of a bar: 6m")
    cut.add_argument("--kerf", default="", metavar="LENGTH", help="what a cut takes: 3mm")
    cut.add_argument("--trim", default="", metavar="LENGTH", help="what each end of a bar loses")
    cut.add_argument("--part", action="append", default=[], metavar="NAME")
    cut.add_argument("--json", action="store_true", help="print the plan as JSON")


def _cut(options: argparse.Namespace) -> int:
    from ovolo.benches.cutting.bar_list import as_json, bars_said, sections_on_bars, shown_bars

    outcome = outcome_said(options)
    for name in options.part:
        if name not in outcome.parts:
            raise Failure(f"there is no part `{name}`", f"known: {', '.join(outcome.parts)}")
    parts = [
        part for name, part in outcome.parts.items() if name in options.part or not options.part
    ]
    bar, saw = bars_said(vars(options), outcome.units)
    sections = sections_on_bars(parts, bar, saw, _SECONDS)
    if options.json:
        print(json.dumps(as_json(sections), ensure_ascii=False, indent=2))
    else:
        for one in shown_bars(sections, outcome.units):
            print(
                f"{one['title']}: {one['said']}", *(f"  {line}" for line in one["bars"]), sep="\n"
            )
    return 0 if all(one.plan is not None for one in sections) else 1
