"""Run-time values: lists, gaps, and what tells values apart."""

import numpy as np
import pytest

from ovolo.geometry.regions.region import disc
from ovolo.geometry.solids.primitives import box
from ovolo.geometry.solids.solid import Copies
from ovolo.problems import Failure
from ovolo.quantities.kinds import LENGTH_KIND, POINT, SOLID, TEXT, YES_NO, ListOf
from ovolo.running.values import Gap, LimitReached, as_list, check_count, fingerprint, refuse_gaps

GAP = Gap(1, "too thin", "make it thicker", None)


def test_lists_take_the_form_of_their_kind() -> None:
    assert as_list([1.0, 2.0], LENGTH_KIND).dtype == float
    assert as_list([True], YES_NO).dtype == bool
    assert as_list([np.zeros(3)], POINT).shape == (1, 3)
    assert as_list([], POINT).shape == (0, 3)
    assert as_list(["a"], TEXT) == ["a"]
    assert isinstance(as_list([box(1.0, 1.0, 1.0), box(2.0, 1.0, 1.0)], SOLID), Copies)
    assert as_list([[1.0], [2.0]], ListOf(item=LENGTH_KIND))[1].tolist() == [2.0]


def test_a_list_with_gaps_stays_as_it_is() -> None:
    items = [1.0, GAP]
    assert as_list(items, LENGTH_KIND) is items
    with pytest.raises(Failure) as caught:
        refuse_gaps(items, "this list")
    assert caught.value.message == "this list lacks an item: item 1 could not be made: too thin"
    assert caught.value.hint == "make it thicker"


def test_what_tells_values_apart() -> None:
    different = [
        1.0, -1.0, 0.0, -0.0, True, "1.0", np.array([1.0]), np.array([[1.0, 0, 0]]), [1.0],
        box(1.0, 1.0, 1.0), box(1.0, 1.0, 2.0), disc(1.0), disc(2.0), {"n": 1.0}, {"n": 2.0}, [],
    ]  # fmt: skip
    prints = [fingerprint(value) for value in different]
    assert len(set(prints)) == len(prints)
    assert fingerprint(box(1.0, 2.0, 3.0)) == fingerprint(box(1.0, 2.0, 3.0))
    assert fingerprint(np.array([1.0, 2.0])) == fingerprint(np.array([1.0, 2.0]))


def test_the_limit_of_a_list() -> None:
    check_count(200_000)
    with pytest.raises(LimitReached, match="200,001 items"):
        check_count(200_001)
