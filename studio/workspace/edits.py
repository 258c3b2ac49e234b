"""Edits as they come from the screen, turned into edits of the text."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from ovolo.exploring.settings import input_line, read_setting
from ovolo.meaning.program import Program, checked_program
from ovolo.problems import Failure
from ovolo.quantities.dimension import NUMBER
from ovolo.quantities.kinds import Quantity
from ovolo.sheet import edits

Edited = tuple[str, str]
"""The new text, and what changed in words."""


def edited(text: str, body: dict[str, Any]) -> Edited:
    """Carries out the edit that a request asks for. Raises Failure where it cannot be made."""
    rule = _RULES.get(str(body.get("edit")))
    if rule is None:
        raise Failure(f"there is no edit called `{body.get('edit')}`")
    new, said = rule(text, body)
    return new.replace("\r\n", "\n").replace("\r", "\n") if "\r" not in text else new, said


def _set_input(text: str, body: dict[str, Any]) -> Edited:
    """An input turned to a value: `value` from a slide rule, or `typed` by hand."""
    name = str(body.get("name"))
    program = checked_program(text)
    line = input_line(program, name)
    if "typed" in body:
        value = read_setting(program, name, str(body["typed"]))
    else:
        value = _value_for(program, name, body.get("value"))
    if not isinstance(value, float | bool | str):
        new = edits.with_input(text, name, str(body["typed"]).strip())
    else:
        dimension = line.kind.dimension if isinstance(line.kind, Quantity) else NUMBER
        new = edits.setting_text(text, name, value, dimension, program.units)
    label = getattr(line.content, "label", "") or name
    before, after = (_literal(t, name) for t in (text, new))
    return new, f"{label}: {before} to {after}"


def _value_for(program: Program, name: str, value: Any) -> Any:
    from ovolo.exploring.settings import given_settings

    given = given_settings(program, {name: value})
    if name not in given:
        raise Failure(f"`{value}` is no value for `{name}`")
    return given[name]


def _literal(text: str, name: str) -> str:
    statement = edits.input_statement(text, name)
    start, end = statement.content.value.span  # type: ignore[attr-defined]
    return statement.text[start:end]


def _line_number(body: dict[str, Any], key: str) -> int:
    number = body.get(key)
    if not isinstance(number, int) or isinstance(number, bool):
        raise Failure("the request names no line")
    return number


def _replace(text: str, body: dict[str, Any]) -> Edited:
    line, new = _line_number(body, "line"), str(body.get("text", ""))
    return edits.replaced(text, line, new), f"line {line} rewritten"


def _insert(text: str, body: dict[str, Any]) -> Edited:
    after, new = _line_number(body, "after"), str(body.get("text", ""))
    return edits.inserted(text, after, new), f"line {after + 1} added"


def _delete(text: str, body: dict[str, Any]) -> Edited:
    line = _line_number(body, "line")
    return edits.deleted(text, line), f"line {line} deleted"


_RULES: dict[str, Callable[[str, dict[str, Any]], Edited]] = {
    "set": _set_input,
    "replace": _replace,
    "insert": _insert,
    "delete": _delete,
}
