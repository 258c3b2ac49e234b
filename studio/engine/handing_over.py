"""What worker processes do to hand a study over. Everything here takes and gives plain data."""

from __future__ import annotations

import datetime
from collections.abc import Mapping, Sequence
from typing import Any

from ovolo.drawing.paper import layout_said
from ovolo.exploring.presets import preset_titles
from ovolo.exploring.runs import plan_of
from ovolo.exploring.trials import shown_settings
from ovolo.formats.attached import Files
from ovolo.formats.export import exported_sheet
from ovolo.hand_over.order import read_order
from ovolo.hand_over.package import Package, Source, outcome_at, packed
from ovolo.problems import Failure
from studio.engine import tasks

Said = Mapping[str, Any]
MOST_PICTURES = 6


def offered(text: str, files: Files, sheets: Sequence[Said]) -> dict[str, Any]:
    """The parts, the presets and the pinned trials of contact sheets that can leave. Raises Failure."""
    outcome = tasks.outcome_at(text, {}, files)
    return {
        "parts": [
            {"name": one.name, "label": one.label or one.name, "count": one.count}
            for one in outcome.parts.values()
        ],
        "presets": preset_titles(outcome.program),
        "trials": [trial for sheet in sheets for trial in _pinned(files, sheet)],
    }


def _pinned(files: Files, sheet: Said) -> list[dict[str, Any]]:
    """The pinned trials of a contact sheet with the settings that they had when it was kept: of the text as it was
    then, for other limits give other rolls. None where its plan cannot be laid."""
    pinned = sheet["shown"].get("pinned")
    numbers = [one for one in pinned if isinstance(one, int)] if isinstance(pinned, list) else []
    if not numbers:
        return []
    try:
        _, plan = plan_of(sheet["text"], files, sheet["plan"], sheet["set"])
    except Failure:
        return []
    return [
        {"title": f"{sheet['title']}, number {number + 1}", "set": shown_settings(plan, number)}
        for number in numbers
        if 0 <= number < len(plan.settings)
    ]


def _package(text: str, files: Files, said: Said) -> Package:
    program = tasks.program_of(text, files)
    date = datetime.date.fromisoformat(said["date"])
    source = Source(str(said["title"]), text, str(said["revision"]), program, date)
    return packed(source, read_order(said["order"]))


def look(text: str, files: Files, said: Said) -> dict[str, Any]:
    """What would leave: the manifest, and a picture at each preset. Raises Failure."""
    package = _package(text, files, said)
    pictures = [
        {"preset": preset, "svg": _picture(package, preset)}
        for preset in package.order.titles[:MOST_PICTURES]
    ]
    return {"manifest": package.manifest(), "pictures": pictures}


def _picture(package: Package, preset: str) -> str:
    """The drawing at a preset, as SVG; nothing where it cannot be drawn."""
    outcome = outcome_at(package.source, package.order, preset, seconds=20.0)
    for paper in ("A4", "A3", "A1", "A0"):
        try:
            layout = layout_said(outcome, {"preset": preset, "paper": paper})
            return exported_sheet(outcome, "sheet.svg", layout, package.order.parts).decode()
        except Failure:
            continue
    return ""


def take(text: str, files: Files, said: Said) -> tuple[bytes, str, dict[str, Any]]:
    """What leaves: the bytes, the ending of their name, the manifest. A file that is alone leaves as it is
    where no manifest is wanted. Raises Failure."""
    package = _package(text, files, said)
    if len(package.files) == 1 and not said.get("with_manifest"):
        return package.files[0].data, package.files[0].name, package.manifest()
    return package.zipped(), f"{said['title']}.zip", package.manifest()
