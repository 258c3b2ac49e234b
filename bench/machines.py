"""Rows of the two benches: a print in layers, a nest, bars, a long program."""

from __future__ import annotations

import random

import manifold3d
import numpy as np
import shapely
from scipy.optimize import linprog

from bench.row import Pair, Row
from ovolo.benches.cutting.bars import cut_bars
from ovolo.benches.cutting.cutter import RECTANGLES, Cutter
from ovolo.benches.cutting.plan import cut_plan
from ovolo.benches.printing.bodies import Body
from ovolo.benches.printing.build import FINENESS, Layered, Print
from ovolo.benches.printing.layers import heights_for, sections
from ovolo.benches.printing.lines import LayerLines, Line, lines_of_layers
from ovolo.benches.printing.plate import Place
from ovolo.benches.printing.printer import Printer
from ovolo.benches.printing.program import moves_of
from ovolo.benches.printing.supports import supports
from ovolo.outcome.outcome import outcome_of

_LAYERS = 600


def _ball() -> tuple[Body, Printer]:
    """A ball of 5,000 triangles, 60 mm high."""
    ball = manifold3d.Manifold.sphere(30, 100).translate((30, 30, 30))
    return Body("ball", "Ball", ball, 1), Printer(layer=0.1, first_layer=0.1)


def _print() -> Pair:
    """Sections, walls, skins, insides and their order; the kernel's bare sections and as many offsets."""
    body, printer = _ball()
    heights = heights_for([body], printer)
    middles = heights.middles[: heights.of(body)]

    def ovolo() -> object:
        areas = sections(body.manifold, middles, printer.line * FINENESS)
        under = supports(body, areas, heights, printer)
        return lines_of_layers(areas, under, heights, printer, range(len(areas)))

    def by_hand() -> object:
        areas = np.array(
            [shapely.Polygon(body.manifold.slice(float(z)).to_polygons()[0]) for z in middles]
        )
        insets = (0.5, 1.5, 2.0, 2.5)
        return [
            shapely.buffer(areas, -share * printer.line, join_style="mitre") for share in insets
        ]

    return ovolo, by_hand


def _nest() -> Pair:
    """120 mixed rectangles on sheets, by sixteen rules; by one of them."""
    import rectpack

    dice = random.Random(11)
    sides = [(dice.randint(40, 300), dice.randint(20, 180)) for _ in range(120)]
    lines = (f"part r{at} = rect({w} mm, {h} mm)" for at, (w, h) in enumerate(sides))
    parts = list(outcome_of("\n".join(lines)).parts.values())
    cutter = Cutter(margin=0.0, apart=0.5, lead=0.2, nested=RECTANGLES)

    def by_hand() -> object:
        packer = rectpack.newPacker(rotation=True)
        for width, height in sides:
            packer.add_rect(width, height)
        packer.add_bin(1220, 610, count=20)
        packer.pack()
        return packer

    return lambda: cut_plan(parts, cutter, {}), by_hand


def _bars() -> Pair:
    """200 pieces of 12 lengths from bars of 6 m, proved; the linear program of single lengths."""
    dice = random.Random(5)
    lengths = [dice.uniform(300, 2800) for _ in range(12)]
    counts = [200 // 12 + (at < 200 % 12) for at in range(12)]

    def ovolo() -> object:
        plan = cut_bars(list(zip(lengths, counts, strict=True)), 6000.0, seconds=5.0)
        assert plan.proved
        return plan

    def by_hand() -> object:
        most = np.floor(6000 / np.array(lengths))
        return linprog(np.ones(12), A_ub=-np.diag(most), b_ub=-np.array(counts), method="highs")

    return ovolo, by_hand


def _program() -> Pair:
    """A million moves as G-code, line after line; the same figures formatted, and nothing else."""
    turn = np.linspace(0, 2_000 * np.pi, 10_001)
    spiral = np.column_stack([100 + 50 * np.cos(turn), 100 + 50 * np.sin(turn)])
    lines = LayerLines([Line("outer wall", spiral, 0.4)] * 100)
    body, printer = _ball()
    heights = heights_for([body], printer)
    made = Print(printer, [Layered(body, np.array([]), np.array([]))], [Place(0, 0, 0.0, 0.0, False)], (), heights)  # fmt: skip

    def ovolo() -> object:
        return sum(len(line) for line in moves_of(lines, made, made.places[0], 0))

    def by_hand() -> object:
        figures = spiral.tolist()
        return sum(len(f"G1 X{x:.3f} Y{y:.3f} E{0.02:.5f}") for _ in range(100) for x, y in figures)

    return ovolo, by_hand


ROWS = [
    Row("600 layers of 5,000 triangles to lines", "at most 2", _print, rounds=3),
    Row("120 mixed rectangles nested, 16 rules", "88 % used: a test", _nest, rounds=3),
    Row("200 pieces of 12 lengths from bars, proved", "under 5 s", _bars, rounds=3),
    Row("1 million moves of G-code, in a stream", "under 5 s", _program, rounds=3),
]
