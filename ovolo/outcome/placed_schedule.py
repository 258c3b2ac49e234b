"""The schedule of placed studies: a line for each study and the settings that are written for it, with its
places, pieces and masses."""

from __future__ import annotations

from collections.abc import Iterator

from msgspec import Struct

from ovolo.meaning.study_kinds import StudyFunction
from ovolo.outcome.outcome import Outcome
from ovolo.outcome.part import Part
from ovolo.quantities.dimension import MASS
from ovolo.quantities.show import DisplayUnits, show_quantity
from ovolo.sheet import tree


class Setting(Struct, frozen=True):
    """One study with one way to set it: the parts it makes (by their labels), the pieces of them all, and
    their mass (kg; None where that of one is not known)."""

    study: str
    settings: str
    parts: tuple[str, ...]
    pieces: int
    mass: float | None


def placed_schedule(outcome: Outcome) -> list[Setting]:
    """A row for each study and setting, in the order in which they are met. Parts that use no study, or
    several, are in none."""
    found: dict[tuple[str, str], list[Part]] = {}
    for name, part in outcome.parts.items():
        used = studies_used_by(outcome, name)
        if len(used) == 1:
            found.setdefault(used[0], []).append(part)
    return [_row(study, settings, parts) for (study, settings), parts in found.items()]


def _row(study: str, settings: str, parts: list[Part]) -> Setting:
    masses = [part.mass for part in parts]
    known = [one for one in masses if one is not None]
    return Setting(
        study,
        settings,
        tuple(part.label or part.name.replace("_", " ") for part in parts),
        sum(part.count for part in parts),
        sum(known) if len(known) == len(masses) else None,
    )


def studies_used_by(outcome: Outcome, name: str) -> list[tuple[str, str]]:
    """The studies that a line uses, each with what is written in its brackets."""
    return list(_uses(outcome, name))


def _uses(outcome: Outcome, name: str) -> Iterator[tuple[str, str]]:
    statement = outcome.program.by_name[name].statement
    content = statement.content
    assert isinstance(content, tree.Part)
    for node in tree.descendants(content.value):
        if not isinstance(node, tree.Call):
            continue
        line = outcome.program.by_name.get(node.function)
        if line is not None and isinstance(line.kind, StudyFunction):
            written = [statement.text[slice(*one.span)] for one in node.arguments]
            yield line.kind.title, " ".join(", ".join(written).split())


def mass_shown(mass: float | None, units: DisplayUnits) -> str:
    """A mass in kg as a person reads it; nothing, where it is not known."""
    return "" if mass is None else str(show_quantity(mass, MASS, units))


def shown_placed(outcome: Outcome) -> list[list[str]]:
    """The rows as a person reads them: study, settings, parts, pieces, mass."""
    return [
        [
            one.study,
            one.settings or "as in the study",
            ", ".join(one.parts),
            str(one.pieces),
            mass_shown(one.mass, outcome.units),
        ]
        for one in placed_schedule(outcome)
    ]
