"""What is measured: a sheet, and the same by hand."""

from __future__ import annotations

import itertools
import json
import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import shapely

from ovolo.geometry.region import disc
from ovolo.meaning.program import checked_program
from ovolo.outcome.outcome import Outcome
from ovolo.outcome.scene import scene_of
from ovolo.running.evaluate import Memo, evaluate

Pair = tuple[Callable[[], object], Callable[[], object]]


@dataclass(frozen=True)
class Row:
    title: str
    budget: str
    prepare: Callable[[], Pair]
    rounds: int = 15


def _formula() -> Pair:
    """A + B sin(C i) over 100,000 indices, the inputs changing each time."""
    program = checked_program(
        "input a = 120 mm\nb = 35 mm\nc = 0.3°\nwave = [a + b * sin(c * i) for i in 0 .. 99999]"
    )
    turns = itertools.count(1)

    def ovolo() -> object:
        return evaluate(program, {"a": 120.0 + next(turns)})[-1].value

    def by_hand() -> object:
        a = 120.0 + next(turns)
        return a + 35.0 * np.sin(np.radians(0.3) * np.arange(100_000, dtype=float))

    return ovolo, by_hand


def _copies() -> Pair:
    """20,000 copies moved and turned by index, to the bytes that are sent."""
    program = checked_program(
        "input pitch = 50 mm\nb = box(40 mm, 30 mm, 20 mm)\n"
        "part p = [b.turn(i * 7°).move(i * pitch, mod(i, 10) * 1 mm) for i in 0 .. 19999]"
    )
    turns = itertools.count(1)
    memo = Memo()

    def ovolo() -> object:
        lines = evaluate(program, {"pitch": 50.0 + next(turns) / 1000}, memo)
        return scene_of(Outcome(program, lines), {"box"})

    def by_hand() -> object:
        """Composes the shift, the rotation and the shape's own placement, as any such script
        must for a general array; and writes the columns as float32 behind a header."""
        pitch = 50.0 + next(turns) / 1000
        i = np.arange(20_000, dtype=float)
        angle = np.radians(7.0) * i
        turn = np.zeros((20_000, 4, 4))
        turn[:, 0, 0] = turn[:, 1, 1] = np.cos(angle)
        turn[:, 1, 0] = np.sin(angle)
        turn[:, 0, 1] = -turn[:, 1, 0]
        turn[:, 2, 2] = turn[:, 3, 3] = 1.0
        move = np.zeros((20_000, 4, 4))
        move[:] = np.eye(4)
        move[:, 0, 3] = i * pitch
        move[:, 1, 3] = np.mod(i, 10)
        size = np.diag([40.0, 30.0, 20.0, 1.0])
        matrices = move @ (turn @ size)
        corners = np.array(list(itertools.product((-0.5, 0.5), (-0.5, 0.5), (0.0, 1.0))))
        placed = np.einsum("nij,kj->nki", matrices[:, :3, :3], corners) + matrices[:, None, :3, 3]
        bounds = [placed.min(axis=(0, 1)).tolist(), placed.max(axis=(0, 1)).tolist()]
        header = json.dumps({"count": 20_000, "bounds": bounds}).encode()
        columns = np.ascontiguousarray(matrices.swapaxes(1, 2), dtype=np.float32)
        return header + columns.tobytes() + np.arange(20_000, dtype=np.uint32).tobytes()

    return ovolo, by_hand


def _plate() -> Pair:
    """A plate with 1,000 holes, by a difference in 2D and an extrusion."""
    import manifold3d

    program = checked_program(
        "input r = 3 mm\nhole = disc(r)\n"
        "plate = rect(1 m, 1 m) - [hole.move((i - 19.5) * 25 mm, (j - 12) * 30 mm)"
        " for i in 0 .. 39 for j in 0 .. 24]\npart p = extrude(plate, 8 mm)"
    )
    turns = itertools.count(1)

    def ovolo() -> object:
        return evaluate(program, {"r": 3.0 + next(turns) / 1000})[-1].value

    def by_hand() -> object:
        hole = disc(3.0 + next(turns) / 1000).flat
        rim = np.asarray(hole.exterior.coords)
        shifts = [((i - 19.5) * 25, (j - 12) * 30) for i in range(40) for j in range(25)]
        holes = shapely.union_all([shapely.Polygon(rim + shift) for shift in shifts])
        plate = shapely.orient_polygons(
            shapely.difference(shapely.box(-500, -500, 500, 500), holes)
        )
        rings = [np.asarray(r.coords)[:-1] for r in (plate.exterior, *plate.interiors)]
        section = manifold3d.CrossSection(rings, manifold3d.FillRule.Positive)
        solid = manifold3d.Manifold.extrude(section, 8.0)
        return solid.volume()

    return ovolo, by_hand


def _long_sheet(lines: int, chained: int, turn: float = 1.01) -> str:
    """Inputs `turned` and `other`; `chained` lines follow from the first, the rest from the
    other. Another `turn` makes every line another text."""
    text = ["input turned = 100 mm", "input other = 200 mm"]
    text += [
        f"a{k} = {f'a{k - 1}' if k else 'turned'} * {turn} + sqrt(turned * 1 mm)"
        for k in range(chained)
    ]
    text += [
        f"b{k} = max(other, {k} mm) + sum([other * {turn} / (i + {k + 1}) for i in 0 .. 20])"
        for k in range(lines - chained - 2)
    ]
    return "\n".join(text)


def _long_script(lines: int, chained: int, turn: float) -> str:
    """The same as a Python script of as many lines."""
    text = ["turned = 100.0", "other = 200.0"]
    text += [
        f"a{k} = {f'a{k - 1}' if k else 'turned'} * {turn} + sqrt(turned)" for k in range(chained)
    ]
    text += [
        f"b{k} = max(other, {k}) + sum([other * {turn} / (i + {k + 1}) for i in range(21)])"
        for k in range(lines - chained - 2)
    ]
    return "\n".join(text)


def _one_input() -> Pair:
    """One input of a 500-line sheet turned, 20 lines depend on it; by hand: the whole sheet."""
    program = checked_program(_long_sheet(500, 20))
    memo = Memo()
    turns = itertools.count(1)
    evaluate(program, {}, memo)

    def ovolo() -> object:
        return evaluate(program, {"turned": 100.0 + next(turns)}, memo)

    def whole() -> object:
        return evaluate(program, {"turned": 100.0 + next(turns)}, Memo())

    return ovolo, whole


def _two_thousand_lines() -> Pair:
    """A sheet of 2,000 lines never seen before, read, checked and run; by hand: the same as a
    Python script, compiled and run."""
    turns = itertools.count(1)

    def ovolo() -> object:
        text = _long_sheet(2000, 200, 1 + next(turns) / 10_000)
        return evaluate(checked_program(text), {}, Memo())

    def by_hand() -> object:
        names: dict[str, object] = {"sqrt": math.sqrt}
        exec(_long_script(2000, 200, 1 + next(turns) / 10_000), names)
        return names["b1"]

    return ovolo, by_hand


def _one_line_of_many() -> Pair:
    """One line of 2,000 rewritten; by hand: the same sheet read, checked and run afresh."""
    text = _long_sheet(2000, 200)
    memo = Memo()
    turns = itertools.count(1)
    evaluate(checked_program(text), {}, memo)

    def ovolo() -> object:
        return evaluate(checked_program(f"{text}\nlast_line = b7 + {next(turns)} mm"), {}, memo)

    def afresh() -> object:
        changed = _long_sheet(2000, 200, 1 + next(turns) / 10_000)
        return evaluate(checked_program(changed), {}, Memo())

    return ovolo, afresh


ROWS = [
    Row("trigonometric formula over 100,000 indices", "at most 1.5", _formula),
    Row("20,000 copies moved and turned, to the bytes sent", "at most 1.5", _copies),
    Row("plate with 1,000 holes", "at most 1.2", _plate, rounds=5),
    Row("one input of 500 lines turned, by the whole sheet", "at most 0.1", _one_input),
    Row("2,000 new lines read, checked, run, by a script run", "", _two_thousand_lines, rounds=3),
    Row("one line of 2,000 rewritten, by all of it afresh", "", _one_line_of_many, rounds=3),
]
