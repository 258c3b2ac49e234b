"""Two changes of one text put together, and lines followed from text to text: laws."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from studio.together.differences import differences
from studio.together.following import Following
from studio.together.merging import Clash, merged

LINES = st.lists(st.sampled_from(["a = 1", "b = a + 1", "c = 2", "", "# so"]), max_size=7)
TEXTS = LINES.map("\n".join)


@given(TEXTS, TEXTS)
def test_what_one_did_alone_is_taken_as_it_is(base: str, changed: str) -> None:
    assert merged(base, changed, base) == changed == merged(base, base, changed)
    assert merged(base, changed, changed) == changed


@given(LINES, st.data())
def test_changes_of_different_lines_are_both_there(lines: list[str], data: st.DataObject) -> None:
    base = [f"x{at} = {line}" for at, line in enumerate(lines)] + ["end", "stop"]
    own, other = data.draw(
        st.lists(st.integers(0, len(base) - 1), min_size=2, max_size=2, unique=True)
    )
    mine, theirs, both = base.copy(), base.copy(), base.copy()
    mine[own] = both[own] = "mine"
    theirs[other] = both[other] = "theirs"
    assert merged(*("\n".join(one) for one in (base, mine, theirs))) == "\n".join(both)


@given(LINES.filter(bool), st.integers(0, 8), st.integers(0, 8))
def test_lines_that_both_put_in_are_both_kept(lines: list[str], own: int, other: int) -> None:
    base = [f"x{at} = {line}" for at, line in enumerate(lines)]
    mine, theirs = base.copy(), base.copy()
    mine.insert(own, "mine")
    theirs.insert(other, "theirs")
    found = merged(*("\n".join(one) for one in (base, mine, theirs)))
    assert isinstance(found, str)
    assert sorted(found.split("\n")) == sorted([*base, "mine", "theirs"])
    assert [line for line in found.split("\n") if line in base] == base


@given(TEXTS, TEXTS, TEXTS)
def test_nothing_is_decided_silently(base: str, mine: str, theirs: str) -> None:
    """Where something clashes, it is told with what both did; over it, nothing clashes."""
    found = merged(base, mine, theirs)
    if isinstance(found, list):
        assert found and all(one.mine != one.theirs and one.base != one.theirs for one in found)
    assert isinstance(merged(base, mine, theirs, over=True), str)


def test_the_same_line_clashes_and_mine_goes_over() -> None:
    base, mine, theirs = "a = 1\nb = 2", "a = 3\nb = 2", "a = 4\nb = 5"
    assert merged(base, mine, theirs) == [Clash("a = 1", "a = 3", "a = 4")]
    assert merged(base, mine, theirs, over=True) == "a = 3\nb = 5"
    assert merged(base, "b = 2", theirs) == [Clash("a = 1", None, "a = 4")]
    assert merged(base, theirs, "b = 2") == [Clash("a = 1", "a = 4", None)]
    assert merged(base, "a = 1\nnew\nb = 2", theirs) == "a = 4\nnew\nb = 5"


@given(LINES, st.data())
def test_a_line_is_followed_past_what_is_put_in_and_taken_out(
    lines: list[str], data: st.DataObject
) -> None:
    old = [f"x{at} = {line}" for at, line in enumerate(lines)] + ["y = 0"]
    at = data.draw(st.integers(0, len(old) - 1))
    kept = sorted(data.draw(st.sets(st.integers(0, len(old) - 1))) | {at})
    new = ["new = 0", *(old[one] for one in kept)]
    followed = Following("\n".join(old), "\n".join(new))
    assert followed.line_after(at + 1) == kept.index(at) + 2


def test_a_line_is_followed_through_what_happens_to_it() -> None:
    old = "input w = 3 m\nhalf = w / 2\n# so\ncheck half > 1 m"
    in_place = Following(old, old.replace("w / 2", "w / 3"))
    assert in_place.line_after(2) == 2, "changed where it stands"
    moved = Following(old, "half = w / 3\n# so\ninput w = 4 m")
    assert moved.line_after(2) == 1, "changed and moved"
    gone = Following(old, "input w = 3 m\n# so\ncheck half > 1 m")
    assert gone.line_after(2) is None, "taken out"
    assert Following(old, old).line_after(5) is None


@given(LINES, LINES)
def test_differences_lead_from_one_text_to_the_other(old: list[str], new: list[str]) -> None:
    found: list[str] = []
    at = 0
    for one in differences(old, new):
        assert not one.is_empty and (one.start > at or not at), "a line of both between two of them"
        assert old[at : one.start] == new[len(found) : one.new_start]
        found += old[at : one.start] + new[one.new_start : one.new_end]
        at = one.end
    assert found + old[at:] == new


@pytest.mark.parametrize("kind", ["blank lines", "every other blank", "one line again and again"])
def test_ten_times_the_lines_are_ten_times_the_work(kind: str) -> None:
    """Counted in comparisons; two changes far apart go together in 20,000 lines, which the pairing of each line
    with all that are like it would not come to the end of."""

    def text(count: int) -> list[_Counted]:
        between = {"blank lines": "", "every other blank": "", "one line again and again": "a = 1"}
        middle = [
            _Counted(f"x{at} = 1" if kind == "every other blank" and at % 2 else between[kind])
            for at in range(count)
        ]
        return [_Counted("first = 1"), *middle, _Counted("last = 1")]

    counts: list[int] = []
    for count in (2_000, 20_000):
        base, mine, theirs = text(count), text(count), text(count)
        mine[0], theirs[-1] = _Counted("first = 2"), _Counted("last = 2")
        theirs.insert(count // 2, _Counted("middle = 1"))
        _Counted.looks = 0
        differences(mine, theirs)
        counts.append(_Counted.looks)
        found = merged(*("\n".join(one) for one in (base, mine, theirs)))
        assert isinstance(found, str) and found.startswith("first = 2\n")
        assert found.endswith("\nlast = 2") and found.count("middle = 1") == 1
    assert counts[1] < 11 * counts[0]


class _Counted(str):
    """A line that counts how often lines are looked at."""

    looks = 0

    def __eq__(self, other: object) -> bool:
        _Counted.looks += 1
        return str.__eq__(self, other)

    def __hash__(self) -> int:
        _Counted.looks += 1
        return str.__hash__(self)
