"""Solids."""

from __future__ import annotations

from typing import Any

from ovolo.geometry import solid as kernel
from ovolo.geometry.region import Region
from ovolo.geometry.solid import Copies, Solid
from ovolo.words.registry import word

Lengths = Any
"""A length in mm, or an array of n of them."""


@word(
    "length, length, length -> solid",
    example="volume(box(2 cm, 3 cm, 4 cm))", gives="24000 mm^3", elementwise=True,
)  # fmt: skip
def box(w: Lengths, d: Lengths, h: Lengths) -> Solid | Copies:
    """A box w wide (along x), d deep (along y) and h high, centred in plan, standing on z = 0.

    w: along x
    d: along y
    h: upwards
    """
    return kernel.box(w, d, h)


@word(
    "length, length -> solid",
    example="height(cylinder(r = 75 mm, h = 120 mm))", gives="120 mm", elementwise=True,
)  # fmt: skip
def cylinder(r: Lengths, h: Lengths) -> Solid | Copies:
    """A cylinder of radius r and height h, centred in plan, standing on z = 0.

    r: the radius
    h: upwards
    """
    return kernel.cylinder(r, h)


@word(
    "region, length -> solid",
    example="volume(extrude(rect(10 mm, 10 mm), 5 mm))", gives="500 mm^3", elementwise=True,
)  # fmt: skip
def extrude(outline: Region, h: Lengths) -> Solid | Copies:
    """The solid a region sweeps when pulled up by h; a negative h pulls it down.

    outline: the region to pull
    h: how far; below 0 downwards
    """
    return kernel.extrusion(outline, h)
