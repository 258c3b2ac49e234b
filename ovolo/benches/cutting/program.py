"""The G-code of a sheet: M3 and M5 put the tool on and off, G4 waits while it pierces, arcs are arcs."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from ovolo.benches.cutting.nesting import Nest
from ovolo.benches.cutting.routes import Cut, moves, spans
from ovolo.benches.gcode import comment
from ovolo.geometry.types import Points


def program(nest: Nest, sheet: int, cuts: Sequence[Cut], title: str) -> Iterator[str]:
    """The lines of the program for a sheet."""
    cutter = nest.cutter
    yield comment(title)
    yield comment(f"{cutter.title}: sheet {sheet + 1}, {cutter.width:g} x {cutter.height:g} mm")
    yield from ("G21", "G90", "M5")
    down = ("M3", f"G4 P{cutter.pierce:g}") if cutter.pierce else ("M3",)
    for cut in cuts:
        yield comment(f"{nest.pieces[nest.laid[cut.laid].piece].mark} {cut.kind}")
        yield f"G0 {_to(cut.start)} F{cutter.travel * 60:g}"
        yield from down
        yield f"G1 {_to(cut.path.start)} F{cutter.speed * 60:g}"
        for at, (curve, on) in enumerate(spans(cut)):
            if at:
                yield from down if on else ("M5",)
            place = curve.start
            for piece in curve.pieces:
                for to, centre, clockwise in moves(piece):
                    yield _move(place, to, centre, clockwise)
                    place = to
        yield "M5"
    yield "M2"


def _to(place: Points) -> str:
    return f"X{place[0]:.4f} Y{place[1]:.4f}"


def _move(place: Points, to: Points, centre: Points | None, clockwise: bool) -> str:
    if centre is None:
        return f"G1 {_to(to)}"
    i, j = centre[0] - place[0], centre[1] - place[1]
    return f"G{2 if clockwise else 3} {_to(to)} I{i:.4f} J{j:.4f}"
