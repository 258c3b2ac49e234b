"""The description of the interface in OpenAPI 3.1 (https://spec.openapis.org/oas/v3.1.0)."""

from __future__ import annotations

from dataclasses import MISSING, fields
from types import UnionType
from typing import Any, Union, get_args, get_origin, get_type_hints

from ovolo.sheet.reader import MOST_CHARACTERS
from studio.api import messages

_PLAIN = {str: "string", int: "integer", float: "number", bool: "boolean"}
_MOST_NUMBER = 2**63 - 1


def description() -> dict[str, Any]:
    """The whole document."""
    study = {
        "type": "object",
        "required": ["id", "title", "project", "revision", "changed", "may"],
        "properties": {
            "id": {"type": "integer"}, "title": {"type": "string"}, "project": {"type": "string"},
            "revision": {"type": ["integer", "null"]}, "changed": {"type": "string", "format": "date-time"},
            "may": {"type": "array", "items": {"type": "string"}}, "text": {"type": "string"},
        },
    }  # fmt: skip
    refusal = {
        "type": "object",
        "required": ["message", "hint"],
        "properties": {"message": {"type": "string"}, "hint": {"type": "string"}},
    }
    return {
        "openapi": "3.1.0",
        "info": {"title": "Ovolo", "version": "1", "description": "Studies, read, saved, evaluated and handed over."},
        "security": [{"token": []}],
        "paths": {
            "/api/studies": {"get": _operation("studies", "The studies that you may look at", _json({"type": "array", "items": _ref("Study")}))},
            "/api/studies/{study}": {
                "parameters": [_STUDY],
                "get": _operation("study", "A study with its text", _json(_ref("Study")), missing=True),
                "put": _operation("save", "Save a text, made from a revision", _json(_ref("Study")), messages.Save, missing=True, conflict=True),
            },
            "/api/studies/{study}/evaluate": {
                "parameters": [_STUDY],
                "post": _operation("evaluate", "Values, checks, problems and parts, with inputs at some values", _json(_ref("Outcome")), messages.Evaluate, missing=True),
            },
            "/api/studies/{study}/hand-over": {
                "parameters": [_STUDY],
                "post": _operation("handOver", "A file", {"application/octet-stream": {}}, messages.HandOver, missing=True),
            },
        },
        "components": {
            "securitySchemes": {"token": {"type": "http", "scheme": "bearer"}},
            "schemas": {
                "Study": study, "Refusal": refusal,
                "Outcome": {"type": "object", "required": ["study", "values", "checks", "problems", "parts"]},
                **{one.__name__: schema_of(one) for one in (messages.Save, messages.Evaluate, messages.HandOver)},
            },
        },
    }  # fmt: skip


_STUDY = {
    "name": "study", "in": "path", "required": True,
    "schema": {"type": "integer", "minimum": 1, "maximum": _MOST_NUMBER},
}  # fmt: skip


def _ref(name: str) -> dict[str, str]:
    return {"$ref": f"#/components/schemas/{name}"}


def _json(schema: dict[str, Any]) -> dict[str, Any]:
    return {"application/json": {"schema": schema}}


def _operation(
    name: str,
    said: str,
    answer: dict[str, Any],
    body: type[Any] | None = None,
    missing: bool = False,
    conflict: bool = False,
) -> dict[str, Any]:
    refused = {"401": "no token, or none that is known", "429": "too much is asked for"}
    refused |= {"400": "the request makes no sense, and why"} if body else {}
    refused |= {"404": "there is no such study for you"} if missing else {}
    refused |= {"409": "the study was changed since that revision"} if conflict else {}
    refused |= {"413": "the body is too large"} if body else {}
    found: dict[str, Any] = {
        "operationId": name,
        "summary": said,
        "responses": {
            "200": {"description": said, "content": answer},
            **{status: {"description": why, "content": _json(_ref("Refusal"))} for status, why in refused.items()},
        },
    }  # fmt: skip
    if body is not None:
        found["requestBody"] = {"required": True, "content": _json(_ref(body.__name__))}
    return found


def schema_of(message: type[Any]) -> dict[str, Any]:
    """The schema of a message, from the types of its fields."""
    hints = get_type_hints(message)
    needed = [
        one.name
        for one in fields(message)
        if one.default is MISSING and one.default_factory is MISSING
    ]
    shapes = {one.name: _shape(hints[one.name]) for one in fields(message)}
    if "text" in shapes:
        shapes["text"]["maxLength"] = MOST_CHARACTERS
    return {
        "type": "object",
        "required": needed,
        "properties": shapes,
        "description": " ".join((message.__doc__ or "").split()),
    }


def _shape(hint: Any) -> dict[str, Any]:
    origin, inner = get_origin(hint), get_args(hint)
    if origin in (Union, UnionType):
        return {"anyOf": [_shape(one) for one in inner]}
    if origin is list:
        return {"type": "array", "items": _shape(inner[0])}
    if origin is dict:
        return {"type": "object", "additionalProperties": _shape(inner[1])}
    return {"type": _PLAIN[hint]}
