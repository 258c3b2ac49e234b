"""Trials: the same wherever they are made, and as the study itself gives them."""

from __future__ import annotations

import csv
import gc
import io
import os
import tracemalloc
from pathlib import Path
from typing import Any

import pytest

from ovolo.exploring import runs
from ovolo.exploring.carriers import Processes, carried
from ovolo.exploring.plans import Asked, planned
from ovolo.exploring.runs import asked_of, piece, pieces_of, plan_of, run
from ovolo.exploring.trials import as_csv, trials
from ovolo.formats.attached import everything_named, folder_shelf
from ovolo.meaning.checked_sheet import checked_program
from ovolo.outcome.outcome import outcome_of
from ovolo.problems import Failure
from ovolo.remembering import forget_all
from tests.sheets import DEMO, demo

BOARD = """
input length = 2 m from 1 m to 4 m step 10 mm "Length"
input thick = 20 mm from 10 mm to 40 mm
input seed = 1 from 1 to 99 step 1
sag = (length / 2 m)^3 / (thick / 20 mm)^3 * 4 mm
knots = floor(random(3, 0, 9))
check sag <= 6 mm "it does not sag"
part board = box(length, 200 mm, thick) material 700 kg/m^3
"""


def tried(text: str, parts: bool = False, **asked: Any) -> list[dict[str, Any]]:
    program = checked_program(text)
    plan = planned(program, Asked(**asked))
    return [one.as_json() for one in trials(program, plan, range(len(plan.settings)), parts)]


def test_a_trial_has_the_values_and_checks_that_the_study_has() -> None:
    for one in tried(BOARD, number=25, parts=True):
        outcome = outcome_of(BOARD, one["settings"])
        told = outcome.as_json()
        assert one["values"] == {n: v["value"] for n, v in told["values"].items() if n in one["values"]}  # fmt: skip
        assert set(told["values"]) == set(one["values"])
        assert [c["passed"] for c in one["checks"]] == [c.passed for c in outcome.checks]
        assert one["parts"]["board"]["mass"] == outcome.parts["board"].mass
        assert one["parts"]["board"]["pieces"] == 1


def test_values_alone_are_those_of_the_whole_study() -> None:
    with_parts, without = tried(BOARD, True, number=40), tried(BOARD, number=40)
    assert [{**one, "parts": {}} for one in with_parts] == without


def test_a_trial_that_fails_is_a_result_with_its_reason() -> None:
    found = tried(BOARD, number=60)
    failing = [one for one in found if one["why"]]
    assert 0 < len(failing) < 60
    for one in found:
        assert bool(one["why"]) == (one["values"]["sag"] > 6), "mm"
        assert one["why"] in ("", "it does not sag")
    broken = tried("input a = 1 from 0 to 2 step 1\nb = 1 / a", kind="series", inputs=("a",))
    assert broken[0]["why"].startswith("b: division by zero") and not broken[1]["why"]


def test_an_empty_part_is_told_unless_it_may_be() -> None:
    text = "input n = 2 from 0 to 2 step 1\npart p = [box(1 m, 1 m, 1 m) for i in 1 .. n if i > 1]"
    found = tried(text, True, kind="series", inputs=("n",))
    assert [one["why"] for one in found] == ["part `p` has no items"] * 2 + [""]
    sure = text.replace(" if i > 1]", " if i > 1] when n > 1")
    assert [one["why"] for one in tried(sure, True, kind="series", inputs=("n",))] == [""] * 3


def test_trials_are_the_same_in_any_order_and_in_pieces() -> None:
    program = checked_program(BOARD)
    plan = planned(program, Asked(number=30))
    whole = list(trials(program, plan, range(30), True))
    backwards = list(trials(program, plan, reversed(range(30)), True))
    assert whole == backwards[::-1]
    pieces = [one for some in (range(11), range(11, 30)) for one in trials(program, plan, some, True)]  # fmt: skip
    assert whole == pieces


STAIR = demo("spiral-stair")
FILES = everything_named(STAIR, folder_shelf(DEMO))


def test_two_processes_give_the_same_bits_as_this_one() -> None:
    asked = {"kind": "roll", "number": 16, "roll": 3}
    here = [one for some in pieces_of(16, False) for one in piece(STAIR, FILES, asked, {}, some, False)]  # fmt: skip
    carrier = Processes(2)
    try:
        there = list(run(STAIR, FILES, asked, carrier))
    finally:
        carrier.stop()
    assert [one["number"] for one in there] == list(range(16))
    assert repr(there) == repr(here), "figures are equal to the last bit"


def _dies_once(folder: str, n: int) -> int:
    mark = Path(folder) / "died"
    if n == 3 and not mark.exists():
        mark.touch()
        os._exit(1)
    return n * n


def test_a_plan_is_laid_once_for_all_its_pieces(monkeypatch: pytest.MonkeyPatch) -> None:
    """Else ten times the trials would cost a hundred times the laying; another plan, or other values of
    what is held, is another one."""
    laid: list[object] = []
    monkeypatch.setattr(runs, "planned", lambda *given: laid.append(given) or planned(*given))
    forget_all()
    asked = {"kind": "roll", "number": 120, "hold": ["thick"]}
    in_pieces = [
        one for r in pieces_of(120, False) for one in piece(BOARD, {}, asked, {}, r, False)
    ]
    assert len(laid) == 1 and [one["number"] for one in in_pieces] == list(range(120))
    other = piece(BOARD, {}, asked, {"thick": 30.0}, range(5), False)
    assert len(laid) == 2 and other[0]["values"]["sag"] < in_pieces[0]["values"]["sag"]
    assert piece(BOARD, {}, {**asked, "roll": 2}, {}, range(5), False) != in_pieces[:5]
    assert len(laid) == 3


def test_memory_does_not_grow_with_the_number_of_trials() -> None:
    """What is held while trials are looked at one by one; two hundred hold no more than eighty."""

    def most_held(number: int) -> int:
        program = checked_program(BOARD)
        plan = planned(program, Asked(number=1_000))
        gc.collect()
        tracemalloc.start()
        for one in trials(program, plan, range(number)):
            del one
        peak = tracemalloc.get_traced_memory()[1]
        tracemalloc.stop()
        return peak

    most_held(20)
    assert most_held(200) < 1.5 * most_held(80)


def test_what_a_lost_worker_had_begun_is_made_again(tmp_path: Any) -> None:
    carrier = Processes(2)
    try:
        found = list(carried(carrier, _dies_once, [(str(tmp_path), n) for n in range(12)]))
    finally:
        carrier.stop()
    assert found == [n * n for n in range(12)]


def test_trials_as_a_table() -> None:
    found = tried(BOARD, True, number=5)
    rows = list(csv.DictReader(io.StringIO(as_csv(found))))
    assert len(rows) == 5
    for row, one in zip(rows, found, strict=True):
        assert float(row["length"]) == one["settings"]["length"]
        assert float(row["sag"]) == one["values"]["sag"]
        assert float(row["board mass [kg]"]) == one["parts"]["board"]["mass"]
        assert (row["well"], row["why not"]) == ("no" if one["why"] else "yes", one["why"])
    assert as_csv(found, ["sag"]).splitlines()[0].startswith("number,length,thick,seed,sag,board pieces")  # fmt: skip


@pytest.mark.parametrize(
    ("said", "message"),
    [
        ({"kind": 3}, "no plan called `3`"),
        ({"number": "many"}, "not a whole number"),
        ({"number": 2.5}, "not a whole number"),
        ({"hold": "length"}, "`hold` of the plan cannot be read"),
        ({"ranges": {"length": [1]}}, "not two figures"),
        ({"ranges": {"length": [1, float("nan")]}}, "not two figures"),
        ({"ranges": []}, None),
    ],
)
def test_a_plan_that_cannot_be_read_says_so(said: dict[str, Any], message: str | None) -> None:
    if message is None:
        asked_of(said)
        return
    with pytest.raises(Failure) as caught:
        asked_of(said)
    assert message in caught.value.message


def test_a_sheet_without_inputs_or_that_cannot_be_read_is_refused() -> None:
    for text in ("a = 3", "", "((((", "input"):
        with pytest.raises(Failure, match="no inputs to vary"):
            plan_of(text, {}, {}, {})
