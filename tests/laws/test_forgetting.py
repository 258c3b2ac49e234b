"""What is remembered may be forgotten at any time: nothing is left of it, and nothing changes."""

from __future__ import annotations

import gc

import pytest

from ovolo.formats.attached import everything_named, folder_shelf
from ovolo.geometry.solids.solid import Shape
from ovolo.meaning.program import Program
from ovolo.outcome.outcome import show_line
from ovolo.remembering import forget_all
from studio.engine import tasks
from tests.sheets import DEMO, demo, demo_outcome


def _alive() -> list[Program | Shape]:
    """All programs and shapes that there are."""
    gc.collect()
    return [one for one in gc.get_objects() if type(one) in (Program, Shape)]


@pytest.mark.parametrize("name", ["spiral-stair", "terrace-canopy", "star-map"])
def test_no_program_and_no_shape_outlives_what_is_remembered(name: str) -> None:
    forget_all()
    there = _alive()  # held until the end: what is made anew must not get the place of one of them
    before = {id(one) for one in there}
    text = demo(name)
    files = everything_named(text, folder_shelf(DEMO))
    first = tasks.scene(text, {}, files)
    assert {type(one) for one in _alive() if id(one) not in before} == {Program, Shape}
    forget_all()
    left = [one for one in _alive() if id(one) not in before]
    assert [one for one in left if not (isinstance(one, Shape) and one.key == "box")] == []
    assert tasks.scene(text, {}, files) == first


def test_values_are_the_same_afterwards() -> None:
    def shown() -> list[str]:
        outcome = demo_outcome("spiral-stair")
        return [str(show_line(one, outcome.units)) for one in outcome.lines]

    before = shown()
    forget_all()
    assert shown() == before
