"""What is seen of a study while a hand turns one of its inputs: a picture of coarser chords, and the figures that
no geometry is in. What is measured comes once the hand rests, from the whole evaluation."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from ovolo.meaning.program import Program, ProgramLine
from ovolo.outcome.outcome import Outcome
from ovolo.running.evaluate import LineOutcome, Memo, evaluate_only
from ovolo.sheet import tree

COARSER = 4.0
"""So many times as far as in the study may chords miss what is round."""

_TIME_LIMIT = 1.0
"""Seconds after which a hand is not followed."""


def outcome_in_motion(program: Program, settings: Mapping[str, Any], memo: Memo) -> Outcome | None:
    """The outcome without what is measured; none where something is wrong with it, or takes long, which only the
    whole evaluation can say. What a picture is made from is worked out all the same, though it is measured."""
    if program.problems or any(_turns_by_geometry(line, program) for line in program.lines):
        return None
    bare = Outcome(program, [], in_motion=True)
    drawn = [line for line in program.lines if not bare.is_coming(line)]
    tolerance = COARSER * program.tolerance
    evaluated = evaluate_only(program, drawn, settings, memo, _TIME_LIMIT, tolerance)
    done = {id(one.line): one for one in evaluated}
    lines = [done.get(id(line)) or LineOutcome(line, None) for line in program.lines]
    found = Outcome(program, lines, in_motion=True)
    return None if found.problems else found


def _turns_by_geometry(line: ProgramLine, program: Program) -> bool:
    """Whether it is an input whose limits are measured, or a preset of such values: what a hand turns by is known."""
    is_turned = isinstance(line.content, tree.Input | tree.Preset)
    return is_turned and line.statement.line in program.of_geometry
