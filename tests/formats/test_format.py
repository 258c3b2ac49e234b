"""The entries of file formats: what they offer is what is written, read and documented."""

import io
import math
from pathlib import Path

import pytest
import trimesh

from ovolo.formats.attached import Files, Sheet, attachable, attached_as, read_attached, size_of
from ovolo.formats.export import exported
from ovolo.formats.format import Format, formats
from ovolo.meaning.attachments import study_key
from ovolo.problems import Failure
from ovolo.quantities.table import Table
from tests.sheets import run

PAGE = Path(__file__).parents[2] / "docs" / "files.md"
BRACKET = (
    "part b = box(254 mm, 100 mm, 10 mm) - cylinder(20 mm, 50 mm)",
    "part rim = circle(40 mm)",
)


def _row(one: Format) -> str:
    options = "; ".join(f"`{o.name}`: {', '.join(o.choices)}" for o in one.options) or "–"
    written = "; ".join(filter(None, (one.said, "a drawing on paper" if one.draw else ""))) or "–"
    endings = ", ".join(f".{ending}" for ending in one.endings)
    return f"| {one.title} | {endings} | {one.holds or '–'} | {written} | {options} |"


def test_the_page_on_files_tells_of_every_format() -> None:
    rows = [row for row in PAGE.read_text(encoding="utf-8").split("\n") if row.startswith("| ")]
    assert rows[2:] == [_row(one) for one in formats()]


@pytest.mark.parametrize("one", [one for one in formats() if one.write], ids=lambda one: one.title)
def test_every_choice_of_every_option_is_written(one: Format) -> None:
    """And each gives another file than the others."""
    outcome = run(*BRACKET)
    for option in one.options:
        files = {exported(outcome, f"a.{one.ending}", [], {option.name: c}) for c in option.choices}
        assert len(files) == len(option.choices)
        if one.ending != "3mf":  # which gives its objects other identifiers each time
            assert exported(outcome, f"a.{one.ending}") in files
    with pytest.raises(Failure) as caught:
        exported(outcome, f"a.{one.ending}", [], {"colour": "red"})
    assert caught.value.message == f".{one.ending} has no option `colour`"


@pytest.mark.parametrize("ending", ["stl", "obj"])
@pytest.mark.parametrize(("unit", "mm"), [("mm", 1), ("cm", 10), ("m", 1000), ("in", 25.4)])
def test_figures_stand_for_the_unit_that_is_asked_for(ending: str, unit: str, mm: float) -> None:
    """Read back by trimesh, which takes the figures as they are; an inch is 25.4 mm by definition."""
    data = exported(run(*BRACKET), f"a.{ending}", [], {"unit": unit})
    mesh = trimesh.load_mesh(io.BytesIO(data), file_type=ending)
    assert mesh.extents == pytest.approx([254 / mm, 100 / mm, 10 / mm], rel=1e-6)


def test_an_unknown_choice_says_which_there_are() -> None:
    with pytest.raises(Failure) as caught:
        exported(run(*BRACKET), "a.stl", [], {"unit": "yd"})
    assert (caught.value.message, caught.value.hint) == (
        "`yd` is no unit of .stl",
        "one of mm, cm, m, in",
    )


def test_a_schedule_with_decimal_commas_is_read_as_the_same_table() -> None:
    outcome = run("part b = box(1 m / 3, 100 mm, 10 mm) material 700 kg/m^3")
    tables = [
        read_attached(exported(outcome, "a.csv", [], {"figures": figures}), "a.csv")
        for figures in ("point", "comma")
    ]
    one, other = tables
    assert isinstance(one, Table) and isinstance(other, Table)
    assert one.columns.keys() == other.columns.keys()
    for column, values in one.columns.items():
        assert list(values) == list(other.columns[column])


def test_what_may_be_attached_is_what_is_read() -> None:
    assert attachable() == ".3mf,.stl,.csv,.xlsx,.xlsm,.dxf,.svg,.png,.jpg,.jpeg"
    assert attached_as() == (
        "a solid (3MF, STL), a table (CSV, XLSX), a drawing (DXF, SVG) or a picture (PNG, JPEG)"
    )


def test_chords_are_as_close_as_is_asked_for() -> None:
    """No chord misses the round by more than a share of the sheet's tolerance; the sagitta of a chord
    of n equal ones in a circle is r (1 - cos(π/n)) (plane geometry)."""
    outcome = run("tolerance 0.1 mm", "part pin = cylinder(50 mm, 10 mm)")
    for choice, most in (("sheet", 0.1), ("fine", 0.02), ("coarse", 0.5)):
        data = exported(outcome, "a.stl", [], {"chords": choice})
        mesh = trimesh.load_mesh(io.BytesIO(data), file_type="stl")
        around = len(mesh.vertices) // 2
        assert 0.3 * most < 50 * (1 - math.cos(math.pi / around)) <= 1.3 * most


def test_files_of_studies_that_many_use_count_once() -> None:
    """A ladder of studies that each use both of the next rung: there are a million million ways down forty rungs."""
    below: Files = {"t.csv": b"a\n1\n"}
    for rung in range(40):
        both = [Sheet(f"{rung} {side}", "", below) for side in "lr"]
        below = {study_key(one.title): one for one in both}
    assert size_of(below) == 2 * len(b"a\n1\n"), "each of the last rung has its file"
