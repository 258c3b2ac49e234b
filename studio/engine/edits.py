"""Edits as they come from the screen, turned into edits of the text; carried out in a worker."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from ovolo.exploring.settings import (
    first_figure,
    given_settings,
    input_line,
    is_formula,
    read_setting,
    typed_value,
    with_formulas,
)
from ovolo.formats.attached import Files
from ovolo.meaning.checked_sheet import checked_program
from ovolo.meaning.program import ProgramLine
from ovolo.problems import Failure
from ovolo.quantities.dimension import NUMBER
from ovolo.quantities.kinds import Quantity, figure_kind
from ovolo.quantities.show import DisplayUnits
from ovolo.sheet import edits, tree
from ovolo.sheet.literals import typed_literal
from ovolo.sheet.names import references
from ovolo.sheet.reader import read_statement
from studio.engine import tasks

Edited = tuple[str, str]
"""The new text, and what changed in words."""


class StillNeeded(Failure):
    """What is to be deleted is used elsewhere; it can be deleted all the same."""

    def __reduce__(self) -> tuple[object, ...]:
        return StillNeeded, (self.message, self.hint, self.span)


def edited(text: str, body: dict[str, Any], files: Files) -> Edited:
    """Carries out the edit that a request asks for. Raises Failure where it cannot be made."""
    kind = str(body.get("edit"))
    if kind in _IN_WORKER:
        return _IN_WORKER[kind](text, body, files)
    rule = _RULES.get(kind)
    if rule is None:
        raise Failure(f"there is no edit called `{kind}`")
    return rule(text, body)


def _set_input(text: str, body: dict[str, Any]) -> Edited:
    """An input turned to a value: `value` from a slide rule, or `typed` by hand (of a list or a
    point: one figure of it, `at`)."""
    name, typed = str(body.get("name")), body.get("typed")
    line = input_line(checked_program(text), name)
    label = getattr(line.content, "label", "") or name
    if typed is not None and is_formula(str(typed)) and "at" not in body:
        return with_formulas(text, {name: str(typed)}), f"{label}: now a formula"
    new = _with_figure(text, line, body) if "at" in body else _with_value(text, name, body)
    before, after = (_literal(t, name) for t in (text, new))
    # A comma could have been meant as a decimal one: the history says what was made of it.
    typed_so = f" (typed as {typed})" if "," in str(typed or "") and "[" not in str(typed) else ""
    return new, f"{label}: {before} to {after}{typed_so}"


def _with_value(text: str, name: str, body: dict[str, Any]) -> str:
    program = checked_program(text)
    line = input_line(program, name)
    if "typed" in body and isinstance(line.kind, Quantity):
        return edits.with_input(text, name, typed_value(program, line, str(body["typed"])))
    if "typed" in body:
        value = read_setting(program, name, str(body["typed"]))
    else:
        given = given_settings(program, {name: body.get("value")})
        if name not in given:
            raise Failure(f"`{body.get('value')}` is no value for `{name}`")
        value = given[name]
    if not isinstance(value, float | bool | str):
        if "typed" in body:  # a list or a point, as it was written
            return edits.with_input(text, name, str(body["typed"]).strip())
        value = [float(figure) for figure in body["value"]]
    figure = figure_kind(line.kind)
    dimension = figure.dimension if figure is not None else NUMBER
    return edits.setting_text(text, name, value, dimension, program.units)


def _with_figure(text: str, line: ProgramLine, body: dict[str, Any]) -> str:
    """One figure of a list or a point, typed by hand."""
    name, at = str(body.get("name")), body.get("at")
    figure = figure_kind(line.kind)
    if figure is None or not isinstance(at, int):
        raise Failure(f"`{name}` has no figure {at}")
    units, typed = checked_program(text).units, str(body.get("typed", ""))
    written = edits.figure_written(text, name, at)
    literal = typed_literal(typed, figure.dimension, units, written, f"`{name}`")
    return edits.with_figure(text, name, at, literal)


def _limit(text: str, body: dict[str, Any]) -> Edited:
    """A limit or the step of an input, typed by hand: a value in any unit, or a formula."""
    name, role = str(body.get("name")), str(body.get("role"))
    program = checked_program(text)
    line = input_line(program, name)
    content = line.content
    assert isinstance(content, tree.Input)
    if role not in ("low", "high", "step"):
        raise Failure(f"an input has no `{role}`", "low, high or step")
    typed = _written_as(line, str(body.get("typed", "")), program.units)
    if role == "step":
        return _still_read(edits.with_step(text, name, typed), name), f"{name}: step {typed}"
    text_of = line.statement.text
    low, high = (
        typed if role == one or node is None else text_of[slice(*node.span)]
        for one, node in (("low", content.low), ("high", content.high))
    )
    if content.low is None:
        other = _written_as(line, str(body.get("other", "")), program.units)
        low, high = (low, other) if role == "low" else (other, high)
    new = _still_read(edits.with_limits(text, name, low, high), name)
    return new, f"{name}: from {low} to {high}"


def _written_as(line: ProgramLine, typed: str, units: DisplayUnits) -> str:
    """A figure as the sheet writes it; what is no figure stands as a formula."""
    figure = figure_kind(line.kind)
    typed = typed.strip().removeprefix("=").strip()
    if figure is None:
        raise Failure(f"`{line.name}` has no limits", "only figures have limits and a step")
    if not typed:
        raise Failure("nothing was typed", "for example 200 mm")
    try:
        return typed_literal(typed, figure.dimension, units, first_figure(line), f"`{line.name}`")
    except Failure:
        if _is_of_names(typed):
            return typed
        raise


def _is_of_names(typed: str) -> bool:
    """Whether this reads as a formula over other lines, and not as a figure gone wrong."""
    content, _ = read_statement(f"it = {typed}")
    return isinstance(content, tree.Formula) and bool(references(content))


def _still_read(text: str, name: str) -> str:
    """The text, if the line of that name can still be read in it."""
    edits.input_statement(text, name)
    return text


def _internal(text: str, body: dict[str, Any]) -> Edited:
    name, internal = str(body.get("name")), bool(body.get("internal"))
    said = "kept internal" if internal else "on the faceplate"
    return edits.with_internal(text, name, internal), f"{name}: {said}"


def _literal(text: str, name: str) -> str:
    statement = edits.input_statement(text, name)
    assert isinstance(statement.content, tree.Input)
    start, end = statement.content.value.span
    return statement.text[start:end]


def _line_number(body: dict[str, Any], key: str) -> int:
    number = body.get(key)
    if not isinstance(number, int) or isinstance(number, bool):
        raise Failure("the request names no line")
    return number


def typed_text(text: str, body: dict[str, Any]) -> str:
    """Text from the browser with the line ends of the sheet."""
    plain = str(body.get("text", "")).replace("\r\n", "\n").replace("\r", "\n")
    return plain.replace("\n", "\r\n") if "\r\n" in text else plain


def _said_of(typed: str) -> str:
    """A typed line in few words, for the history."""
    first = " ".join(typed.split())
    return first if len(first) <= 80 else first[:79] + "…"


def _replace(text: str, body: dict[str, Any]) -> Edited:
    line, typed = _line_number(body, "line"), typed_text(text, body)
    old = edits.statement_at(text, line).name
    new = edits.replaced(text, line, typed)
    return new, f"{old or f'line {line}'} rewritten: {_said_of(typed)}"


def _insert(text: str, body: dict[str, Any]) -> Edited:
    after, typed = _line_number(body, "after"), typed_text(text, body)
    return edits.inserted(text, after, typed), f"added: {_said_of(typed)}"


def _rewrite(text: str, body: dict[str, Any]) -> Edited:
    """The whole sheet as text, as it was typed."""
    new = typed_text(text, body)
    old_lines, new_lines = text.split("\n"), new.split("\n")
    changed = [line for line in new_lines if line not in set(old_lines)]
    said = f"as text: {_said_of(changed[0])}" if changed else "as text: lines taken out or moved"
    return new, said


def _delete(text: str, body: dict[str, Any]) -> Edited:
    line = _line_number(body, "line")
    name = edits.statement_at(text, line).name
    needing = edits.needed_by(text, name) if name else []
    if needing and not body.get("all_the_same"):
        said = ", ".join(f"{s.name or 'line'} (line {s.line})" for s in needing)
        count = "1 line needs" if len(needing) == 1 else f"{len(needing)} lines need"
        raise StillNeeded(f"{count} `{name}`: {said}")
    return edits.deleted(text, line), f"{name or f'line {line}'} deleted"


def _swap(text: str, body: dict[str, Any]) -> Edited:
    name, title = str(body.get("name")), str(body.get("title"))
    return edits.with_used_study(text, name, title), f"{name}: now “{title}”"


def _rename(text: str, body: dict[str, Any]) -> Edited:
    old, new = str(body.get("name")), str(body.get("new")).strip()
    return edits.renamed(text, old, new), f"renamed {old} to {new}"


def _to_formula(text: str, body: dict[str, Any]) -> Edited:
    name = str(body.get("name"))
    return edits.to_formula(text, name), f"{name}: now a formula"


def _to_input(text: str, body: dict[str, Any], files: Files) -> Edited:
    name = str(body.get("name"))
    literal = tasks.literal(text, name, files)
    return edits.to_input(text, name, literal), f"{name}: now an input"


def _unknown_to_input(text: str, body: dict[str, Any], files: Files) -> Edited:
    """An input of a name that nothing bears, above the line that uses it. That line may still be
    being typed: `text` is then the line as it stands in the editor (`after`: where it will)."""
    name = str(body.get("name"))
    if "text" in body:
        text, line = _as_drafted(text, body)
    else:
        line = _line_number(body, "line")
    return tasks.with_input_for(text, name, line, files), f"{name}: a new input"


def _as_drafted(text: str, body: dict[str, Any]) -> tuple[str, int]:
    """The text with the line that is being typed, and where that line begins."""
    if "after" in body:
        after = _line_number(body, "after")
        new = edits.inserted(text, after, typed_text(text, body))
        last = len(text.split("\n"))
        return new, after if after == last and text.endswith("\n") else after + 1
    line = _line_number(body, "line")
    return edits.replaced(text, line, typed_text(text, body)), line


def _move(text: str, body: dict[str, Any]) -> Edited:
    line = _line_number(body, "line")
    name = edits.statement_at(text, line).name
    new = edits.moved(text, line, _line_number(body, "before"))
    return new, f"{name or f'line {line}'} moved"


def _apply_preset(text: str, body: dict[str, Any]) -> Edited:
    title = str(body.get("title"))
    return edits.with_preset(text, title), f"preset {title}"


def _forget(text: str, body: dict[str, Any]) -> Edited:
    name = str(body.get("name"))
    new = edits.without_settings(text, name)
    if new == text:
        raise Failure(f"no preset names `{name}`")
    return new, f"{name} taken out of all presets"


def _save_preset(text: str, body: dict[str, Any]) -> Edited:
    title = str(body.get("title", ""))
    return edits.with_saved_preset(text, title), f"preset {title} saved"


_RULES: dict[str, Callable[[str, dict[str, Any]], Edited]] = {
    "set": _set_input,
    "replace": _replace,
    "insert": _insert,
    "rewrite": _rewrite,
    "delete": _delete,
    "limit": _limit,
    "internal": _internal,
    "rename": _rename,
    "swap": _swap,
    "to_formula": _to_formula,
    "move": _move,
    "apply_preset": _apply_preset,
    "save_preset": _save_preset,
    "forget": _forget,
}
_IN_WORKER: dict[str, Callable[[str, dict[str, Any], Files], Edited]] = {
    "to_input": _to_input,
    "unknown_to_input": _unknown_to_input,
}
"""Edits that need values, and so an evaluation."""
