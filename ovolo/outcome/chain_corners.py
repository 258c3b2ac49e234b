"""The corners of a curve that was drawn as a chain, as they are dragged on the picture."""

from __future__ import annotations

import numpy as np

from ovolo.geometry.curves.curve import Curve
from ovolo.geometry.types import Points
from ovolo.outcome.outline import PLANES
from ovolo.outcome.scene_message import CornerSaid
from ovolo.running.evaluate import LineOutcome
from ovolo.sheet.chains import chain_of, is_figure


def chain_corners(one: LineOutcome) -> list[CornerSaid]:
    """Each corner that is written as figures: the line's name, its number, where it stands (x, y, z in mm),
    along which axes it may go, and where the pieces at it lead to. None where the line is no such chain."""
    chain = chain_of(one.line.content)
    if chain is None or chain.side not in PLANES or not one.has_value:
        return []
    curve, steps = one.value, len(chain.corners) - 1 + chain.closed
    if not isinstance(curve, Curve) or len(curve.pieces) != steps:
        return []
    places = [curve.start, *(piece.end for piece in curve.pieces)]
    return [
        {
            "name": one.line.name,
            "index": index,
            "at": places[index].tolist(),
            "free": free,
            "beside": [place.tolist() for place in _beside(places, index)],
        }
        for index, corner in enumerate(chain.corners)
        if corner is not None
        and (
            free := [
                "xyz"[axis]
                for axis, node in zip(PLANES[chain.side], corner.coordinates, strict=True)
                if is_figure(node)
            ]
        )
    ]


def _beside(places: list[Points], index: int) -> list[Points]:
    """The corners before and after one; a closed curve's last place is its first."""
    around = [*places[max(index - 1, 0) : index], *places[index + 1 : index + 2]]
    closed = index == 0 and len(places) > 2 and np.allclose(places[0], places[-1])
    return [places[-2], *around] if closed else around
