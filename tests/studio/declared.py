"""What is answered, held against what is declared of it."""

from __future__ import annotations

from collections.abc import Mapping
from types import UnionType
from typing import (
    Annotated,
    Any,
    NotRequired,
    Union,
    get_args,
    get_origin,
    get_type_hints,
    is_typeddict,
)

from studio.engine import wire_types


def misfits(value: Any, hint: Any, where: str = "scene") -> list[str]:
    """Where a value of JSON is not as declared; keys that are not declared are misfits, too."""
    origin, inner = get_origin(hint), get_args(hint)
    if hint is Any:
        return []
    if origin in (Annotated, NotRequired):
        return misfits(value, inner[0], where)
    if is_typeddict(hint):
        if not isinstance(value, dict):
            return [where]
        known = get_type_hints(hint, include_extras=True)
        lacking = [name for name, one in known.items() if name not in value and get_origin(one) is not NotRequired]  # fmt: skip
        wrong = [f"{where}.{name}" for name in [*lacking, *(value.keys() - known.keys())]]
        return wrong + [
            said for name in value.keys() & known.keys() for said in misfits(value[name], known[name], f"{where}.{name}")
        ]  # fmt: skip
    if hint in wire_types.WITH:
        told = {name: get_type_hints(hint)[name] for name in hint.__struct_fields__}
        told |= {
            name: get_type_hints(getattr(hint, name).fget)["return"]
            for name in wire_types.WITH[hint]
        }
        if not isinstance(value, dict) or value.keys() != told.keys():
            return [where]
        return [said for name in told for said in misfits(value[name], told[name], f"{where}.{name}")]  # fmt: skip
    if origin in (Union, UnionType):
        return [] if any(not misfits(value, one) for one in inner) else [where]
    if origin is tuple and inner[-1] is not Ellipsis:
        fits = isinstance(value, list) and len(value) == len(inner)
        return [one for item, kind in zip(value, inner, strict=True) for one in misfits(item, kind, where)] if fits else [where]  # fmt: skip
    if origin in (list, tuple):
        within = enumerate(value) if isinstance(value, list) else None
        return [where] if within is None else [one for at, item in within for one in misfits(item, inner[0], f"{where}[{at}]")]  # fmt: skip
    if origin in (dict, Mapping):
        return [where] if not isinstance(value, dict) else [one for key, item in value.items() for one in misfits(item, inner[1], f"{where}[{key}]")]  # fmt: skip
    if hint is float:
        return [] if isinstance(value, int | float) and not isinstance(value, bool) else [where]
    return (
        [] if isinstance(value, hint) and (hint is bool or not isinstance(value, bool)) else [where]
    )
