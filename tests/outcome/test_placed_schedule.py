"""The schedule of placed studies: its totals are the sums over the pieces."""

from __future__ import annotations

import pytest

from ovolo.outcome.placed_schedule import placed_schedule, shown_placed
from tests.meaning.test_used import beside, using
from tests.sheets import demo_outcome

POST = """study "Turned baluster"
input height = 1 m from 0.1 m to 3 m
part shaft = box(100 mm, 100 mm, height) material 700 kg/m^3
part cap = box(200 mm, 200 mm, 20 mm) material 700 kg/m^3
"""


def test_a_row_for_each_study_and_setting() -> None:
    outcome = using(
        "part a = baluster().move(1 m, 0 m)",
        "part b = baluster(height = 2 m).move(2 m, 0 m)",
        'part c = baluster( height = 2 m ).turn(5°) "Corner"',
        "part d = row(baluster(), 4, 300 mm)",
        "part e = box(1 m, 1 m, 1 m)",
        studies=beside(POST),
    )
    assert not outcome.problems
    rows = placed_schedule(outcome)
    assert [(one.study, one.settings, one.parts, one.pieces) for one in rows] == [
        ("Turned baluster", "", ("a", "d"), 10),
        ("Turned baluster", "height = 2 m", ("b", "Corner"), 4),
    ]
    # 7 kg a metre of shaft and 0.56 kg a cap: their volumes by 700 kg/m³
    assert rows[0].mass == pytest.approx(5 * (7 + 0.56)) and rows[1].mass == pytest.approx(
        2 * 14.56
    )
    assert shown_placed(outcome)[0][1] == "as in the study"


def test_the_totals_are_the_sums_over_the_pieces() -> None:
    outcome = demo_outcome("science-garden")
    rows = placed_schedule(outcome)
    assert sum(one.pieces for one in rows) == sum(part.count for part in outcome.parts.values())
    assert {one.study for one in rows} == {
        "Boardwalk", "Louvre screen", "Seed-head paving", "Telescope pier", "Terrace falls",
    }  # fmt: skip
    assert len(rows) == 9, "no two of its pieces are set alike"
