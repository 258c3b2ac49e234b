"""The solid studies of the demonstration: against formulas, and at the limits of every input."""

import itertools
import math

import numpy as np
import pytest
from scipy.integrate import quad

from ovolo.exploring.presets import preset_values
from ovolo.meaning.checked_sheet import checked_program
from ovolo.outcome.outcome import Outcome, outcome_of
from ovolo.outcome.scene import scene_of
from ovolo.running.evaluate import Memo
from ovolo.sheet import tree
from tests.sheets import DEMO, demo, demo_outcome, demo_tables

SOLID = [
    "dome-and-shutter", "lens-heater-coil", "baffle-tube", "telescope-pier", "wind-vane",
    "louvre-screen", "seed-head-paving", "terrace-canopy", "star-map-screen", "keepers-cabin",
    "bearing-cage", "turned-baluster", "square-baluster", "spiral-stair", "boardwalk",
]  # fmt: skip


def sheet(name: str) -> Outcome:
    return demo_outcome(name)


def figure(outcome: Outcome, name: str) -> float:
    return float(next(line.value for line in outcome.lines if line.line.name == name))


def coarse(name: str) -> str:
    """The sheet at a coarser tolerance, for what is tried many times."""
    lines = [line for line in demo(name).split("\n") if not line.startswith("tolerance")]
    return "\n".join([*lines, "tolerance 3 mm"])


@pytest.mark.parametrize("name", [one.stem.partition("-")[2] for one in sorted(DEMO.glob("*.ovo"))])
def test_every_input_at_its_limits_gives_closed_solids_or_says_why(name: str) -> None:
    """And what it gives can be shown. One input is tried at its least, the next at its most."""
    text = coarse(name)
    tables = demo_tables(text)
    first = outcome_of(text, tables=tables)
    assert not first.problems and all(p.closed for p in first.parts.values() if p.volume)
    memo = Memo()
    terms = {
        line.line.content.name: line.result.terms
        for line in first.lines
        if isinstance(line.line.content, tree.Input) and line.result is not None
    }
    for (name, limits), role in zip(terms.items(), itertools.cycle(["low", "high"])):
        limit = limits.get(role)
        if limit is None:
            continue
        outcome = outcome_of(text, {name: float(limit)}, memo, tables=tables)
        scene_of(outcome)
        for part in outcome.parts.values():
            assert part.closed or part.volume is None or not part.count, (name, role)
        for problem in outcome.problems:
            assert problem.hint or problem.waiting, (name, role, problem.message)


@pytest.mark.parametrize("name", SOLID)
def test_every_preset_is_well(name: str) -> None:
    text = demo(name)
    tables = demo_tables(text)
    program = checked_program(text, tables)
    for line in program.lines:
        if isinstance(line.content, tree.Preset):
            outcome = outcome_of(text, preset_values(program, line.content.title), tables=tables)
            assert outcome.well, (line.content.title, outcome.problems, outcome.failed_checks)


def test_the_wire_of_the_coil_is_as_long_as_its_integral() -> None:
    """SciPy's quad over the eased pitch: √((2πr)² + p(t)²) from 0 to the last turn."""
    outcome = sheet("lens-heater-coil")
    radius, turns, ease = (figure(outcome, name) for name in ("radius", "turns", "ease"))
    pitch, least = figure(outcome, "pitch"), figure(outcome, "least")

    def speed(t: float) -> float:
        s = min(max(min(t, turns - t) / ease, 0), 1)
        rise = least + (pitch - least) * (3 * s**2 - 2 * s**3)
        return math.hypot(2 * math.pi * radius, rise)

    parts = [(0, ease), (ease, turns - ease), (turns - ease, turns)]
    length = sum(quad(speed, a, b, epsabs=1e-12)[0] for a, b in parts)
    assert figure(outcome, "wire_length") == pytest.approx(length, rel=1e-9)
    coil = outcome.parts["coil"]
    wire = figure(outcome, "wire") / 2
    assert coil.volume == pytest.approx(math.pi * wire**2 * length, rel=0.06), "Pappus, less chords"


def test_the_dome_is_a_cap_of_the_computed_radius() -> None:
    """r from chord and rise: (c²/4 + h²) / 2h; the cap's volume is π h² (3r - h) / 3."""
    outcome = sheet("dome-and-shutter")
    span, rise, skin = (figure(outcome, name) for name in ("span", "rise", "skin"))
    radius = (span**2 / 4 + rise**2) / (2 * rise)
    assert figure(outcome, "radius") == pytest.approx(radius)
    whole = next(line.value for line in outcome.lines if line.line.name == "whole")

    def cap(r: float, h: float) -> float:
        return math.pi * h**2 * (3 * r - h) / 3

    skin_volume = cap(radius, rise) - cap(radius - skin, rise - skin)
    assert whole.volume == pytest.approx(skin_volume, rel=0.02)
    dome, shutters = outcome.parts["dome"], outcome.parts["shutters"]
    assert (dome.volume or 0) + (shutters.volume or 0) == pytest.approx(whole.volume, rel=1e-3)


def test_baffles_stand_in_a_growing_series() -> None:
    """The sum of a geometric series: a (qⁿ - 1) / (q - 1)."""
    outcome = sheet("baffle-tube")
    first, growth, rings = (figure(outcome, name) for name in ("first_gap", "growth", "rings"))
    stations = next(line.value for line in outcome.lines if line.line.name == "stations")
    n = np.arange(1, rings + 2)
    assert stations == pytest.approx(first * (growth**n - 1) / (growth - 1))
    assert outcome.parts["tube_section"].area == pytest.approx(
        2 * figure(outcome, "wall") * figure(outcome, "tube_length"), rel=5e-3
    )


def test_the_handrail_runs_over_the_balusters() -> None:
    outcome = sheet("spiral-stair")
    rail = next(line.value for line in outcome.lines if line.line.name == "rail_line")
    climb = (figure(outcome, "risers") - 1) * figure(outcome, "rise")
    turns = (figure(outcome, "risers") - 1) * figure(outcome, "turn_each") / (2 * math.pi)
    radius = figure(outcome, "baluster_line")
    assert rail.length == pytest.approx(math.hypot(2 * math.pi * radius * turns, climb), rel=1e-9)
    assert outcome.parts["handrail"].volume == pytest.approx(math.pi * 21**2 * rail.length, rel=0.02)  # fmt: skip
