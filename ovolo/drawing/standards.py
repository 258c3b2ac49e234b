"""Paper and scales as the standards have them: ISO 216 and ISO 5455; for a study in feet and inches
ANSI/ASME Y14.1, and the scales that are common practice there."""

from __future__ import annotations

import numpy as np

from ovolo.problems import Failure
from ovolo.quantities.show import DisplayUnits

_INCH = 25.4


def _iso_216(number: int) -> tuple[float, float]:
    """The width of A n is floor(1000 / 2^((2n + 1) / 4) + 0.2), its height that of A n-1."""

    def width(n: int) -> float:
        return float(np.floor(1000 / 2 ** ((2 * n + 1) / 4) + 0.2))

    return width(number), width(number - 1)


PAPERS: dict[str, tuple[float, float]] = {
    **{f"A{number}": _iso_216(number) for number in range(7)},
    "ANSI A": (8.5 * _INCH, 11 * _INCH),
    "ANSI B": (11 * _INCH, 17 * _INCH),
    "ANSI C": (17 * _INCH, 22 * _INCH),
    "ANSI D": (22 * _INCH, 34 * _INCH),
    "ANSI E": (34 * _INCH, 44 * _INCH),
}
"""The shorter and the longer side in mm."""

SCALES = (
    50.0, 20.0, 10.0, 5.0, 2.0, 1.0, 1 / 2, 1 / 5, 1 / 10, 1 / 20, 1 / 50, 1 / 100, 1 / 200,
    1 / 500, 1 / 1000, 1 / 2000, 1 / 5000, 1 / 10000,
)  # fmt: skip
"""mm of paper for a mm, from the largest (ISO 5455)."""

FOOT_SCALES = (
    8.0, 4.0, 2.0, 1.0, 1 / 2, 1 / 4, 1 / 8, 1 / 12, 1 / 16, 1 / 24, 1 / 32, 1 / 48, 1 / 64, 1 / 96,
    1 / 128, 1 / 192, 1 / 240, 1 / 480, 1 / 1200, 1 / 2400, 1 / 6000,
)  # fmt: skip
"""The same where lengths are in feet and inches: parts of an inch for a foot, tens of feet for an
inch."""


def scales_for(units: DisplayUnits) -> tuple[float, ...]:
    return FOOT_SCALES if _in_feet(units) else SCALES


def usual_paper(units: DisplayUnits) -> str:
    return "ANSI B" if _in_feet(units) else "A4"


def _in_feet(units: DisplayUnits) -> bool:
    return units.length_unit.symbol in ("in", "ft", "yd")


def paper_size(name: str) -> tuple[float, float]:
    """The shorter and the longer side in mm. Raises Failure for a paper that there is not."""
    if name not in PAPERS:
        raise Failure(f"there is no paper `{name}`", f"one of {', '.join(PAPERS)}")
    return PAPERS[name]


def said_scale(scale: float) -> str:
    return f"{scale:g}:1" if scale > 1 else f"1:{1 / scale:g}"


def read_scale(said: str) -> float:
    """A scale as a person writes it: 1:20, 2:1. Raises Failure."""
    paper, colon, real = said.replace(" ", "").partition(":")
    try:
        scale = float(paper) / float(real) if colon else 0.0
    except (ValueError, ZeroDivisionError):
        scale = 0.0
    if not 1e-6 < scale < 1e6:
        raise Failure(f"`{said}` is no scale", "for example 1:20")
    return scale
