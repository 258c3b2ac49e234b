"""Values for inputs as a person types them: `floor_height=3.1m`."""

from __future__ import annotations

import contextlib
import math
from typing import Any

import numpy as np

from ovolo.meaning.checked_sheet import checked_program
from ovolo.meaning.program import Program, ProgramLine, choices_of, value_of
from ovolo.outcome.outcome import size_of_result
from ovolo.problems import Failure, meant
from ovolo.quantities.dimension import NUMBER
from ovolo.quantities.kinds import TEXT, YES_NO, Quantity, figure_kind
from ovolo.quantities.typed import read_quantity
from ovolo.sheet import edits, tree
from ovolo.sheet.literals import figure_in, shown_unit, typed_literal

_YES_NO = {"yes": True, "no": False, "true": True, "false": False, "on": True, "off": False}


def input_line(program: Program, name: str) -> ProgramLine:
    """The input of this name; raises Failure where there is none."""
    line = program.by_name.get(name)
    if line is not None and isinstance(line.content, tree.Input):
        return line
    if line is not None:
        raise Failure(f"`{name}` is not an input; its value follows from its formula")
    names = [other.name for other in program.inputs if other.name]
    there = f"inputs: {', '.join(names) or 'none'}"
    raise Failure(f"there is no input `{name}`", meant(name, names, there))


def read_setting(program: Program, name: str, text: str) -> Any:
    """The run-time value for an input from what was typed. Raises Failure where unclear."""
    line = input_line(program, name)
    if line.kind is None:
        raise Failure(f"the input `{name}` has a problem of its own and cannot be set")
    if isinstance(line.kind, Quantity):
        dimension, units = line.kind.dimension, program.units
        shown = shown_unit(figure_in(first_figure(line)), dimension, units)
        return read_quantity(text, dimension, units, f"`{name}`", shown)
    if line.kind == YES_NO:
        answer = _YES_NO.get(text.strip().lower())
        if answer is None:
            raise Failure(f"`{text}` is neither yes nor no")
        return answer
    if line.kind == TEXT:
        value = text.strip().strip('"')
        offered = choices_of(line)
        if offered and value not in offered:
            raise Failure(
                f"`{value}` is not among the choices of `{name}`", f"one of {', '.join(offered)}"
            )
        return value
    return _read_literal(line, text)


def told_setting(program: Program, name: str, value: Any) -> Any:
    """The run-time value for an input from what a program says: a text as a person types it, yes or no, or a
    figure in mm or degrees. Raises Failure where it does not fit."""
    line = input_line(program, name)
    if isinstance(value, bool) or not isinstance(value, int | float):
        said = "yes" if value is True else "no" if value is False else str(value)
        return read_setting(program, name, said)
    if not isinstance(line.kind, Quantity):
        return read_setting(program, name, str(value))
    if not math.isfinite(value):
        raise Failure(f"{value} is no value for `{name}`")
    return float(value) / size_of_result(line.kind)


def plain_setting(value: Any) -> Any:
    """The run-time value of an input as it is sent: figures of lists and points as lists of them."""
    return value if isinstance(value, bool | str) else np.asarray(value, float).tolist()


def typed_value(program: Program, line: ProgramLine, text: str) -> str:
    """A figure for an input, from what was typed to what is written in the sheet. Raises Failure
    where it is unclear."""
    assert isinstance(line.kind, Quantity)
    written = first_figure(line)
    return typed_literal(text, line.kind.dimension, program.units, written, f"`{line.name}`")


def first_figure(line: ProgramLine) -> str:
    """The figure of an input as it is written; the first, where it has several."""
    content = line.content
    assert isinstance(content, tree.Input)
    value: tree.Node = content.value
    while isinstance(value, tree.ListOfItems | tree.Point):
        value = next(iter(tree.children(value)), tree.Number(value.span, 0.0, NUMBER))
    return line.statement.text[slice(*value.span)]


def _read_literal(line: ProgramLine, text: str) -> Any:
    """A point or a list, written as in a sheet."""
    from ovolo.meaning.checked_sheet import check_sheet
    from ovolo.running.evaluate import evaluate
    from ovolo.sheet.reader import read_sheet

    program = check_sheet(read_sheet(f"input {line.name} = {text.strip()}"))
    outcome = evaluate(program)[0]
    if outcome.problems or outcome.line.kind != line.kind:
        assert line.kind is not None
        raise Failure(
            f"`{text}` is not {line.kind.said}", "written as in a sheet, for example [1 m, 2 m]"
        )
    return outcome.value


def is_formula(text: str) -> bool:
    """Whether what was typed is a formula: `=span/2`."""
    return text.strip().startswith("=") and not text.strip().startswith("==")


def with_formulas(text: str, given: dict[str, str]) -> str:
    """The sheet with formulas in the place of the inputs for which one was typed."""
    for name, typed in given.items():
        if is_formula(typed):
            formula = typed.strip().removeprefix("=").strip()
            if not formula:
                raise Failure(
                    f"there is no formula after the = for `{name}`", "for example =span/2"
                )
            input_line(checked_program(text), name)
            text = edits.to_formula(text, name, formula)
    return text


def read_settings(program: Program, given: dict[str, str]) -> dict[str, Any]:
    return {name: read_setting(program, name, text) for name, text in given.items()}


def _is_figure(value: Any) -> bool:
    return isinstance(value, int | float) and not isinstance(value, bool) and math.isfinite(value)


def given_settings(program: Program, values: dict[str, Any]) -> dict[str, Any]:
    """Run-time values for inputs as they come from the screen, each of the kind of its input.

    Values that do not fit, or for names that are no inputs (any more), are passed over.
    """
    found: dict[str, Any] = {}
    for name, value in values.items():
        line = program.by_name.get(name)
        if line is None or not isinstance(line.content, tree.Input):
            continue
        if isinstance(line.kind, Quantity):
            if _is_figure(value):
                found[name] = float(value)
        elif figure_kind(line.kind) is not None:
            if isinstance(value, list) and all(map(_is_figure, value)):
                with contextlib.suppress(ValueError):  # not so many as it has
                    found[name] = value_of([float(one) for one in value], line.kind)
        elif (line.kind == YES_NO and isinstance(value, bool)) or (
            line.kind == TEXT and isinstance(value, str)
        ):
            found[name] = value
    return found
