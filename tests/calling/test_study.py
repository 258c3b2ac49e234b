"""Ovolo called from Python: values, settings, parts, trials, files, and what a notebook shows."""

from __future__ import annotations

import doctest
import io
import math
import subprocess
import sys
import xml.etree.ElementTree as ET
import zipfile
from pathlib import Path

import numpy as np
import pytest
import shapely
import trimesh

import ovolo
from ovolo.calling import study as module
from ovolo.outcome.outcome import outcome_of
from tests.sheets import DEMO

ROOT = Path(__file__).parents[2]
SHEET = """study "Wind vane"
units m, deg
input chord = 300 mm from 100 mm to 900 mm step 10 mm "Chord"
input form = "plain" of "plain", "swept"
input nosed = yes
input tip = (120 mm, 40 mm)
lean = atan(1 / 2)
third = chord / 3
offsets = [i * chord for i in 0 .. 3]
part fin = extrude(rect(chord, 20 mm), 5 mm) material 700 kg/m^3 "Fin"
part holes = [disc(10 mm).move(i * 40 mm) for i in 0 .. 2]
check chord < 800 mm "small enough"
preset "Small": chord = 120 mm
"""


@pytest.fixture
def vane() -> ovolo.Study:
    return ovolo.Study(SHEET)


def test_the_examples_of_the_documentation() -> None:
    assert doctest.testmod(module).failed == 0
    page = ROOT / "docs" / "python.md"
    told = doctest.testfile(str(page), module_relative=False, globs={"ovolo": ovolo})
    assert told.attempted > 5 and told.failed == 0


def test_figures_are_in_mm_degrees_and_kg_whatever_the_sheet_shows(vane: ovolo.Study) -> None:
    assert (vane.chord, vane.unit("chord"), vane.shown("chord")) == (300, "mm", "0.3 m")
    assert vane.lean == pytest.approx(math.degrees(math.atan(0.5))) and vane.unit("lean") == "deg"
    assert vane.form == "plain" and vane.nosed is True
    assert vane.offsets.tolist() == [0, 300, 600, 900] and vane.tip.tolist() == [120, 40]
    rows = {row["name"]: row for row in vane.table()}
    assert rows["chord"]["label"] == "Chord" and rows["third"]["value"] == 100


def test_inputs_are_set_as_typed_or_as_figures(vane: ovolo.Study) -> None:
    vane["chord"] = "0.45 m"
    assert (vane.chord, vane.third) == (450, 150)
    vane["chord"] = 600
    vane["form"], vane["nosed"], vane["tip"] = "swept", False, "(1 m, 2 m)"
    assert (vane.third, vane.form, vane.nosed) == (200, "swept", False)
    assert vane.tip.tolist() == [1000, 2000] and repr(vane).startswith(
        "<study Wind vane: chord = 0.6 m"
    )


def test_a_study_at_other_values_leaves_the_first_as_it_is(vane: ovolo.Study) -> None:
    small = vane.at("Small", form="swept")
    assert (small.chord, small.form, vane.chord, vane.form) == (120, "swept", 300, "plain")
    assert small.at(chord=850).failing == ["small enough"] and small.well


@pytest.mark.parametrize(
    ("name", "value", "said"),
    [
        ("chord", "3 kg", "mass"), ("chord", "wide", "`wide`"), ("third", 3, "not an input"), ("cord", 3, "did you mean `chord`"),
        ("form", "round", "choices"), ("nosed", "perhaps", "neither yes nor no"), ("chord", math.nan, "no value"), ("chord", math.inf, "no value"),
    ],
    ids=range(8),
)  # fmt: skip
def test_what_is_no_value_is_said(name: str, value: object, said: str, vane: ovolo.Study) -> None:
    with pytest.raises(ovolo.Failure) as told:
        vane[name] = value
    assert said in told.value.said
    assert vane.chord == 300


def test_what_has_no_value_says_why() -> None:
    study = ovolo.Study("a = 1 mm + 1 kg\nb = a * 2")
    with pytest.raises(ovolo.Failure, match="`a` has no value"):
        study["a"]
    assert not hasattr(study, "b") and not hasattr(study, "__array__") and study.problems
    with pytest.raises(ovolo.Failure, match="cannot be read"):
        ovolo.open("nowhere.ovo")


def test_parts_are_ready_for_other_libraries(vane: ovolo.Study) -> None:
    """Read by trimesh and by shapely; the volume by hand."""
    fin = vane.parts.fin
    assert fin.volume == pytest.approx(300 * 20 * 5) and fin.mass == pytest.approx(0.021)
    mesh = fin.trimesh()
    assert mesh.is_watertight and mesh.volume == pytest.approx(fin.volume)
    assert np.ptp(fin.bounds, axis=0) == pytest.approx([300, 20, 5])
    holes = vane.parts["holes"].polygons()
    assert len(holes) == 3 and shapely.union_all(holes).area == pytest.approx(
        3 * math.pi * 100, rel=0.01
    )
    with pytest.raises(ovolo.Failure, match="has no solids"):
        vane.parts.holes.mesh()
    with pytest.raises(ovolo.Failure, match="has no regions"):
        fin.polygons()
    with pytest.raises(AttributeError, match="parts: fin, holes"):
        vane.parts.tail  # noqa: B018
    assert list(vane.parts) == ["fin", "holes"] and fin.placements.shape == (1, 4, 4)


def test_trials_are_those_of_the_command(
    vane: ovolo.Study, capsys: pytest.CaptureFixture[str]
) -> None:
    found = vane.vary("series", inputs=["chord"], counts=[5], progress=True)
    assert found.column("chord") == [100, 300, 500, 700, 900]
    assert [bool(row["why"]) for row in found] == [False] * 4 + [True]
    assert "5 of 5" in capsys.readouterr().err
    assert len(vane.vary("presets")) == 1 and found.csv().count("\n") == 6
    for row in vane.vary("roll", 4):
        assert vane.at(chord=row["chord"]).third == row["third"]


def test_files_are_those_of_the_command(vane: ovolo.Study, tmp_path: Path) -> None:
    file = vane.export(tmp_path / "fin.stl", ["fin"], unit="cm")
    assert trimesh.load(file).volume == pytest.approx(30)
    assert vane.drawing("a.pdf", scale="1:5").startswith(b"%PDF")
    with pytest.raises(ovolo.Failure):
        vane.export(tmp_path / "fin.exe")
    with pytest.raises(ovolo.Failure):
        vane.drawing("a.exe")


def test_a_notebook_shows_the_drawing_and_the_values(vane: ovolo.Study) -> None:
    shown = vane._repr_html_()
    picture = shown[shown.index("<svg") : shown.index("</svg>") + 6]
    assert ET.fromstring(picture).tag.endswith("svg") and "<td>Chord</td><td>0.3 m</td>" in shown
    wrong = ovolo.Study('a = 1 mm + 1 kg\ncheck 1 > 2 "<b>no</b>"')._repr_html_()
    assert "&lt;b&gt;no" in wrong and "✕" in wrong


@pytest.mark.parametrize("name", ["01-spiral-stair", "05-arched-slit-window", "12-telescope-pier"])
def test_studies_of_a_folder_are_as_on_the_command_line(name: str) -> None:
    from ovolo.formats.attached import everything_named, folder_shelf, read_files

    study = ovolo.open(DEMO / f"{name}.ovo")
    tables = read_files(everything_named(study.text, folder_shelf(DEMO)))
    outcome = outcome_of(study.text, tables=tables)
    assert list(study.parts) == list(outcome.parts) and study.well
    assert [part.volume for part in study.parts.values()] == [
        p.volume for p in outcome.parts.values()
    ]


USE = """
import sys
class NoWeb:
    def find_spec(self, name, path=None, target=None):
        if name.partition(".")[0] in ("django", "studio", "gunicorn", "tests"):
            raise ImportError(f"{name} is not here")
sys.meta_path.insert(0, NoWeb())
sys.path.insert(0, sys.argv[1])
import ovolo
assert ovolo.__file__.startswith(sys.argv[1]), ovolo.__file__
study = ovolo.Study("input a = 3 mm from 1 mm to 9 mm\\npart p = box(a, a, a)\\npart t = extrude(text(\\"A\\", 5 mm), 1 mm)")
assert abs(study.parts.p.volume - 27) < 1e-9 and study.parts.t.volume > 0
study.export(sys.argv[1] + "/p.3mf")
from ovolo.command.__main__ import main
sys.exit(main(["words", "rect"]))
"""


def test_the_wheel_is_whole_and_works_without_the_web(tmp_path: Path) -> None:
    """Built as `pip install .` builds it, unpacked into a place of its own, used where Django cannot be imported."""
    build = [sys.executable, "-m", "pip", "wheel", "--no-deps", "--no-build-isolation", "--no-index", "-q", "-w", str(tmp_path), "."]  # fmt: skip
    subprocess.run(build, cwd=_copy(tmp_path / "source"), check=True, capture_output=True)
    (wheel,) = tmp_path.glob("*.whl")
    place = tmp_path / "place"
    with zipfile.ZipFile(io.BytesIO(wheel.read_bytes())) as archive:
        archive.extractall(place)
        told = next(
            archive.read(one).decode() for one in archive.namelist() if one.endswith("METADATA")
        )
    assert "Requires-Dist: numpy" in told and "Provides-Extra: studio" in told
    used = subprocess.run([sys.executable, "-I", "-c", USE, str(place)], cwd=tmp_path, capture_output=True, text=True)  # fmt: skip
    assert used.returncode == 0, used.stderr
    assert "rect(" in used.stdout


def _copy(place: Path) -> Path:
    import shutil

    place.mkdir()
    for name in ("pyproject.toml", "README.md", "LICENSE"):
        shutil.copy(ROOT / name, place / name)
    shutil.copytree(ROOT / "ovolo", place / "ovolo", ignore=shutil.ignore_patterns("__pycache__"))
    return place
