"""The figures by which forms are told: two whose figures are the same are one form, made twice."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from ovolo.geometry.curves.curve import Curve
from ovolo.geometry.regions.region import Region
from ovolo.geometry.same import SAME_SHARE
from ovolo.geometry.solids.forms import Form, Revolution, Stack, Together
from ovolo.geometry.solids.swept_form import Swept
from ovolo.geometry.types import Floats

Told = list[tuple[str, Floats]]
"""What there is, in its order: its sort, and its figures (mm, radians, or shares)."""


def same_form(one: Form | None, other: Form | None) -> bool:
    """Whether two forms are told by the same figures but for noise, in the same order. Others may be the same
    solid, too."""
    if one is None or other is None or type(one) is not type(other):
        return False
    a, b = _told(one), _told(other)
    if a is None or b is None or [(sort, len(of)) for sort, of in a] != [(sort, len(of)) for sort, of in b]:  # fmt: skip
        return False
    mine, theirs = (np.concatenate([of for _, of in each]) for each in (a, b))
    size = max(float(np.abs(mine).max()), 1.0)
    return bool(np.abs(mine - theirs).max() <= SAME_SHARE * size)


def _told(form: Form) -> Told | None:
    match form:
        case Stack():
            levels = np.array([[layer.low, layer.high] for layer in form.layers]).reshape(-1)
            return [("layers", levels), *_of_regions(layer.region for layer in form.layers)]
        case Revolution():
            return [("turned", np.array([form.angle])), *_of_curves(form.outlines)]
        case Swept():
            steady = "steady" if form.steady else "turning"
            frame = form.region.frame.reshape(-1)
            return [(steady, frame), *_of_regions([form.region]), *_of_curves([form.path])]
        case Together():
            found: Told = []
            for sign, part, at in form.parts:
                told = _told(part)
                if told is None:
                    return None
                found += [(type(part).__name__, np.array([sign, *at.reshape(-1)])), *told]
            return found
    return None


def _of_regions(regions: Iterable[Region]) -> Told:
    return [told for region in regions for told in _of_curves(region.outlines)]


def _of_curves(curves: Iterable[Curve]) -> Told:
    found: Told = []
    for curve in curves:
        found += [(type(piece).__name__, piece.figures) for piece in curve.pieces]
        found.append(("end", np.empty(0)))
    return found
