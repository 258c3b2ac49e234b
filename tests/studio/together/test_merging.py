"""Two changes of one text put together, and lines followed from text to text: laws."""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st

from studio.together.following import line_after
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
    assert line_after("\n".join(old), "\n".join(new), at + 1) == kept.index(at) + 2


def test_a_line_is_followed_through_what_happens_to_it() -> None:
    old = "input w = 3 m\nhalf = w / 2\n# so\ncheck half > 1 m"
    assert line_after(old, old.replace("w / 2", "w / 3"), 2) == 2, "changed where it stands"
    assert line_after(old, "half = w / 3\n# so\ninput w = 4 m", 2) == 1, "changed and moved"
    assert line_after(old, "input w = 3 m\n# so\ncheck half > 1 m", 2) is None, "taken out"
    assert line_after(old, old, 5) is None
