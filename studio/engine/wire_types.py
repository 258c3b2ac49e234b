"""What the browser sends and what it is told, as types for its scripts: `python -m studio.engine.wire_types`
writes frontend/messages.d.ts from the messages and the table of edits, frontend/scene.d.ts from the
declaration of the scene, and frontend/answers.d.ts from those of the answers."""

from __future__ import annotations

import inspect
from collections.abc import Mapping, Sequence
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

from ovolo.benches import answers as bench_answers
from ovolo.calling import trying
from ovolo.exercises import exercise
from ovolo.exploring import answers as exploring_answers
from ovolo.exploring.aim_readings import Aim, Found
from ovolo.exploring.bands import Band, Bands
from ovolo.exploring.comparing import Comparison, Row
from ovolo.exploring.proof import Breaking, Proof, Verdict
from ovolo.exploring.reach import Bar, Reach
from ovolo.exploring.swapping import Swap
from ovolo.exploring.trials import Trial, TriedPart
from ovolo.outcome import answers, scene_message
from ovolo.outcome.outcome import Check
from ovolo.sheet.construct import Blank, Construct
from ovolo.writing import answers as writing_answers
from ovolo.writing.operators import Operator
from ovolo.writing.pictures import Picture
from studio.engine import answers as studio_answers
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
    return _dictionaries((scene_message,), "What a scene tells.")


WITH: dict[type[Any], tuple[str, ...]] = {
    Check: (), TriedPart: (), Trial: ("reasons", "why"), Found: (), Aim: (), Bar: (), Reach: (), Band: (), Bands: (),
    Breaking: (), Verdict: (), Proof: (), Row: (), Comparison: (), Swap: ("fits",), Blank: (), Construct: (), Operator: (), Picture: (),
}  # fmt: skip
"""Things that are answered as they are, each with the properties that are told beside its fields."""


def answers_declared() -> str:
    """The types of what the page is told when it asks for something."""
    told = [
        line
        for one, properties in WITH.items()
        for line in ["", *_body(one, [*_told(one), *_properties(one, properties)])]
    ]
    rooms = (answers, bench_answers, exploring_answers, exercise, trying, writing_answers, studio_answers)  # fmt: skip
    return _dictionaries(rooms, "What is answered.", told)


def _dictionaries(modules: tuple[ModuleType, ...], what: str, more: Sequence[str] = ()) -> str:
    all_said = dict.fromkeys(said for one in modules for said in _known(one))
    return "\n".join(
        [
            f"// {what} Written by `python -m studio.engine.wire_types`.",
            *(line for said in all_said for line in _dictionary(said)),
            *more,
            "",
        ]
    )


def _known(module: ModuleType) -> list[Any]:
    """The dictionaries that a module knows, those of others first, each module's in their order."""
    said = [one for _, one in inspect.getmembers(module, is_typeddict)]
    own = module.__name__
    return sorted(said, key=lambda one: (one.__module__ == own, one.__module__, inspect.getsourcelines(one)[1]))  # fmt: skip


def _dictionary(said: Any) -> list[str]:
    lines = []
    for name, hint in get_type_hints(said, include_extras=True).items():
        may_lack = get_origin(hint) is NotRequired
        lines.append(f"  {name}{'?' if may_lack else ''}: {_type(hint)};")
    return ["", *_body(said, lines)]


def _interface(message: type[Any]) -> list[str]:
    """A message as it may be sent: what has a default may lack."""
    hints = get_type_hints(message)
    said = []
    for one in fields(message):
        needed = one.default is MISSING and one.default_factory is MISSING
        said.append(f"  {one.name}{'' if needed else '?'}: {_type(hints[one.name])};")
    return ["", *_body(message, said)]


def _told(answer: type[Any]) -> list[str]:
    hints = get_type_hints(answer)
    return [f"  {name}: {_type(hints[name])};" for name in answer.__struct_fields__]


def _properties(answer: type[Any], names: Sequence[str]) -> list[str]:
    return [
        f"  {name}: {_type(get_type_hints(getattr(answer, name).fget)['return'])};"
        for name in names
    ]


def _body(kind: type[Any], lines: Sequence[str]) -> list[str]:
    return [f"export interface {kind.__name__} {{", *lines, "}"]


def _type(hint: Any) -> str:
    origin, inner = get_origin(hint), get_args(hint)
    if origin is Annotated:
        return str(inner[1])
    if origin in (NotRequired, Required):
        return _type(inner[0])
    if is_typeddict(hint) or hint in WITH:
        return str(hint.__name__)
    if origin in (Union, UnionType):
        return " | ".join(dict.fromkeys(_type(one) for one in inner))
    if origin is Literal:
        return " | ".join(f'"{one}"' for one in inner)
    if origin is tuple and inner[-1:] != (Ellipsis,):
        return f"[{', '.join(_type(one) for one in inner)}]"
    if origin in (list, tuple, Sequence):
        return f"{_type(inner[0])}[]" if get_origin(inner[0]) is None else f"({_type(inner[0])})[]"
    if origin in (dict, Mapping):
        return f"Record<{_type(inner[0])}, {_type(inner[1])}>"
    return _PLAIN[hint]


if __name__ == "__main__":
    WRITTEN.write_text(declared())
    SCENE_WRITTEN.write_text(scene_declared())
    ANSWERS_WRITTEN.write_text(answers_declared())
