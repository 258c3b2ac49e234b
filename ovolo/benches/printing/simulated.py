"""The simulated printer: it reads a program, moves its head, and adds up what it lays down.

It knows nothing of the print that the program was made from: what it counts is a second opinion.
"""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
from msgspec import Struct, field

from ovolo.benches.gcode import Block, blocks
from ovolo.benches.motion import runs, times
from ovolo.benches.printing.printer import Printer
from ovolo.problems import Failure

Place = tuple[float, float, float]

_SLACK = 0.002
"""mm by which a move may leave the plate: figures are written in thousandths."""


class Laid(Struct):
    """What a program laid down: mm³ of material, mm of line, mm of travel, seconds; how many moves; at how
    many levels; and where it ended."""

    volume: float = 0.0
    line: float = 0.0
    travel: float = 0.0
    seconds: float = 0.0
    moves: int = 0
    levels: int = 0
    at: Place = (0.0, 0.0, 0.0)


class SimulatedPrinter(Struct):
    """A printer of a profile. `run` may be given a program in pieces."""

    printer: Printer
    laid: Laid = field(default_factory=Laid)
    feed: float = 0.0
    """mm/s."""

    _path: list[Place] = field(default_factory=list)
    _laying: bool = False
    _level: float = -1.0

    def run(self, program: Iterable[str]) -> Laid:
        """Carries out the program. Raises Failure at what it does not know, and where its head would leave
        the plate."""
        for block in blocks(program):
            code = block.words.get("G")
            if code in (0.0, 1.0):
                self._move(block)
            elif code is not None and code not in _MODES:
                raise Failure(f"line {block.line}: this printer has no G{code:g}")
            elif code is None and block.words.get("M") not in _SWITCHES:
                raise Failure(f"line {block.line}: this printer does not know {block.said}")
        self._finish()
        return self.laid

    def _move(self, block: Block) -> None:
        fed = block.words.get("E") or 0.0
        if (feed := block.words.get("F")) is not None:
            if feed != self.feed * 60:
                self._finish()
            self.feed = feed / 60
        x, y, z = self.laid.at
        words = block.words
        to = words.get("X", x), words.get("Y", y), words.get("Z", z)
        self._refuse_outside(to, block)
        if self.feed <= 0:
            raise Failure(f"line {block.line}: a move without a speed")
        if (fed > 0) is not self._laying:
            self._finish()
        self._laying = fed > 0
        self._path = self._path or [self.laid.at]
        self._path.append(to)
        if self._laying and to[2] != self._level:
            self._level = to[2]
            self.laid.levels += 1
        self.laid.at = to
        self.laid.moves += 1
        self.laid.volume += fed * self.printer.thread_area

    def _refuse_outside(self, to: Place, block: Block) -> None:
        room = (
            self.printer.width,
            self.printer.depth,
            self.printer.height + self.printer.first_layer,
        )
        for axis, value, most in zip("XYZ", to, room, strict=True):
            if not -_SLACK <= value <= most + _SLACK:
                raise Failure(
                    f"line {block.line}: {axis} {value:g} mm lies off the plate",
                    f"0 to {most:g} mm",
                )

    def _finish(self) -> None:
        """Ends the moves that go on from each other: their length and their time."""
        path = np.array(self._path).reshape(-1, 3)
        self._path = []
        if len(path) < 2:
            return
        length = float(np.linalg.norm(np.diff(path, axis=0), axis=1).sum())
        stops = runs(path[:, :2]) if self._laying else np.linalg.norm(np.diff(path, axis=0), axis=1)
        self.laid.seconds += float(times(stops, self.feed, self.printer.acceleration).sum())
        if self._laying:
            self.laid.line += length
        else:
            self.laid.travel += length


_MODES = {21.0, 90.0}
_SWITCHES = {83.0, 104.0, 109.0, 140.0, 190.0, 2.0}
