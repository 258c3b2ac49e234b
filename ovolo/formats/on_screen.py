"""A drawing as the stage shows it: SVG at a scale that fits, or at one that is asked for."""

from __future__ import annotations

from typing import Any

import numpy as np
from msgspec import Struct

from ovolo.drawing.picture import drawn, loose_page, natural_view
from ovolo.drawing.views import View, view_named
from ovolo.formats.svg import write_svg
from ovolo.outcome.outcome import Outcome
from ovolo.outcome.part import Part
from ovolo.problems import Failure

_LEAST_ROOM = 20.0


class Wanted(Struct, frozen=True):
    """What a window wants to see: a view (None for the one in which the parts lie), the room it
    has in mm, the scale (mm of paper for a mm; None for one that fits), whether dims say what they
    state, and the parts that are switched off."""

    view: str | None
    room: tuple[float, float]
    scale: float | None = None
    names: bool = False
    hidden: frozenset[str] = frozenset()

    @classmethod
    def read(cls, said: dict[str, Any]) -> Wanted:
        """As it comes with a request. Raises Failure."""
        try:
            width, height = (max(float(one), _LEAST_ROOM) for one in said["room"])
            scale = said.get("scale")
            view = said.get("view")
            return cls(
                None if view is None else str(view),
                (width, height),
                None if scale is None else float(scale),
                bool(said.get("names")),
                frozenset(map(str, said.get("hidden", ()))),
            )
        except (KeyError, TypeError, ValueError):
            raise Failure("the request cannot be read", "`drawing` is wrong") from None


def on_screen(outcome: Outcome, wanted: Wanted) -> dict[str, Any]:
    """The drawing with its place, or the message why there is none."""
    try:
        return _on_screen(outcome, wanted)
    except Failure as failure:
        return {"message": failure.message, "hint": failure.hint}


def _on_screen(outcome: Outcome, wanted: Wanted) -> dict[str, Any]:
    parts = [part for part in outcome.parts.values() if part.name not in wanted.hidden]
    view = view_named(wanted.view) if wanted.view else natural_view(outcome)
    scale = wanted.scale
    if scale is None:
        scale = _fitting(outcome, wanted, view, parts)
    elif not 1e-7 < scale < 1e7:
        raise Failure(f"a scale of {scale:g} is out of reach")
    page = loose_page(outcome, drawn(outcome, view, scale, parts, wanted.names))
    return {
        "view": view.name,
        "scale": scale,
        "low": page.low.tolist(),
        "size": [page.width, page.height],
        "svg": write_svg(page).decode(),
    }


def _fitting(outcome: Outcome, wanted: Wanted, view: View, parts: list[Part]) -> float:
    """The scale at which all fits the room. Texts and arrows keep their size, so what they add is
    measured once and taken off."""
    corners = [view.placed(corner)[:2] for part in parts for corner in part.bounds or []]
    corners += [
        view.placed(end)[:2] for dim in outcome.dims for line in dim.segments for end in line
    ]
    if not corners:
        raise Failure("there is nothing to draw", "a line `part name = …` makes something")
    size = np.maximum(np.ptp(corners, axis=0), 1e-3)
    room = np.array(wanted.room)
    scale = float(np.min(room / size))
    page = loose_page(outcome, drawn(outcome, view, scale, parts, wanted.names))
    added = np.maximum(np.array([page.width, page.height]) - scale * size, 0.0)
    return float(np.min(np.maximum(room - added, room / 4) / size))
