"""The message for the stage."""

import json
from typing import Any

import numpy as np
import pytest

from ovolo.outcome.outcome import outcome_of
from ovolo.outcome.scene import MAGIC, scene_of, sheet_header
from ovolo.remembering import forget_all
from ovolo.running.evaluate import Memo
from ovolo.sheet.reader import read_sheet
from tests.sheets import demo_outcome, run


def unpacked(message: bytes) -> tuple[dict[str, Any], bytes]:
    assert message[:4] == MAGIC
    size = int.from_bytes(message[4:8], "little")
    assert size % 8 == 0
    return json.loads(message[8 : 8 + size]), message[8 + size :]


def floats(data: bytes, place: list[int]) -> np.ndarray:
    return np.frombuffer(data, np.float32, place[1], place[0])


def test_an_array_of_copies_is_one_shape_and_its_placements() -> None:
    header, data = unpacked(scene_of(demo_outcome("spiral-stair")))
    treads = next(part for part in header["parts"] if part["name"] == "treads")
    (group,) = treads["groups"]
    matrices = floats(data, group["matrices"]).reshape(-1, 4, 4)
    assert len(matrices) == treads["count"] == 17
    heights = matrices[:, 3, 2]
    assert np.diff(heights) == pytest.approx([180] * 16, rel=1e-5), "columns first; z of each tread"
    shape = header["shapes"][group["shape"]]
    assert floats(data, shape["positions"]).size % 3 == 0


def test_shapes_the_receiver_holds_are_left_out() -> None:
    outcome = run("part p = box(1 m, 1 m, 1 m)")
    header, _ = unpacked(scene_of(outcome))
    (key,) = header["shapes"]
    again, data = unpacked(scene_of(outcome, {key}))
    assert again["shapes"] == {} and again["parts"][0]["groups"][0]["shape"] == key
    assert len(data) == 16 * 4 + 4


def test_every_line_is_there_with_its_value_or_problem() -> None:
    header, _ = unpacked(scene_of(run("a = 3 mm", "b = a + 1", "# note", "")))
    assert [line["type"] for line in header["lines"]] == ["formula", "formula", "blank", "blank"]
    assert header["outcomes"]["1"]["number"] == "3" and header["outcomes"]["1"]["unit"] == "mm"
    assert "plus a number" in header["outcomes"]["2"]["problems"][0]["message"]


def test_inputs_carry_what_a_slide_rule_needs() -> None:
    header, _ = unpacked(scene_of(run(
        "units m, deg", "top = 5 m", 'input h = 3240 mm from 1 m to top step 5 mm "Height" # floor to floor',
        "input part_laid = 50 % from 10 % to 100 %", 'input o = "a" of "a", "b"', "input y = yes",
    )))  # fmt: skip
    height, share, outline, yes = header["inputs"]
    assert height == {
        "name": "h", "label": "Height", "help": "floor to floor", "line": 3, "kind": "length",
        "value": 3240.0, "number": "3.24", "numbers": ["3.24"], "unit": "m", "size": 1000.0, "width": 0,
        "low": 1000.0, "low_shown": "1", "high": 5000.0, "high_shown": "5", "step": 5.0,
        "step_shown": "0.005", "choices": [], "choices_shown": [], "problem": "",
        "section": "", "internal": False, "seed": False,
    }  # fmt: skip
    assert (share["label"], share["number"], share["unit"]) == ("part laid", "50", "%")
    assert outline["choices"] == ["a", "b"] and yes["value"] is True


def test_lists_and_points_turn_figure_by_figure() -> None:
    header, _ = unpacked(scene_of(run(
        "== Site ==", "input sizes = [10 mm, 12.5 mm] from 5 mm to 20 mm step 0.5 mm internal",
        "input foot = (1 m, 2 m)", "input bad = [", "dim w from (0 mm, 0 mm) to (w, 0 mm)", "input w = 1 m",
    )))  # fmt: skip
    sizes, foot, bad, w = header["inputs"]
    assert (bad["name"], bad["value"]) == ("bad", None) and "not closed" in bad["problem"]
    assert (sizes["value"], sizes["numbers"]) == ([10.0, 12.5], ["10", "12.5"])
    assert (sizes["low"], sizes["step"], sizes["internal"]) == (5.0, 0.5, True)
    assert (foot["value"], foot["section"]) == ([1000.0, 2000.0], "Site")
    assert header["dims"][0]["name"] == "w" == w["name"]


def test_regions_are_drawn_flat_with_their_outline() -> None:
    header, data = unpacked(scene_of(run("part p = rect(10 mm, 10 mm) - disc(2 mm)")))
    (shape,) = header["shapes"].values()
    edges = floats(data, shape["edges"]).reshape(-1, 2, 3)
    assert len(edges) > 8 and np.all(edges[:, :, 2] == 0)
    triangles = np.frombuffer(data, np.uint32, shape["triangles"][1], shape["triangles"][0])
    corners = floats(data, shape["positions"]).reshape(-1, 3)[triangles.reshape(-1, 3)]
    area = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])[:, 2].sum() / 2
    assert area == pytest.approx(100 - np.pi * 4, rel=0.02)


def test_curves_that_a_window_holds_are_sent_again_for_another_tolerance() -> None:
    ring = "part ring = circle(1 m)"
    (held,) = unpacked(scene_of(run(ring)))[0]["shapes"]
    again = unpacked(scene_of(run("tolerance 5 mm", ring), {held}))[0]["shapes"]
    assert len(again) == 1 and held not in again


def test_datums_are_points_and_curves_that_are_no_parts() -> None:
    outcome = run("p = (1 m, 2 m)", "edge = line(p, (3 m, 2 m))", "block = box(1 m, 1 m, 1 m)", "part rim = circle(1 m)")  # fmt: skip
    shown = unpacked(scene_of(outcome, construction={"*"}))[0]["construction"]
    assert [one["name"] for one in shown] == ["p", "edge"]


def test_lines_that_are_held_are_not_sent_again() -> None:
    outcome = run("a = 1 mm", "b = 2 * a")
    first, _ = unpacked(scene_of(outcome))
    again, _ = unpacked(scene_of(outcome, lines_held=first["lines_of"]))
    assert [line["name"] for line in first["lines"]] == ["a", "b"]
    assert "lines" not in again and again["outcomes"] == first["outcomes"]
    other, _ = unpacked(scene_of(run("a = 1 mm", "c = 2 * a"), lines_held=first["lines_of"]))
    assert [line["name"] for line in other["lines"]] == ["a", "c"]


def test_items_of_every_kind_are_sent_in_their_colours() -> None:
    """Solids, regions and surfaces coloured by a list: each item's colour is that of its value."""
    for made in (
        "box(1 m, 1 m, 1 m).move(i * 2 m)",
        "disc(1 m).move(i * 3 m)",
        "surface((u, v) -> (u * 1 m, v * 1 m, i * 1 m))",
    ):
        outcome = run(f"part p = [{made} for i in 0 .. 1] colour #102030 to #405060 by [0, 1]")
        header, data = unpacked(scene_of(outcome))
        found = {}
        for group in header["parts"][0]["groups"]:
            for item, tint in zip(
                whole(data, group["items"]), whole(data, group["tints"]), strict=True
            ):
                found[int(item)] = int(tint)
        assert found == {0: 0x102030, 1: 0x405060}, made


def whole(data: bytes, place: list[int]) -> np.ndarray:
    return np.frombuffer(data, dtype=np.uint32, count=place[1], offset=place[0])


def test_lines_of_files_and_studies_say_their_name_once() -> None:
    sheet = read_sheet(
        'file plan = "pl#an.dxf" # as it came\n'
        'file site = "site.png" from (0, 0) to (10, 0) is 5 m at (1 m, 2 m)\n'
        'use pier from "Pier #1" # the first'
    )
    assert [line["body"] for line in sheet_header(sheet)["lines"]] == [
        '= "pl#an.dxf"',
        '= "site.png" from (0, 0) to (10, 0) is 5 m at (1 m, 2 m)',
        'from "Pier #1"',
    ]


TURNED = """units mm
input a = 5 mm from 1 mm to 9 mm step 1 mm
input n = 3 from 1 to 6 step 1
twice = 2 * a
other = n + 1
row = [i * a for i in 0 .. n]
root_of = sqrt(a - 4 mm)
check twice < 12 mm
wrong = a + missing
part p = box(a, twice, 3 mm)"""


def test_what_is_told_of_a_line_is_what_holds_now_whatever_was_told_before() -> None:
    """Turned to and fro, also to where a line fails: each time what a program tells that was told nothing before;
    and a line that came out as before is not said anew."""
    settings: list[dict[str, float]] = [{}, {"a": 7.0}, {"n": 5.0}, {"a": 2.0}, {"a": 7.0}, {}]
    fresh = []
    for values in settings:
        forget_all()
        fresh.append(unpacked(scene_of(outcome_of(TURNED, values)))[0])
    assert len({json.dumps(one["outcomes"]) for one in fresh}) == 4
    forget_all()
    memo = Memo()
    for values, expected in zip(settings, fresh, strict=True):
        outcome = outcome_of(TURNED, values, memo)
        assert unpacked(scene_of(outcome))[0] == expected
        told = {id(one.told) for one in outcome.program.lines if one.told}
        assert len(told) > 6
        assert unpacked(scene_of(outcome))[0] == expected
        assert told == {id(one.told) for one in outcome.program.lines if one.told}
