"""What checking makes of a statement, by its type."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from ovolo.geometry.cast import Cast
from ovolo.geometry.underlay import Underlay
from ovolo.meaning import typed
from ovolo.meaning.attached import Attached, OtherStudy, Tables, study_key
from ovolo.meaning.checker import check, check_as
from ovolo.meaning.colours import tint
from ovolo.meaning.graph import needed_names
from ovolo.meaning.operators import ROUNDED_EDGE
from ovolo.meaning.program import (
    Checked,
    Program,
    figure_kind,
)
from ovolo.meaning.scope import Definition, Scope, function_kind, unknown_name
from ovolo.meaning.used import study_function
from ovolo.problems import Failure, nearest_name
from ovolo.quantities.dimension import NUMBER
from ovolo.quantities.kinds import (
    ANGLE_KIND,
    DENSITY_KIND,
    EDGE,
    GEOMETRY,
    LENGTH_KIND,
    NUMBER_KIND,
    POINT,
    PRESET,
    REGION,
    SOLID,
    TEXT,
    YES_NO,
    Kind,
    ListOf,
    PointKind,
    Quantity,
    same_kind,
)
from ovolo.sheet import tree
from ovolo.sheet.names import references
from ovolo.words.all import WORDS


def checked_file(content: tree.File, tables: Tables, scope: Scope) -> Checked:
    """A table, a plot, a picture or a solid: its kind is that of its columns, its layers, its
    place, or solid."""
    table = tables.get(content.file_name)
    if table is None:
        near = nearest_name(content.file_name, list(tables))
        hint = f"did you mean {near}?" if near else "attach it to the study"
        raise Failure(f"there is no file {content.file_name}", hint)
    if isinstance(table, Failure):
        raise Failure(table.message, table.hint)
    assert not isinstance(table, OtherStudy)
    held = table.solid if isinstance(table, Cast) else table
    value = typed.Constant(table.kind, content.name_span, held)
    return Checked(table.kind, value, _calibration_terms(content, table, scope))


def checked_use(
    content: tree.Use, tables: Tables, program_of: Callable[[str, Tables], Program]
) -> Checked:
    """Another study as a function of the inputs that it offers."""
    other = tables.get(study_key(content.study))
    if isinstance(other, Failure):
        raise Failure(other.message, other.hint)
    if not isinstance(other, OtherStudy):
        raise Failure(
            f"there is no study “{content.study}” beside this one",
            'write the title that stands in its line `study "…"`',
        )
    program = program_of(other.text, other.reached)
    kind = study_function(content.study, other.digest, program)
    return Checked(kind, typed.Constant(kind, content.name_span, program))


def _calibration_terms(content: tree.File, file: Attached, scope: Scope) -> dict[str, typed.Typed]:
    """What is said of how a picture lies, by the names of `calibrated`."""
    said = content.calibration
    if said is None:
        return {}
    if not isinstance(file, Underlay):
        raise Failure("only a picture is laid out", "leave out what follows the file", said.span)
    pixels = PointKind(dimension=NUMBER)
    terms = {}
    for role, wanted, node in (
        ("start", pixels, said.start),
        ("end", pixels, said.end),
        ("distance", LENGTH_KIND, said.distance),
        ("place", POINT, said.place),
        ("turn", ANGLE_KIND, said.turn),
        ("strength", NUMBER_KIND, said.strength),
    ):
        if node is not None:
            terms[role] = check_as(node, scope, wanted, f"the {role} of a picture")
    return terms


def _check_input(content: tree.Input, scope: Scope, at: int) -> Checked:
    value = _literal(content.value, scope)
    terms = {}
    for role, node in (("low", content.low), ("high", content.high), ("step", content.step)):
        if node is None:
            continue
        figure = figure_kind(value.kind)
        if figure is None:
            raise Failure(
                "only numbers, quantities, points and lists of quantities have limits and a step; "
                f"this input is {value.kind.said}",
                "",
                node.span,
            )
        what = {"low": "the lower limit", "high": "the upper limit", "step": "the step"}[role]
        terms[role] = check_as(node, scope, figure, f"{what} of `{content.name}`")
    choices = _choices(content, scope)
    for choice, node in choices:
        if same_kind(choice.kind, value.kind) is None:
            raise Failure(
                f"every choice must be {value.kind.said}; this is {choice.kind.said}", "", node.span
            )
    return Checked(value.kind, value, terms, tuple(choice for choice, _ in choices))


def _choices(content: tree.Input, scope: Scope) -> list[tuple[typed.Typed, tree.Node]]:
    """What an input offers to choose from, each with its place: values written out, or the cells of
    a column of an attached table."""
    found: list[tuple[typed.Typed, tree.Node]] = []
    for node in content.choices:
        owner = node.owner if isinstance(node, tree.Member) else None
        table = scope.tables(owner.name) if isinstance(owner, tree.Name) else None
        if table is None:
            found.append((_literal(node, scope), node))
            continue
        column = check(node, scope)
        assert isinstance(node, tree.Member) and isinstance(column.kind, ListOf)
        kind = column.kind.item or NUMBER_KIND
        cells = dict.fromkeys(
            cell if isinstance(cell, str) else cell.item() for cell in table[node.name]
        )
        found += [(typed.Constant(kind, node.span, cell), node) for cell in cells]
    return found


def _literal(node: tree.Node, scope: Scope) -> typed.Typed:
    """A value written out in figures, as an input must be."""
    checked = check(node, scope)
    if not _is_literal(checked):
        raise Failure(
            "an input's value is written out: a number, a quantity, a text, yes or no, a point or a list",
            "for a formula, leave out the word `input`",
            node.span,
        )
    return checked


def _is_literal(value: typed.Typed) -> bool:
    match value:
        case typed.Constant():
            return True
        case typed.Items(items=items) | typed.PointOf(coordinates=items):
            return all(_is_literal(item) for item in items)
    return False


def _check_formula(content: tree.Formula, scope: Scope, at: int) -> Checked:
    if content.parameters is None:
        value = check(content.value, scope)
        if value.kind == EDGE:
            scope.remarks.append((ROUNDED_EDGE, content.value.span))
        return Checked(value.kind, value)
    _check_names(content, scope)
    source = typed.Source(content.name, at)
    definition = Definition(content.value, content.parameters, scope, source, content.name)
    return Checked(function_kind(definition))


def _check_names(content: tree.Formula, scope: Scope) -> None:
    """A function is checked at each use; names that nothing bears are told at once."""
    parameters = [parameter.name for parameter in content.parameters or ()]
    for parameter in content.parameters or ():
        for name, span in references(parameter.default) if parameter.default is not None else ():
            if name in parameters:
                raise Failure(
                    f"the default of `{parameter.name}` uses the parameter `{name}`",
                    f"a default knows only lines; leave it out and give `{parameter.name}` in each call",
                    span,
                )
    for name in sorted(needed_names(content)):
        if name not in WORDS and scope.lines(name) is None:
            failure = unknown_name(
                name, scope.within(dict.fromkeys(parameters, YES_NO)), list(WORDS)
            )
            raise failure.at(dict(reversed(references(content))).get(name, content.name_span))


def _check_part(content: tree.Part, scope: Scope, at: int) -> Checked:
    tint(content.colour)
    value = check(content.value, scope)
    kind: Kind | None = value.kind
    while isinstance(kind, ListOf):
        kind = kind.item
    if kind is not None and kind not in GEOMETRY:
        raise Failure(
            f"a part is a curve, a region, a solid or a list of them; this is {value.kind.said}",
            f"for a value write `{content.name} = …` without the word part",
            content.value.span,
        )
    terms = {}
    if content.condition is not None:
        terms["condition"] = check_as(content.condition, scope, YES_NO, "what follows `when`")
    if content.hatch:
        if kind not in (REGION, SOLID, None):
            said = "only regions, and the cuts of solids, are hatched"
            raise Failure(said, "leave out `hatch`", content.hatch[0].span)
        wanted = (("hatch angle", ANGLE_KIND), ("hatch spacing", LENGTH_KIND))
        for (role, figure), node in zip(wanted, content.hatch, strict=True):
            terms[role] = check_as(node, scope, figure, f"the {role}")
    if content.by is not None:
        terms["tint"] = _check_tint(content, content.by, scope)
    if content.material is not None:
        if kind not in (SOLID, None):
            raise Failure(
                "only solids have a material", "leave out `material`", content.material.span
            )
        terms["density"] = check_as(content.material, scope, DENSITY_KIND, "a material")
    return Checked(value.kind, value, terms)


def _check_tint(content: tree.Part, by: tree.Node, scope: Scope) -> typed.Typed:
    """What the items of a part are coloured by."""
    for end in content.between:
        tint(end)
    values = check(by, scope)
    item = values.kind.item if isinstance(values.kind, ListOf) else None
    if not isinstance(values.kind, ListOf) or not (
        item is None or isinstance(item, Quantity) or item in (TEXT, YES_NO)
    ):
        raise Failure(
            "what a part is coloured by is a list of numbers, quantities, texts or yes/no, one for "
            f"each item; this is {values.kind.said}",
            "for example colour by [i for i in 0 .. n - 1]",
            by.span,
        )
    return values


def _check_check(content: tree.Check, scope: Scope, at: int) -> Checked:
    value = check_as(content.condition, scope, YES_NO, "what a check states")
    sides = value.operands if isinstance(value, typed.Compared) else ()
    terms = {f"side {n}": side for n, side in enumerate(sides)}
    if content.said is not None:
        terms["message"] = check(content.said, scope)
    return Checked(YES_NO, value, terms)


def _check_dim(content: tree.Dim, scope: Scope, at: int) -> Checked:
    kind = ANGLE_KIND if content.form == "angle" else LENGTH_KIND
    value = check_as(content.quantity, scope, kind, "what a dim states")
    terms = {}
    for role, node in (("start", content.start), ("end", content.end), ("apex", content.apex)):
        if node is None:
            continue
        checked = check(node, scope)
        if not isinstance(checked.kind, PointKind) or checked.kind.dimension != POINT.dimension:
            raise Failure(
                f"a dim runs from a point to a point; this is {checked.kind.said}",
                "for example from (0 mm, 0 mm) to (span, 0 mm)",
                node.span,
            )
        terms[role] = checked
    if content.offset is not None:
        terms["offset"] = check_as(content.offset, scope, LENGTH_KIND, "the offset of a dim")
    return Checked(kind, value, terms)


def _check_preset(content: tree.Preset, scope: Scope, at: int) -> Checked:
    terms = {}
    for setting in content.settings:
        if setting.name in terms:
            raise Failure(f"`{setting.name}` is given twice", "", setting.span)
        if setting.name in scope.overruled:
            continue
        wanted = scope.lines(setting.name)
        assert wanted is not None
        check_as(setting.value, scope, wanted, f"`{setting.name}`")
        terms[setting.name] = _literal(setting.value, scope)
    return Checked(PRESET, None, terms)


RULES: dict[type[tree.Content], Callable[[Any, Scope, int], Checked]] = {
    tree.Input: _check_input,
    tree.Formula: _check_formula,
    tree.Part: _check_part,
    tree.Check: _check_check,
    tree.Dim: _check_dim,
    tree.Preset: _check_preset,
}
