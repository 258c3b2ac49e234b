"""Trials of a study, as a program takes them."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Any

from ovolo.exploring.trials import as_csv


class Trials(Sequence[dict[str, Any]]):
    """What `Study.vary` found: a row for each setting, with the values of inputs and lines by their names (mm,
    degrees, kg, s) and, under `why`, why it fails (empty where it does not)."""

    def __init__(self, made: list[dict[str, Any]]) -> None:
        self._made = made
        self._rows = [{**one["settings"], **one["values"], "why": one["why"]} for one in made]

    def __repr__(self) -> str:
        failing = sum(bool(one["why"]) for one in self._rows)
        return f"<{len(self)} trials, {failing} fail>"

    def __len__(self) -> int:
        return len(self._rows)

    def __getitem__(self, at: Any) -> Any:
        return self._rows[at]

    def __iter__(self) -> Iterator[dict[str, Any]]:
        return iter(self._rows)

    def column(self, name: str) -> list[Any]:
        """The values of one name, None where a trial has none."""
        return [row.get(name) for row in self._rows]

    def csv(self) -> str:
        """As a table of comma-separated values, with how each value is said."""
        return as_csv(self._made)
