"""What is seen while a hand turns an input: coarser pictures, and of the figures only those that no geometry is in."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

from ovolo.exploring.presets import matching_presets
from ovolo.meaning.attachments import OtherStudy, study_key
from ovolo.meaning.checked_sheet import checked_program
from ovolo.outcome.in_motion import COARSER, outcome_in_motion
from ovolo.outcome.outcome import UNKNOWN, Outcome, outcome_of
from ovolo.outcome.scene import scene_of
from ovolo.running.evaluate import Memo
from tests.outcome.test_scene import unpacked
from tests.sheets import demo, demo_tables


def in_motion(text: str, **settings: Any) -> Outcome:
    found = outcome_in_motion(checked_program(text, demo_tables(text)), settings, Memo())
    assert found is not None
    return found


def scenes(text: str, **settings: Any) -> tuple[dict[str, Any], dict[str, Any]]:
    """The header of the scene in motion, and of the whole one."""
    whole = outcome_of(text, settings, tables=demo_tables(text))
    moving, at_rest = (
        unpacked(scene_of(one, presets=matching_presets(one)))[0]
        for one in (in_motion(text, **settings), whole)
    )
    return moving, at_rest


@pytest.mark.parametrize(
    ("name", "settings"),
    [
        ("spiral-stair", {"floor_height": 3310.0}),
        ("dome-drive-gear", {"modulus": 3.5}),
        ("dome-and-shutter", {"span": 4700.0}),
        ("lens-heater-coil", {"tube": 101.0}),
        ("baffle-tube", {"bore": 190.0}),
        ("telescope-pier", {"height": 870.0}),
        ("star-map", {"brightest": 9.0}),
        ("keepers-cabin", {"long": 4100.0}),
    ],
)
def test_no_figure_in_motion_is_another_than_at_rest(name: str, settings: dict[str, Any]) -> None:
    moving, whole = scenes(demo(name), **settings)
    assert moving["coming"] and not whole["coming"]
    for line, said in moving["outcomes"].items():
        if said.get("coming"):
            assert UNKNOWN in (said["number"], said["said"])
        else:
            assert {**said, "notes": []} == {**whole["outcomes"][line], "notes": []}
    for check, there in zip(moving["checks"], whole["checks"], strict=True):
        assert check == there or (check["passed"] is None and check["measured"] == UNKNOWN)
        assert "{" not in check["message"]
    for dim, there in zip(moving["dims"], whole["dims"], strict=True):
        assert dim["shown"] in (there["shown"], UNKNOWN)
    assert moving["presets"] == whole["presets"]
    assert moving["inputs"] == whole["inputs"] and moving["lines_of"] == whole["lines_of"]


@pytest.mark.parametrize("name", ["lens-heater-coil", "dome-and-shutter", "star-map"])
def test_the_picture_in_motion_is_that_of_the_study_by_coarser_chords(name: str) -> None:
    text = demo(name)
    moving, whole = scenes(text)
    tolerance = checked_program(text, demo_tables(text)).tolerance
    for part, there in zip(moving["parts"], whole["parts"], strict=True):
        assert (part["name"], part["count"], part["colour"]) == (there["name"], there["count"], there["colour"])  # fmt: skip
        off = np.abs(np.array(part["bounds"]) - np.array(there["bounds"])).max()
        assert off <= 2 * COARSER * tolerance
        assert part["mass"] in ("", UNKNOWN) and bool(part["mass"]) == bool(there["mass"])
    triangles = [sum(part["triangles"] for part in one["parts"]) for one in (moving, whole)]
    assert triangles[0] < 0.8 * triangles[1]


SHEET = """study "Tank"
units mm, deg
input across = 80 mm from 20 mm to 200 mm step 1 mm
half = across / 2
around(r) = length(circle(r))
rim = around(half)
body = sphere(half)
high = height(body)
part tank = body
part lid = box(high, high, 3 mm) when high > 10 mm
part rule = box(half, 2 mm, 2 mm)
held = volume(body)
walls = rim * 2
check held < 1 m^3 "it holds {held} of {half}"
check half < 1 m "small"
note "It holds {held}."
dim high from (0 mm, 0 mm) to (high, 0 mm)
dim half from (0 mm, 0 mm) to (half, 0 mm)
preset "Small": across = 40 mm
"""


def test_what_is_measured_waits_though_a_picture_is_made_from_it() -> None:
    moving, whole = scenes(SHEET, across=120.0)
    said = {line: one for line, one in moving["outcomes"].items() if one.get("coming")}
    named = {one["name"] for one in moving["lines"] if str(one["line"]) in said}
    assert named == {"rim", "high", "held", "walls", None}
    lines = {one["name"]: str(one["line"]) for one in moving["lines"] if one["name"]}
    assert said[lines["held"]]["number"] == UNKNOWN and said[lines["held"]]["unit"] == ""
    assert moving["outcomes"][lines["half"]] == whole["outcomes"][lines["half"]]
    assert [one["passed"] for one in moving["checks"]] == [None, True]
    assert [one["message"] for one in moving["checks"]] == ["it holds … of …", "small"]
    assert [one["shown"] for one in moving["dims"]] == [UNKNOWN, "60 mm"]
    assert [part["count"] for part in moving["parts"]] == [1, 1, 1]
    assert [one["title"] for one in moving["presets"]] == ["Small"]


def test_where_something_is_wrong_only_the_whole_says_it() -> None:
    for wrong in ("bad = sqrt(-4)", "part gone = sphere(-1 mm)", "part one = box(1 mm)"):
        text = f"{SHEET}{wrong}\n"
        assert outcome_in_motion(checked_program(text), {"across": 120.0}, Memo()) is None


def test_a_study_without_geometry_is_whole_in_motion() -> None:
    moving, whole = scenes(
        'study "Sums"\ninput a = 2 from 1 to 9\nb = a^2\ncheck b < 50 "few"\n', a=3
    )
    assert moving["outcomes"] == whole["outcomes"] and moving["checks"] == whole["checks"]


def test_limits_that_are_measured_are_those_of_the_whole() -> None:
    """What a hand turns between is no coarser than the study."""
    limited = f"{SHEET}cut = body & box(50 mm, 50 mm, 90 mm)\ninput more = 2 mm from 1 mm to height(cut)\n"
    named = f'{SHEET}preset "As wide": across = width(body)\n'
    for text in (limited, named):
        assert outcome_in_motion(checked_program(text), {}, Memo()) is None


@pytest.mark.parametrize("name", ["dome-and-shutter", "star-map"])
def test_the_whole_after_a_motion_is_the_whole_without_one(name: str) -> None:
    """In one process and with what it remembers, whichever comes first."""
    text, memo, moving = demo(name), Memo(), Memo()
    tables = demo_tables(text)
    program = checked_program(text, tables)
    before = scene_of(outcome_of(text, {}, memo, tables=tables))
    first = outcome_in_motion(program, {}, moving)
    assert first is not None
    seen = scene_of(first)
    assert scene_of(outcome_of(text, {}, memo, tables=tables)) == before
    assert scene_of(outcome_of(text, {}, Memo(), tables=tables)) == before
    again = outcome_in_motion(program, {}, moving)
    assert again is not None and scene_of(again) == seen


def test_the_checks_of_a_study_that_is_used_say_no_figure_in_motion() -> None:
    sheet = 'study "Vane"\npart v = sphere(9 mm)\ncheck volume(v) > 1 mm^3 "it has {volume(v)}"\n'
    vane = OtherStudy("Vane", sheet, {})
    text = 'use vane from "Vane"\ninput far = 5 mm from 1 mm to 9 mm\npart all = vane().move(x = far)\n'
    tables = {study_key("Vane"): vane}
    found = outcome_in_motion(checked_program(text, tables), {}, Memo())
    assert found is not None
    (check,) = unpacked(scene_of(found))[0]["checks"]
    assert check["message"] == "in “Vane”: it has …" and check["passed"] is None
