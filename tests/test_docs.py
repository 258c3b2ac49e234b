"""What the documentation shows is what the program gives."""

import re
from pathlib import Path

import pytest

from ovolo.command.__main__ import _parser
from ovolo.exercises.first_hour import FIRST_HOUR
from ovolo.formats.export import exported
from ovolo.outcome.outcome import outcome_of, show_line
from ovolo.writing.starting import starting_points
from tests.sheets import run

DOCS = Path(__file__).parents[1] / "docs"


def test_the_picture_of_remainders_is_current() -> None:
    outcome = outcome_of((DOCS / "pictures" / "remainders.ovo").read_text(encoding="utf-8"))
    assert outcome.well
    assert exported(outcome, "remainders.svg") == (DOCS / "pictures" / "remainders.svg").read_bytes()  # fmt: skip


def test_the_arrays_of_the_language_page_are_made() -> None:
    page = (DOCS / "language.md").read_text(encoding="utf-8")
    code = page.split("## Arrays")[1].split("\n- All take")[0]
    lines = [line.strip() for line in code.split("\n") if line.startswith("    ")]
    assert len(lines) == 11
    outcome = run(
        *lines,
        "tread = box(240 mm, 900 mm, 40 mm)", "post = cylinder(30 mm, 1 m)", "stone = rect(200 mm, 100 mm)",
        "blade = box(180 mm, 20 mm, 2 m)", "sill = arc_rise((0 m, 0 m), (5 m, 0 m), 800 mm)",
        "roof = surface((u, v) -> (u * 4 m, v * 3 m, sin(u * 180°) * 1 m))", "pebble = sphere(20 mm)",
        "bed = disc(600 mm)", "places = divide(circle(1 m), 5)",
    )  # fmt: skip
    assert not outcome.problems, outcome.problems


def _samples(section: str) -> list[str]:
    """The lines of code in a section of the language page."""
    page = (DOCS / "language.md").read_text(encoding="utf-8")
    body = page.split(f"## {section}\n")[1].split("\n## ")[0]
    return [line.strip() for line in body.split("\n") if line.startswith("    ")]


def test_the_functions_of_the_language_page_are_worth_something() -> None:
    lines = _samples("Numbers, lists and functions")
    assert len(lines) == 8
    outcome = run(
        *lines,
        "xs = [1, 2, 6]", "s = 2 m", "temperature = 12", "span = 3 m", "depth(x) = 200 mm - x / 30",
        "weight(h) = (h - 40 mm)^2", "p = (0 mm, 0 mm)", "q = (9 mm, 0 mm)", "r = (0 mm, 9 mm)",
        "plate = rect(1 m, 1 m)",
    )  # fmt: skip
    assert not outcome.problems, outcome.problems


def test_figures_are_read_as_the_language_page_says() -> None:
    """The table of how figures are read, row by row."""
    page = (DOCS / "language.md").read_text(encoding="utf-8")
    table = page.split("### How figures are read")[1].split("\n## ")[0]
    rows = [row.split(" | ") for row in table.split("\n") if row.startswith("| `")]
    assert len(rows) == 11
    wanted = {
        "1/4 in": 6.35, "3/8 m": 375.0, "1 / (4 in)": 1 / 101.6, "1/4 in / 1 ft": 1 / 48,
        "10 mm^2": 10.0, "(10 mm)^2": 100.0, "1 ft 6 in^2": None, "2 mm^1.5": None, "2 t": 2000.0,
        "(8 m^3)^(1/3)": 2000.0, "(4 m^2)^0.5": 2000.0, "round(2.345, 2)": 2.0, "1,5 m": None,
    }  # fmt: skip
    for formula, figure in wanted.items():
        assert f"`{formula}" in table
        outcome = run("t = 12 mm", f"a = {formula}")
        assert bool(outcome.problems) == (figure is None), formula
        if figure is not None:
            assert outcome.lines[1].value == pytest.approx(figure, rel=1e-12), formula
    for formula in ("2 t", "round(12.7 mm)", "round(2.345, 2)", "3/8 m"):
        assert any(line.notes for line in run("t = 12 mm", f"a = {formula}").lines), formula


def test_every_setting_of_the_environment_is_in_the_table_of_settings() -> None:
    read = {
        name
        for file in (DOCS.parent / "studio").rglob("*.py")
        for name in re.findall(r"environ.*?[\"'](OVOLO_\w+)[\"']", file.read_text(encoding="utf-8"))
    }
    page = (DOCS / "running.md").read_text(encoding="utf-8")
    cells = re.findall(r"^\| (`OVOLO_\w+`[^|]*|`PORT`) \|", page, re.MULTILINE)
    said = re.findall(r"OVOLO_\w+", " ".join(cells))
    assert len(read) > 5 and read == set(said)


def test_files_and_tests_that_the_pages_name_are_there() -> None:
    root = DOCS.parent
    files = [
        str(one.relative_to(root))
        for part in ("ovolo", "studio", "frontend", "tests", "docs", "bench")
        for one in (root / part).rglob("*.*")
    ]
    tests = {
        found
        for one in (root / "tests").rglob("*.py")
        for found in re.findall(r"def (test_\w+)", one.read_text(encoding="utf-8"))
    }
    for page in (root / "README.md", *DOCS.glob("*.md")):
        text = page.read_text(encoding="utf-8")
        for name in re.findall(r"`([\w./-]+\.(?:py|js|lark|html|md))`", text):
            assert any(f"/{one}".endswith(f"/{name}") for one in files) or (root / name).exists(), (
                f"{page.name}: {name}"
            )
        for name in re.findall(r"`(test_\w+)`", text):
            assert name in tests, f"{page.name}: {name}"


def test_the_tutorial_is_a_sheet_that_is_well_and_says_its_figures() -> None:
    page = (DOCS / "tutorial.md").read_text(encoding="utf-8")
    blocks = re.findall(r"```ovo\n(.*?)```", page, flags=re.DOTALL)
    outcome = outcome_of("\n".join(blocks))
    assert not outcome.problems and not outcome.failed_checks and len(blocks) == 4
    shown = {
        one.line.name: str(show_line(one, outcome.units)) for one in outcome.lines if one.has_value
    }
    said = re.findall(r"`(\w+)` is \*\*([^*]+)\*\*", page)
    assert len(said) == 4 and all(
        shown[name].replace("\u2009", "") == value for name, value in said
    )
    commands = _parser().format_help()
    for command in re.findall(r"^    ovolo ([\w-]+)", page, flags=re.MULTILINE):
        assert f"\n    {command}" in commands, command


def test_what_is_said_of_learning_it_is_there() -> None:
    page = (DOCS / "workspace.md").read_text(encoding="utf-8")
    told = page.split("## Learning it\n")[1].split("\n## ")[0]
    assert (
        f"{len(starting_points())} jobs" in told
        and len(FIRST_HOUR) == 6
        and "six exercises" in told
    )
    tour = (DOCS.parent / "frontend" / "workspace" / "touring.js").read_text(encoding="utf-8")
    assert tour.count("{ at: ") == 5 and "in five steps" in told
