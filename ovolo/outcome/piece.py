"""A placed piece as it is shown where it was picked: the inputs of its study with the values they have
there, and where it stands."""

from __future__ import annotations

from typing import Any

from ovolo.meaning.program import Program, ProgramLine, choices_of
from ovolo.meaning.study_kinds import StudyFunction
from ovolo.outcome.answers import PieceInputSaid, PieceSaid
from ovolo.outcome.outcome import Outcome, show_line
from ovolo.problems import Failure
from ovolo.running.evaluate import evaluate_only
from ovolo.sheet import placing, tree


def study_of_piece(program: Program, text: str, name: str) -> Program:
    """The study that a placed piece uses. Raises Failure where the line is none."""
    piece = placing.piece_of(text, name)
    line = program.by_name.get(piece.call.function) if piece is not None else None
    if line is None or not isinstance(line.kind, StudyFunction):
        raise Failure(f"`{name}` is no placed study")
    return line.kind.program


def shown_piece(outcome: Outcome, text: str, name: str) -> PieceSaid | None:
    """The piece of a line: its study's title, the inputs it offers (`own`: as it is written here, None
    where the study's own value stands), its place in mm where that is figures, and whether it stands
    level; None where the line is no placed study."""
    try:
        piece = placing.piece_of(text, name)
        if piece is None:
            return None
        study = study_of_piece(outcome.program, text, name)
    except Failure:
        return None
    preset = placing.argument_of(piece, "preset")
    lines = {
        one.line.name: one for one in evaluate_only(study, study.offered, _begun(study, preset))
    }
    inputs: list[PieceInputSaid] = [
        {
            "name": name,
            "label": getattr(one.content, "label", "") or name,
            "own": placing.argument_of(piece, name),
            "value": _said(lines[name], study),
            "choices": [str(choice) for choice in choices_of(one)],
        }
        for one in study.offered
        if isinstance(one.content, tree.Input) and (name := one.name or "") in lines
    ]
    return {
        "title": study.title,
        "inputs": inputs,
        "preset": preset,
        "place": placing.place_in_figures(piece),
        "level": placing.stands_level(piece),
    }


def _begun(study: Program, preset: str | None) -> dict[str, Any]:
    """The values from which a piece begins: those of the preset it names, as it is written."""
    for one in evaluate_only(study, [one for one in study.lines if _is_preset(one, preset)]):
        if _is_preset(one.line, preset) and one.has_value and one.result is not None:
            return dict(one.result.terms)
    return {}


def _is_preset(line: ProgramLine, written: str | None) -> bool:
    content = line.content
    return isinstance(content, tree.Preset) and written == f'"{content.title}"'


def _said(line: Any, study: Program) -> str:
    return str(show_line(line, study.units)).strip('"') if line.has_value else ""
