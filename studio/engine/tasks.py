"""What worker processes do. Everything here takes and gives plain data."""

from __future__ import annotations

from functools import lru_cache
from typing import Any

from ovolo.exploring.presets import matching_presets
from ovolo.exploring.settings import given_settings
from ovolo.formats.export import exported
from ovolo.formats.table_csv import read_files
from ovolo.meaning.program import Tables, checked_program
from ovolo.outcome.outcome import outcome_of
from ovolo.outcome.scene import scene_of
from ovolo.problems import Failure
from ovolo.quantities.dimension import NUMBER
from ovolo.quantities.kinds import Quantity
from ovolo.quantities.table import Table
from ovolo.running.evaluate import Memo
from ovolo.sheet.edits import literal_for

_MEMO = Memo()
Files = dict[str, bytes]


@lru_cache(maxsize=50)
def _table(name: str, data: bytes) -> Table | Failure:
    return read_files({name: data})[name]


def _tables(files: Files) -> Tables:
    return {name: _table(name, data) for name, data in files.items()}


def scene(text: str, settings: dict[str, Any], held: list[str], files: Files) -> bytes:
    """The picture of a sheet with some inputs at other values (mm, radians, kg, s)."""
    tables = _tables(files)
    given = given_settings(checked_program(text, tables), settings)
    outcome = outcome_of(text, given, _MEMO, tables=tables)
    return scene_of(outcome, frozenset(held), presets=matching_presets(outcome))


def literal(text: str, name: str, files: Files) -> tuple[str, str]:
    """The present value of a line as it is written in a sheet, or what stands against it."""
    outcome = outcome_of(text, {}, _MEMO, tables=_tables(files))
    line = next((one for one in outcome.lines if one.line.name == name), None)
    if line is None or line.line.kind is None or not line.has_value:
        return "", f"`{name}` has no value to begin with"
    kind = line.line.kind
    value = float(line.value) if isinstance(kind, Quantity) else line.value
    if not isinstance(value, float | bool | str):
        return "", f"{kind.said} cannot become an input"
    dimension = kind.dimension if isinstance(kind, Quantity) else NUMBER
    return literal_for(value, dimension, "", outcome.units), ""


def export(text: str, file_name: str, parts: list[str], files: Files) -> tuple[bytes, str]:
    """A file with parts of a sheet, or what stands against it."""
    try:
        outcome = outcome_of(text, {}, _MEMO, time_limit=100.0, tables=_tables(files))
        return exported(outcome, file_name, parts), ""
    except Failure as failure:
        return b"", failure.said
