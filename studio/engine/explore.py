"""What worker processes do to try a study at many settings. Everything here takes and gives plain data."""

from __future__ import annotations

import io
import zipfile
from collections.abc import Mapping, Sequence
from typing import Any

from ovolo.exploring.aim import aimed, goal_said
from ovolo.exploring.answers import AxisSaid, ChoiceSaid, PlanSaid, VariationsSaid
from ovolo.exploring.axes import Axis, axes_of, plain
from ovolo.exploring.bands import bands_of
from ovolo.exploring.comparing import compared
from ovolo.exploring.proof import Proof, breakings_of, proved
from ovolo.exploring.reach import reach_of
from ovolo.exploring.runs import piece, plan_of, program_of, tables_of
from ovolo.exploring.settings import given_settings
from ovolo.exploring.trials import as_csv, built, wanted_lines
from ovolo.formats.attached import Files
from ovolo.formats.export import exported
from ovolo.meaning.checked_sheet import checked_program
from ovolo.meaning.program import Program
from ovolo.outcome.outcome import Outcome
from ovolo.outcome.scene import scene_of
from ovolo.problems import Failure
from ovolo.quantities.kinds import YES_NO, Quantity
from ovolo.remembering import remembers
from ovolo.running.evaluate import Memo, evaluate
from ovolo.sheet import tree

Json = Mapping[str, Any]

_MEMO = Memo(3_000)
remembers(_MEMO.clear)

COARSER = 8.0
"""By how much coarser the chords of a small picture are than those of the study."""

MOST_FILES = 60
"""So many trials are handed over together."""


def outline(text: str, files: Files, present: Json) -> VariationsSaid:
    """What can be varied and what can be shown of a study. Raises Failure."""
    program = program_of(text, files)
    given = given_settings(program, dict(present))
    axes = axes_of(program, given)
    held = [line.name for line in program.inputs if line.name and line.name not in axes]
    return {
        "axes": [_axis(axis, program) for axis in axes.values()],
        "fixed": held,
        "values": [
            {"name": line.name, "label": getattr(line.content, "label", "") or line.name}
            for line in wanted_lines(program)
            if line.name and not isinstance(line.content, tree.Input) and _is_figure(line.kind)
        ],
    }


def _is_figure(kind: Any) -> bool:
    return isinstance(kind, Quantity) or kind == YES_NO


def _axis(axis: Axis, program: Program) -> AxisSaid:
    if axis.choices:
        choices: list[ChoiceSaid] = [
            {"value": one, "said": axis.said(one, program.units)} for one in axis.choices
        ]
        return {
            "name": axis.name, "label": axis.label, "value": plain(axis, axis.present),
            "said": axis.said(axis.present, program.units), "choices": choices, "seed": False,
        }  # fmt: skip
    unit = program.units.unit_for(axis.dimension)
    return {
        "name": axis.name, "label": axis.label, "value": axis.present,
        "said": axis.said(axis.present, program.units), "choices": [], "seed": axis.seed,
        "low": axis.low, "high": axis.high, "step": axis.step, "base": axis.base,
        "unit": unit.symbol, "size": unit.size,
        "low_said": axis.said(axis.low, program.units), "high_said": axis.said(axis.high, program.units),
    }  # fmt: skip


def plan(text: str, files: Files, asked: Json, present: Json) -> PlanSaid:
    """How many trials a plan has. Raises Failure."""
    _, found = plan_of(text, files, asked, present)
    return {"count": len(found.settings), "varied": [axis.name for axis in found.axes]}


def trials(
    text: str, files: Files, asked: Json, present: Json, first: int, last: int, parts: bool
) -> dict[str, Any]:
    """Some trials of a plan, by their numbers from 0, the last left out. Raises Failure."""
    return {"trials": piece(text, files, asked, present, range(first, last), parts)}


def small_picture(text: str, files: Files, present: Json, held: Sequence[str]) -> bytes:
    """The scene of one setting with coarse chords, without what the workspace shows beside it."""
    program = checked_program(text, tables_of(files))
    given = given_settings(program, dict(present))
    tolerance = program.tolerance * COARSER
    lines = evaluate(program, given, _MEMO, tolerance=tolerance)
    return scene_of(Outcome(program, lines), frozenset(map(str, held)))


def aim(text: str, files: Files, asked: Json, present: Json) -> dict[str, Any]:
    """What makes a value what is typed as the `goal`, or as small (`least`) or large (`most`) as it can
    be. Raises Failure."""
    program = program_of(text, files)
    given = given_settings(program, dict(present))
    name = str(asked["name"])
    goal = goal_said(program, name, str(asked["goal"]))
    return aimed(program, name, goal, [str(one) for one in asked["by"]], given).as_json()


def reach(text: str, files: Files, name: str, present: Json) -> dict[str, Any]:
    """How far each input moves a value. Raises Failure."""
    program = program_of(text, files)
    return reach_of(program, name, given_settings(program, dict(present))).as_json()


def bands(text: str, files: Files, name: str, present: Json, seconds: float) -> dict[str, Any]:
    """Where the study fails along an input. Raises Failure."""
    program = program_of(text, files)
    given = given_settings(program, dict(present))
    return bands_of(program, name, given, _MEMO, seconds).as_json()


def proof(text: str, files: Files, present: Json) -> dict[str, Any]:
    """What breaks at the limits of the inputs, and what is known of each check for all values. Raises
    Failure."""
    asked = {"kind": "limits"}
    program, found = plan_of(text, files, asked, present)
    tried = piece(text, files, asked, present, range(len(found.settings)), True)
    verdicts = proved(program, given_settings(program, dict(present)))
    return Proof(len(tried), breakings_of(found.axes, tried), verdicts).as_json()


Side = tuple[str, str, Files, Json]
"""A title, a text with its files, and values of inputs."""


def compare(sides: Sequence[Side]) -> dict[str, Any]:
    """What differs between some settings, moments or studies. Raises Failure."""
    return compared([(title, _outcome(text, files, given)) for title, text, files, given in sides]).as_json()  # fmt: skip


def _outcome(text: str, files: Files, present: Json) -> Outcome:
    program = checked_program(text, tables_of(files))
    return Outcome(program, evaluate(program, given_settings(program, dict(present)), _MEMO))


def table(trials: Sequence[Json], names: Sequence[str]) -> str:
    """Trials as CSV."""
    return as_csv(trials, names)


def files_of_trials(
    text: str, files: Files, asked: Json, present: Json, numbers: Sequence[int], file_name: str
) -> bytes:
    """A ZIP with one file for each of some trials, called by their numbers: `007-parts.stl`. A trial that
    cannot be written is told in `refused.txt`. Raises Failure."""
    if not 1 <= len(numbers) <= MOST_FILES:
        raise Failure(f"{len(numbers)} trials were chosen", f"from 1 to {MOST_FILES}")
    program, found = plan_of(text, files, asked, present)
    made, refused = io.BytesIO(), []
    with zipfile.ZipFile(made, "w", zipfile.ZIP_DEFLATED) as folder:
        for number in numbers:
            if not 0 <= number < len(found.settings):
                raise Failure(f"there is no trial {number + 1}")
            try:
                data = exported(built(program, found.settings[number], _MEMO), file_name)
            except Failure as failure:
                refused.append(f"{number + 1}: {failure.said}")
                continue
            entry = zipfile.ZipInfo(f"{number + 1:03}-{file_name}", (1980, 1, 1, 0, 0, 0))
            folder.writestr(entry, data, zipfile.ZIP_DEFLATED)
        if refused:
            folder.writestr(
                zipfile.ZipInfo("refused.txt", (1980, 1, 1, 0, 0, 0)), "\n".join(refused)
            )
    if len(refused) == len(numbers):
        raise Failure(f"none could be written: {refused[0]}")
    return made.getvalue()
