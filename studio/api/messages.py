"""What a program sends, declared once: read by the views, told by the description."""

from __future__ import annotations

from dataclasses import dataclass, field


@dataclass(frozen=True)
class Save:
    """A new text of a study, made from a revision of it."""

    text: str
    revision: int
    said: str = ""


@dataclass(frozen=True)
class Evaluate:
    """The values at which inputs are to be: as typed ("3.1 m"), or figures in mm or degrees, yes or no."""

    set: dict[str, str | float | bool] = field(default_factory=dict)
    preset: str = ""


@dataclass(frozen=True)
class HandOver:
    """A file by its name, whose ending says the format; of all parts where none is named."""

    file: str
    parts: list[str] = field(default_factory=list)
    options: dict[str, str] = field(default_factory=dict)
    set: dict[str, str | float | bool] = field(default_factory=dict)
    preset: str = ""
