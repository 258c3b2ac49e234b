"""What the browser sends and what it is told, as types for its scripts: `python -m studio.engine.wire_types`
writes frontend/messages.d.ts from the messages and the table of edits, frontend/scene.d.ts from the
declaration of the scene, and frontend/answers.d.ts from that of the answers."""

from __future__ import annotations

import inspect
from dataclasses import MISSING, fields, is_dataclass
from pathlib import Path
from types import ModuleType, NoneType, UnionType
from typing import (
    Annotated,
    Any,
    Literal,
    NotRequired,
    Required,
    Union,
    get_args,
    get_origin,
    get_type_hints,
    is_typeddict,
)

from ovolo.outcome import answers, scene_message
from studio.engine import wire
from studio.engine.editing import EDITS

_FRONTEND = Path(__file__).parents[2] / "frontend"
WRITTEN = _FRONTEND / "messages.d.ts"
SCENE_WRITTEN = _FRONTEND / "scene.d.ts"
ANSWERS_WRITTEN = _FRONTEND / "answers.d.ts"
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


def scene_declared() -> str:
    """The types of a scene, as the page has it once its figures are arrays."""
    return _dictionaries(scene_message, "What a scene tells.")


def answers_declared() -> str:
    """The types of what the page is told when it asks about one thing."""
    return _dictionaries(answers, "What is answered.")


def _dictionaries(module: ModuleType, what: str) -> str:
    said = [one for _, one in inspect.getmembers(module, is_typeddict)]
    said.sort(key=lambda one: inspect.getsourcelines(one)[1])
    return "\n".join(
        [
            f"// {what} Written by `python -m studio.engine.wire_types`.",
            *(line for one in said for line in _dictionary(one)),
            "",
        ]
    )


def _dictionary(said: Any) -> list[str]:
    lines = []
    for name, hint in get_type_hints(said, include_extras=True).items():
        may_lack = get_origin(hint) is NotRequired
        lines.append(f"  {name}{'?' if may_lack else ''}: {_type(hint)};")
    return ["", f"export interface {said.__name__} {{", *lines, "}"]


def _interface(message: type[Any]) -> list[str]:
    hints = get_type_hints(message)
    said = []
    for one in fields(message):
        needed = one.default is MISSING and one.default_factory is MISSING
        said.append(f"  {one.name}{'' if needed else '?'}: {_type(hints[one.name])};")
    return ["", f"export interface {message.__name__} {{", *said, "}"]


def _type(hint: Any) -> str:
    origin, inner = get_origin(hint), get_args(hint)
    if origin is Annotated:
        return str(inner[1])
    if origin in (NotRequired, Required):
        return _type(inner[0])
    if is_typeddict(hint):
        return str(hint.__name__)
    if origin in (Union, UnionType):
        return " | ".join(dict.fromkeys(_type(one) for one in inner))
    if origin is Literal:
        return " | ".join(f'"{one}"' for one in inner)
    if origin is list:
        return f"{_type(inner[0])}[]" if get_origin(inner[0]) is None else f"({_type(inner[0])})[]"
    if origin is dict:
        return f"Record<{_type(inner[0])}, {_type(inner[1])}>"
    return _PLAIN[hint]


if __name__ == "__main__":
    WRITTEN.write_text(declared())
    SCENE_WRITTEN.write_text(scene_declared())
    ANSWERS_WRITTEN.write_text(answers_declared())
