"""What the documentation shows is what the program gives."""

from pathlib import Path

from ovolo.formats.export import exported
from ovolo.outcome.outcome import outcome_of
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
