"""What is measured: a sheet, and the same by hand."""

from __future__ import annotations

import csv
import io
import itertools
import json
import math
import os
import subprocess
import sys
import tempfile
from pathlib import Path
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from bench.row import Pair, Row
from ovolo.formats.attached import read_files
from ovolo.geometry.regions.region import disc, regular_polygon
from ovolo.meaning.checked_sheet import checked_program
from ovolo.outcome.outcome import Outcome
from ovolo.outcome.scene import scene_of
from ovolo.running.evaluate import Memo, evaluate


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


def _sent(matrices: NDArray[np.float64]) -> bytes:
    """Boxes in their places as one sends them by hand: the count and the bounds, the columns as
    float32, the number of each."""
    corners = np.array(list(itertools.product((-0.5, 0.5), (-0.5, 0.5), (0.0, 1.0))))
    placed = np.einsum("nij,kj->nki", matrices[:, :3, :3], corners) + matrices[:, None, :3, 3]
    bounds = [placed.min(axis=(0, 1)).tolist(), placed.max(axis=(0, 1)).tolist()]
    header = json.dumps({"count": len(matrices), "bounds": bounds}).encode()
    columns = np.ascontiguousarray(matrices.swapaxes(1, 2), dtype=np.float32)
    return header + columns.tobytes() + np.arange(len(matrices), dtype=np.uint32).tobytes()


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
        return _sent(move @ (turn @ size))

    return ovolo, by_hand


def _hundred_thousand() -> Pair:
    """100,000 copies in a grid by a word, to the bytes that are sent."""
    program = checked_program(
        "input pitch = 50 mm\npart p = grid(box(8 mm, 8 mm, 8 mm), 400, 250, pitch, pitch)"
    )
    turns = itertools.count(1)
    memo = Memo()

    def ovolo() -> object:
        lines = evaluate(program, {"pitch": 50.0 + next(turns) / 1000}, memo)
        return scene_of(Outcome(program, lines), {"box"})

    def by_hand() -> object:
        """Shifts times the size of the box, its bounds, and the columns as float32 with the number
        of each item."""
        pitch = 50.0 + next(turns) / 1000
        x, y = np.tile(np.arange(400.0), 250) * pitch, np.repeat(np.arange(250.0), 400) * pitch
        move = np.zeros((100_000, 4, 4))
        move[:] = np.eye(4)
        move[:, 0, 3], move[:, 1, 3] = x, y
        return _sent(move @ np.diag([8.0, 8.0, 8.0, 1.0]))

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
        plate: Any = evaluate(program, {"r": 3.0 + next(turns) / 1000})[-1].value
        return plate.shape.manifold  # made when it is looked at

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


def _sweep() -> Pair:
    """A section of 48 points at the 1,281 stations that this twist asks for, along a rising curve."""
    import manifold3d

    from ovolo.geometry.curves.drafting import helix
    from ovolo.geometry.solids.sweeping import sweep

    path = helix(900.0, lambda turn: 2700.0, 3.0)
    turns = itertools.count(1)

    def ovolo() -> object:
        profile = regular_polygon(48, 60.0 + next(turns) / 1000)
        return sweep(profile, path, twist=1.7056).volume

    def by_hand() -> object:
        """Upright frames at even steps, quads parted in two, both ends fanned."""
        count, size = 1281, 48
        reach = 60.0 + next(turns) / 1000
        t = np.linspace(0, 3, count)
        a = 2 * np.pi * t
        places = np.column_stack([900 * np.cos(a), 900 * np.sin(a), 2700 * t])
        way = np.column_stack([-1800 * np.pi * np.sin(a), 1800 * np.pi * np.cos(a), np.full(count, 2700.0)])  # fmt: skip
        way /= np.linalg.norm(way, axis=1, keepdims=True)
        right = np.cross(way, [0, 0, 1])
        right /= np.linalg.norm(right, axis=1, keepdims=True)
        up = np.cross(right, way)
        corner = 2 * np.pi * np.arange(size) / size + 1.7056 * (t / 3)[:, None]
        x, y = reach * np.cos(corner)[..., None], reach * np.sin(corner)[..., None]
        rings = places[:, None] + x * right[:, None] + y * up[:, None]
        index = np.arange(count * size).reshape(count, size)
        onward = np.roll(index, -1, axis=1)
        p, q, r, s = (g.reshape(-1) for g in (index[:-1], onward[:-1], onward[1:], index[1:]))
        fan = np.array([(0, k, k + 1) for k in range(1, size - 1)])
        triangles = np.concatenate([np.column_stack([p, q, r]), np.column_stack([p, r, s]), fan[:, ::-1], fan + (count - 1) * size])  # fmt: skip
        mesh = manifold3d.Mesh64(rings.reshape(-1, 3), triangles.astype(np.uint64))
        return manifold3d.Manifold(mesh).volume()

    return ovolo, by_hand


def _loft() -> Pair:
    """A loft through 100 outlines of 64 corners."""
    import manifold3d

    from ovolo.geometry.placement import moved
    from ovolo.geometry.solids.lofting import loft

    turns = itertools.count(1)

    def sizes() -> list[float]:
        grown = next(turns) / 1000
        return [60 + 20 * math.sin(k / 9) + grown for k in range(100)]

    def ovolo() -> object:
        sections = [
            regular_polygon(64, size).placed(moved(np.array([0.0, 0.0, 10.0 * k])))
            for k, size in enumerate(sizes())
        ]
        return loft(sections).volume

    def by_hand() -> object:
        angles = 2 * np.pi * np.arange(64) / 64
        rings = np.array([np.column_stack([s * np.cos(angles), s * np.sin(angles), np.full(64, 10.0 * k)]) for k, s in enumerate(sizes())])  # fmt: skip
        index = np.arange(6400).reshape(100, 64)
        onward = np.roll(index, -1, axis=1)
        p, q, r, s = (g.reshape(-1) for g in (index[:-1], onward[:-1], onward[1:], index[1:]))
        fan = np.array([(0, k, k + 1) for k in range(1, 63)])
        triangles = np.concatenate([np.column_stack([p, q, r]), np.column_stack([p, r, s]), fan[:, ::-1], fan + 99 * 64])  # fmt: skip
        mesh = manifold3d.Mesh64(rings.reshape(-1, 3), triangles.astype(np.uint64))
        return manifold3d.Manifold(mesh).volume()

    return ovolo, by_hand


def _rims() -> Pair:
    """The upper rims of 200 holes rounded, in a plate that is there already."""
    import manifold3d

    from ovolo.geometry.placement import moved
    from ovolo.geometry.solids.booleans import combined
    from ovolo.geometry.solids.edge_profile import Finish
    from ovolo.geometry.solids.finished_edges import finished_edges
    from ovolo.geometry.solids.primitives import box, cylinder
    from ovolo.geometry.solids.solid import in_space
    from ovolo.geometry.tolerance import segments_for

    places = [(-190 + 20.0 * (i % 20), -90 + 20.0 * (i // 20)) for i in range(200)]
    holes = [cylinder(4.0, 30.0).placed(moved(np.array([x, y, -5.0]))) for x, y in places]
    plate = combined("-", box(420.0, 220.0, 10.0), *holes)  # type: ignore[arg-type]
    turns = itertools.count(1)

    def ovolo() -> object:
        finish = Finish("round", 1.0 + next(turns) / 1e4)
        return finished_edges(plate, finish, lambda e: e.closed and e.middle[2] > 5).volume

    def by_hand() -> object:
        """For each hole a ring, revolved, taken away from the plate."""
        r = 1.0 + next(turns) / 1e4
        angles = np.linspace(0, np.pi / 2, segments_for(1.0) // 4 + 1)
        arc = np.column_stack([4 + r - r * np.cos(angles), 10 - r + r * np.sin(angles)])
        outline = np.concatenate([arc, [[4 + r, 10.1], [3.9, 10.1], [3.9, 10 - r]]])
        section = manifold3d.CrossSection([outline[::-1]], manifold3d.FillRule.NonZero)
        ring = section.revolve(segments_for(4.0))
        rings = [ring.translate((x, y, 0)) for x, y in places]
        whole = in_space(plate)
        return manifold3d.Manifold.batch_boolean(
            [whole, *rings], manifold3d.OpType.Subtract
        ).volume()

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


def _repeated_constants() -> Pair:
    """1,000 lines that have a figure in common, read and checked; by hand: as many without."""
    turns = itertools.count(1)

    def read(figure: str) -> object:
        own = next(turns)
        return checked_program(
            "\n".join(f"a{k} = {own + k / 7:.6f} mm + {figure}" for k in range(1000))
        )

    return lambda: read("3.7 mm"), lambda: read("3 mm")


def _attached_table() -> Pair:
    """A table of 100,000 rows read and summed; by hand with the csv module, which knows no units,
    no empty cells and no decimal commas."""
    data = "".join(["name,width [mm]\n", *(f"b{k},{k % 977 / 8:.3f}\n" for k in range(100_000))])
    text = 'file beams = "beams.csv"\ntotal = sum(beams.width)'

    def ovolo() -> object:
        tables = read_files({"beams.csv": data.encode()})
        return evaluate(checked_program(text, tables), {}, Memo())[-1].value

    def by_hand() -> object:
        return math.fsum(float(row["width [mm]"]) for row in csv.DictReader(io.StringIO(data)))

    return ovolo, by_hand


def _strips() -> Pair:
    """60 strips between paths on a surface, thickened; by hand: what the kernel itself does with the meshes of such."""
    from ovolo.geometry.meshes.mesh import Mesh
    from ovolo.geometry.solids.solid import kernels_own

    turns = itertools.count(1)

    def solids(turn: int) -> list[Any]:
        text = f"""
            s = surface((u, v) -> (6 m * u, 4 m * v, {600 + turn / 100} mm * sin(u * 180°) * sin(v * 180°)))
            path(v) = curve(t -> point_at(s, t, v), 0, 1)
            strips = [thicken(ruled(path(i / 60), path((i + 0.7) / 60)), 20 mm) for i in 0 .. 59]"""
        lines = "\n".join(line.strip() for line in text.splitlines())
        return list(evaluate(checked_program(lines), {}, Memo())[-1].value)

    made = [one.shape.mesh for one in solids(next(turns))]
    meshes = [Mesh(mesh.corners.copy(), mesh.triangles) for mesh in made]

    return lambda: solids(next(turns)), lambda: [kernels_own(mesh) for mesh in meshes]


def _cold() -> Pair:
    """`ovolo eval` of one line by a process of its own; by hand: one that loads the libraries. Both
    with the bytecode of their modules kept, as an installed program has it."""
    kept = tempfile.mkdtemp()
    sheet = Path(kept) / "one.ovo"
    sheet.write_text("a = 1 m", encoding="utf-8")
    environment = {**os.environ, "PYTHONPYCACHEPREFIX": kept, "PYTHONDONTWRITEBYTECODE": ""}

    def process(*arguments: str) -> object:
        return subprocess.run(
            [sys.executable, *arguments], env=environment, check=True, capture_output=True
        )

    return (
        lambda: process("-m", "ovolo.command", "eval", str(sheet)),
        lambda: process("-c", "import numpy, shapely, manifold3d"),
    )


ROWS = [
    Row("trigonometric formula over 100,000 indices", "at most 1.5", _formula),
    Row("20,000 copies moved and turned, to the bytes sent", "at most 1.5", _copies),
    Row("100,000 copies in a grid, to the bytes sent", "", _hundred_thousand, rounds=7),
    Row("plate with 1,000 holes", "at most 1.2", _plate, rounds=5),
    Row("sweep of 1,280 sections", "", _sweep),
    Row("loft through 100 outlines", "", _loft),
    Row("upper rims of 200 holes rounded", "", _rims, rounds=3),
    Row("60 strips thickened along paths on a surface", "under 2 s", _strips, rounds=3),
    Row("one input of 500 lines turned, by the whole sheet", "at most 0.1", _one_input),
    Row("2,000 new lines read, checked, run, by a script run", "", _two_thousand_lines, rounds=3),
    Row(
        "1,000 lines with a figure in common, by as many without", "", _repeated_constants, rounds=3
    ),
    Row("a table of 100,000 rows attached, read and summed", "", _attached_table, rounds=3),
    Row("one line of 2,000 rewritten, by all of it afresh", "", _one_line_of_many, rounds=3),
    Row("`ovolo eval` of one line, cold, by loading libraries", "", _cold, rounds=7),
]
