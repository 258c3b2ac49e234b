"""Spans of a circle, against a look at single angles."""

from __future__ import annotations

import doctest
import math

from hypothesis import given
from hypothesis import strategies as st

from ovolo.drawing import ellipses
from ovolo.drawing.ellipses import Span, joined, without

TURN = 2 * math.pi
SPANS = st.lists(
    st.tuples(st.integers(-700, 700), st.integers(1, 628)).map(
        lambda one: (one[0] / 100, (one[0] + one[1]) / 100)
    ),
    max_size=5,
)


def covers(spans: list[Span], angle: float) -> bool:
    return any((angle - begin) % TURN < end - begin for begin, end in spans)


@given(spans=SPANS, others=SPANS, angle=st.integers(0, 627).map(lambda one: one / 100 + 0.0031))
def test_spans_are_put_together_and_taken_from_each_other(
    spans: list[Span], others: list[Span], angle: float
) -> None:
    assert covers(joined(spans), angle) == covers(spans, angle)
    assert covers(without(spans, others), angle) == (covers(spans, angle) and not covers(others, angle))  # fmt: skip
    found = joined(spans)
    assert all(0 < end - begin <= TURN for begin, end in found)
    assert sum(end - begin for begin, end in found) <= TURN + 1e-9, "none twice"


def test_its_examples_run() -> None:
    found = doctest.testmod(ellipses)
    assert found.attempted >= 4 and not found.failed
