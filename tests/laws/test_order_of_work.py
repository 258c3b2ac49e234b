"""Nothing that a process did before changes a number: any order of work gives the same bits."""

from __future__ import annotations

import itertools
import json
import random
from collections.abc import Callable
from typing import Any

import pytest

from ovolo.exploring.moves import moves_of
from ovolo.formats.attached import everything_named, folder_shelf
from ovolo.formats.export import exported
from ovolo.geometry.tolerance import CHORD_TOLERANCE, chord_tolerance
from ovolo.meaning.checked_sheet import checked_program
from ovolo.outcome.item import item_values
from ovolo.outcome.outcome import Outcome, outcome_of
from ovolo.outcome.schedule import shown_schedule
from ovolo.problems import Failure
from ovolo.remembering import forget_all
from ovolo.running.evaluate import Memo, evaluate
from ovolo.running.under_way import GivenUp, followed
from ovolo.sheet import tree
from studio.engine import explore, tasks
from tests.sheets import DEMO, demo_tables, run
from tests.witness import in_child

STUDIES = sorted(DEMO.glob("*.ovo"))
COARSE = "tolerance 20 mm\npart ball = sphere(500 mm)\npart bar = pipe(circle(300 mm), 20 mm)\nk = volume(ball)"  # fmt: skip


def stated(outcome: Outcome) -> str:
    return json.dumps(outcome.as_json(), sort_keys=True)


def alone(path: str) -> str:
    text = (DEMO / path).read_text(encoding="utf-8")
    return stated(outcome_of(text, tables=demo_tables(text)))


def test_studies_give_the_same_bits_in_any_order() -> None:
    """In one process, one memo, with moves, items, schedules, files and a coarse study between."""
    texts = {path.name: path.read_text(encoding="utf-8") for path in STUDIES}
    fresh = {name: in_child(lambda name=name: alone(name)) for name in list(texts)[::3]}
    memo, chance = Memo(), random.Random(4)
    order = [*list(texts)[::3], *fresh]
    chance.shuffle(order)
    for name in order:
        tables = demo_tables(texts[name])
        outcome = outcome_of(texts[name], {}, memo, tables=tables)
        if name in fresh:
            assert stated(outcome) == fresh[name], name
        between(chance, texts[name], outcome, memo, tables)


def between(chance: random.Random, text: str, outcome: Outcome, memo: Memo, tables: Any) -> None:
    """Something else that a process may be asked for."""
    program = checked_program(text, tables)
    inputs = [line.name for line in program.lines if isinstance(line.content, tree.Input)]
    match chance.randrange(4):
        case 0 if inputs:
            moves_of(program, {}, str(chance.choice(inputs)), memo)
        case 1:
            shown_schedule(list(outcome.parts.values()), outcome.units)
        case 2:
            coarse = checked_program(COARSE)
            evaluate(coarse, {}, memo)
            moves_of(checked_program("tolerance 20 mm\ninput r = 500 mm\npart ball = sphere(r)"), {}, "r", memo)  # fmt: skip
        case _:
            for name in list(outcome.parts)[:1]:
                try:
                    item_values(outcome, name, 0)
                except Failure:
                    continue
    assert chord_tolerance() == CHORD_TOLERANCE, "nothing of a run is left"


@pytest.mark.parametrize("lines", ["part ball = sphere(500 mm)", "part p = box(3 mm, 3 mm, 3 mm) - sphere(0.2 mm)", "part c = circle(9 mm)", 'part t = text("Quill", 9 mm)'])  # fmt: skip
def test_a_coarse_study_leaves_nothing_behind(lines: str) -> None:
    before = run(lines)
    names = (
        ("a.svg",)
        if "circle" in lines or "text" in lines
        else ("a.stl", "a.obj", "a.glb", "a.step")
    )
    files = [exported(before, name) for name in names]
    memo = Memo()
    coarse = checked_program(f"tolerance 20 mm\ninput n = 1\n{lines}")
    moves_of(coarse, {}, "n", memo)
    evaluate(coarse, {"n": 2.0}, memo)
    after = outcome_of(lines, {}, memo)
    assert stated(after) == stated(before)
    assert [exported(after, name) for name in names] == files


def test_what_is_drawn_after_a_run_is_divided_as_in_it() -> None:
    fine, coarse = (run(f"tolerance {t} mm", "part c = circle(100 mm)") for t in (0.01, 5))
    counts = [len(one.parts["c"].curves[0].points()) for one in (coarse, fine, coarse)]
    assert counts[0] == counts[2] < counts[1]


def test_a_line_that_was_stopped_goes_on_when_it_is_asked_for_less() -> None:
    lines = ("input n = 4000", "sizes = [perimeter(disc(i * 1 mm + n * 1 mm)) for i in 0 .. n - 1]")
    text, memo = "\n".join(lines), Memo()
    stopped = outcome_of(text, {"n": 4000.0}, memo, time_limit=0.0)
    assert any("takes too long" in problem.message for problem in stopped.problems)
    assert not outcome_of(text, {"n": 3.0}, memo).problems
    assert not outcome_of(text.replace("4000", "3"), {}, memo).problems, "in another study, too"


def test_a_problem_within_a_function_tells_the_line_it_stands_in_now() -> None:
    at = [
        next(p.message for p in run(*above, "f(x) = x + 1 mm", "a = f(3)").problems)
        for above in ([], ["b = 1"], ["# more", "c = 2", "d = 3"])
    ]
    assert ["(line 1)" in at[0], "(line 2)" in at[1], "(line 4)" in at[2]] == [True] * 3, at


@pytest.mark.parametrize(
    "study", ["02-boardwalk", "19-turned-baluster", "04-lecture-room-diffuser"]
)
def test_what_was_given_up_halfway_leaves_nothing_wrong_behind(study: str) -> None:
    """Wherever work ends that nobody waits for any more, the next gives the bits of a process that never began it."""
    text = (DEMO / f"{study}.ovo").read_text(encoding="utf-8")
    fresh = in_child(lambda: alone(f"{study}.ovo"))
    looks, memo, program = itertools.count(), Memo(), checked_program(text)
    with followed(lambda: next(looks) < 0):
        evaluate(program, {}, Memo())
    every = next(looks)
    assert every >= 8
    for at in {1, 2, every // 3, every // 2, every - 2}:
        forget_all()
        looks = itertools.count()
        with pytest.raises(GivenUp), followed(lambda looks=looks, at=at: next(looks) >= at):  # type: ignore[misc]
            evaluate(program, {}, memo)
        assert chord_tolerance() == CHORD_TOLERANCE
        assert stated(outcome_of(text, {}, memo)) == fresh


VARIED = ("02-boardwalk", "13-louvre-screen")


def asked_of(text: str, files: Any) -> dict[str, Callable[[], Any]]:
    """What the page of variations and the workspace ask a worker for, of one study."""
    axes = explore.outline(text, files, {})["axes"]
    name = axes[0]["name"]
    rolled = {"kind": "roll", "number": 12, "roll": 5}
    return {
        "trials": lambda: explore.trials(text, files, rolled, {}, 0, 12, False),
        "with parts": lambda: explore.trials(text, files, {**rolled, "roll": 6}, {}, 0, 3, True),
        "small picture": lambda: explore.small_picture(text, files, {}, []),
        "reach": lambda: explore.reach(text, files, _figure_of(text, files), {}),
        "bands": lambda: explore.bands(text, files, name, {}, 30.0),
        "scene": lambda: tasks.scene(text, {}, files),
        "plan": lambda: explore.plan(text, files, {"kind": "limits"}, {}),
    }


def _figure_of(text: str, files: Any) -> str:
    return str(explore.outline(text, files, {})["values"][0]["name"])


def test_what_is_explored_is_the_same_whoever_asked_for_what_before() -> None:
    """Two studies in one worker, their turns and their variations in any order, twice: each answer is
    that of a process which was asked for nothing else."""
    work = {}
    for name in VARIED:
        text = (DEMO / f"{name}.ovo").read_text(encoding="utf-8")
        for what, ask in asked_of(text, everything_named(text, folder_shelf(DEMO))).items():
            work[name, what] = ask
    forget_all()
    fresh = {key: in_child(ask) for key, ask in work.items()}
    order = [*work, *list(work)[::2]]
    random.Random(9).shuffle(order)
    for key in order:
        assert work[key]() == fresh[key], key
