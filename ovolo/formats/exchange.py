"""Entities as the exchange structure of ISO 10303-21 writes them, a line each: what IFC files are made of."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from ovolo.formats.step_file import text


@dataclass(frozen=True, slots=True)
class Entity:
    """One that is written: others refer to it by its number."""

    number: int


@dataclass(frozen=True, slots=True)
class Word:
    """A word of a list that the schema gives: `.ELEMENT.`"""

    said: str


DERIVED = Word("*")
"""Stands for what follows from the rest of an entity."""


class Entities:
    """The data section of a file."""

    def __init__(self) -> None:
        self.lines: list[str] = []

    def make(self, kind: str, *values: Any) -> Entity:
        """An entity of the schema with all of its attributes, in the schema's order; None where one
        is left out."""
        number = len(self.lines) + 1
        said = ",".join(map(_written, values))
        self.lines.append(f"#{number}={kind.upper()}({said});")
        return Entity(number)

    def written(self, view: str, name: str, schema: str) -> bytes:
        """The file. It has no date of its own: the same study gives the same bytes."""
        head = [
            "ISO-10303-21;", "HEADER;", f"FILE_DESCRIPTION(({text(view)}),'2;1');",
            f"FILE_NAME({text(name)},'1970-01-01T00:00:00',(''),(''),'Ovolo','Ovolo','');",
            f"FILE_SCHEMA(({text(schema)}));", "ENDSEC;", "DATA;",
        ]  # fmt: skip
        return "\n".join([*head, *self.lines, "ENDSEC;", "END-ISO-10303-21;", ""]).encode("ascii")


def _written(value: Any) -> str:
    """A value in the clear text encoding (ISO 10303-21, 6.4)."""
    match value:
        case None:
            return "$"
        case bool():
            return ".T." if value else ".F."
        case Entity():
            return f"#{value.number}"
        case Word():
            return value.said if value is DERIVED else f".{value.said}."
        case int():
            return str(value)
        case float():
            return _figure(value)
        case str():
            return text(value)
    return f"({','.join(map(_written, value))})"


def _figure(value: float) -> str:
    """A real has a point: 10., 1.E-05."""
    mantissa, exponent, power = repr(value).partition("e")
    whole, _, decimals = mantissa.partition(".")
    return f"{whole}.{decimals.rstrip('0')}{exponent.upper()}{power}"
