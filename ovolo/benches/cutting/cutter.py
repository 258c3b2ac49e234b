"""The profile of a cutter: the stock it is given, what a cut takes, and how it moves."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from ovolo.benches import profile
from ovolo.benches.profile import choice, count, length
from ovolo.problems import Failure

NO_GRAIN, ALONG, ACROSS = "none", "along the sheet", "across the sheet"
RECTANGLES, OUTLINES = "rectangles", "outlines"
QUARTERS = "quarter turns"
TURNED_BY = {QUARTERS: 90.0, "45°": 45.0, "30°": 30.0, "15°": 15.0}
"""By how many degrees a piece is turned to find its place, where there is no grain."""


@dataclass(frozen=True)
class Cutter(profile.Profile):
    """A cutter that follows outlines through sheets. mm, s, kg, radians."""

    MACHINE: ClassVar[str] = "cutter"

    width: float = length(1220.0, "Sheet, long", "Stock", 1.0, 50_000.0)
    height: float = length(610.0, "Sheet, across", "Stock", 1.0, 50_000.0)
    margin: float = length(5.0, "Margin", "Stock", 0.0, 5_000.0)
    grain: str = choice(NO_GRAIN, "Grain", "Stock", NO_GRAIN, ALONG, ACROSS)
    bar: float = length(3000.0, "Bar, long", "Stock", 1.0, 100_000.0)
    trim: float = length(0.0, "Each end loses", "Stock", 0.0, 5_000.0)

    kerf: float = length(0.2, "Kerf", "Cut", 0.0, 50.0)
    apart: float = length(3.0, "Pieces apart", "Cut", 0.0, 1_000.0)
    nested: str = choice(OUTLINES, "Nested by", "Cut", OUTLINES, RECTANGLES)
    turned: str = choice(QUARTERS, "Turned by", "Cut", *TURNED_BY, where=("nested", OUTLINES))
    lead: float = length(2.0, "Lead-in", "Cut", 0.0, 100.0)
    tabs: int = count(0, "Tabs a piece", "Cut", 0, 50)
    tab: float = length(1.0, "Width of a tab", "Cut", 0.01, 100.0)

    speed: float = profile.speed(20.0, "Speed", "Machine")
    travel: float = profile.speed(300.0, "Travel", "Machine")
    acceleration: float = profile.acceleration(1000.0, "Acceleration", "Machine")
    pierce: float = profile.seconds(0.5, "To pierce", "Machine")
    thickest: float = length(30.0, "Cuts through", "Machine", 0.01, 1_000.0)

    def check(self) -> None:
        if 2 * self.margin >= min(self.width, self.height):
            raise Failure(
                f"margins of {self.margin:g} mm leave nothing of a sheet of "
                f"{self.width:g} × {self.height:g} mm",
                "a smaller margin, or a larger sheet",
            )
        if 2 * self.trim >= self.bar:
            raise Failure(
                f"ends that lose {self.trim:g} mm leave nothing of a bar of {self.bar:g} mm"
            )
        if self.lead + self.kerf / 2 > self.margin:
            raise Failure(
                f"a lead-in of {self.lead:g} mm and half a cut of {self.kerf:g} mm reach beyond a margin of "
                f"{self.margin:g} mm off the sheet",
                f"a margin of {self.lead + self.kerf / 2:g} mm or more, or a shorter lead-in",
            )
        if self.lead + self.kerf > self.apart:
            raise Failure(
                f"a lead-in of {self.lead:g} mm and a cut of {self.kerf:g} mm do not fit between pieces that "
                f"are {self.apart:g} mm apart",
                f"{self.lead + self.kerf:g} mm apart or more, or a shorter lead-in",
            )
