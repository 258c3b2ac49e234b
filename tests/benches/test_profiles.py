"""Profiles of machines: read, checked, changed, and written as they were."""

from __future__ import annotations

import pytest
from hypothesis import given

from ovolo.benches.cutting.cutter import Cutter
from ovolo.benches.printing.printer import BY_SLOPE, EVEN, Printer
from ovolo.benches.profile import (
    Profile,
    Setting,
    as_text,
    profile_said,
    rail,
    read_profile,
    settings_of,
    shipped,
    with_settings,
)
from ovolo.problems import Failure
from tests.odd_texts import odd_texts

KINDS = [Printer, Cutter]


@pytest.mark.parametrize("kind", KINDS)
def test_what_is_shipped_is_sound(kind: type[Profile]) -> None:
    assert len(shipped(kind)) >= 3
    for title, one in shipped(kind).items():
        one.check()
        assert read_profile(kind, as_text(one)) == one and profile_said(kind, title) == one
        names = {row["name"] for group in rail(one) for row in group["settings"]}
        known = settings_of(kind)
        counting = {name for name in known if _counts(one, known[name])}
        assert names == counting - {"title"}


def _counts(profile: Profile, one: Setting) -> bool:
    return one.where is None or getattr(profile, one.where[0]) == one.where[1]


def test_what_belongs_to_layers_by_slope_is_set_only_there() -> None:
    """A setting that another one makes idle is not shown; the text of the profile keeps it."""
    even, leaning = Printer(heights=EVEN), Printer(heights=BY_SLOPE)
    shown = [
        {row["name"] for group in rail(one) for row in group["settings"]} for one in (even, leaning)
    ]
    assert shown[1] - shown[0] == {"least_layer", "step"}
    assert "least_layer" in as_text(even)


@pytest.mark.parametrize("kind", KINDS)
def test_every_default_keeps_its_own_limits(kind: type[Profile]) -> None:
    for name, one in settings_of(kind).items():
        value = getattr(kind(), name)
        assert one.read(one.shown(value)) == pytest.approx(value)


def test_figures_are_typed_with_or_without_their_unit() -> None:
    printer = with_settings(Printer(), {"layer": "0.15", "line": "1/50 in", "density": "25", "walls": "3", "speed": "5 cm/s"})  # fmt: skip
    assert (printer.layer, printer.density, printer.walls, printer.speed) == (0.15, 0.25, 3, 50)
    assert printer.line == pytest.approx(0.508)
    assert with_settings(printer, {"density": "0.3 %"}).density == pytest.approx(0.003)


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("title = ", "cannot be read"),
        ('[layers]\nlayer = "-0.2 mm"', "Layer height is -0.2 mm"),
        ('[layers]\nlayer = "0.2 kg"', "Layer height is a length"),
        ("[layers]\nwalls = 2.5", "2.5 is no whole number"),
        ("[layers]\nwalls = 1e9", "Walls is 1000000000"),
        ("[layers]\nwalls = true", "cannot be true"),
        ('[layers]\nlayer = "nan"', "cannot be read as a length"),
        ("[layers]\nlayer = nan", "cannot be read as a length"),
        ('[layers]\nlayer = "2 mm"', "higher than a line is wide"),
        ('[inside]\npattern = "stars"', "one of lines, crossing lines, hexagons"),
        ('[inside]\ndensity = "130 %"', "from 0 % to 100 %"),
        (
            '[machine]\nlayer = "0.2 mm"',
            "has no `layer` in \\[machine\\].*it stands in \\[layers\\]",
        ),
        ("colour = 3", "has no `colour`"),
        ('[machine]\nwidth = "0.2 mm"', "Plate, across is 0.2 mm"),
        (
            '[machine]\nwidth = "2 mm"\n[layers]\nline = "5 mm"\nlayer = "1 mm"',
            "wider than the plate",
        ),
        ("title = " + '"' + "x" * 30_000 + '"', "at most 20,000 characters"),
        ("[[layers]]\n", "has no `layers`"),
        ('title = ["a"]', "cannot be"),
    ],
)
def test_a_profile_that_makes_no_sense_is_refused(text: str, said: str) -> None:
    with pytest.raises(Failure) as told:
        read_profile(Printer, text)
    import re

    assert re.search(said, told.value.said)


@given(odd_texts(200))
def test_any_text_is_read_or_refused(text: str) -> None:
    try:
        read_profile(Cutter, text)
    except Failure as failure:
        assert failure.message


def test_no_such_profile() -> None:
    with pytest.raises(Failure, match='there is no printer "Mine"'):
        profile_said(Printer, "Mine")
    mine = {"Mine": 'title = "Mine"\n[layers]\nlayer = "0.1 mm"'}
    assert profile_said(Printer, "Mine", mine).layer == 0.1
    assert profile_said(Printer, "") == next(iter(shipped(Printer).values()))
