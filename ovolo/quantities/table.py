"""Tables: named columns of equal length, as attached files give them."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
from msgspec import Struct

from ovolo.quantities.kinds import YES_NO, Kind, Quantity, TableKind


class Table(Struct, frozen=True, eq=False):
    """Columns by name: arrays of numbers (mm, radians, kg, s), of yes/no, or lists of texts."""

    name: str
    columns: dict[str, Any]
    kinds: dict[str, Kind]
    units: dict[str, str]
    digest: str

    @property
    def kind(self) -> TableKind:
        return TableKind(columns=tuple(self.kinds.items()))

    @property
    def fingerprint(self) -> str:
        """What tells it from other values."""
        return f"table {self.digest}"

    def __len__(self) -> int:
        return len(next(iter(self.columns.values()), ()))

    def __getitem__(self, column: str) -> Any:
        return self.columns[column]

    def row(self, at: int) -> dict[str, Any]:
        """One row as a set of values."""
        return {
            name: float(column[at]) if isinstance(self.kinds[name], Quantity) else column[at]
            for name, column in self.columns.items()
        }


def column_of(cells: Sequence[Any], kind: Kind) -> Any:
    """Cells as the column their kind calls for."""
    if isinstance(kind, Quantity):
        return np.array(cells, dtype=float)
    return np.array(cells, dtype=bool) if kind == YES_NO else list(cells)
