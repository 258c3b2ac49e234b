"""Names changed so that all values stay, also those of chance."""

import pytest

from ovolo.outcome.outcome import outcome_of
from ovolo.problems import Failure
from ovolo.writing.renaming import needed_by, renamed
from studio.engine.editing import edited
from tests.sheets import demo

SHEET = """input seed = 7 from 0 to 99 step 1
input grain = 3
a = random(4)
b = [random(i, -1, 1) + random(i, seed = grain) for i in 0 .. 3]  # random(1)
c = (shuffled([3, 1, 2]))[0] + noise((1 m, 2 m), (1 m))
d = [3, 1, 2].shuffled()
e = "by {random(2)} and random(2)"
f(x) = random(x, seed = 5) + random(round(random(x) * 9))
g = f(2) + seed
preset "P": seed = 8
"""


def values(text: str) -> list[object]:
    outcome = outcome_of(text)
    assert not outcome.problems, [problem.message for problem in outcome.problems]
    told = outcome.as_json()["values"]
    return [one["value"] if one["value"] is not None else one["text"] for one in told.values()]


def test_chance_stays_where_its_seed_has_another_name() -> None:
    after = renamed(SHEET, "seed", "chance")
    assert values(after) == values(SHEET)
    assert "a = random(4, seed = chance)\n" in after and "# random(1)" in after
    assert "[3, 1, 2].shuffled(seed = chance)" in after and "and random(2)" in after
    assert "round(random(x, seed = chance) * 9), seed = chance)" in after
    assert values(after.replace("chance = 7", "chance = 8")) == values(SHEET.replace("seed = 7", "seed = 8"))  # fmt: skip
    assert values(renamed(after, "chance", "seed")) == values(SHEET)


def test_so_it_does_in_a_study() -> None:
    text = demo("seed-head-paving")
    before, after = (outcome_of(one).as_json() for one in (text, renamed(text, "seed", "luck")))
    assert "random(i, -jitter, jitter, seed = luck)" in renamed(text, "seed", "luck")
    assert before["parts"] == after["parts"] and not after["problems"]


def test_what_has_chance_without_a_seed_gets_none_by_a_new_name() -> None:
    with pytest.raises(Failure, match="line 2 has chance without a seed") as caught:
        renamed("input grain = 3\na = random(4)", "grain", "seed")
    assert "`seed = 0` in its `random`" in caught.value.hint
    assert renamed("input grain = 3\na = random(4, seed = grain)", "grain", "seed").endswith("seed = seed)")  # fmt: skip
    with pytest.raises(Failure, match="already the name of line 1"):
        renamed(SHEET, "grain", "seed")


def test_a_seed_is_needed_by_all_that_takes_it_unsaid() -> None:
    assert [one.name for one in needed_by(SHEET, "seed")] == [
        "a",
        "b",
        "c",
        "d",
        "e",
        "f",
        "g",
        None,
    ]
    assert [one.name for one in needed_by(SHEET, "grain")] == ["b"]
    with pytest.raises(Failure, match="1 line needs `seed`: a"):
        edited("input seed = 7\na = random(4)\nb = 3", {"edit": "delete", "line": 1}, {})


def test_all_else_is_renamed_as_ever() -> None:
    assert renamed("input w = 3 mm\na = 2 * w", "w", "wide") == "input wide = 3 mm\na = 2 * wide"
