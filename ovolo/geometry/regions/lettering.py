"""Letters as exact outlines, from the typeface that is shipped (Spline Sans, SIL Open Font Licence).

Sizes are those of capitals: a text of height h has capitals h high.
"""

from __future__ import annotations

from functools import cache, lru_cache
from pathlib import Path
from typing import Any

import numpy as np
import shapely
from msgspec import Struct

from ovolo.geometry.arrays.setting_out import on_curve
from ovolo.geometry.curves.curve import Curve
from ovolo.geometry.curves.pieces import Cubic, Piece, Straight
from ovolo.geometry.placement import moved, scaled
from ovolo.geometry.regions.region import Region, clean, nothing, within_odd
from ovolo.geometry.same import SMALLEST
from ovolo.geometry.tolerance import chord_tolerance
from ovolo.geometry.types import Points
from ovolo.geometry.vectors import cross_product
from ovolo.problems import Failure
from ovolo.remembering import remembers

FONT = Path(__file__).with_name("fonts") / "spline-sans-500.ttf"
EM = 2000 / 1454
"""The size of the typeface for capitals 1 high, by its own tables (units per em, cap height)."""

_MOST_CHARACTERS = 500

ACROSS = {"left": 0.0, "centre": 0.5, "right": 1.0}
UP = {"baseline": 0.0, "middle": 0.5, "top": 1.0}


@cache
def _font() -> Any:
    from fontTools.ttLib import TTFont

    return TTFont(FONT, lazy=True)


def lettering(text: str, height: float, across: str, up: str, path: Curve | None = None) -> Region:
    """A line of text as a region, its place chosen by `across` (left, centre, right) and `up`
    (baseline, middle, top of the capitals); along a flat path, each letter stands square to it.
    Raises Failure for letters the typeface lacks, and where the path is too short."""
    if height < -SMALLEST:
        raise Failure(f"the height is {height:g} mm", "it must be more than 0")
    if height <= SMALLEST:
        return nothing("height is 0 mm")
    if not text.strip():
        return nothing("the text has no letters")
    if len(text) > _MOST_CHARACTERS:
        raise Failure(
            f"this text has {len(text):,} characters; at most {_MOST_CHARACTERS} are drawn"
        )
    for name, given, known in (("across", across, ACROSS), ("up", up, UP)):
        if given not in known:
            raise Failure(f'"{given}" is no way to align {name}', f"one of {', '.join(known)}")
    if path is None:
        return _on_a_line(text, height, across, up, chord_tolerance())
    letters, width = _letters(text)
    size = height / _capital()
    placed = _along(path, letters, width * size, size, ACROSS[across], UP[up] * _capital())
    return _region(placed)


@lru_cache(maxsize=400)
def _on_a_line(text: str, height: float, across: str, up: str, tolerance: float) -> Region:
    """A line of text from the origin. Kept, for what is lettered seldom changes where it stands;
    the tolerance is that of the run, which curves keep from when they are made."""
    letters, width = _letters(text)
    shift = np.array([-ACROSS[across] * width, -UP[up] * _capital(), 0.0])
    matrix = scaled(np.full(3, height / _capital())) @ moved(shift)
    return _region(
        [
            curve.placed(matrix @ moved(np.array([letter.at, 0.0, 0.0])))
            for letter in letters
            for curve in letter.outlines
        ]
    )


remembers(_on_a_line.cache_clear)


def _region(outlines: list[Curve]) -> Region:
    return Region(clean(_even_odd(outlines), "this text"), drawn=tuple(outlines))


def _along(
    path: Curve, letters: list[Letter], width: float, size: float, share: float, base: float
) -> list[Curve]:
    """The outlines of letters on a path, each with its middle on it; `width` (mm) is that of the
    text, `base` how far up (in units of the typeface) the path runs through the letters."""
    low, high = path.bounds()
    if high[2] - low[2] > SMALLEST or abs(low[2]) > SMALLEST:
        raise Failure(
            "text runs along a curve that lies flat, in plan", "draw it flat and place the text"
        )
    if width > path.length:
        raise Failure(
            f"this text is {width:.6g} mm long, and the curve only {path.length:.6g} mm",
            f"a height of at most {size * _capital() * path.length / width:.4g} mm fits",
        )
    begin = share * (path.length - width)
    middles = np.array([begin + size * (one.at + one.width / 2) for one in letters])
    places, ways = on_curve(path, middles)
    found = []
    for letter, place, way in zip(letters, places, ways, strict=True):
        frame = np.eye(4)
        frame[:3] = np.column_stack(
            [way, cross_product([0.0, 0.0, 1.0], way), [0.0, 0.0, 1.0], place]
        )
        own = frame @ scaled(np.full(3, size)) @ moved(np.array([-letter.width / 2, -base, 0.0]))
        found += [curve.placed(own) for curve in letter.outlines]
    return found


def _capital() -> float:
    return float(_font()["OS/2"].sCapHeight)


def text_width(text: str, height: float) -> float:
    """About how far a text runs in mm; letters the typeface lacks count as wide as a figure."""
    font = _font()
    widths, table = font["hmtx"], font.getBestCmap()
    units = sum(widths[table.get(ord(letter), "zero")][0] for letter in text)
    return float(units) * height / float(font["OS/2"].sCapHeight)


def _even_odd(outlines: list[Curve]) -> Any:
    """What lies within an odd number of the outlines."""
    return within_odd([shapely.Polygon(one.sides()[:-1, :2]).buffer(0) for one in outlines])


class Letter(Struct, frozen=True):
    """A letter's closed curves about its own origin, where that lies on the line, and how wide the
    letter is; in units of the typeface."""

    outlines: list[Curve]
    at: float
    width: float


def _letters(text: str) -> tuple[list[Letter], float]:
    """All letters of a text, and how far it runs, in units of the typeface."""
    font = _font()
    glyphs, table = font.getGlyphSet(), font.getBestCmap()
    found: list[Letter] = []
    at, before = 0.0, None
    for letter in text:
        name = table.get(ord(letter))
        if name is None:
            raise Failure(
                f"the typeface has no letter “{letter}”", "Latin letters, figures and common signs"
            )
        at += _kerning(before, name) if before is not None else 0.0
        pen = _Pen()
        glyphs[name].draw(pen)
        width = float(glyphs[name].width)
        found.append(Letter(pen.curves, at, width))
        at += width
        before = name
    if not any(one.outlines for one in found):
        raise Failure("this text has nothing to draw", "give it a letter")
    return found, at


@cache
def _pairs() -> dict[tuple[str, str], float]:
    """How much closer pairs of letters stand (kerning), from the typeface's pair adjustments."""
    found: dict[tuple[str, str], float] = {}
    font = _font()
    if "GPOS" not in font:
        return found
    for lookup in font["GPOS"].table.LookupList.Lookup:
        for table in lookup.SubTable:
            table = getattr(table, "ExtSubTable", table)
            if table.LookupType == 2:
                _read_pairs(table, found)
    return found


def _read_pairs(table: Any, found: dict[tuple[str, str], float]) -> None:
    first = table.Coverage.glyphs
    if table.Format == 1:
        for name, pairs in zip(first, table.PairSet, strict=True):
            for pair in pairs.PairValueRecord:
                value = (
                    pair.Value1.XAdvance if pair.Value1 and hasattr(pair.Value1, "XAdvance") else 0
                )
                found.setdefault((name, pair.SecondGlyph), float(value))
        return
    one, two = table.ClassDef1.classDefs, table.ClassDef2.classDefs
    by_class: dict[int, list[str]] = {}
    for name, number in two.items():
        by_class.setdefault(number, []).append(name)
    for name in first:
        records = table.Class1Record[one.get(name, 0)].Class2Record
        for number, names in by_class.items():
            value = records[number].Value1
            advance = float(getattr(value, "XAdvance", 0) or 0) if value else 0.0
            if advance:
                for second in names:
                    found.setdefault((name, second), advance)


def _kerning(before: str, after: str) -> float:
    return _pairs().get((before, after), 0.0)


class _Pen:
    """Takes the outlines of a letter as closed curves (the protocol of fontTools' pens)."""

    def __init__(self) -> None:
        self.curves: list[Curve] = []
        self._pieces: list[Piece] = []
        self._here: Points = np.zeros(3)

    def moveTo(self, point: tuple[float, float]) -> None:  # noqa: N802 - the protocol's names
        self._here = self._start = _place(point)
        self._pieces = []

    def lineTo(self, point: tuple[float, float]) -> None:  # noqa: N802
        self._line(_place(point))

    def qCurveTo(self, *points: tuple[float, float] | None) -> None:  # noqa: N802
        """Quadratic pieces: between two controls lies a point of the curve, halfway."""
        controls = [_place(point) for point in points[:-1] if point is not None]
        end = _place(points[-1] or (0.0, 0.0))
        for index, control in enumerate(controls):
            last = index == len(controls) - 1
            stop = end if last else (control + controls[index + 1]) / 2
            third = 2 / 3
            self._add(
                Cubic(np.array([self._here, self._here + third * (control - self._here), stop + third * (control - stop), stop]))
            )  # fmt: skip

    def curveTo(self, *points: tuple[float, float]) -> None:  # noqa: N802
        self._add(Cubic(np.array([self._here, *(_place(point) for point in points)])))

    def closePath(self) -> None:  # noqa: N802
        self._line(self._start)
        if self._pieces:
            self.curves.append(Curve(tuple(self._pieces)))

    def endPath(self) -> None:  # noqa: N802
        self.closePath()

    def addComponent(self, name: str, matrix: tuple[float, ...]) -> None:  # noqa: N802
        """A letter made of others, such as one with an accent."""
        pen = _Pen()
        _font().getGlyphSet()[name].draw(pen)
        a, b, c, d, e, f = matrix
        place = np.eye(4)
        place[:2, :2] = [[a, c], [b, d]]
        place[:2, 3] = [e, f]
        self.curves += [curve.placed(place) for curve in pen.curves]

    def _line(self, end: Points) -> None:
        if np.linalg.norm(end - self._here) > SMALLEST:
            self._add(Straight(self._here, end))

    def _add(self, piece: Piece) -> None:
        self._pieces.append(piece)
        self._here = piece.end


def _place(point: tuple[float, float]) -> Points:
    return np.array([float(point[0]), float(point[1]), 0.0])
