"""Marks in circles stand on what they name, or a line leads from them to it."""

from __future__ import annotations

import numpy as np
import pytest

from ovolo.drawing.hidden_lines import edges_seen
from ovolo.drawing.marks import Group
from ovolo.drawing.piece_marks import DOT, RADIUS, mark_place_of_part, marks_of, piece_marks
from ovolo.drawing.views import PLAN, VIEWS, View
from ovolo.geometry.solids.solid import Solid
from ovolo.geometry.types import Points
from ovolo.outcome.schedule import schedule_with_shapes
from tests.sheets import run

HOLLOW = {
    "a region": "disc(50 mm) - disc(40 mm)",
    "a solid": "(disc(50 mm) - disc(40 mm)).extrude(10 mm)",
    "a bow": "arc((0 mm, 0 mm), 45 mm, 0 deg, 200 deg)",
    "a surface": "surface((u, v) -> ((40 mm + u * 10 mm) * cos(v * 360 deg), (40 mm + u * 10 mm) * sin(v * 360 deg), 0 mm))",
}


def marked(*lines: str, view: View = PLAN, scale: float = 1.0) -> Group:
    outcome = run("units mm, deg", *lines)
    assert not outcome.problems, outcome.problems
    pieces = schedule_with_shapes(list(outcome.parts.values()))
    solids = [(one.shape, view.matrix @ one.matrix) for _, one in pieces if isinstance(one, Solid)]
    return piece_marks(marks_of(pieces, view, edges_seen(solids).fronts), scale)


def places(group: Group) -> Points:
    """The middles of the circles, by Cartesian coordinates of the paper."""
    circles = [stroke.curves[0] for stroke in group.strokes if stroke.fill == "#ffffff"]
    return np.array([one.bounds()[:, :2].mean(axis=0) for one in circles])


@pytest.mark.parametrize("made", HOLLOW.values(), ids=HOLLOW)
@pytest.mark.parametrize(
    ("move", "middle"),
    [("", (0, 0)), (".move(300 mm, 20 mm)", (300, 20)), (".turn(100 deg)", (0, 0))],
)
def test_a_mark_stands_on_what_is_hollow_and_not_in_its_hole(
    made: str, move: str, middle: tuple[float, float]
) -> None:
    (place,) = places(marked(f"part p = ({made}){move}", scale=0.5))
    assert 40 <= np.linalg.norm(2 * place - middle) <= 50 + 1e-6


@pytest.mark.parametrize("angle", [0, 90, 33])
def test_a_mark_stands_where_its_piece_is_seen(angle: float) -> None:
    """From above: a long board, a shorter one on it, and a block on that, all about one middle. Of the lower two
    the ends are seen."""
    stack = {
        "board": f"box(200 mm, 20 mm, 5 mm).turn({angle} deg)",
        "lath": f"box(100 mm, 20 mm, 5 mm).move(z = 5 mm).turn({angle} deg)",
        "block": f"box(60 mm, 20 mm, 5 mm).move(z = 10 mm).turn({angle} deg)",
    }
    found = places(marked(*(f"part {name} = {made}" for name, made in stack.items())))
    along = np.array([np.cos(np.radians(angle)), np.sin(np.radians(angle))])
    board, lath, block = np.abs(found @ along)
    assert 53 < board < 97 and 33 < lath < 47 and block < 1e-9
    assert np.abs(found @ (along[1], -along[0])).max() < 10


def test_a_mark_stands_in_the_middle_where_there_is_something() -> None:
    for view in VIEWS.values():
        (place,) = places(marked("part p = sphere(20 mm).move(z = 100 mm)", view=view))
        assert place == pytest.approx([0, 0 if view is PLAN else 100], abs=1e-9)


def test_from_a_mark_that_stands_beside_its_place_a_line_leads_to_it() -> None:
    group = marked(
        "part a = disc(2 mm)", "part b = box(1 mm, 1 mm, 1 mm)", "part c = disc(1 mm).move(40 mm)"
    )
    first, second, third = places(group)
    assert np.linalg.norm(second - first) >= 2 * RADIUS - 1e-9
    assert third == pytest.approx([40, 0])
    (line,) = [one.curves[0] for one in group.strokes if one.role == "fine" and not one.fill]
    assert line.end[:2] == pytest.approx(second) and np.linalg.norm(line.start[:2]) < 1
    (dot,) = [one.curves[0].bounds() for one in group.strokes if one.role == "arrow"]
    assert np.ptp(dot[:, 0]) == pytest.approx(2 * DOT)
    assert [stroke.fill for stroke in group.strokes[-3:]] == ["#ffffff"] * 3, (
        "circles lie above lines"
    )


def test_of_a_row_the_item_nearest_its_middle_has_the_number() -> None:
    outcome = run("part row = [disc(10 mm).move(x = i * 100 mm) for i in 0 .. 3]")
    place = mark_place_of_part(outcome.parts["row"], PLAN)
    away = np.abs(place[0] - 100 * np.arange(4)).min()
    assert away <= 10 and abs(place[1]) <= 10
