"""Hand-overs: files by a rule, the manifest, the same bytes again, and what is refused."""

from __future__ import annotations

import datetime
import hashlib
import io
import json
import zipfile
from pathlib import Path
from typing import Any

import pytest
import trimesh
from hypothesis import given

from ovolo.command.__main__ import main
from ovolo.formats.attached import Sheet, read_files
from ovolo.hand_over.order import PLACES, named, read_order
from ovolo.hand_over.package import MANIFEST, Package, Source, packed, warnings_of
from ovolo.meaning.attachments import study_key
from ovolo.meaning.checked_sheet import checked_program
from ovolo.outcome.outcome import outcome_of
from ovolo.problems import Failure
from tests.odd_texts import odd_texts
from tests.sheets import DEMO

SHELF = """study "Shelf / left"
units mm, deg
input width = 900 mm from 300 mm to 1200 mm "Width"
part board = box(width, 200 mm, 20 mm) "Board"
part pegs = [cylinder(8 mm, 40 mm).move(x = i * 50 mm) for i in 0 .. 3] "Pegs"
part edge = rect(width, 20 mm) "Edge"
preset "Small": width = 400 mm
preset "Wide": width = 1100 mm
check width < 1000 mm "not too wide"
"""


DAY = datetime.date(2026, 3, 1)


def order_of(**said: Any) -> Package:
    source = Source("Shelf / left", SHELF, "r7", checked_program(SHELF, {}), DAY)
    return packed(source, read_order(said))


def names(package: Package) -> list[str]:
    return [one.name for one in package.files]


STL = {"ending": "stl"}
EACH = {"ending": "stl", "each": True, "options": {"unit": "cm"}}


def test_files_are_named_by_the_rule() -> None:
    assert names(order_of(formats=[STL])) == ["Shelf left.stl"]
    package = order_of(formats=[EACH], presets=["", "Small"], rule="{study}-{part}-{preset}-{revision}")  # fmt: skip
    assert names(package) == ["Shelf left-Board--r7.stl", "Shelf left-Pegs--r7.stl", "Shelf left-Board-Small-r7.stl", "Shelf left-Pegs-Small-r7.stl"]  # fmt: skip
    assert names(order_of(formats=[STL], text=True, rule="{part} {study}")) == ["Shelf left.stl", "Shelf left.ovo"]  # fmt: skip


def test_each_preset_leaves_with_its_values() -> None:
    package = order_of(formats=[EACH], presets=["Small", "Wide"], parts=["board"])
    widths = [float(trimesh.load(io.BytesIO(one.data), file_type="stl").extents[0]) for one in package.files]  # fmt: skip
    assert widths == pytest.approx([40, 110]), "cm, as the option says"
    manifest = package.manifest()
    assert manifest["inputs"]["Small"]["width"]["value"] == pytest.approx(400)
    assert package.warnings == ("Wide: a check fails: not too wide",)


def test_the_manifest_tells_every_file() -> None:
    package = order_of(formats=[STL, {"ending": "step"}, {"ending": "csv"}], papers=[{"ending": "pdf", "layout": {"paper": "A3"}}], text=True)  # fmt: skip
    with zipfile.ZipFile(io.BytesIO(package.zipped())) as folder:
        said = json.loads(folder.read(MANIFEST))
        assert {one["name"] for one in said["files"]} | {MANIFEST} == set(folder.namelist())
        for one in said["files"]:
            data = folder.read(one["name"])
            assert (len(data), hashlib.sha256(data).hexdigest()) == (one["bytes"], one["sha256"])
    assert said["revision"] == "r7" and said["study"] == "Shelf / left"
    assert said["text_sha256"] == hashlib.sha256(SHELF.encode()).hexdigest()


def test_it_is_made_again_to_the_byte() -> None:
    every = [
        {"ending": one} for one in ("stl", "3mf", "step", "glb", "obj", "ifc", "csv", "dxf", "svg")
    ]
    said = {"formats": every, "papers": [{"ending": "pdf"}, {"ending": "svg"}], "presets": ["", "Small"], "rule": "{study} {preset}"}  # fmt: skip
    svg = order_of(**said).files[-1].data.decode()
    assert "2026-03-01" in svg, "of the revision, and not of today"
    # A drawing on paper has its view in its name, so that both SVGs differ.
    assert order_of(**said).zipped() == order_of(**said).zipped()


@pytest.mark.parametrize(
    ("said", "why"),
    [
        ({}, "nothing would leave"),
        ({"formats": [STL], "presets": []}, "nothing would leave"),
        ({"formats": [{"ending": "exe"}]}, "nothing is written as .exe"),
        ({"formats": [{"ending": "stl", "options": {"unit": "ell"}}]}, "`ell` is no unit"),
        ({"papers": [{"ending": "stl"}]}, "no drawing is written as .stl"),
        ({"formats": [STL], "rule": "{study} {colour}"}, "has `{colour}`"),
        ({"formats": [STL], "rule": "{study"}, "a brace that stands alone"),
        ({"formats": [STL], "rule": "{preset}"}, "names a file of nothing"),
        ({"formats": [EACH], "rule": "{study}"}, "say {part} in the rule"),
        ({"formats": [STL], "presets": ["", "Small"], "rule": "{study}"}, "say {preset} in the rule"),
        ({"formats": [STL], "presets": ["Smal"]}, 'no preset "Smal"'),
        ({"formats": [STL], "parts": ["bord"]}, "no part `bord`"),
        ({"formats": [STL], "parts": ["edge"]}, "no solid parts were chosen"),
        ({"formats": "stl"}, "cannot be read"),
        ({"formats": [3]}, "cannot be read"),
        ({"formats": [{"ending": "stl", "options": 3}]}, "cannot be read"),
        ({"papers": [{"ending": "pdf", "layout": {"view": "inside"}}]}, "inside"),
        ({"papers": [{"ending": "pdf", "layout": {"figures": 3}}]}, "figures of a sheet cannot be read"),
        ({"papers": [{"ending": "pdf", "layout": {"figures": ["plan", 3]}}]}, "figures of a sheet cannot be read"),
        ({"papers": [{"ending": "pdf", "layout": {"revisions": [[1]]}}]}, "revisions of a sheet cannot be read"),
        ({"papers": [{"ending": "pdf", "layout": {"figures": "plan; inside"}}]}, "is no figure"),
        ({"papers": [{"ending": "pdf", "layout": {"paper": "A4", "scale": "10:1"}}]}, "scale|fit|paper"),
    ],
)  # fmt: skip
def test_what_makes_no_sense_is_refused(said: dict[str, Any], why: str) -> None:
    import re

    with pytest.raises(Failure) as told:
        order_of(**said)
    assert re.search(why.replace("{", r"\{").replace("}", r"\}"), told.value.said)


@given(odd_texts(60), odd_texts(60), odd_texts(30))
def test_any_title_makes_a_name_that_a_file_may_have(study: str, part: str, preset: str) -> None:
    values = dict.fromkeys(PLACES, "") | {"study": study, "part": part, "preset": preset}
    try:
        name = named("{study} {part} {preset}", values, "stl")
    except Failure:
        return
    assert name.endswith(".stl") and len(name) <= 124
    assert not set(name) & set('<>:"/\\|?*\n\r\t\0\u202e') and name.strip(" .") == name


def test_the_command(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    walk, folder = str(next(DEMO.glob("*boardwalk.ovo"))), tmp_path / "out"
    call = ["hand-over", walk, "--to", str(folder), "--format", "stl:each:unit=in", "--paper", "pdf:paper=A3:scale=1:50", "--at", "all", "--rule", "{preset} {part}"]  # fmt: skip
    assert main(call) == 0
    said = json.loads((folder / MANIFEST).read_text("utf-8"))
    assert {one["preset"] for one in said["files"]} == {"Landing stage", "Garden path"}
    before = {one.name: one.read_bytes() for one in folder.iterdir()}
    assert main(call) == 0
    assert {one.name: one.read_bytes() for one in folder.iterdir()} == before
    assert main(["hand-over", walk, "--to", str(folder)]) == 2
    assert "nothing would leave" in capsys.readouterr().err
    assert main(["hand-over", walk, "--to", str(folder), "--format", "stl", "--set", "n=3"]) == 2
    assert main(["hand-over", walk, "--to", str(folder), "--paper", "pdf:A3"]) == 2


def test_trials_leave_like_presets() -> None:
    trials = [{"title": "Rolled, number 3", "set": {"width": 555.0}}]
    package = order_of(formats=[EACH], parts=["board"], presets=["Small"], trials=trials)
    assert names(package) == ["Shelf left Board Small.stl", "Shelf left Board Rolled, number 3.stl"]
    widths = [float(trimesh.load(io.BytesIO(one.data), file_type="stl").extents[0]) for one in package.files]  # fmt: skip
    assert widths == pytest.approx([40, 55.5])
    assert package.manifest()["inputs"]["Rolled, number 3"]["width"]["value"] == 555
    assert len(order_of(formats=[STL], presets=[], trials=trials).files) == 1


@pytest.mark.parametrize(
    ("trials", "said"),
    [
        ([{"title": "Small", "set": {}}], "two settings are called “Small”"),
        ([{"title": " ", "set": {}}], "needs a name"),
        ([{"title": "A", "set": {"height": 3.0}}], "“A” sets `height`, which is no such input"),
        ([{"title": "A", "set": {"width": "wide"}}], "“A” sets `width`"),
        ([{"set": {}}], "cannot be read"),
        ([3], "cannot be read"),
    ],
)
def test_trials_that_are_none_are_refused(trials: Any, said: str) -> None:
    with pytest.raises(Failure) as refused:
        order_of(formats=[STL], presets=["Small"], trials=trials)
    assert said in refused.value.said


def test_a_trial_is_said_to_the_command(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    sheet = tmp_path / "s.ovo"
    sheet.write_text(SHELF)
    assert main(["hand-over", str(sheet), "--to", str(tmp_path), "--format", "stl", "--trial", "Mine: width=0.5 m"]) == 0  # fmt: skip
    mesh = trimesh.load(tmp_path / "Shelf left Mine.stl")
    assert mesh.extents[0] == pytest.approx(500)
    assert (
        main(["hand-over", str(sheet), "--to", str(tmp_path), "--format", "stl", "--trial", "Mine"])
        == 2
    )
    assert "is no trial" in capsys.readouterr().err


def test_what_no_file_holds_is_told() -> None:
    """Flat parts beside solids, and a list of both that another study yields: the file has the solids alone,
    and the hand-over says what it has not."""
    inner = 'study "Inner"\npart block = box(10 mm, 10 mm, 10 mm)\npart plan = disc(9 mm)\npart rim = circle(9 mm)\n'
    text = 'study "Outer"\nuse inner from "Inner"\npart all = inner() "All"\npart mark = rect(5 mm, 5 mm)\n'
    tables = read_files({study_key("Inner"): Sheet("Inner", inner)})
    source = Source("Outer", text, "r1", checked_program(text, tables), DAY)
    told = packed(source, read_order({"formats": [STL]})).warnings
    assert told == (
        "All: no file holds 1 region and 1 curve",
        "mark: no file holds 1 region",
    )
    both = packed(source, read_order({"formats": [STL, {"ending": "dxf"}]})).warnings
    assert both == ("All: no file holds 1 region and 1 curve",)
    with_table = packed(source, read_order({"formats": [STL, {"ending": "csv"}]})).warnings
    assert (
        with_table == told
        and packed(source, read_order({"formats": [{"ending": "csv"}]})).warnings == ()
    )
    paper = {"formats": [STL], "papers": [{"ending": "pdf", "layout": {"paper": "A3"}}]}
    assert packed(source, read_order(paper)).warnings == ()


def test_a_check_that_may_be_otherwise_is_warned_of() -> None:
    """A ball cut by a block, at coarse chords: its volume is known to some per cent."""
    text = "tolerance 0.5 mm\npart body = sphere(20 mm) & box(15 mm, 15 mm, 90 mm)\ncheck volume(body) < {} cm^3\n"
    for limit, told in (("4.283", True), ("4.5", False)):
        said = warnings_of(outcome_of(text.format(limit)), [])
        assert said == ["the figures of a check may be off by more than they are apart: volume(body) < 4.283 cm^3"] * told  # fmt: skip
