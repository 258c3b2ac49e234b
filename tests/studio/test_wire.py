"""Messages of the browser are checked at the door."""

from __future__ import annotations

import json
import re
from dataclasses import fields
from typing import Any

import pytest

from ovolo.benches import answers as bench_answers
from ovolo.exploring import answers as exploring_answers
from ovolo.exploring.aim_readings import Aim
from ovolo.exploring.bands import Bands
from ovolo.exploring.comparing import Comparison
from ovolo.exploring.proof import Proof
from ovolo.exploring.reach import Reach
from ovolo.exploring.swapping import Swap
from ovolo.exploring.trials import Trial
from ovolo.formats.attached import Sheet, read_files
from ovolo.outcome import answers
from ovolo.outcome.outcome import outcome_of
from ovolo.outcome.scene import EVERYTHING, scene_of
from ovolo.outcome.scene_message import LengthUnitSaid, SceneSaid
from ovolo.problems import Failure
from studio.engine import cutting, editing, explore, printing, tasks, wire, wire_types
from tests.sheets import DEMO
from tests.studio.declared import misfits


@pytest.mark.parametrize(
    ("kind", "body", "hint"),
    [
        (wire.Replace, {"line": 3}, "`text` is missing"),
        (wire.Replace, {"line": "3", "text": "a"}, "`line` is wrong"),
        (wire.Replace, {"line": True, "text": "a"}, "`line` is wrong"),
        (wire.Replace, {"line": 3.5, "text": "a"}, "`line` is wrong"),
        (wire.Limit, {"name": "w", "role": "middle"}, "`role` is wrong"),
        (wire.Asked, {"held": {}}, "`held` is wrong"),
        (wire.Asked, {"text": 5}, "`text` is wrong"),
        (wire.SetInput, {"name": "w", "value": {}}, "`value` is wrong"),
        (wire.Moment, {"moment": None}, "`moment` is wrong"),
    ],
)
def test_what_is_missing_or_wrong_is_named(kind: Any, body: dict[str, Any], hint: str) -> None:
    with pytest.raises(Failure) as caught:
        wire.read(kind, body)
    assert (caught.value.message, caught.value.hint) == ("the request cannot be read", hint)


def test_what_fits_is_taken_and_the_rest_passed_over() -> None:
    said = {"name": "w", "value": [1, 2.5], "revision": 7, "edit": "set"}
    assert wire.read(wire.SetInput, said) == wire.SetInput("w", [1, 2.5])
    assert wire.read(wire.Asked, {"working": None, "set": {"a": 1}}).as_task()["set"] == {"a": 1}
    assert "working" not in wire.Asked().as_task()


@pytest.mark.parametrize("name", [*editing._RULES, *editing._IN_WORKER])
def test_every_edit_refuses_a_body_of_wrong_types(name: str) -> None:
    message, _ = {**editing._RULES, **editing._IN_WORKER}[name]
    for one in fields(message):
        body = {"edit": name, **{other.name: 1 for other in fields(message)}, one.name: {"no": 1}}
        with pytest.raises(Failure, match="cannot be read"):
            editing.edited("input w = 3 mm", body, {})


def test_the_scripts_know_every_message_as_it_is_declared() -> None:
    anew = "write it anew: python -m studio.engine.wire_types"
    assert wire_types.WRITTEN.read_text() == wire_types.declared(), anew
    assert wire_types.SCENE_WRITTEN.read_text() == wire_types.scene_declared(), anew
    assert wire_types.ANSWERS_WRITTEN.read_text() == wire_types.answers_declared(), anew


def test_all_that_the_browsers_types_name_is_declared_beside_it() -> None:
    for text in (wire_types.declared(), wire_types.scene_declared(), wire_types.answers_declared()):
        named = set(re.findall(r"[:(<|&\[ ]([A-Z]\w+)(?=[\];)>| ,\[])", re.sub(r"//.*", "", text)))
        own = {"Float32Array", "Uint32Array"}
        assert named - own <= set(re.findall(r"export (?:interface|type) (\w+)", text))


BROKEN = """input w = 3 mm from 2 mm to 1 mm
input xs = [1 mm, 2 mm]
input place = (1 mm, 2 mm)
input said = "oak"
input on = yes
input lost = = 4
a = w + 2 kg
b = a * 2
part p = [box(w, w, w).move(i * w) for i in 0 .. 3] colour by [i for i in 0 .. 3] from #000000 to #ffffff
loose = sphere(3 mm)
check w > 5 mm
note "it is {w}"
"""


@pytest.mark.parametrize(
    "text", [*(path.read_text() for path in sorted(DEMO.glob("*.ovo"))), BROKEN]
)
def test_a_scene_is_as_it_is_declared(text: str) -> None:
    tables = read_files({"stars.csv": (DEMO / "stars.csv").read_bytes()})
    outcome = outcome_of(text, {}, tables=tables)
    first = next((one.line.statement.line for one in outcome.lines if one.has_value), None)
    message = scene_of(
        outcome, construction=[EVERYTHING], working=first, presets=[("As drawn", True)]
    )
    size = int.from_bytes(message[4:8], "little")
    assert misfits(json.loads(message[8 : 8 + size]), SceneSaid) == []


def test_what_is_not_as_declared_would_be_found() -> None:
    assert misfits({"symbol": "mm"}, LengthUnitSaid) == ["scene.size"]
    assert misfits({"symbol": "mm", "size": "1", "more": 1}, LengthUnitSaid) == [
        "scene.more",
        "scene.size",
    ]


ROOM = """study "Room"
units mm, deg
use turned from "Peg"
input gap = 90 mm from 60 mm to 200 mm "Gap"
part pegs = row(disc(20 mm), 4, gap, skip = [2]) "Pegs"
part plate = box(400 mm, 300 mm, 10 mm) - [cylinder(9 mm, 40 mm).move(x = i * gap, z = -10 mm) for i in 0 .. 2]
part one = turned(height = 90 mm).body.move(500 mm)
"""
PEG = 'study "Peg"\nunits mm, deg\ninput height = 60 mm "Height"\npart body = cylinder(9 mm, height)\n'


PEGS = {'study "Peg"': Sheet("Peg", PEG)}
EMPTY = 'study "Nothing"\nunits mm, deg\npart edge = line((0 mm, 0 mm), (90 mm, 0 mm))\n'


def test_answers_are_as_they_are_declared() -> None:
    files = PEGS
    picks = [{"point": [0, 0, 0], "part": "plate"}, {"point": [90, 0, 0], "part": "plate"}]
    clicked = [{"at": at} for at in ([0, 0, 0], [90, 0, 0], [90, 60, 0])]
    for kind, said in (
        (answers.MovesSaid, tasks.moves(ROOM, {"name": "gap"}, files)),
        (answers.ItemSaid, tasks.item(ROOM, {"name": "pegs", "index": 1}, files)),
        (answers.ItemSaid, tasks.item(ROOM, {"name": "one"}, files)),
        (answers.NumbersSaid, tasks.numbers(ROOM, {}, files)),
        (answers.MeasuredSaid, tasks.measure(ROOM, {"picks": picks}, files)),
        (answers.MeasuredSaid, tasks.measure(ROOM, {"picks": picks[:1]}, files)),
        (answers.OutlineSaid, tasks.outline(ROOM, {"name": "plan", "picks": clicked}, files)),
    ):
        assert misfits(json.loads(json.dumps(said)), kind) == [], kind.__name__
    assert tasks.item(ROOM, {"name": "pegs", "index": 1}, files)["place"] is not None
    assert tasks.moves(ROOM, {"name": "gap"}, files)["moves"]


def test_what_benches_answer_is_as_it_is_declared() -> None:
    """Both benches laid out, and where nothing is; what the simulated machines tell."""
    printed, cut = {"machine": ""}, {"machine": "", "settings": {"tabs": "2"}}
    layer = {**printed, "first": 0, "last": 2, "plate": 0}
    laid, nested = printing.lay(ROOM, PEGS, printed), cutting.lay(ROOM, PEGS, cut)
    for kind, said in (
        (bench_answers.PrintLaidSaid, laid),
        (bench_answers.PrintLaidSaid, printing.lay(EMPTY, {}, printed)),
        (bench_answers.LayersSaid, printing.layer_figures(ROOM, PEGS, layer)),
        (bench_answers.LayerSaid, printing.one_layer(ROOM, PEGS, layer)),
        (bench_answers.PrintedSaid, printing.run(ROOM, PEGS, layer)),
        (bench_answers.CutLaidSaid, nested),
        (bench_answers.CutLaidSaid, cutting.lay(EMPTY, {}, cut)),
        (bench_answers.CutMeasuredSaid, cutting.run(ROOM, PEGS, cut)),
        (bench_answers.BarsSaid, tasks.bars(ROOM, {"bar": "2000 mm", "kerf": "3 mm"}, PEGS)),
        (answers.WholeScheduleSaid, tasks.schedule(ROOM, {}, PEGS)),
    ):
        assert misfits(json.loads(json.dumps(said)), kind) == [], kind.__name__
    assert laid["print"] is not None and laid["print"]["bodies"]
    assert nested["plan"] is not None and nested["plan"]["sheets"] and nested["bars"]["sections"]
    assert printing.lay(EMPTY, {}, printed)["failure"] is not None


def test_what_variations_answer_is_as_it_is_declared() -> None:
    limits, failing = {"kind": "limits"}, ROOM + "half = gap / 2\ncheck gap > 70 mm\n"
    sides = [("as it is", ROOM, PEGS, {}), ("wider", ROOM, PEGS, {"gap": 40})]
    for kind, said in (
        (exploring_answers.VariationsSaid, explore.outline(failing, PEGS, {})),
        (exploring_answers.PlanSaid, explore.plan(failing, PEGS, limits, {})),
        (Aim, explore.aim(failing, PEGS, {"name": "half", "goal": "42 mm", "by": ["gap"]}, {})),
        (Reach, explore.reach(failing, PEGS, "half", {})),
        (Bands, explore.bands(failing, PEGS, "gap", {}, 5.0)),
        (Proof, explore.proof(failing, PEGS, {})),
        (Comparison, explore.compare(sides)),
    ):
        assert misfits(json.loads(json.dumps(said)), kind) == [], kind.__name__
    tried = explore.trials(failing, PEGS, limits, {}, 0, 2, True)["trials"]
    assert [misfits(json.loads(json.dumps(one)), Trial) for one in tried] == [[], []]
    assert tried[0]["parts"] and tried[0]["checks"]
    swapped = tasks.swaps(ROOM, "turned", PEGS, {"Rod": (PEG, {})})
    assert [misfits(json.loads(json.dumps(one)), Swap) for one in swapped] == [[]]
