"""What a bench tells the page: how a study would be printed and cut. Lengths in mm, areas in mm², volumes in
mm³, times in s. Declared once, for who makes it and for the scripts that take it."""

from __future__ import annotations

from collections.abc import Iterable
from typing import NotRequired, TypedDict

from ovolo.problems import Failure


class SettingSaid(TypedDict):
    """A setting of a machine: its figure without and with its unit."""

    name: str
    label: str
    said: str
    unit: str
    typed: str
    choices: list[str]


class SettingsSaid(TypedDict):
    """Settings under their heading."""

    group: str
    settings: list[SettingSaid]


class BenchPartSaid(TypedDict):
    """A part and what it is on the bench; `solid` where it can be anything there."""

    name: str
    label: str
    count: int
    solid: bool
    role: str


class RefusedSaid(TypedDict):
    said: str
    hint: str


def refused_said(refused: Iterable[Failure]) -> list[RefusedSaid]:
    """What stands against pieces, one by one."""
    return [{"said": one.message, "hint": one.hint} for one in refused]


class LaidOutSaid(TypedDict):
    """What can be set on a bench, `roles` being those a part may have, and which pieces are `refused`; where nothing can
    be laid out, why."""

    rail: list[SettingsSaid]
    title: str
    parts: list[BenchPartSaid]
    roles: list[str]
    refused: list[RefusedSaid]
    failure: RefusedSaid | None


# --- print bench ---


class PrintedBodySaid(TypedDict):
    """A body that is printed; `lost` is the height that the layers take away."""

    label: str
    size: list[float]
    count: int
    lost: float
    layers: int
    volume: float


class PrintedPlaceSaid(TypedDict):
    """A body's place on a plate: the lower left corner of its footprint, and its size."""

    body: int
    x: float
    y: float
    size: list[float]


class PlateSaid(TypedDict):
    """A plate; `held` is the area of its first layer."""

    layers: int
    solid: float
    held: float
    places: list[PrintedPlaceSaid]


class PrintSaid(TypedDict):
    """A print before its lines are known. `levels` and `heights` are those of its layers; `material` is a density
    in kg/mm³."""

    bodies: list[PrintedBodySaid]
    plates: list[PlateSaid]
    levels: list[float]
    heights: list[float]
    line: float
    width: float
    depth: float
    material: float


class PrintLaidSaid(LaidOutSaid):
    print: PrintSaid | None


class LayerFiguresSaid(TypedDict):
    """What a layer takes; `lengths` of line by role."""

    area: float
    lengths: dict[str, float]
    volume: float
    seconds: float


class FindingSaid(TypedDict):
    """Something amiss in a layer: where on the plate, and about how wide and how large."""

    kind: str
    layer: int
    at: list[float]
    width: float
    area: float
    label: str


class LayersSaid(TypedDict):
    """Some layers, from the number `first`; outlines as x, y, x, y …; so many findings `more` are not told."""

    first: int
    figures: list[LayerFiguresSaid]
    found: list[FindingSaid]
    more: int
    outlines: list[list[list[float]]]


class LineSaid(TypedDict):
    """A line that is laid, as x, y, x, y …, and its width in mm."""

    role: str
    at: list[float]
    width: float


class LayerSaid(TypedDict):
    """The lines of a layer in their order; `outer` is the role of outer walls."""

    layer: int
    lines: list[LineSaid]
    outer: str


class PrintedSaid(TypedDict):
    """What the simulated printer laid down up to the layer `last`, left out, and where it stands."""

    volume: float
    line: float
    travel: float
    seconds: float
    moves: int
    levels: int
    at: list[float]
    last: int


# --- cutting bench ---


class NestSaid(TypedDict):
    """Pieces of a thickness (none for flat ones) laid on sheets; `taken` is a share of these."""

    thickness: float | None
    by: str
    sheets: int
    pieces: int
    taken: float


class CutPieceSaid(TypedDict):
    """A piece on a sheet, by its number among all that are laid; its outline as an SVG path."""

    laid: int
    mark: str
    label: str
    size: list[float]
    middle: list[float]
    path: str


class CutSaid(TypedDict):
    """A cut in its order: the straight lead (from x, y to x, y), and SVG paths between tabs."""

    kind: str
    lead: list[float] | None
    start: list[float]
    end: list[float]
    paths: list[str]


class CutSheetSaid(TypedDict):
    """A sheet: the share that is `used`, the width that is left at its end, and what cutting it takes."""

    thickness: float | None
    used: float
    remnant: float
    length: float
    travel: float
    pierces: int
    seconds: float
    pieces: list[CutPieceSaid]
    cuts: list[CutSaid]


class CutPlanSaid(TypedDict):
    width: float
    height: float
    margin: float
    nests: list[NestSaid]
    sheets: list[CutSheetSaid]


class BarCutSaid(TypedDict):
    """A way to cut a bar: how often, lengths with their numbers, what is left."""

    number: int
    cuts: list[tuple[float, int]]
    rest: float


class SectionSaid(TypedDict):
    """A section of the cut list on bars, in words; each way to cut one is a line."""

    title: str
    said: str
    fails: bool
    bars: list[str]


class DrawnSectionSaid(SectionSaid):
    drawn: list[BarCutSaid]


class BarsSaid(TypedDict):
    sections: list[SectionSaid]


class CutBarsSaid(TypedDict):
    """The sections on bars with the bar and the saw; where nothing is sawn, why, and no more."""

    said: str
    sections: list[DrawnSectionSaid]
    bar: NotRequired[float]
    kerf: NotRequired[float]
    trim: NotRequired[float]


class CutLaidSaid(LaidOutSaid):
    plan: CutPlanSaid | None
    bars: CutBarsSaid


class MeasuredPieceSaid(TypedDict):
    """A piece that was cut: how far off its design it is, also in inside corners; how much of its outline is
    not cut, and whether it has fallen out or hangs on its tabs."""

    laid: int
    off: float
    corner: float
    uncut: float
    free: bool
    held: bool


class CutMeasuredSaid(TypedDict):
    pieces: list[MeasuredPieceSaid]
    seconds: float
    length: float
    travel: float
    pierces: int
