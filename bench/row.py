"""One row of the bench: what is measured, and the same by hand."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

Pair = tuple[Callable[[], object], Callable[[], object]]


@dataclass(frozen=True)
class Row:
    title: str
    budget: str
    prepare: Callable[[], Pair]
    rounds: int = 15
