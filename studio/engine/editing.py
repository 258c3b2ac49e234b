"""Edits as they come from the screen, turned into edits of the text; carried out in a worker."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Any

from ovolo.exploring.settings import (
    first_figure,
    given_settings,
    input_line,
    is_formula,
    plain_setting,
    read_setting,
    typed_value,
    with_formulas,
)
from ovolo.formats.attached import Files
from ovolo.meaning.checked_sheet import checked_program
from ovolo.meaning.program import Program, ProgramLine
from ovolo.outcome.outline import PLANES
from ovolo.problems import Failure
from ovolo.quantities.dimension import ANGLE, NUMBER
from ovolo.quantities.kinds import SURFACE, PointKind, Quantity, figure_kind, innermost
from ovolo.quantities.show import DisplayUnits
from ovolo.quantities.typed import read_quantity
from ovolo.running.evaluate import evaluate_only
from ovolo.sheet import chains, differing, edits, placing, skipping, tree
from ovolo.sheet.edits import statement_named
from ovolo.sheet.literals import typed_literal
from ovolo.sheet.names import references
from ovolo.sheet.reader import read_statement
from ovolo.writing.renaming import needed_by, renamed
from ovolo.writing.starting import piece_for, starting_point
from studio.engine import tasks, wire

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
        message, work = _IN_WORKER[kind]
        return work(text, wire.read(message, body), files)
    if kind not in _RULES:
        raise Failure(f"there is no edit called `{kind}`")
    message, rule = _RULES[kind]
    return rule(text, wire.read(message, body))


def _set_input(text: str, asked: wire.SetInput) -> Edited:
    name, typed = asked.name, asked.typed
    line = input_line(checked_program(text), name)
    label = getattr(line.content, "label", "") or name
    if typed is not None and is_formula(typed) and asked.at is None and asked.point is None:
        return with_formulas(text, {name: typed}), f"{label}: now a formula"
    if asked.at is not None:
        new = _with_figure(text, line, asked, asked.at)
    elif typed is not None and _is_point(line, asked):
        new = _with_coordinates(text, line, asked)
    else:
        new = _with_value(text, asked)
    before, after = (_literal(t, name) for t in (text, new))
    # A comma could have been meant as a decimal one: the history says what was made of it.
    typed_so = f" (typed as {typed})" if typed and "," in typed and "[" not in typed else ""
    return new, f"{label}: {before} to {after}{typed_so}"


def _take(text: str, asked: wire.Take) -> Edited:
    new = _taken(text, asked.values)
    return new, _said_of(f"taken: {asked.said}" if asked.said else "several inputs set")


def _taken(text: str, values: dict[str, Any]) -> str:
    """The text with inputs turned to these values. Raises Failure for one that cannot be."""
    program = checked_program(text)
    given = given_settings(program, values)
    for name in values:
        line = input_line(program, name)
        if name not in given:
            raise Failure(f"`{values[name]}` is no value for `{name}`")
        figure = figure_kind(line.kind)
        dimension = figure.dimension if figure is not None else NUMBER
        value = given[name] if isinstance(given[name], float | bool | str) else values[name]
        text = edits.setting_text(text, name, value, dimension, program.units)
    return text


def _keep_preset(text: str, asked: wire.KeepPreset) -> Edited:
    new = edits.with_saved_preset(text, asked.title, _taken(text, asked.values))
    return new, f"preset {asked.title} saved"


def _is_point(line: ProgramLine, asked: wire.SetInput) -> bool:
    """Whether what is asked about is a point: an input, or one of an input that is a list."""
    whole = isinstance(line.kind, PointKind) and asked.point is None
    return whole or (asked.point is not None and isinstance(innermost(line.kind), PointKind))


def _with_coordinates(text: str, line: ProgramLine, asked: wire.SetInput) -> str:
    """A point typed by hand: `3 m, 200`."""
    typed = (asked.typed or "").strip()
    figures = typed.removeprefix("(").removesuffix(")").split(",")
    point = innermost(line.kind)
    wanted = 2 if isinstance(point, PointKind) and point.flat else 3
    if len(figures) != wanted:
        raise Failure(
            f"`{typed}` has {len(figures)} figures; `{asked.name}` takes {wanted}",
            "a comma stands between coordinates; write decimals with a point",
        )
    for at, figure in enumerate(figures, (asked.point or 0) * wanted):
        text = _with_figure(text, line, replace(asked, typed=figure.strip()), at)
    return text


def _with_value(text: str, asked: wire.SetInput) -> str:
    program, name, typed = checked_program(text), asked.name, asked.typed
    line = input_line(program, name)
    if typed is not None and isinstance(line.kind, Quantity):
        return edits.with_input(text, name, typed_value(program, line, typed))
    if typed is not None:
        value = read_setting(program, name, typed)
    else:
        given = given_settings(program, {name: asked.value})
        if name not in given:
            raise Failure(f"`{asked.value}` is no value for `{name}`")
        value = given[name]
    if not isinstance(value, float | bool | str):
        if typed is not None:  # a list or a point, as it was written
            return edits.with_input(text, name, typed.strip())
        assert isinstance(asked.value, list)
        value = [float(figure) for figure in asked.value]
    figure = figure_kind(line.kind)
    dimension = figure.dimension if figure is not None else NUMBER
    return edits.setting_text(text, name, value, dimension, program.units)


def _with_figure(text: str, line: ProgramLine, asked: wire.SetInput, at: int) -> str:
    """One figure of a list or a point, typed by hand."""
    figure = figure_kind(line.kind)
    if figure is None:
        raise Failure(f"`{asked.name}` has no figure {at}")
    units = checked_program(text).units
    written = edits.figure_written(text, asked.name, at)
    literal = typed_literal(asked.typed or "", figure.dimension, units, written, f"`{asked.name}`")
    return edits.with_figure(text, asked.name, at, literal)


def _limit(text: str, asked: wire.Limit) -> Edited:
    """A limit or the step of an input, typed by hand: a value in any unit, or a formula."""
    name, role = asked.name, asked.role
    program = checked_program(text)
    line = input_line(program, name)
    content = line.content
    assert isinstance(content, tree.Input)
    typed = _written_as(line, asked.typed, program.units)
    if role == "step":
        return _still_read(edits.with_step(text, name, typed), name), f"{name}: step {typed}"
    text_of = line.statement.text
    low, high = (
        typed if role == one or node is None else text_of[slice(*node.span)]
        for one, node in (("low", content.low), ("high", content.high))
    )
    if content.low is None:
        other = _written_as(line, asked.other, program.units)
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


def _internal(text: str, asked: wire.Internal) -> Edited:
    said = "kept internal" if asked.internal else "on the faceplate"
    return edits.with_internal(text, asked.name, asked.internal), f"{asked.name}: {said}"


def _literal(text: str, name: str) -> str:
    statement = edits.input_statement(text, name)
    assert isinstance(statement.content, tree.Input)
    start, end = statement.content.value.span
    return statement.text[start:end]


def typed_text(text: str, typed: str) -> str:
    """Text from the browser with the line ends of the sheet."""
    plain = typed.replace("\r\n", "\n").replace("\r", "\n")
    return plain.replace("\n", "\r\n") if "\r\n" in text else plain


def _said_of(typed: str) -> str:
    """A typed line in few words, for the history."""
    first = " ".join(typed.split())
    return first if len(first) <= 80 else first[:79] + "…"


def _replace(text: str, asked: wire.Replace) -> Edited:
    typed = typed_text(text, asked.text)
    old = edits.statement_at(text, asked.line).name
    new = edits.replaced(text, asked.line, typed)
    return new, f"{old or f'line {asked.line}'} rewritten: {_said_of(typed)}"


def _insert(text: str, asked: wire.Insert) -> Edited:
    typed = typed_text(text, asked.text)
    return edits.inserted(text, asked.after, typed), f"added: {_said_of(typed)}"


def _insert_starting(text: str, asked: wire.InsertStarting) -> Edited:
    lines = piece_for(text, asked.key)
    return edits.inserted(text, asked.after, lines), f"added: {starting_point(asked.key).title}"


def _rewrite(text: str, asked: wire.Rewrite) -> Edited:
    """The whole sheet as text, as it was typed."""
    new = typed_text(text, asked.text)
    old_lines, new_lines = text.split("\n"), new.split("\n")
    changed = [line for line in new_lines if line not in set(old_lines)]
    said = f"as text: {_said_of(changed[0])}" if changed else "as text: lines taken out or moved"
    return new, said


def _delete(text: str, asked: wire.Delete) -> Edited:
    names = edits.names_between(text, asked.line, asked.last)
    taken = range(asked.line, (asked.last or asked.line) + 1)
    for name in [] if asked.all_the_same else names:
        needing = [one for one in needed_by(text, name) if one.line not in taken]
        if needing:
            said = ", ".join(f"{one.name or 'line'} (line {one.line})" for one in needing)
            count = "1 line needs" if len(needing) == 1 else f"{len(needing)} lines need"
            raise StillNeeded(f"{count} `{name}`: {said}")
    new = edits.deleted(text, asked.line, asked.last)
    return new, f"{_said_of_lines(names, asked)} deleted"


def _said_of_lines(names: list[str], asked: wire.Delete | wire.Move | wire.Lines) -> str:
    """The lines that an edit is about, in few words."""
    if asked.last is None or asked.last == asked.line:
        return names[0] if names else f"line {asked.line}"
    return f"lines {asked.line} to {asked.last}"


def _comment(text: str, asked: wire.Lines) -> Edited:
    new = edits.commented(text, asked.line, asked.last)
    said = "commented out" if len(new) > len(text) else "lines again"
    names = edits.names_between(text, asked.line, asked.last)
    return new, f"{_said_of_lines(names, asked)} {said}"


def _swap(text: str, asked: wire.SwapStudy) -> Edited:
    return edits.with_used_study(
        text, asked.name, asked.title
    ), f"{asked.name}: now “{asked.title}”"


def _rename(text: str, asked: wire.Rename) -> Edited:
    new = asked.new.strip()
    return renamed(text, asked.name, new), f"renamed {asked.name} to {new}"


def _to_formula(text: str, asked: wire.Named) -> Edited:
    return edits.to_formula(text, asked.name), f"{asked.name}: now a formula"


def _leave_out(text: str, asked: wire.ArrayItem) -> Edited:
    new = skipping.with_left_out(
        text, asked.name, asked.word, asked.number, asked.count, asked.columns
    )
    return new, f"{asked.name}: item {asked.number} left out"


def _let_differ(text: str, asked: wire.ArrayItem) -> Edited:
    new = differing.with_one_differing(text, asked.name, asked.word, asked.number)
    return new, f"{asked.name}: item {asked.number} may differ"


def _bring_back(text: str, asked: wire.ArrayItem) -> Edited:
    new = skipping.with_brought_back(
        text, asked.name, asked.word, asked.number, asked.count, asked.columns
    )
    return new, f"{asked.name}: item {asked.number} brought back"


def _three(figures: list[Any] | None) -> list[float]:
    """Three lengths of a request (mm). Raises Failure for anything else."""
    found = list(figures or ())
    if len(found) != 3 or not all(
        isinstance(one, int | float) and abs(one) < MOST_MOVED for one in found
    ):
        raise Failure("the request cannot be read", "three lengths in mm")
    return [float(one) for one in found]


MOST_MOVED = 1e9
"""mm, by which a piece is moved at most: a thousand kilometres."""


def _move_piece(text: str, asked: wire.MovePiece) -> Edited:
    units = _units_of(text)
    if asked.typed is not None:
        angle = read_quantity(asked.typed, ANGLE, units, "the turn")
        return placing.with_turn(text, asked.name, angle, units), f"{asked.name} turned"
    new = placing.with_move(text, asked.name, _three(asked.by), units)
    return new, f"{asked.name} moved"


def _copy_piece(text: str, asked: wire.MovePiece) -> Edited:
    new, name = placing.copied(text, asked.name, _three(asked.by), _units_of(text))
    return new, f"{name}: a copy of {asked.name}"


def _place_study(text: str, asked: wire.PlaceStudy) -> Edited:
    program = checked_program(text)
    facing = (0.0, 0.0, 1.0) if asked.facing is None else _three(asked.facing)
    line = program.by_name.get(asked.on)
    is_surface = line is not None and line.kind == SURFACE
    if asked.on and asked.facing is None and not is_surface:
        raise Failure("this face is round", "a study stands on a flat face, or on a surface")
    stand = placing.Stand(_three(asked.at), facing, asked.on if is_surface else "")
    new, name = placing.placed(text, asked.title, stand, program.units)
    return new, f"{name}: “{asked.title}” placed"


def _move_corner(text: str, asked: wire.MoveCorner) -> Edited:
    chain = chains.chain_of(statement_named(text, asked.name).content)
    place = _three(asked.at)
    axes = PLANES.get(chain.side if chain is not None else "", (0, 1))
    new = chains.with_corner(
        text, asked.name, asked.index, [place[axis] for axis in axes], _units_of(text)
    )
    return new, f"{asked.name}, corner {asked.index + 1}: moved"


def _units_of(text: str) -> DisplayUnits:
    return checked_program(text).units


def _piece_input(text: str, asked: wire.PieceInput, files: Files) -> Edited:
    names = list(dict.fromkeys([asked.name, *map(str, asked.also)]))
    for name in names:
        written = tasks.piece_literal(text, name, asked.argument, asked.typed, files)
        text = placing.with_argument(text, name, asked.argument, written)
    said = "as in its study" if asked.typed is None else asked.typed
    return text, f"{', '.join(names)}, {asked.argument}: {said}"


def _to_part(text: str, asked: wire.Named) -> Edited:
    return edits.to_part(text, asked.name), f"{asked.name}: now a part"


def _to_input(text: str, asked: wire.Named, files: Files) -> Edited:
    literal = tasks.literal(text, asked.name, files)
    return edits.to_input(text, asked.name, literal), f"{asked.name}: now an input"


def _unknown_to_input(text: str, asked: wire.UnknownToInput, files: Files) -> Edited:
    """An input of a name that nothing bears, above the line that uses it. That line may still be
    being typed: `text` is then the line as it stands in the editor (`after`: where it will)."""
    text, line = _as_drafted(text, asked)
    return tasks.with_input_for(text, asked.name, line, files), f"{asked.name}: a new input"


def _as_drafted(text: str, asked: wire.UnknownToInput) -> tuple[str, int]:
    """The text with the line that is being typed, if any, and where that line begins."""
    if asked.text is not None and asked.after is not None:
        new = edits.inserted(text, asked.after, typed_text(text, asked.text))
        last = len(text.split("\n"))
        return new, asked.after if asked.after == last and text.endswith("\n") else asked.after + 1
    if asked.line is None:
        raise Failure("the request names no line")
    if asked.text is not None:
        text = edits.replaced(text, asked.line, typed_text(text, asked.text))
    return text, asked.line


def _move(text: str, asked: wire.Move) -> Edited:
    new = edits.moved(text, asked.line, asked.before, asked.last)
    names = edits.names_between(text, asked.line, asked.last)
    return new, f"{_said_of_lines(names, asked)} moved"


def _apply_preset(text: str, asked: wire.Titled) -> Edited:
    return edits.with_preset(text, asked.title), f"preset {asked.title}"


def _forget(text: str, asked: wire.Named) -> Edited:
    new = edits.without_settings(text, asked.name)
    if new == text:
        raise Failure(f"no preset names `{asked.name}`")
    return new, f"{asked.name} taken out of all presets"


def _save_preset(text: str, asked: wire.Titled) -> Edited:
    return edits.with_saved_preset(text, asked.title), f"preset {asked.title} saved"


_RULES: dict[str, tuple[type[Any], Callable[[str, Any], Edited]]] = {
    "set": (wire.SetInput, _set_input),
    "take": (wire.Take, _take),
    "keep_preset": (wire.KeepPreset, _keep_preset),
    "replace": (wire.Replace, _replace),
    "insert": (wire.Insert, _insert),
    "insert_starting": (wire.InsertStarting, _insert_starting),
    "rewrite": (wire.Rewrite, _rewrite),
    "delete": (wire.Delete, _delete),
    "comment": (wire.Lines, _comment),
    "limit": (wire.Limit, _limit),
    "internal": (wire.Internal, _internal),
    "rename": (wire.Rename, _rename),
    "swap": (wire.SwapStudy, _swap),
    "to_formula": (wire.Named, _to_formula),
    "to_part": (wire.Named, _to_part),
    "move_piece": (wire.MovePiece, _move_piece),
    "copy_piece": (wire.MovePiece, _copy_piece),
    "place_study": (wire.PlaceStudy, _place_study),
    "move_corner": (wire.MoveCorner, _move_corner),
    "leave_out": (wire.ArrayItem, _leave_out),
    "bring_back": (wire.ArrayItem, _bring_back),
    "let_differ": (wire.ArrayItem, _let_differ),
    "move": (wire.Move, _move),
    "apply_preset": (wire.Titled, _apply_preset),
    "save_preset": (wire.Titled, _save_preset),
    "forget": (wire.Named, _forget),
}
_IN_WORKER: dict[str, tuple[type[Any], Callable[[str, Any, Files], Edited]]] = {
    "to_input": (wire.Named, _to_input),
    "piece_input": (wire.PieceInput, _piece_input),
    "unknown_to_input": (wire.UnknownToInput, _unknown_to_input),
}
"""Edits that need values, and so an evaluation."""

EDITS: dict[str, type[Any]] = {
    name: message for name, (message, _) in {**_RULES, **_IN_WORKER}.items()
}
"""The message that each edit takes."""


_TURNS = frozenset({"set", "take", "apply_preset"})


def turned(text: str, body: dict[str, Any], files: Files) -> dict[str, Any]:
    """The values of all inputs that are not those of the text, after an edit that only turns inputs; those
    of `body["present"]` were turned before it. Raises Failure for any other edit."""
    program = tasks.program_of(text, files)
    present = given_settings(program, dict(wire.read(wire.Turned, body).present))
    plain = {name: plain_setting(value) for name, value in present.items()}
    start = _taken(text, plain) if plain else text
    if body.get("edit") not in _TURNS:
        raise Failure("this study can be looked at, and its inputs turned; it cannot be changed")
    after, _ = edited(start, body, files)
    own, new = (_input_values(tasks.program_of(one, files)) for one in (text, after))
    if own.keys() != new.keys():
        raise Failure(
            "an input takes a value here, not a formula", "take a copy to change the sheet"
        )
    return {name: value for name, value in new.items() if value != own.get(name)}


def _input_values(program: Program) -> dict[str, Any]:
    found = evaluate_only(program, program.inputs)
    return {one.line.name or "": plain_setting(one.value) for one in found if one.has_value}
