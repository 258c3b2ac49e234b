"""What worker processes do to hand a study over. Everything here takes and gives plain data."""

from __future__ import annotations

import datetime
from collections.abc import Mapping
from typing import Any

from ovolo.drawing.paper import layout_said
from ovolo.exploring.presets import preset_titles, preset_values
from ovolo.formats.attached import Files
from ovolo.formats.export import exported_sheet
from ovolo.hand_over.order import read_order
from ovolo.hand_over.package import Package, Source, packed
from ovolo.outcome.outcome import Outcome
from ovolo.problems import Failure
from ovolo.running.evaluate import evaluate
from studio.engine import tasks

Said = Mapping[str, Any]
MOST_PICTURES = 6


def offered(text: str, files: Files) -> dict[str, Any]:
    """The parts and the presets that can leave. Raises Failure."""
    outcome = tasks.outcome_at(text, {}, files)
    return {
        "parts": [
            {"name": one.name, "label": one.label or one.name, "count": one.count}
            for one in outcome.parts.values()
        ],
        "presets": preset_titles(outcome.program),
    }


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
        for preset in package.order.presets[:MOST_PICTURES]
    ]
    return {"manifest": package.manifest(), "pictures": pictures}


def _picture(package: Package, preset: str) -> str:
    """The drawing at a preset, as SVG; nothing where it cannot be drawn."""
    program = package.source.program
    settings = preset_values(program, preset) if preset else {}
    outcome = Outcome(program, evaluate(program, settings, time_limit=20.0))
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
