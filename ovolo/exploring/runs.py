"""A plan carried out: a study's text in, its trials out, in pieces that any worker can make."""

from __future__ import annotations

import json
import math
from collections.abc import Iterator, Mapping
from functools import lru_cache
from typing import Any

from ovolo.exploring.carriers import Carrier, carried
from ovolo.exploring.plans import KINDS, Asked, Plan, planned
from ovolo.exploring.settings import given_settings
from ovolo.exploring.trials import trials
from ovolo.formats.attached import Files, read_files, read_or_failure
from ovolo.meaning.attachments import Tables
from ovolo.meaning.checked_sheet import checked_program
from ovolo.meaning.program import Program
from ovolo.problems import Failure
from ovolo.remembering import Remembered, remembers

Json = Mapping[str, Any]

PIECE = 40
"""So many trials go to a worker at once; of trials with their parts fewer."""

PIECE_WITH_PARTS = 6


_read = lru_cache(maxsize=20)(read_or_failure)
remembers(_read.cache_clear)


def tables_of(files: Files) -> Tables:
    """What a sheet names, each file read once for all pieces of a plan."""
    return read_files(files, _read)


def program_of(text: str, files: Files) -> Program:
    """The program of a text with its files. Raises Failure where nothing of it can be tried."""
    program = checked_program(text, tables_of(files))
    if not program.inputs:
        raise Failure("this study has no inputs to vary", "a line `input name = …` makes one")
    return program


def asked_of(said: Json) -> Asked:
    """A plan as JSON has it. Raises Failure where something in it is none."""
    kind = said.get("kind", "roll")
    if kind not in KINDS:
        raise Failure(f"there is no plan called `{kind}`", f"one of {', '.join(KINDS)}")
    ranges = {}
    for name, pair in _mapping(said, "ranges").items():
        if not isinstance(pair, list | tuple) or len(pair) != 2 or not all(map(is_figure, pair)):
            raise Failure(f"the range of `{name}` is not two figures")
        ranges[str(name)] = (float(pair[0]), float(pair[1]))
    return Asked(
        kind,
        _whole(said, "number", 100),
        _whole(said, "roll", 1),
        frozenset(_names(said, "hold")),
        ranges,
        tuple(_names(said, "inputs")),
        tuple(_whole({"count": one}, "count", 0) for one in _items(said, "counts")),
        str(said.get("rows") or ""),
    )


def is_figure(value: Any) -> bool:
    """Whether what JSON brought is a figure."""
    return isinstance(value, int | float) and not isinstance(value, bool) and math.isfinite(value)


def _mapping(said: Json, key: str) -> Json:
    value = said.get(key) or {}
    if not isinstance(value, Mapping):
        raise Failure(f"`{key}` of the plan cannot be read")
    return value


def _items(said: Json, key: str) -> list[Any]:
    value = said.get(key) or []
    if not isinstance(value, list | tuple):
        raise Failure(f"`{key}` of the plan cannot be read")
    return list(value)


def _names(said: Json, key: str) -> list[str]:
    return [str(one) for one in _items(said, key)]


def _whole(said: Json, key: str, otherwise: int) -> int:
    value = said.get(key, otherwise)
    if not is_figure(value) or value != int(value):
        raise Failure(f"the {key} of the plan is not a whole number")
    return int(value)


def plan_of(text: str, files: Files, said: Json, present: Json) -> tuple[Program, Plan]:
    """The program and its plan, which is laid once for all pieces of it. Raises Failure."""
    program = program_of(text, files)
    key = program, json.dumps([said, present], sort_keys=True, default=repr)
    plan = _PLANS.get(key)
    if plan is None:
        plan = planned(program, asked_of(said), given_settings(program, dict(present)))
        _PLANS.put(key, plan)
    return program, plan


def _weight(plan: Plan) -> int:
    return 300 * len(plan.settings) * (1 + len(plan.axes))


_PLANS = Remembered[Plan](_weight)


def piece(
    text: str, files: Files, said: Json, present: Json, numbers: range, parts: bool
) -> list[dict[str, Any]]:
    """Some trials of a plan, by their numbers from 0: what a worker makes. Raises Failure."""
    program, plan = plan_of(text, files, said, present)
    known = range(numbers.start, min(numbers.stop, len(plan.settings)))
    return [one.as_json() for one in trials(program, plan, known, parts)]


def pieces_of(count: int, parts: bool) -> list[range]:
    """The numbers of a plan's trials, in pieces."""
    size = PIECE_WITH_PARTS if parts else PIECE
    return [range(first, min(first + size, count)) for first in range(0, count, size)]


def run(
    text: str,
    files: Files,
    said: Json,
    carrier: Carrier,
    parts: bool = False,
    present: Json | None = None,
) -> Iterator[dict[str, Any]]:
    """All trials of a plan in their order, as they come from the workers of a carrier. Raises Failure."""
    present = present or {}
    _, plan = plan_of(text, files, said, present)
    work = [
        (text, files, said, present, one, parts) for one in pieces_of(len(plan.settings), parts)
    ]
    for made in carried(carrier, piece, work):
        yield from made
