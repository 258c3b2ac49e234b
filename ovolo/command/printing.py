"""`ovolo print`: how a study would be printed, and its program."""

from __future__ import annotations

import argparse
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from ovolo.command.machines import add_machine, machine_said
from ovolo.command.sheets import outcome_said, pairs, sheet_command
from ovolo.command.telling import told
from ovolo.problems import Failure


def add_commands(commands: Any) -> None:
    """Adds the command to those of the parser."""
    printing = sheet_command(commands, "print", _print, "how the solids of a sheet would be printed, and the G-code")  # fmt: skip
    add_machine(printing, "layer=0.3mm")
    printing.add_argument("--role", action="append", default=[], metavar="PART=ROLE", help="print, support here, no support here, left out")  # fmt: skip
    printing.add_argument("--plate", type=int, default=1, metavar="N")
    printing.add_argument("--to", metavar="FILE.gcode", help="writes the program of the plate")


def _print(options: argparse.Namespace) -> int:
    from ovolo.benches.printing.build import figures_of, print_of
    from ovolo.benches.printing.printer import Printer
    from ovolo.benches.printing.program import program

    outcome = outcome_said(options)
    printer = machine_said(Printer, options)
    roles = dict(pairs(options.role, 'role "pad=support here"'))
    made = print_of(list(outcome.parts.values()), printer, roles)
    plate = options.plate - 1
    if not 0 <= plate < made.plates:
        raise Failure(f"there is no plate {options.plate}", f"there are {made.plates}")
    figures, found = figures_of(made, plate, range(made.layers_of(plate)))
    said = _figures(made, plate, figures, found)
    told(options, said, _lines(said))
    if options.to:
        with Path(options.to).open("w", encoding="ascii") as file:
            file.writelines(f"{line}\n" for line in program(made, plate, outcome.program.title))
        if not options.json:
            print(f"wrote {options.to}")
    return 1 if made.refused or found else 0


def _figures(made: Any, plate: int, figures: Any, found: Any) -> dict[str, Any]:
    volume = sum(one.volume for one in figures)
    kinds: dict[str, list[int]] = {}
    for one in found:
        kinds.setdefault(one.kind, []).append(one.layer + 1)
    return {
        "printer": made.printer.title,
        "plates": made.plates,
        "layers": len(figures),
        "seconds": sum(one.seconds for one in figures),
        "line": sum(sum(one.lengths.values()) for one in figures),
        "volume": volume,
        "mass": volume * made.printer.material,
        "bodies": [
            {"label": one.body.label, "count": one.body.count, "lost": made.lost(at)}
            for at, one in enumerate(made.layered)
        ],
        "refused": [one.said for one in made.refused],
        "found": {kind: {"number": len(layers), "layers": [min(layers), max(layers)]} for kind, layers in kinds.items()},
    }  # fmt: skip


def _lines(said: dict[str, Any]) -> Iterator[str]:
    hours, minutes = divmod(round(said["seconds"] / 60), 60)
    yield f"{said['printer']}; plates: {said['plates']}"
    yield f"  {said['layers']} layers, {hours} h {minutes} min, {said['line'] / 1000:.1f} m of line, {said['mass'] * 1000:.1f} g"  # fmt: skip
    for one in said["bodies"]:
        yield f"  {one['count']} × {one['label']}: {one['lost']:.3g} mm lost to layers"
    for kind, where in said["found"].items():
        first, last = where["layers"]
        yield f"  problem: {kind}: {where['number']}, layers {first} to {last}"
    for one in said["refused"]:
        yield f"  problem: {one}"
