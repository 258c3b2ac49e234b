"""A study as a program takes it.

Values are plain: figures in mm, degrees, kg and s (areas in mm², volumes in mm³), whatever units the sheet
shows them in; points and lists as arrays of numpy; texts and yes/no as they are. `unit` and `shown` tell them.
"""

from __future__ import annotations

import html
from collections.abc import Iterable, Iterator, Mapping
from functools import cached_property
from pathlib import Path
from typing import Any

import numpy as np

from ovolo.calling.part import Part
from ovolo.calling.trials import Trials
from ovolo.drawing.paper import layout_said
from ovolo.exploring.presets import preset_titles, preset_values
from ovolo.exploring.settings import plain_setting, told_setting
from ovolo.formats.attached import Files, everything_named, folder_shelf, read_files
from ovolo.formats.export import exported, exported_sheet
from ovolo.formats.format import on_paper
from ovolo.meaning.checked_sheet import checked_program
from ovolo.meaning.program import Program
from ovolo.outcome.outcome import (
    Outcome,
    outcome_of,
    plain_value,
    show_line,
    value_json,
)
from ovolo.problems import Failure, meant
from ovolo.quantities.kinds import ListOf, PointKind, Quantity
from ovolo.running.evaluate import LineOutcome, Memo

SECONDS = 120.0
"""So long an evaluation may take."""


def open_study(path: str | Path) -> Study:
    """The study of an .ovo file, with the files and studies beside it that it names.

    Raises Failure where it cannot be read."""
    file = Path(path)
    try:
        text = file.read_text(encoding="utf-8-sig")
    except (OSError, UnicodeDecodeError) as error:
        raise Failure(f"{path} cannot be read: {error}") from None
    return Study(text, file.parent)


class Study:
    """A sheet at some setting of its inputs.

    >>> shelf = Study('input wide = 900 mm from 300 mm to 2 m\\nboards = ceil(wide / 250 mm)')
    >>> shelf.boards
    4
    >>> shelf["wide"] = "1.2 m"
    >>> shelf.wide, shelf.boards, shelf.shown("wide")
    (1200, 5, '1200 mm')
    """

    def __init__(self, text: str, folder: str | Path | None = None, settings: Mapping[str, Any] | None = None) -> None:  # fmt: skip
        self.text = text
        self.folder = None if folder is None else Path(folder)
        self._settings: dict[str, Any] = dict(settings or {})
        self._memo = Memo()

    # --- what it is ---

    def __repr__(self) -> str:
        changed = ", ".join(f"{name} = {self.shown(name)}" for name in self._settings)
        return f"<study {self.title}{f': {changed}' if changed else ''}>"

    @property
    def title(self) -> str:
        return self._program.title or "untitled"

    @cached_property
    def _files(self) -> Files:
        return everything_named(self.text, folder_shelf(self.folder)) if self.folder else {}

    @cached_property
    def _program(self) -> Program:
        return checked_program(self.text, read_files(self._files))

    @cached_property
    def _outcome(self) -> Outcome:
        return outcome_of(self.text, self._settings, self._memo, time_limit=SECONDS, tables=read_files(self._files))  # fmt: skip

    @property
    def inputs(self) -> list[str]:
        """The names of its inputs, in their order."""
        return [line.name for line in self._program.inputs if line.name]

    @property
    def presets(self) -> list[str]:
        return preset_titles(self._program)

    @property
    def names(self) -> list[str]:
        """The names of all lines that have a value."""
        return [line.line.name for line in self._outcome.lines if line.line.name and line.has_value]

    # --- setting inputs ---

    def __setitem__(self, name: str, value: Any) -> None:
        """Another value for an input: as a person types it ("3.1 m"), or a figure in mm or degrees."""
        self._settings[name] = self._read(name, value)
        self.__dict__.pop("_outcome", None)

    def at(self, preset: str = "", **values: Any) -> Study:
        """Another study of the same sheet, with inputs at other values; this one stays as it is."""
        settings = dict(self._settings)
        if preset:
            settings |= preset_values(self._program, preset)
        settings |= {name: self._read(name, value) for name, value in values.items()}
        return Study(self.text, self.folder, settings)

    def _read(self, name: str, value: Any) -> Any:
        plain = value.item() if isinstance(value, np.generic) else value
        return told_setting(self._program, name, plain)

    # --- values ---

    def __getitem__(self, name: str) -> Any:
        """The value of a line. Raises Failure for what has none, and says why."""
        line = self._line(name)
        return _plain(line.value, line.line.kind)

    def __getattr__(self, name: str) -> Any:
        if name.startswith("_"):
            raise AttributeError(name)
        try:
            return self[name]
        except Failure as failure:
            raise AttributeError(failure.said) from failure

    def __dir__(self) -> Iterable[str]:
        return [*super().__dir__(), *self.names]

    def unit(self, name: str) -> str:
        """The unit of the figures of a value: `mm`, `deg`, `mm^2`, `kg`; empty for plain numbers."""
        return str(value_json(self._line(name), self._outcome.units)["unit"])

    def shown(self, name: str) -> str:
        """The value as the sheet shows it, in its own units."""
        return str(show_line(self._line(name), self._outcome.units)).replace("\u2009", "")

    def _line(self, name: str) -> LineOutcome:
        found = next((one for one in self._outcome.lines if one.line.name == name), None)
        if found is None:
            raise Failure(f"there is no `{name}`", meant(name, self.names))
        if not found.has_value:
            raise Failure(f"`{name}` has no value: {found.problems[0].message if found.problems else 'nothing'}")  # fmt: skip
        return found

    def table(self) -> list[dict[str, Any]]:
        """All values, a row each: name, label, value, unit, as it is shown. As rows of a data frame, for one."""
        return [
            {"name": name, "label": getattr(self._line(name).line.content, "label", ""), "value": self[name],
             "unit": self.unit(name), "shown": self.shown(name)}
            for name in self.names
        ]  # fmt: skip

    # --- what is wrong ---

    @property
    def problems(self) -> list[str]:
        return [str(one) for one in self._outcome.problems]

    @property
    def failing(self) -> list[str]:
        """The checks that fail: what each says."""
        return [one.message or one.text for one in self._outcome.failed_checks]

    @property
    def well(self) -> bool:
        """Whether there is no problem and every check holds."""
        return not self.problems and not self.failing

    # --- parts ---

    @property
    def parts(self) -> Parts:
        return Parts(self._outcome)

    # --- trying ---

    def vary(self, kind: str = "roll", number: int = 20, *, hold: Iterable[str] = (), progress: bool = False, **more: Any) -> Trials:  # fmt: skip
        """Trials: `roll` random settings (`number` of them), a `series` or a `field` (`inputs=["bay"]`, `counts=[10]`), all
        `presets`, the `limits`, or `rows` (CSV). With `progress` a bar is shown while they are made.

        >>> shelf = Study('input wide = 900 mm from 300 mm to 2 m\\nboards = ceil(wide / 250 mm)')
        >>> shelf.vary("series", inputs=["wide"], counts=[3]).column("boards")
        [2, 5, 8]
        """
        from ovolo.exploring.runs import plan_of
        from ovolo.exploring.trials import trials

        asked = {"kind": kind, "number": number, "hold": list(hold), "roll": 1, **more}
        present = {name: plain_setting(value) for name, value in self._settings.items()}
        program, plan = plan_of(self.text, self._files, asked, present)
        made = trials(program, plan, range(len(plan.settings)))
        shown = _with_bar(made, len(plan.settings)) if progress else made
        return Trials([one.as_json() for one in shown])

    # --- handing over ---

    def export(self, file: str | Path, parts: Iterable[str] = (), **options: str) -> Path:
        """Writes parts into a file whose ending names the format, as `ovolo export` does. Raises Failure."""
        path = Path(file)
        path.write_bytes(exported(self._outcome, path.name, list(parts), options))
        return path

    def drawing(self, file_name: str = "drawing.svg", **layout: str) -> bytes:
        """A drawing on paper (`view="front"`, `scale="1:20"`, `paper="A3"`), as SVG or PDF. Raises Failure."""
        if Path(file_name).suffix.lstrip(".") not in on_paper():
            raise Failure(f"`{file_name}` ends in no format of a sheet")
        return exported_sheet(self._outcome, file_name, layout_said(self._outcome, layout))

    def _repr_html_(self) -> str:
        """In a notebook: the drawing, and the values as a table."""
        try:
            picture = self.drawing().decode()
        except Failure as failure:
            picture = f"<p>{html.escape(failure.said)}</p>"
        rows = "".join(
            f"<tr><td>{html.escape(row['label'] or row['name'])}</td><td>{html.escape(row['shown'])}</td></tr>"
            for row in self.table()
        )
        wrong = "".join(f"<p>✕ {html.escape(one)}</p>" for one in [*self.problems, *self.failing])
        return f"<div style='max-width:640px'>{picture}</div>{wrong}<table>{rows}</table>"


class Parts(Mapping[str, Part]):
    """The parts of a study, by their names: `stair.parts.treads`, `stair.parts["treads"]`."""

    def __init__(self, outcome: Outcome) -> None:
        self._outcome = outcome

    def __getitem__(self, name: str) -> Part:
        found = self._outcome.parts.get(name)
        if found is None:
            raise KeyError(name)
        return Part(found)

    def __getattr__(self, name: str) -> Part:
        if name.startswith("_") or name not in self._outcome.parts:
            raise AttributeError(f"there is no part `{name}`; parts: {', '.join(self) or 'none'}")
        return self[name]

    def __iter__(self) -> Iterator[str]:
        return iter(self._outcome.parts)

    def __len__(self) -> int:
        return len(self._outcome.parts)

    def __dir__(self) -> Iterable[str]:
        return [*super().__dir__(), *self]


def _plain(value: Any, kind: Any) -> Any:
    """As JSON has it, but lists and points of figures as arrays."""
    found = plain_value(value, kind)
    item = kind.item if isinstance(kind, ListOf) else kind
    return np.array(found, float) if isinstance(item, Quantity | PointKind) and isinstance(found, list) and None not in found else found  # fmt: skip


def _with_bar(made: Iterable[Any], count: int) -> Iterator[Any]:
    """Shows how far it is, in a terminal or below a cell of a notebook."""
    import sys

    for number, one in enumerate(made, start=1):
        filled = round(30 * number / count)
        print(f"\r[{'#' * filled}{'.' * (30 - filled)}] {number} of {count}", end="", file=sys.stderr, flush=True)  # fmt: skip
        yield one
    print(file=sys.stderr)
