"""Messages: all that the core says is known, with its hint, and a filled one is found again."""

from __future__ import annotations

import re
from pathlib import Path

import pytest

import ovolo
from ovolo.outcome.outcome import outcome_of
from ovolo.writing.messages import ROOMS, Message, messages, messages_for


def test_every_place_where_something_is_refused_is_there() -> None:
    """Counted in the source text itself; a few say a message that they were given."""
    core = Path(ovolo.__file__).parent
    places = sum(
        len(re.findall(r"\bFailure\($|\bFailure\([^)]", path.read_text(), re.MULTILINE))
        for path in core.rglob("*.py")
    )
    assert 0.85 * places < len(messages()) <= places
    folders = {one.name for one in core.iterdir() if one.is_dir() and one.name != "__pycache__"}
    assert folders == set(ROOMS), "each package is a room"


@pytest.mark.parametrize(
    ("line", "said"),
    [
        ("a = sqrt(-1)", "the square root of a negative value (…) does not exist"),
        ("a = [1, 2][5]", "`…` has … items; there is no item …"),
        ("a = fillet(rect(3 mm, 2 mm), 9 mm)", "`…` wants … for `…`, and `…` is …"),
    ],
)
def test_a_message_is_found_by_what_a_sheet_says(line: str, said: str) -> None:
    (problem,) = outcome_of(line).problems
    assert messages_for(problem.message)[0].said == said
    assert messages_for("round up") == []


def test_a_message_is_looked_for_in_a_time_in_proportion_to_the_text() -> None:
    """Each of its pieces is looked for once, however the text repeats them."""

    class Counted(str):
        asked = 0

        def find(self, *given: object) -> int:
            Counted.asked += 1
            return super().find(*given)  # type: ignore[arg-type]

    message = Message("… … … … … makes no sense", "", "")
    for length in (100, 10_000):
        Counted.asked = 0
        assert not message.fits(Counted(" " * length)) and Counted.asked <= 6
    assert message.fits("a b c d e makes no sense") and not message.fits("makes no sense")
