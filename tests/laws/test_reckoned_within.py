"""What is reckoned from measures that may be wrong tells by how much it may be: against the same at chords of a fiftieth."""

from __future__ import annotations

import pytest

from ovolo.formats.attached import Sheet, read_files
from ovolo.meaning.attachments import study_key
from ovolo.outcome.outcome import Outcome, outcome_of
from ovolo.running.evaluate import Memo

SOLIDS = """
block = box(40 mm, 40 mm, 40 mm)
a = cone(20 mm, 30 mm).turn(20°, x) & box(20 mm, 20 mm, 20 mm)
b = sphere(20 mm) & box(15 mm, 15 mm, 90 mm)
c = b.turn(3°, x) & box(15 mm, 15 mm, 90 mm).turn(3°, x)
"""
RECKONED = {
    "a difference of large ones": ["va = volume(a)", "vb = volume(b)", "v = va - vb"],
    "the same in one line": ["v = volume(a) - volume(b)"],
    "what a hole takes away": ["v = volume(block) - volume(block - b.move(z = 19 mm))"],
    "a power": ["va = volume(a)", "v = va^3"],
    "a share of one in the other": ["v = 1 - volume(a) / volume(b)"],
    "steps between": ["va = volume(a) / 2", "vb = volume(b) / 3", "d = va - vb", "v = d * 7 / (d + 1 mm^3)"],
    "areas and places": ["v = area(a) * centroid(a).z - 2 * volume(b)"],
    "an extent": ["v = bounds(b).high.z - bounds(b).low.z - 19 mm"],
    "a gap": ["v = clearance(a, b.move(45 mm, 0 mm, 0 mm)) - 22 mm"],
    "of a list": ["both = [volume(a), -volume(b)]", "v = sum(both)"],
    "of a function that reads it": ["va = volume(a)", "vb = volume(b)", "f(k) = va - k * vb", "g(k) = f(k)", "v = g(1)"],
    "of a function that measures": ["left(one) = volume(one) - 6000 mm^3", "v = left(a)"],
    "of a function that makes what does not change": ["va = volume(a)", "f(k) = va - k * volume(b.move(1 mm))", "v = f(1)"],
    "in a loop": ["va = volume(a)", "vb = volume(b)", "v = sum([va - k * vb for k in 1 .. 3])"],
    "of a function in a loop": ["va = volume(a)", "f(k) = volume(b) * k - va", "v = sum([f(k) for k in 1 .. 3])"],
    "where a function is handed over": ["va = volume(a) / 1 mm^3", "v = integrate(x -> x - va, 0, 13000)"],
    "of a place that has a name": ["ca = centroid(a)", "v = ca.z - 8.4 mm"],
    "of a place that is reckoned": ["ca = centroid(a) - (0 mm, 0 mm, 8.4 mm)", "v = ca.z"],
    "of bounds that have a name": ["bb = bounds(b)", "v = bb.high.z - bb.low.z - 19 mm"],
    "what is chosen": ["va = volume(a)", "v = if va > 1 mm^3 then va - 6000 mm^3 else 0 mm^3"],
}  # fmt: skip


def found(lines: list[str], tolerance: float) -> Outcome:
    outcome = outcome_of(f"tolerance {tolerance} mm{SOLIDS}" + "\n".join(lines))
    assert not outcome.problems, [problem.message for problem in outcome.problems]
    return outcome


def within(outcome: Outcome) -> float:
    result = outcome.lines[-1].result
    assert result is not None and result.within is not None
    return result.within


@pytest.mark.parametrize("lines", RECKONED.values(), ids=RECKONED)
def test_what_is_reckoned_is_no_further_off_than_is_told(lines: list[str]) -> None:
    coarse, fine = found(lines, 0.5), found(lines, 0.01)
    value, true = coarse.lines[-1].value, fine.lines[-1].value
    assert abs(value - true) <= within(coarse) * abs(value) + within(fine) * abs(true)
    assert 0 < within(fine) < within(coarse) <= 1


def test_a_small_difference_tells_a_large_share() -> None:
    """Two bodies that are one but for how they are divided: what is left of their difference is nothing to go by."""
    outcome = found(["vb = volume(b)", "vc = volume(c)", "v = vb - vc"], 0.5)
    assert within(outcome) > 0.5
    assert within(found(["v = volume(b) + volume(c)"], 0.5)) < 0.05


@pytest.mark.parametrize(
    "line", ["v = volume(b) * 2", "v = sum([volume(one) for one in [b, b]])", "v = volume(b) * 7 kg/m^3", "w = volume(b)\nv = w + w"]
)  # fmt: skip
def test_what_changes_with_one_measure_tells_its_share(line: str) -> None:
    assert within(found([line], 0.5)) == pytest.approx(within(found(["v = volume(b)"], 0.5)), rel=1e-6)  # fmt: skip


@pytest.mark.parametrize("written", ["{}", "[{}]"])
def test_of_ten_times_as_many_that_are_taken_from_each_other_each_counts(written: str) -> None:
    """Twenty that cancel but for little: they are not off the same way, as lines, in one line, and in a list."""
    terms = [
        f"{'-' if at % 2 else ''}volume({'ab'[at % 2]}.scale({1 + at // 2}))" for at in range(20)
    ]
    largest = within(found(["v = volume(a)"], 0.5))
    lines = [f"v{at} = {one}" for at, one in enumerate(terms)]
    if written == "{}":
        joined = " + ".join(f"v{at}" for at in range(20))
        assert within(found([*lines, f"d = {joined}"], 0.5)) > 3 * largest
        assert within(found([f"d = {' + '.join(f'({one})' for one in terms)}"], 0.5)) > 3 * largest
    else:
        every = ", ".join(f"v{at}" for at in range(20))
        assert within(found([*lines, f"all_of = [{every}]", "d = sum(all_of)"], 0.5)) > 3 * largest


def test_a_value_stands_whatever_goes_wrong_with_how_far_it_is_off(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    def fails(*given: object) -> None:
        raise TypeError("not foreseen")

    monkeypatch.setattr("ovolo.running.evaluate.in_doubt", fails)
    outcome = found(["v = volume(a) - volume(b)", "w = 1 + 1"], 0.5)
    assert outcome.lines[-2].value and outcome.lines[-1].value == 2


@pytest.mark.parametrize("word", ["min", "max"])
def test_the_least_of_many_is_no_further_off_than_each(word: str) -> None:
    """Of ten that are alike, measured or named; and nothing is lost where what is off may add up either way."""
    each = within(found(["v = volume(b)"], 0.5))
    assert within(found([f"v = {word}([volume(b) for k in 1 .. 10])"], 0.5)) == pytest.approx(each)
    names = [f"v{at} = volume(b.move({at} mm))" for at in range(10)]
    listed = ", ".join(f"v{at}" for at in range(10))
    assert within(found([*names, f"v = {word}([{listed}])"], 0.5)) == pytest.approx(each, rel=0.01)
    apart = found(["va = volume(b)", "vb = volume(c)", "v = abs(va - vb) + 0.01 * va"], 0.5)
    away = apart.lines[-2].result, apart.lines[-3].result
    missed = sum(one.doubt.off[0] for one in away if one is not None and one.doubt.off)
    assert within(apart) * apart.lines[-1].value >= 0.9 * missed


MEASURED = """
va = volume(a)
vb = volume(b)
left = va - vb
both = [va, -vb]
ca = centroid(a)
bb = bounds(b)
exact = volume(box(1 mm, 1 mm, 1 mm))
part body = a
"""


@pytest.mark.parametrize(
    "line",
    [
        "{}va", "{}left", "{}va - {}vb", "sum({}both)", "{}both[0] + {}both[1]", "{}ca.z - 8.4 mm", "{}bb.high.z - {}bb.low.z - 19 mm",
        "sum([{}left * k for k in 1 .. 3])", "{}exact",
    ],
)  # fmt: skip
def test_what_a_used_study_has_reckoned_is_as_far_off_as_it_is_there(line: str) -> None:
    other = f'study "Other"\n{SOLIDS}{MEASURED}'
    tables = read_files({study_key("Other"): Sheet("Other", other, {})})
    for before in ("other().", "o."):
        text = f'tolerance 0.5 mm\nuse other from "Other"\no = other()\nv = {line.replace("{}", before)}'
        used, own = outcome_of(text, tables=tables), found([MEASURED, f"v = {line.replace('{}', '')}"], 0.5)  # fmt: skip
        assert not used.problems, [problem.message for problem in used.problems]
        assert used.lines[-1].value == pytest.approx(own.lines[-1].value)
        assert within(used) == pytest.approx(within(own))
        assert (within(used) > 0) == (line != "{}exact")


def test_what_would_take_too_many_steps_tells_the_largest_share() -> None:
    """A sum of 30,000 items is not gone through again, and is told no less than what it comes from."""
    outcome = found(["va = volume(a)", "v = sum([va - k * 1 mm^3 for k in 1 .. 30000])"], 0.5)
    assert within(outcome) == within(found(["v = volume(a)"], 0.5))


def test_what_is_as_far_off_as_before_is_not_taken_for_what_is_not() -> None:
    """The figure of a line is the same, and it is measured no longer."""
    memo = Memo()
    measured = outcome_of(f"tolerance 0.5 mm{SOLIDS}va = volume(a)\nv = 2 * va", memo=memo)
    said = f"va = {float(measured.lines[-2].value)!r} mm^3"
    written = outcome_of(f"tolerance 0.5 mm{SOLIDS}{said}\nv = 2 * va", memo=memo)
    assert written.lines[-1].value == measured.lines[-1].value and within(measured) > 0
    assert written.lines[-1].result is not None and written.lines[-1].result.within is None


def test_what_is_exact_stays_so() -> None:
    for line in ("v = volume(block) - area(block) * 1 mm", "v = 3 * length(circle(9 mm))"):
        assert within(found([line], 0.5)) == 0


def test_where_it_would_not_exist_all_of_it_is_in_doubt() -> None:
    """A root of what may be below 0."""
    assert within(found(["v = sqrt(volume(b) - volume(b.move(1 mm, 0 mm, 0 mm)) + 0.001 mm^3)"], 0.5)) == 1  # fmt: skip


def test_the_same_is_told_again() -> None:
    lines = RECKONED["steps between"]
    assert [within(found(lines, 0.5)) for _ in range(2)] == [within(found(lines, 0.5))] * 2


DECIDED = {
    "a check": "check volume(a) < {0} mm^3",
    "the other way": "check volume(a) >= {0} mm^3",
    "of a difference": "va = volume(a)\nvb = volume(b)\ncheck vb - va < {1} mm^3",
    "between": "check {0} mm^3 - 200 mm^3 < volume(a) < {0} mm^3",
    "as near as": "va = volume(a)\ncheck va == {0} mm^3 - 20 mm^3 within 20 mm^3",
    "of two": "check volume(a) < {0} mm^3 and volume(b) > 1 mm^3",
    "one or the other": "check volume(b) < 1 mm^3 or volume(a) < {0} mm^3",
    "by a name": "small = volume(a) < {0} mm^3\ncheck not small",
    "by a function": "small(one) = volume(one) < {0} mm^3\ncheck small(a)",
    "of all": "check all([volume(one) < {0} mm^3 for one in [a, a.move(50 mm, 0 mm, 0 mm)]])",
}


@pytest.mark.parametrize("line", DECIDED.values(), ids=DECIDED)
def test_what_would_be_decided_otherwise_at_finer_chords_is_marked(line: str) -> None:
    """Thresholds all about what is measured: where coarse and fine differ it is said, and far from it nothing is."""
    va, vb = (found([f"v = volume({one})"], 0.01).lines[-1].value for one in "ab")
    differ = said = 0
    for share in (-0.3, -0.02, -0.008, -0.003, -0.001, 0.001, 0.003, 0.008, 0.02, 0.3):
        lines = [line.format(va * (1 + share), vb - va + va * share)]
        coarse, fine = found(lines, 0.5).lines[-1], found(lines, 0.01).lines[-1]
        notes = [note.message for note in coarse.notes if "decides" in note.message]
        differ += coarse.value != fine.value
        said += bool(notes)
        assert coarse.result is not None and coarse.result.is_sure == (not notes)
        assert notes or coarse.value == fine.value, lines
        assert not (notes and abs(share) == 0.3), lines
    assert differ and said < 9, "some do differ, and not everything is marked"


def test_what_measures_nothing_inexact_is_decided() -> None:
    outcome = found(
        ["check volume(block) == 64000 mm^3", "check volume(block) < 64000.001 mm^3"], 0.5
    )
    assert not [one for line in outcome.lines for one in line.notes if "decides" in one.message]
