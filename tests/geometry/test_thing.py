"""What is asked of every geometry, whatever its kind: each answers, and by the same laws."""

from typing import Any

import numpy as np
import pytest
from msgspec.structs import replace

from ovolo.geometry.coat import Coat
from ovolo.geometry.placement import applied, moved, turned
from ovolo.geometry.solids.solid import Copies, Solid
from ovolo.geometry.thing import Drawable, Thing
from ovolo.problems import OneByOne
from ovolo.running.values import empty_item, fingerprint
from ovolo.running.weight import weight_of
from ovolo.words.measuring import overall
from ovolo.words.placing import placed
from tests.sheets import run

ONE_OF_EACH = {
    "curve": "arc((0 mm, 0 mm), 40 mm, 0°, 120°)",
    "region": "rect(3 cm, 2 cm) - disc(5 mm)",
    "solid": "box(1 cm, 2 cm, 3 cm)",
    "list of solids": "[box(1 cm, 2 cm, 3 cm).move(x = i * 2 cm) for i in 0 .. 3]",
    "surface": "ruled(line((0 mm, 0 mm), (3 cm, 0 mm)), line((0 mm, 2 cm, 1 cm), (3 cm, 2 cm)))",
}
SHIFT = np.array([30.0, -20.0, 7.0])


def made(expression: str) -> Any:
    outcome = run(f"thing = {expression}")
    assert not outcome.problems, [str(problem) for problem in outcome.problems]
    return outcome.lines[-1].value


def kinds(kind: type[Thing] = Thing) -> set[type[Thing]]:
    return {one for own in kind.__subclasses__() for one in {own} | kinds(own)}


@pytest.fixture(params=ONE_OF_EACH)
def thing(request: pytest.FixtureRequest) -> Any:
    found = made(ONE_OF_EACH[request.param])
    assert isinstance(found, Thing) and found.word == request.param
    return found


def test_there_is_one_of_each_kind_here() -> None:
    here = {
        kind.word
        for kind in kinds()
        if kind.__module__.startswith("ovolo.") and "word" in vars(kind)
    }
    assert here == set(ONE_OF_EACH)


def test_moved_it_is_bounded_where_it_went_and_told_from_what_it_was(thing: Any) -> None:
    there = placed(thing, moved(SHIFT))
    assert np.allclose(overall(there), overall(thing) + SHIFT, atol=1e-9)
    assert fingerprint(there) != fingerprint(thing)
    back = placed(there, moved(-SHIFT))
    assert fingerprint(back) == fingerprint(thing)
    assert (there.within, there.is_empty, there.places) == (thing.within, False, thing.places)


def test_a_coat_tells_it_from_others_and_goes_along(thing: Any) -> None:
    coat = Coat("oak", "#886644", 7e-7)
    worn = replace(thing, coat=coat)
    assert fingerprint(worn) != fingerprint(thing)
    assert fingerprint(replace(worn, coat=None)) == fingerprint(thing)
    assert placed(worn, moved(SHIFT)).coat == coat


def test_it_weighs_something_and_a_list_of_it_more(thing: Any) -> None:
    assert 0 < weight_of(thing) < weight_of([thing, thing])


def test_placed_many_times_at_once_it_is_copies_or_made_one_by_one(thing: Any) -> None:
    ways = turned(np.linspace(0.1, 0.4, 4), np.array([0.0, 0.0, 1.0]), np.zeros(3))
    if not isinstance(thing, Solid | Copies):
        with pytest.raises(OneByOne):
            placed(thing, ways)
        return
    together = placed(thing, ways)
    assert isinstance(together, Copies) and together.places == 4
    each = thing if isinstance(thing, Copies) else [thing] * 4
    for one, way, own in zip(together, ways, each, strict=True):
        assert np.allclose(one.bounds(), placed(own, way).bounds())


@pytest.mark.parametrize("empty", ["box(0 mm, 1 m, 1 m)", "rect(0 mm, 1 m)"])
def test_what_is_empty_says_why_and_has_no_place_in_a_list(empty: str) -> None:
    found = made(empty)
    assert found.is_empty and found.why_empty
    refused = empty_item(found)
    assert refused is not None and refused.message == f"this is empty: {found.why_empty}"


def test_a_list_of_no_solids_is_a_list_and_not_an_empty_thing() -> None:
    none = made("[box(1 cm, 1 cm, 1 cm) for i in 1 .. 0]")
    assert empty_item(none) is None


def test_what_is_drawn_of_it_reaches_as_far_as_it_says(thing: Any) -> None:
    if not isinstance(thing, Drawable):  # drawn by its shape
        assert isinstance(thing, Solid | Copies)
        return
    there = placed(thing, moved(SHIFT) @ turned(0.7, np.array([0.0, 0.6, 0.8]), np.zeros(3)))
    assert there.drawing_key and there.drawn_at.shape == (4, 4)
    drawn = applied(
        there.drawn_at,
        np.concatenate([there.drawing.positions, there.drawing.edges.reshape(-1, 3)]).astype(float),
    )
    far = np.array([drawn.min(axis=0), drawn.max(axis=0)])
    assert np.allclose(far, there.drawn_bounds(), atol=0.2)  # as round as it is drawn
