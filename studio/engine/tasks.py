"""What worker processes do. Everything here takes and gives plain data."""

from __future__ import annotations

from typing import Any

from ovolo.exploring.settings import given_settings
from ovolo.formats.export import exported
from ovolo.meaning.program import checked_program
from ovolo.outcome.outcome import outcome_of
from ovolo.outcome.scene import scene_of
from ovolo.problems import Failure
from ovolo.running.evaluate import Memo

_MEMO = Memo()


def scene(text: str, settings: dict[str, Any], held: list[str]) -> bytes:
    """The picture of a sheet with some inputs at other values (mm, radians, kg, s)."""
    given = given_settings(checked_program(text), settings)
    return scene_of(outcome_of(text, given, _MEMO), frozenset(held))


def export(text: str, file_name: str, parts: list[str]) -> tuple[bytes, str]:
    """A file with parts of a sheet, or what stands against it."""
    try:
        return exported(outcome_of(text, {}, _MEMO, time_limit=100.0), file_name, parts), ""
    except Failure as failure:
        return b"", f"{failure.message}{f' ({failure.hint})' if failure.hint else ''}"
