"""Ovolo's core: a sheet of formulas goes in; values, parts, checks and problems come out.

From Python: `ovolo.open("stair.ovo")` and `ovolo.Study(text)` (docs/python.md)."""

from __future__ import annotations

from typing import Any

__all__ = ["Failure", "Study", "open"]


def __getattr__(name: str) -> Any:
    """What is called from outside is loaded when it is asked for: the rooms below need none of it."""
    if name == "open":
        from ovolo.calling.study import open_study

        return open_study
    if name == "Study":
        from ovolo.calling.study import Study

        return Study
    if name == "Failure":
        from ovolo.problems import Failure

        return Failure
    raise AttributeError(f"module {__name__!r} has no attribute {name!r}")
