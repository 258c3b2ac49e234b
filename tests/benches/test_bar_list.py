"""The cut list of a study on bars: sections, words, and what cannot be cut."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from ovolo.benches.cutting.bar_list import bars_said, sections_on_bars, shown_bars
from ovolo.benches.cutting.bars import Saw
from ovolo.command.__main__ import main
from ovolo.problems import Failure
from ovolo.quantities.show import DisplayUnits
from tests.sheets import DEMO, demo_outcome, run

FRAME = (
    "part posts = row(box(90 mm, 90 mm, 1100 mm), 7, 1 m)",
    "part rails = row(box(2400 mm, 45 mm, 90 mm), 3, 1 m)",
    "part beam = box(9 m, 60 mm, 120 mm)",
)


def test_each_section_has_bars_of_its_own() -> None:
    outcome = run(*FRAME)
    found = sections_on_bars(list(outcome.parts.values()), 6000.0, Saw(3.0), 5.0)
    posts, rails, beam = found
    assert posts.stock.section == (90, 90) and posts.plan is not None and posts.plan.number == 2
    assert rails.plan is not None and rails.plan.number == 2
    assert beam.plan is None and beam.failure is not None
    told = shown_bars(found, outcome.units)
    assert told[0]["title"] == "posts, 90 × 90 mm"
    assert told[0]["said"] == "7 pieces from 2 bars of 6000 mm (fewer will not do); 64.2 % used"
    assert told[0]["bars"] == ["1 × (5 × 1100), 485 mm left", "1 × (2 × 1100), 3794 mm left"]
    assert told[2]["fails"] and "longer than a bar by 3000 mm" in told[2]["said"]


def test_the_lengths_are_those_of_the_parts() -> None:
    """All that is cut, bar by bar, is the length of the pieces: of the boardwalk's, by its own values."""
    outcome = demo_outcome("boardwalk")
    found = sections_on_bars(list(outcome.parts.values()), 6000.0, Saw(), 8.0)
    for one in found:
        assert one.plan is not None
        cut = sum(
            bar.number * length * count for bar in one.plan.bars for length, count in bar.cuts
        )
        assert cut == pytest.approx(one.stock.total)


def test_bars_are_typed_in_any_unit_and_refused_in_words() -> None:
    assert bars_said({"bar": "6 m", "kerf": "3 mm"}, DisplayUnits()) == (6000.0, Saw(3.0))
    bar, saw = bars_said({"bar": "20 ft", "trim": "1/2 in"}, DisplayUnits())
    assert (bar, saw.trim) == (pytest.approx(6096), pytest.approx(12.7))
    for said in ({"bar": ""}, {"bar": "6 kg"}, {"bar": "6 m", "kerf": "thin"}):
        with pytest.raises(Failure):
            bars_said(said, DisplayUnits())
    with pytest.raises(Failure, match="nothing to cut"):
        sections_on_bars([], 6000.0, Saw(), 1.0)
    with pytest.raises(Failure, match="a bar of 0 mm"):
        sections_on_bars(list(run(*FRAME).parts.values()), 0.0, Saw(), 1.0)


def test_the_command_prints_plans_and_exits_by_them(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    sheet = tmp_path / "frame.ovo"
    sheet.write_text("\n".join(FRAME), encoding="utf-8")
    assert main(["cut", str(sheet), "--bar", "10m", "--kerf", "3mm", "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    assert [one["plan"]["number"] for one in told] == [1, 1, 1] and all(one["plan"]["proved"] for one in told)  # fmt: skip
    assert main(["cut", str(sheet), "--bar", "6m"]) == 1
    assert "beam, 60 × 120 mm: a piece of 9000 mm is longer" in capsys.readouterr().out
    assert main(["cut", str(sheet), "--bar", "6m", "--part", "posts"]) == 0
    assert main(["cut", str(sheet), "--bar", "6m", "--part", "none"]) == 2
    assert main(["cut", str(DEMO / "02-boardwalk.ovo"), "--bar", "nothing"]) == 2
