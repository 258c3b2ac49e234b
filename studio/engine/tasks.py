"""What worker processes do. Everything here takes and gives plain data."""

from __future__ import annotations

import json
from collections.abc import Mapping
from functools import lru_cache, partial
from typing import TYPE_CHECKING, Any

import numpy as np

from ovolo.benches.answers import BarsSaid
from ovolo.benches.cutting.bar_list import bars_said, sections_on_bars, shown_bars
from ovolo.drawing.paper import layout_said
from ovolo.exploring.moves import moves_of
from ovolo.exploring.presets import matching_presets, preset_shown, preset_values
from ovolo.exploring.runs import is_figure
from ovolo.exploring.settings import (
    given_settings,
    input_line,
    is_formula,
    read_setting,
    told_setting,
    typed_value,
)
from ovolo.exploring.swapping import calls_of, swap
from ovolo.fields import fields_told
from ovolo.formats.attached import Files, look, read_attached, read_files, read_or_failure
from ovolo.formats.export import exported, exported_sheet
from ovolo.formats.on_screen import Wanted, on_screen
from ovolo.geometry.types import Points
from ovolo.meaning.attachments import OtherStudy, Tables, study_key
from ovolo.meaning.checked_sheet import checked_program
from ovolo.meaning.program import Program
from ovolo.outcome import answers
from ovolo.outcome import measure as measuring
from ovolo.outcome.array_place import numbers_of, place_of
from ovolo.outcome.cut_item import cut_item_at, cut_items
from ovolo.outcome.in_motion import outcome_in_motion
from ovolo.outcome.item import item_values
from ovolo.outcome.outcome import Outcome, outcome_of
from ovolo.outcome.outline import Corner, outline_lines
from ovolo.outcome.piece import shown_piece, study_of_piece
from ovolo.outcome.placed_schedule import shown_placed
from ovolo.outcome.scene import scene_of, sheet_header
from ovolo.outcome.schedule import shown_schedule
from ovolo.problems import Failure, unforeseen
from ovolo.quantities.dimension import NUMBER
from ovolo.quantities.kinds import Quantity
from ovolo.remembering import remembers
from ovolo.running.evaluate import Memo, evaluate_only
from ovolo.sheet.edits import with_used_name
from ovolo.sheet.literals import literal_for
from ovolo.sheet.names import inputs_offered, studies_used
from ovolo.sheet.reader import read_sheet, title_of
from ovolo.writing import unknown
from ovolo.writing.vocabulary import vocabulary as all_words

if TYPE_CHECKING:
    from ovolo.calling.trying import TriedSaid
    from ovolo.exercises.exercise import SeenSaid
    from studio.engine.answers import FileSeenSaid, TurnedSaid, UserSaid

TURNED = "as turned"
"""What a drawing says of its inputs that are turned for it alone, and are as in no preset."""

_MEMO = Memo()
_IN_MOTION = Memo()
"""What was worked out by coarser chords, while a hand moves."""

remembers(_MEMO.clear)
remembers(_IN_MOTION.clear)
Settings = Mapping[str, Any]
"""Values of inputs as they come from the screen (mm, radians, kg, s)."""


_read = lru_cache(maxsize=50)(read_or_failure)
remembers(_read.cache_clear)


def _tables(files: Files) -> Tables:
    return read_files(files, _read)


def program_of(text: str, files: Files) -> Program:
    """The sheet, read and checked, with what it names."""
    return checked_program(text, _tables(files))


def _given(text: str, settings: Settings, files: Files) -> tuple[Program, dict[str, Any]]:
    program = checked_program(text, _tables(files))
    return program, given_settings(program, dict(settings))


def outcome_at(text: str, settings: Settings, files: Files) -> Outcome:
    """What a sheet yields with some inputs at other values. Raises Failure."""
    _, given = _given(text, settings, files)
    return outcome_of(text, given, _MEMO, tables=_tables(files))


def scene(text: str, asked: dict[str, Any], files: Files) -> bytes:
    """The picture of a sheet. `asked` may give `set` (values of inputs), `held` (keys of shapes
    that are there already), `construction` (names of lines to draw though they are no parts) and
    `working` (the line to explain), `drawing` (the flat drawing that is wanted with it),
    `lines_held` (which text's lines are there already) and `moving` (whether a hand is turning an
    input, and what is measured may wait)."""
    outcome = _seen(text, asked, files)
    wanted = asked.get("drawing")
    return scene_of(
        outcome,
        frozenset(map(str, asked.get("held", ()))),
        presets=matching_presets(outcome),
        construction=frozenset(map(str, asked.get("construction", ()))),
        working=asked.get("working"),
        drawing=None if wanted is None else drawing_of(outcome, wanted),
        lines_held=str(asked.get("lines_held", "")),
    )


def _seen(text: str, asked: dict[str, Any], files: Files) -> Outcome:
    settings = asked.get("set", {})
    if asked.get("moving"):
        in_motion = outcome_in_motion(*_given(text, settings, files), _IN_MOTION)
        if in_motion is not None:
            return in_motion
    return outcome_at(text, settings, files)


def drawing_of(outcome: Outcome, wanted: dict[str, Any]) -> dict[str, Any] | None:
    """The flat drawing; nothing, where it cannot be made: the rest of the sheet is shown."""
    try:
        return on_screen(outcome, Wanted.read(wanted))
    except Failure:
        raise
    except Exception as error:
        unforeseen(error, "the flat drawing")
        return None


def header(text: str) -> dict[str, Any]:
    """The statements of a sheet as the screen shows them, before anything is run."""
    return sheet_header(read_sheet(text))


def edited(text: str, body: dict[str, Any], files: Files) -> tuple[str, str, str]:
    """The sheet after an edit, what changed in words, and its title. Raises Failure."""
    from studio.engine.editing import edited as carried_out

    new, said = carried_out(text, body, files)
    return new, said, title_of(new)


def turned(text: str, body: dict[str, Any], files: Files) -> TurnedSaid:
    """What an edit that turns inputs turns them to, where the sheet is only looked at. Raises Failure."""
    from studio.engine.editing import turned as carried_out

    return {"set": carried_out(text, body, files)}


def users(title: str, text: str, others: list[tuple[int, str, str]]) -> list[UserSaid]:
    """The studies (number, title, text) that use this one: under which names, and what of it."""
    found: list[UserSaid] = []
    for number, own, other in others:
        for name, used in studies_used(other).items():
            if used == title:
                call = calls_of(other, name)
                by_place = inputs_offered(text)[: call.positions] if call.positions else []
                found.append(
                    {
                        "study": number,
                        "title": own,
                        "line": call.line,
                        "name": name,
                        "inputs": sorted({*call.inputs, *by_place}),
                        "read": sorted(call.read),
                    }
                )
    return found


def following(title: str, old: str, new: str, texts: dict[int, str]) -> dict[int, str]:
    """Of other studies, by their numbers, those that change where a name of this one does."""
    changed = {number: with_used_name(text, title, old, new) for number, text in texts.items()}
    return {number: text for number, text in changed.items() if text != texts[number]}


def moves(text: str, asked: dict[str, Any], files: Files) -> answers.MovesSaid:
    """What an input moves: the lines that change for one small step of it."""
    program, given = _given(text, asked.get("set", {}), files)
    found = moves_of(program, given, str(asked.get("name")), _MEMO)
    return {"moves": [move.as_json() for move in found]}


def item(text: str, asked: dict[str, Any], files: Files) -> answers.ItemSaid:
    """The local values that made one item of a part; and where `point` lies in a hole that an item of
    an array left, the place of that item."""
    outcome = outcome_at(text, asked.get("set", {}), files)
    name, index = str(asked.get("name")), int(asked.get("index", 0))
    place = place_of(outcome, name, index)
    cut = cut_item_at(outcome, name, _point(asked), index) if asked.get("point") else None
    values = item_values(outcome, name, index)
    if place is not None:  # which tells its number in the array, and not among those that are left
        values = [value for value in values if value.name != "index"]
    hole = place_of(outcome, *cut) if cut is not None else None
    return {
        "piece": shown_piece(outcome, text, name),
        "values": [value.as_json() for value in values],
        "place": place.as_json() if place is not None else None,
        "hole": {"of": cut[0], "place": hole.as_json()} if cut and hole is not None else None,
    }


def piece_literal(
    text: str, name: str, argument: str, typed: str | None, files: Files
) -> str | None:
    """What was typed for an input of a placed study, as a sheet writes it; None where it is to be as in
    the study. Raises Failure where it does not fit the input."""
    program = checked_program(text, _tables(files))
    study = study_of_piece(program, text, name)
    input_line(study, argument)
    if typed is None:
        return None
    if is_formula(typed):
        return typed.strip().removeprefix("=").strip()
    line = input_line(study, argument)
    if isinstance(line.kind, Quantity):
        return typed_value(study, line, typed)
    value = read_setting(study, argument, typed)
    return literal_for(value, NUMBER, "", study.units) if isinstance(value, bool | str) else typed.strip()  # fmt: skip


def _point(asked: dict[str, Any]) -> Points:
    """A point in space that was picked. Raises Failure where it is none."""
    said = asked["point"]
    if not isinstance(said, list) or len(said) != 3 or not all(map(is_figure, said)):
        raise Failure("the request cannot be read", "`point` is wrong")
    return np.array(said, dtype=float)


def numbers(text: str, asked: dict[str, Any], files: Files) -> answers.NumbersSaid:
    """For each part of several items the number of each; and for each part what items of arrays cut
    out of it, with their numbers."""
    outcome = outcome_at(text, asked.get("set", {}), files)
    several = [name for name, part in outcome.parts.items() if part.count > 1]
    lines = {one.line.name: one for one in outcome.lines}
    cuts = {
        name: [one.as_json() for one in found]
        for name in outcome.parts
        for found in outcome.kept(partial(cut_items, outcome, name), lines[name])
    }
    return {"numbers": {name: numbers_of(outcome, name) for name in several}, "cuts": cuts}


def inputs_of(texts: list[str]) -> list[list[str]]:
    """The names of the inputs that each of some sheets offers."""
    return [inputs_offered(text) for text in texts]


def swaps(
    text: str, name: str, files: Files, others: dict[str, tuple[str, Files]]
) -> list[dict[str, Any]]:
    """How each of other studies would serve where this one uses a study under a name. Raises Failure where
    nothing is used under that name."""
    present = studies_used(text).get(name)
    if present is None:
        raise Failure(f"`{name}` is not a study that is used here")
    used = _tables(files).get(study_key(present))
    now = checked_program(used.text, used.reached) if isinstance(used, OtherStudy) else None
    return [
        swap(text, name, now, title, checked_program(other, _tables(reached))).as_json()
        for title, (other, reached) in others.items()
        if title != present
    ]


def measure(text: str, asked: dict[str, Any], files: Files) -> answers.MeasuredSaid:
    """What was picked on the stage, measured."""
    outcome = outcome_at(text, asked.get("set", {}), files)
    picks = [pick for pick in asked.get("picks", ()) if isinstance(pick, dict)]
    parts = [str(pick["part"]) for pick in picks if pick.get("part")]
    return measuring.as_json(measuring.measured(outcome, picks), outcome, parts)


def outline(text: str, asked: dict[str, Any], files: Files) -> answers.OutlineSaid:
    """The lines that draw through some clicked corners. Raises Failure."""
    outcome = outcome_at(text, asked.get("set", {}), files)
    corners = [_corner(one) for one in asked.get("picks", ())]
    view, ending = str(asked.get("name")), str(asked.get("ending", "closed"))
    lines = outline_lines(outcome, text, corners, view, ending, asked.get("named") is True)
    return {"lines": lines}


def _clicked(said: Any) -> Corner:
    """A place that was clicked. Raises Failure where it is none."""
    if not isinstance(said, dict):
        raise Failure("the request cannot be read", "`picks` is wrong")
    return Corner(_point({"point": said.get("at")}), said.get("snapped") is True)


def _corner(said: Any) -> Corner:
    """A corner, and how the piece that leads to it goes. Raises Failure where it is none."""
    place = _clicked(said)
    typed, radius, beside = (said.get(one) for one in ("typed", "radius", "beside"))
    if typed is not None and not (
        isinstance(typed, list) and len(typed) == 2 and all(map(is_figure, typed))
    ):
        raise Failure("the request cannot be read", "`typed` is wrong")
    through = said.get("through")
    return Corner(
        place.at,
        place.snapped,
        said.get("smooth") is True,
        None if through is None else _clicked(through),
        float(radius) if radius is not None and is_figure(radius) else 0.0,
        None if typed is None else (float(typed[0]), float(typed[1])),
        beside if isinstance(beside, int) else None,
        said.get("square") is True,
    )


def schedule(text: str, asked: dict[str, Any], files: Files) -> answers.WholeScheduleSaid:
    """The distinct pieces of a study, and what to cut them from. Raises Failure."""
    outcome = outcome_at(text, asked.get("set", {}), files)
    shown = shown_schedule(list(outcome.parts.values()), outcome.units)
    return {**shown, "placed": shown_placed(outcome)}


def bars(text: str, asked: dict[str, Any], files: Files) -> BarsSaid:
    """The cut list on bars. Raises Failure."""
    outcome = outcome_at(text, asked.get("set", {}), files)
    bar, saw = bars_said(asked, outcome.units)
    sections = sections_on_bars(list(outcome.parts.values()), bar, saw, _BAR_SECONDS)
    return {"sections": shown_bars(sections, outcome.units)}


_BAR_SECONDS = 4.0


def look_into(data: bytes, name: str, count: int) -> FileSeenSaid:
    """A file as a person looks at it. Raises Failure where it cannot be read."""
    seen = look(read_attached(data, name), count)
    return {"heads": seen.heads, "rows": seen.rows, "count": seen.count, "notes": seen.notes}


def found_words(phrase: str) -> dict[str, Any]:
    """What serves a need, the best first: `words` by sort, name and meaning, and the keys of starting `points`, and the
    `messages` that the phrase is."""
    from ovolo.writing.finding import found_for, points_for
    from ovolo.writing.messages import messages_for

    words = [
        {"key": one.key, "sort": one.sort, "name": one.name, "meaning": one.told.get("meaning", "")}
        for one in found_for(phrase)
    ]
    said = [fields_told(one) for one in messages_for(phrase)]
    return {"words": words, "points": points_for(phrase), "messages": said}


def all_messages() -> list[dict[str, Any]]:
    """All that can be said to be wrong, under what it is about."""
    from ovolo.writing.messages import ROOMS, messages

    rooms: dict[str, list[dict[str, str]]] = {room: [] for room in ROOMS.values()}
    for one in messages():
        rooms[one.room].append({"said": one.said, "hint": one.hint})
    return [{"room": room, "messages": said} for room, said in rooms.items() if said]


def words_by_trade() -> list[dict[str, Any]]:
    """All that can be looked up, under what it is for, in the order of needs."""
    from ovolo.writing.constructs import TRADES_BY_NEED
    from ovolo.writing.finding import entries

    found: dict[str, list[dict[str, str]]] = {
        trade: [] for trades in TRADES_BY_NEED.values() for trade in trades
    }
    for one in entries():
        trade = one.told.get("trade", "") or f"{one.sort}s"
        found.setdefault(trade, []).append({"sort": one.sort, "name": one.name})
    return [{"trade": trade, "entries": named} for trade, named in found.items() if named]


def explained(sort: str, name: str) -> dict[str, Any] | None:
    """What there is to say of one entry; None where there is none of that name."""
    from ovolo.calling.trying import example_sheet
    from ovolo.words.all import WORDS
    from ovolo.writing.finding import entries, found_for

    entry = next((one for one in entries() if one.sort == sort and one.name == name), None)
    if entry is None:
        return None
    word = WORDS.get(name) if sort == "word" else None
    near = found_for(f"{name} {entry.told.get('meaning', '')}", 7)
    related = [
        {"sort": one.sort, "name": one.name}
        for one in near
        if one is not entry and one.sort != "unit"
    ]
    sheet = example_sheet(word) if word is not None else ""
    return {**entry.told, "sort": sort, "name": name, "related": related[:6], "sheet": sheet}


def exercise_seen(key: str, text: str, files: Files, kept: Mapping[str, int]) -> SeenSaid:
    """How far a study has come with an exercise. Raises Failure."""
    from ovolo.exercises.facts import Facts
    from ovolo.exercises.first_hour import exercise

    return exercise(key).seen(Facts(text, _tables(files), kept=kept))


def tried(text: str) -> TriedSaid:
    """What a small sheet yields, for who tries an example. Raises Failure."""
    from ovolo.calling.trying import tried as tried_out

    return tried_out(text)


def vocabulary() -> bytes:
    """The words of the language, with their pictures, as JSON."""
    return json.dumps(all_words(), separators=(",", ":"), default=fields_told).encode()


def with_input_for(text: str, name: str, line: int, files: Files) -> str:
    """The sheet with an input of a name that nothing bears. Raises Failure."""
    return unknown.with_input_for(text, name, line, _tables(files))


def literal(text: str, name: str, files: Files) -> str:
    """The present value of a line as it is written in a sheet. Raises Failure."""
    program = checked_program(text, _tables(files))
    wanted = [one for one in program.lines if one.name == name]
    outcomes = evaluate_only(program, wanted, memo=_MEMO)
    line = next((one for one in outcomes if one.line.name == name), None)
    if line is None or line.line.kind is None or not line.has_value:
        raise Failure(f"`{name}` has no value to begin with")
    kind = line.line.kind
    value = float(line.value) if isinstance(kind, Quantity) else line.value
    if not isinstance(value, float | bool | str):
        raise Failure(f"{kind.said} cannot become an input")
    dimension = kind.dimension if isinstance(kind, Quantity) else NUMBER
    return literal_for(value, dimension, "", program.units)


def evaluated(text: str, asked: dict[str, Any], files: Files) -> dict[str, Any]:
    """What a sheet yields at some values, as `ovolo eval --json` prints it. Raises Failure."""
    return _typed_outcome(text, asked, files, 5.0).as_json()


def handed_over(text: str, asked: dict[str, Any], files: Files) -> bytes:
    """A `file` with `parts` at some values, for a program. Raises Failure."""
    outcome = _typed_outcome(text, asked, files, 100.0)
    return exported(outcome, asked["file"], asked["parts"], asked["options"])


def _typed_outcome(text: str, asked: dict[str, Any], files: Files, seconds: float) -> Outcome:
    """A sheet at the values of a `preset`, and those that are `set`: as typed, or figures in mm or degrees."""
    tables = _tables(files)
    program = checked_program(text, tables)
    settings = preset_values(program, asked["preset"]) if asked["preset"] else {}
    settings |= {name: told_setting(program, name, value) for name, value in asked["set"].items()}
    return outcome_of(text, settings, _MEMO, time_limit=seconds, tables=tables)


def export(text: str, file_name: str, asked: dict[str, Any], files: Files) -> bytes:
    """A file with parts of a sheet: `asked` gives their names (`parts`), the `options` of the format, and
    values of inputs (`set`). Raises Failure."""
    _, given = _given(text, asked["set"], files)
    outcome = outcome_of(text, given, _MEMO, time_limit=100.0, tables=_tables(files))
    return exported(outcome, file_name, asked["parts"], asked["options"])


def export_sheet(text: str, file_name: str, said: dict[str, Any], files: Files) -> bytes:
    """A sheet of paper: `said` may give the view, the paper, whether it stands upright, the scale,
    the preset, the author, the parts, whether dims say what they state, and values of inputs (`set`), which
    a preset changes. Raises Failure."""
    program, given = _given(text, said.get("set") or {}, files)
    preset = str(said.get("preset") or "")
    settings = {**given, **(preset_values(program, preset) if preset else {})}
    outcome = outcome_of(text, settings, _MEMO, time_limit=100.0, tables=_tables(files))
    shown = preset or preset_shown(outcome) or (TURNED if given else "")
    layout = layout_said(outcome, {**said, "preset": shown})
    return exported_sheet(outcome, file_name, layout, [str(one) for one in said.get("parts", ())])
