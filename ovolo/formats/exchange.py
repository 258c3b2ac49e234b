"""The exchange structure of ISO 10303-21, of which STEP and IFC files are made: a head, and entities, a
line each.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Any

from msgspec import Struct


def exchange_file(description: str, name: str, schema: str, entities: Sequence[str]) -> bytes:
    """A file of entities, numbered from 1. It has no date of its own: the same study gives the same
    bytes."""
    head = [
        "ISO-10303-21;", "HEADER;", f"FILE_DESCRIPTION(({text(description)}),'2;1');",
        f"FILE_NAME({text(name)},'1970-01-01T00:00:00',(''),(''),'Ovolo','Ovolo','');",
        f"FILE_SCHEMA(({text(schema)}));", "ENDSEC;", "DATA;",
    ]  # fmt: skip
    body = [f"#{number}={said};" for number, said in enumerate(entities, 1)]
    return "\n".join([*head, *body, "ENDSEC;", "END-ISO-10303-21;", ""]).encode("ascii")


def text(said: str) -> str:
    """A text in quotes, its letters beyond ASCII by their numbers (ISO 10303-21, 6.4.3)."""
    plain = said.replace("\\", "\\\\").replace("'", "''")
    return "'" + re.sub(r"[^ -~]", _by_number, plain) + "'"


def _by_number(found: re.Match[str]) -> str:
    number = ord(found[0])
    return f"\\X2\\{number:04X}\\X0\\" if number < 0x10000 else f"\\X4\\{number:08X}\\X0\\"


def yes(value: bool) -> str:
    return ".T." if value else ".F."


class Entity(Struct, frozen=True):
    """One that is written: others refer to it by its number."""

    number: int


class Word(Struct, frozen=True):
    """A word of a list that the schema gives: `.ELEMENT.`"""

    said: str


DERIVED = Word("*")
"""Stands for what follows from the rest of an entity."""


class Entities:
    """Entities by their attributes."""

    def __init__(self) -> None:
        self.said: list[str] = []

    def make(self, kind: str, *values: Any) -> Entity:
        """An entity of the schema with all of its attributes, in the schema's order; None where one
        is left out."""
        self.said.append(f"{kind.upper()}({','.join(map(_written, values))})")
        return Entity(len(self.said))


def _written(value: Any) -> str:
    """A value in the clear text encoding (ISO 10303-21, 6.4)."""
    match value:
        case None:
            return "$"
        case bool():
            return yes(value)
        case Entity():
            return f"#{value.number}"
        case Word():
            return value.said if value is DERIVED else f".{value.said}."
        case int():
            return str(value)
        case float():
            return _figure(float(value))
        case str():
            return text(value)
    return f"({','.join(map(_written, value))})"


def _figure(value: float) -> str:
    """A real has a point: 10., 1.E-05."""
    mantissa, exponent, power = repr(value).partition("e")
    whole, _, decimals = mantissa.partition(".")
    return f"{whole}.{decimals.rstrip('0')}{exponent.upper()}{power}"
