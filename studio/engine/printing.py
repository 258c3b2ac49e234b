"""What worker processes do for the print bench. Everything here takes and gives plain data."""

from __future__ import annotations

import io

from ovolo.benches.answers import (
    LaidOutSaid,
    LayerSaid,
    LayersSaid,
    PrintedSaid,
    PrintLaidSaid,
    refused_said,
)
from ovolo.benches.printing.bodies import ROLES
from ovolo.benches.printing.build import Print, figures_of, print_of
from ovolo.benches.printing.printer import Printer
from ovolo.benches.printing.program import beginning, ending, layers, program
from ovolo.benches.printing.shown import shown_figures, shown_layer, shown_parts, shown_print
from ovolo.benches.printing.simulated import SimulatedPrinter
from ovolo.benches.profile import rail
from ovolo.formats.attached import Files
from ovolo.outcome.outcome import Outcome
from ovolo.problems import Failure
from ovolo.remembering import Remembered
from studio.engine import tasks
from studio.engine.machines import Said, machine_of, roles_of
from studio.engine.naming import name_of

_PIECE = 2_000
"""Bytes that a layer of a body holds, about, beside its corners."""


def _weight(made: Print) -> int:
    import shapely

    return sum(
        _PIECE * len(one.sections) + 16 * int(shapely.get_num_coordinates(one.sections).sum())
        for one in made.layered
    )


_PRINTS = Remembered[Print](_weight, most=6)


def _print(text: str, files: Files, said: Said) -> Print:
    printer, roles = machine_of(Printer, said), said.get("roles") or {}
    key = name_of(text, sorted(files.items()), said.get("set"), printer, sorted(roles.items()))
    made = _PRINTS.get(key)
    if made is None:
        parts = list(_outcome(text, files, said).parts.values())
        made = print_of(parts, printer, roles_of(said, parts))
        _PRINTS.put(key, made)
    return made


def _outcome(text: str, files: Files, said: Said) -> Outcome:
    return tasks.outcome_at(text, said.get("set") or {}, files)


def lay(text: str, files: Files, said: Said) -> PrintLaidSaid:
    """The bodies on their plates, in layers. What can be set is told also where nothing can be printed."""
    printer = machine_of(Printer, said)
    parts = list(_outcome(text, files, said).parts.values())
    known: LaidOutSaid = {
        "rail": rail(printer),
        "title": printer.title,
        "parts": shown_parts(parts, roles_of(said, parts)),
        "roles": list(ROLES),
        "refused": [],
        "failure": None,
    }
    try:
        made = _print(text, files, said)
        return {**known, "refused": refused_said(made.refused), "print": shown_print(made)}
    except Failure as failure:
        return {**known, "print": None, "failure": {"said": failure.message, "hint": failure.hint}}


def layer_figures(text: str, files: Files, said: Said) -> LayersSaid:
    """What the layers from `first` to `last`, that left out, take. Raises Failure."""
    made, plate, chosen = _chosen(text, files, said)
    figures, found = figures_of(made, plate, chosen)
    return shown_figures(made, plate, chosen, figures, found)


def one_layer(text: str, files: Files, said: Said) -> LayerSaid:
    """The lines of the layer `first`. Raises Failure."""
    made, plate, chosen = _chosen(text, files, {**said, "last": int(said.get("first") or 0) + 1})
    return shown_layer(made, plate, chosen.start)


def _chosen(text: str, files: Files, said: Said) -> tuple[Print, int, range]:
    made = _print(text, files, said)
    plate, first, last = (int(said.get(name) or 0) for name in ("plate", "first", "last"))
    if not 0 <= plate < made.plates:
        raise Failure(f"there is no plate {plate + 1}", f"there are {made.plates}")
    count = made.layers_of(plate)
    if not 0 <= first < last <= count:
        raise Failure(f"there are no layers {first + 1} to {last}", f"there are {count}")
    return made, plate, range(first, last)


def run(text: str, files: Files, said: Said) -> PrintedSaid:
    """What the simulated printer lays down of the layers from `first` to `last`, beginning where it stands
    (`at`). Raises Failure."""
    made, plate, chosen = _chosen(text, files, said)
    machine = SimulatedPrinter(made.printer)
    if said.get("at"):
        x, y, z = (float(one) for one in said["at"])
        machine.laid.at = x, y, z
    machine.run(beginning(made, ""))
    laid = machine.run(layers(made, plate, chosen))
    machine.run(ending())
    return {
        "volume": laid.volume, "line": laid.line, "travel": laid.travel, "seconds": laid.seconds,
        "moves": laid.moves, "levels": laid.levels, "at": list(laid.at), "last": chosen.stop,
    }  # fmt: skip


def code(text: str, files: Files, said: Said) -> bytes:
    """The G-code of a plate, written line by line: nothing is held of it but its bytes. Raises Failure."""
    made, plate, _ = _chosen(text, files, {**said, "first": 0, "last": 1})
    written = io.BytesIO()
    for line in program(made, plate, str(said.get("title") or "")):
        written.write(f"{line}\n".encode("ascii"))
    return written.getvalue()
