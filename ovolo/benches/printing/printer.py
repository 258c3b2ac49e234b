"""The profile of a printer: the machine, what it lays down, and how a print is built up."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import ClassVar

from ovolo.benches import profile
from ovolo.benches.profile import choice, count, length, share
from ovolo.problems import Failure

LARGEST_FACE_DOWN, AS_DRAWN, TOGETHER = (
    "largest face down",
    "each as drawn",
    "all together as drawn",
)
LINES, CROSSING, HEXAGONS = "lines", "crossing lines", "hexagons"
WHERE_NEEDED, NOWHERE = "where needed", "nowhere"
EVEN, BY_SLOPE = "even", "by slope"


@dataclass(frozen=True)
class Printer(profile.Profile):
    """A printer that lays lines of molten material. mm, s, kg, radians."""

    MACHINE: ClassVar[str] = "printer"

    lies: str = choice(LARGEST_FACE_DOWN, "Lies", "On the plate", LARGEST_FACE_DOWN, AS_DRAWN, TOGETHER)  # fmt: skip
    smaller: float = profile.setting(1.0, "Smaller, times", "On the plate", low=0.001, high=100_000.0)  # fmt: skip
    apart: float = length(5.0, "Pieces apart", "On the plate", 0.0, 200.0)
    brim: int = count(0, "Lines of brim", "On the plate", 0, 100)

    layer: float = length(0.2, "Layer height", "Layers", 0.01, 20.0)
    first_layer: float = length(0.3, "First layer", "Layers", 0.01, 20.0)
    heights: str = choice(EVEN, "Heights", "Layers", EVEN, BY_SLOPE)
    least_layer: float = length(0.1, "Least height", "Layers", 0.01, 20.0, ("heights", BY_SLOPE))
    step: float = length(0.1, "Step allowed", "Layers", 0.001, 20.0, ("heights", BY_SLOPE))
    line: float = length(0.45, "Width of a line", "Layers", 0.05, 50.0)
    walls: int = count(2, "Walls", "Layers", 1, 50)
    below: int = count(4, "Solid layers below", "Layers", 0, 200)
    above: int = count(4, "Solid layers above", "Layers", 0, 200)

    pattern: str = choice(CROSSING, "Pattern", "Inside", LINES, CROSSING, HEXAGONS)
    density: float = share(0.18, "Density inside", "Inside")

    support: str = choice(WHERE_NEEDED, "Support", "Support", WHERE_NEEDED, NOWHERE)
    overhang: float = profile.angle(math.radians(50), "Overhang above", "Support", 0.0, math.radians(89))  # fmt: skip
    support_density: float = share(0.15, "Density of support", "Support", 0.01)
    support_gap: float = length(0.4, "Gap to the part", "Support", 0.0, 20.0)

    width: float = length(220.0, "Plate, across", "Machine", 1.0, 20_000.0)
    depth: float = length(220.0, "Plate, deep", "Machine", 1.0, 20_000.0)
    height: float = length(250.0, "Height", "Machine", 1.0, 20_000.0)
    speed: float = profile.speed(60.0, "Speed", "Machine")
    first_speed: float = profile.speed(25.0, "On the first layer", "Machine")
    travel: float = profile.speed(150.0, "Travel", "Machine")
    acceleration: float = profile.acceleration(500.0, "Acceleration", "Machine")
    holds: float = profile.surface(50.0, "Holds from", "Machine", 0.0, 1e6)

    filament: float = length(1.75, "Thread across", "Material", 0.1, 20.0)
    material: float = profile.density(1.24e-6, "Density of material", "Material")
    nozzle: int = count(210, "Nozzle, °C", "Material", 0, 600)
    bed: int = count(60, "Plate, °C", "Material", 0, 200)

    def check(self) -> None:
        if self.line > min(self.width, self.depth):
            raise Failure(
                f"a line of {self.line:g} mm is wider than the plate of {self.width:g} × {self.depth:g} mm"
            )
        for height in (self.layer, self.first_layer):
            if height > self.line:
                raise Failure(
                    f"a layer of {height:g} mm is higher than a line is wide ({self.line:g} mm)",
                    "a line lies flat: at most as high as it is wide",
                )
        if self.heights == BY_SLOPE and self.least_layer > self.layer:
            raise Failure(
                f"the least layer of {self.least_layer:g} mm is above the layer height of {self.layer:g} mm"
            )

    @property
    def thread_area(self) -> float:
        """The section of the thread that is fed, mm²."""
        return math.pi * self.filament**2 / 4
