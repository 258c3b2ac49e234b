"""Bodies set out on plates: their footprints packed, each apart from the next."""

from __future__ import annotations

import math
from collections.abc import Container, Sequence

import numpy as np
from msgspec import Struct

from ovolo.benches.printing.bodies import Body
from ovolo.benches.printing.printer import Printer
from ovolo.problems import Failure

_GRAIN = 1000.0
"""Footprints are packed in whole thousandths of a mm."""

MOST_PLATES = 200


class Place(Struct, frozen=True):
    """A body on a plate: the plate's number, the least corner of its footprint, and whether it is turned
    a quarter."""

    body: int
    plate: int
    x: float
    y: float
    turned: bool


def set_out(bodies: Sequence[Body], printer: Printer) -> tuple[list[Place], list[Failure]]:
    """Every body in its place on as many plates as are needed, in the middle of each; and what is too
    large, by how much. Raises Failure where nothing fits."""
    rim = printer.brim * printer.line
    refused = {at: said for at, body in enumerate(bodies) if (said := _too_large(body, printer, rim))}  # fmt: skip
    if len(refused) == len(bodies):
        raise next(iter(refused.values()))
    places = _packed(bodies, printer, rim, refused.keys())
    return _in_the_middle(bodies, places, printer), list(refused.values())


def _too_large(body: Body, printer: Printer, rim: float) -> Failure | None:
    across, deep, high = body.size
    small, large = sorted((across + 2 * rim, deep + 2 * rim))
    room = sorted((printer.width, printer.depth))
    over = max(small - room[0], large - room[1], high - printer.height)
    if over <= 1e-6:
        return None
    share = max(small / room[0], large / room[1], high / printer.height)
    return Failure(
        f"{body.label} is {across:.5g} × {deep:.5g} × {high:.5g} mm as it lies; the plate takes "
        f"{printer.width:g} × {printer.depth:g} × {printer.height:g} mm: too large by {over:.4g} mm",
        f"{math.ceil(share * printer.smaller * 10) / 10:g} times smaller, or a larger printer",
    )


def _packed(
    bodies: Sequence[Body], printer: Printer, rim: float, left_out: Container[int]
) -> list[Place]:
    import rectpack

    packer = rectpack.newPacker(rotation=True, sort_algo=rectpack.SORT_LSIDE)
    gap = printer.apart
    for at, body in enumerate(bodies):
        if at in left_out:
            continue
        sides = [math.ceil((size + 2 * rim + gap) * _GRAIN - 1e-3) for size in body.size[:2]]
        for _ in range(body.count):
            packer.add_rect(*sides, rid=at)
    room = [math.floor((size + gap) * _GRAIN + 1e-3) for size in (printer.width, printer.depth)]
    packer.add_bin(*room, count=MOST_PLATES)
    packer.pack()
    found = [
        Place(at, plate, x / _GRAIN + rim, y / _GRAIN + rim, _is_turned(bodies[at], width, rim + gap / 2))
        for plate, x, y, width, height, at in packer.rect_list()
    ]  # fmt: skip
    wanted = sum(body.count for at, body in enumerate(bodies) if at not in left_out)
    if len(found) < wanted:
        raise Failure(f"{wanted:,} pieces need more than {MOST_PLATES} plates", "leave parts out")
    return found


def _is_turned(body: Body, width: int, rim: float) -> bool:
    across, deep = (math.ceil((size + 2 * rim) * _GRAIN - 1e-3) for size in body.size[:2])
    return bool(width != across and width == deep)


def _in_the_middle(bodies: Sequence[Body], places: list[Place], printer: Printer) -> list[Place]:
    """What stands on each plate moved to its middle."""
    found = []
    for plate in sorted({one.plate for one in places}):
        there = [one for one in places if one.plate == plate]
        low = np.array([(one.x, one.y) for one in there]).min(axis=0)
        high = np.array([np.add((one.x, one.y), footprint(bodies[one.body], one)) for one in there]).max(axis=0)  # fmt: skip
        dx, dy = (np.array([printer.width, printer.depth]) - low - high) / 2
        found += [Place(one.body, one.plate, one.x + dx, one.y + dy, one.turned) for one in there]
    return found


def footprint(body: Body, place: Place) -> tuple[float, float]:
    """How far a body reaches along x and y in its place."""
    across, deep = float(body.size[0]), float(body.size[1])
    return (deep, across) if place.turned else (across, deep)
