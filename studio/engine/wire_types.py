"""What the browser sends, as types for its scripts: `python -m studio.engine.wire_types` writes
frontend/messages.d.ts from the messages and the table of edits."""

from __future__ import annotations

import inspect
from dataclasses import MISSING, fields, is_dataclass
from pathlib import Path
from types import NoneType, UnionType
from typing import Any, Literal, Union, get_args, get_origin, get_type_hints

from studio.engine import wire
from studio.engine.editing import EDITS

WRITTEN = Path(__file__).parents[2] / "frontend" / "messages.d.ts"
_PLAIN = {bool: "boolean", int: "number", float: "number", str: "string", NoneType: "null", Any: "any"}  # fmt: skip


def declared() -> str:
    """The types of all messages, and of every edit by its name."""
    messages = [one for _, one in inspect.getmembers(wire, is_dataclass) if isinstance(one, type)]
    messages.sort(key=lambda one: inspect.getsourcelines(one)[1])
    edits = [f'  | ({{ edit: "{name}" }} & {message.__name__})' for name, message in EDITS.items()]
    return "\n".join(
        [
            "// What is sent to the server. Written by `python -m studio.engine.wire_types`.",
            *(line for one in messages for line in _interface(one)),
            "",
            "export type Edit =",
            *edits[:-1],
            f"{edits[-1]};",
            "",
        ]
    )


def _interface(message: type[Any]) -> list[str]:
    hints = get_type_hints(message)
    said = []
    for one in fields(message):
        needed = one.default is MISSING and one.default_factory is MISSING
        said.append(f"  {one.name}{'' if needed else '?'}: {_type(hints[one.name])};")
    return ["", f"export interface {message.__name__} {{", *said, "}"]


def _type(hint: Any) -> str:
    origin, inner = get_origin(hint), get_args(hint)
    if origin in (Union, UnionType):
        return " | ".join(dict.fromkeys(_type(one) for one in inner))
    if origin is Literal:
        return " | ".join(f'"{one}"' for one in inner)
    if origin is list:
        return f"{_type(inner[0])}[]"
    if origin is dict:
        return f"Record<{_type(inner[0])}, {_type(inner[1])}>"
    return _PLAIN[hint]


if __name__ == "__main__":
    WRITTEN.write_text(declared())
