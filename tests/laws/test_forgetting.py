"""What is remembered may be forgotten at any time: nothing is left of it, and nothing changes."""

from __future__ import annotations

import gc
import weakref
from typing import Any

import pytest

from ovolo.formats.attached import everything_named, folder_shelf
from ovolo.geometry.solids.solid import Shape
from ovolo.meaning.program import Program
from ovolo.outcome.outcome import show_line
from ovolo.remembering import forget_all
from studio.engine import tasks
from tests.sheets import DEMO, demo, demo_outcome


@pytest.fixture
def born(monkeypatch: pytest.MonkeyPatch) -> list[weakref.ref[object]]:
    """All programs and shapes that are made from now on."""
    made: list[weakref.ref[object]] = []
    for kind in (Program, Shape):

        def noted(self: object, *given: Any, begin: Any = kind.__init__, **more: Any) -> None:
            begin(self, *given, **more)
            made.append(weakref.ref(self))

        monkeypatch.setattr(kind, "__init__", noted)
    return made


def _alive(born: list[weakref.ref[object]]) -> list[object]:
    gc.collect()
    return [found for one in born if (found := one()) is not None]


@pytest.mark.parametrize("name", ["spiral-stair", "terrace-canopy", "star-map"])
def test_no_program_and_no_shape_outlives_what_is_remembered(
    name: str, born: list[weakref.ref[object]]
) -> None:
    forget_all()
    text = demo(name)
    files = everything_named(text, folder_shelf(DEMO))
    first = tasks.scene(text, {}, files)
    assert {type(one) for one in _alive(born)} == {Program, Shape}
    forget_all()
    left = [one for one in _alive(born) if not (isinstance(one, Shape) and one.key == "box")]
    assert left == []
    assert tasks.scene(text, {}, files) == first


def test_values_are_the_same_afterwards() -> None:
    def shown() -> list[str]:
        outcome = demo_outcome("spiral-stair")
        return [str(show_line(one, outcome.units)) for one in outcome.lines]

    before = shown()
    forget_all()
    assert shown() == before
