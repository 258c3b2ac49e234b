"""A sheet becomes a checked program: each line with its kind, what it needs, and its problem."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from functools import cached_property, lru_cache
from typing import Any

from ovolo.geometry.cast import Cast
from ovolo.geometry.plot import Plot
from ovolo.geometry.tolerance import CHORD_TOLERANCE, LEAST_TOLERANCE, MOST_TOLERANCE
from ovolo.geometry.underlay import Underlay
from ovolo.meaning import typed
from ovolo.meaning.checker import check, check_as
from ovolo.meaning.colours import tint
from ovolo.meaning.graph import needed_names, ordered
from ovolo.meaning.hints import hints
from ovolo.meaning.scope import Definition, Scope, function_kind, unknown_name
from ovolo.meaning.used import OtherStudy, study_function, study_key
from ovolo.problems import Failure, Note, Problem, Span, UnknownName, nearest_name
from ovolo.quantities.dimension import LENGTH, NUMBER
from ovolo.quantities.kinds import (
    ANGLE_KIND,
    DENSITY_KIND,
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
from ovolo.quantities.show import DisplayUnits
from ovolo.quantities.table import Table
from ovolo.sheet import tree
from ovolo.sheet.names import references
from ovolo.sheet.reader import read_sheet
from ovolo.words.all import WORDS


class Waits(Failure):
    """A line is fine itself but needs one that is not."""

    def __init__(self, name: str, line: int) -> None:
        super().__init__(f"waits for `{name}` (line {line})")


@dataclass(eq=False)
class Checked:
    """What checking made of a line, wherever it stands.

    `value` is what its name stands for (None for a function, which is checked at each use);
    `terms` are the other expressions of the line by their role (low, high, step, condition,
    start, end, offset; each side of a check).
    """

    kind: Kind
    value: typed.Typed | None = None
    terms: dict[str, typed.Typed] = field(default_factory=dict)
    choices: tuple[typed.Typed, ...] = ()
    remarks: tuple[tuple[str, Span], ...] = ()
    compiled: dict[str, Callable[..., object]] = field(default_factory=dict, repr=False)
    """What running made of the expressions."""


@dataclass(eq=False)
class ProgramLine:
    """A statement that is run: what it needs, what checking made of it, or its problem."""

    statement: tree.Statement
    name: str | None = field(init=False)
    needs: tuple[str, ...] = ()
    kind: Kind | None = None
    checked: Checked | None = None
    problem: Problem | None = None
    remarks: tuple[Note, ...] = ()
    fixed_key: str = field(default="", repr=False)
    remembered: Any = field(default=None, repr=False)
    """What running made of the line, kept here so that it is dropped with the program."""

    def __post_init__(self) -> None:
        self.name = self.statement.name

    @property
    def content(self) -> tree.Content:
        return self.statement.content


@dataclass(eq=False)
class Program:
    """A sheet checked: `lines` in the order of the text, `order` in the order of running."""

    sheet: tree.Sheet
    title: str
    units: DisplayUnits
    lines: list[ProgramLine]
    order: list[ProgramLine]
    problems: list[Problem]
    tolerance: float = CHORD_TOLERANCE
    """By how many mm chords may miss what is round."""

    _downstream: dict[frozenset[str], list[ProgramLine]] = field(default_factory=dict, repr=False)

    @cached_property
    def by_name(self) -> dict[str, ProgramLine]:
        found: dict[str, ProgramLine] = {}
        for line in self.lines:
            if line.name is not None:
                found.setdefault(line.name, line)
        return found

    def downstream(self, names: frozenset[str]) -> list[ProgramLine]:
        """The lines of these names and all that need them, in the order of running."""
        known = self._downstream.get(names)
        if known is None:
            reached = set(names)
            known = []
            for line in self.order:
                if line.name in names or not reached.isdisjoint(line.needs):
                    known.append(line)
                    if line.name:
                        reached.add(line.name)
            self._downstream[names] = known
        return known

    @property
    def inputs(self) -> list[ProgramLine]:
        return [line for line in self.lines if isinstance(line.content, tree.Input)]

    @property
    def offered(self) -> list[ProgramLine]:
        """The inputs that others may turn."""
        return [
            line
            for line in self.inputs
            if isinstance(line.content, tree.Input) and not line.content.internal
        ]


Attached = Table | Plot | Underlay | Cast | OtherStudy

Tables = Mapping[str, Attached | Failure]
"""What a sheet names, by its name: an attached file as a table, a plot, a picture or a solid, another
study (by its `study_key`), or what stands against reading it."""


class _SameTables:
    """Tables as a key: equal where the files are."""

    def __init__(self, tables: Tables) -> None:
        self.tables = tables
        self.key = tuple(
            (name, table.digest if isinstance(table, Attached) else str(table))
            for name, table in sorted(tables.items())
        )

    def __hash__(self) -> int:
        return hash(self.key)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _SameTables) and self.key == other.key


def checked_program(text: str, tables: Tables | None = None) -> Program:
    """The program of a sheet, remembered by its text and its files."""
    return _checked_program(text, _SameTables(tables or {}))


@lru_cache(maxsize=200)
def _checked_program(text: str, tables: _SameTables) -> Program:
    return check_sheet(read_sheet(text), tables.tables)


_RUN = (
    tree.Input,
    tree.Formula,
    tree.Part,
    tree.Check,
    tree.Dim,
    tree.Preset,
    tree.File,
    tree.Use,
    tree.Unreadable,
)


def check_sheet(sheet: tree.Sheet, tables: Tables | None = None) -> Program:
    """Checks every line for itself; a line with a problem only holds up those that need it."""
    lines = [ProgramLine(s) for s in sheet.statements if isinstance(s.content, _RUN)]
    program = Program(sheet, "", DisplayUnits(), lines, [], [])
    _settings(program)
    _Checking(program, tables or {}).run()
    return program


def _settings(program: Program) -> None:
    """The study's title, units and tolerance."""
    for statement in program.sheet.statements:
        content = statement.content
        if isinstance(content, tree.Study):
            program.title = content.title
        elif isinstance(content, tree.Units):
            for symbol, span in content.symbols:
                try:
                    program.units = program.units.with_unit(symbol)
                except Failure as failure:
                    program.problems.append(problem_at(statement, failure.at(span)))
        elif isinstance(content, tree.Tolerance):
            try:
                program.tolerance = _tolerance(content.value)
            except Failure as failure:
                program.problems.append(problem_at(statement, failure.at(content.value.span)))


def _tolerance(node: tree.Node) -> float:
    """The tolerance in mm: a length that is written out, within reason."""
    if not isinstance(node, tree.Number) or node.dimension != LENGTH:
        raise Failure(
            "the tolerance is a length that is written out", "for example tolerance 0.5 mm"
        )
    if not LEAST_TOLERANCE <= node.value <= MOST_TOLERANCE:
        raise Failure(
            f"a tolerance of {node.value:g} mm is out of reach",
            f"from {LEAST_TOLERANCE:g} mm to {MOST_TOLERANCE:g} mm",
        )
    return node.value


def problem_at(statement: tree.Statement, failure: Failure, item: int | None = None) -> Problem:
    """A failure as a problem at its place in the sheet."""
    start, end = failure.span or (0, len(statement.text))
    line, column = statement.place(start)
    end_line, end_column = statement.place(max(end, start + 1))
    return Problem(
        line, column, statement.name, failure.message, failure.hint, item,
        end_column if end_line == line else None, isinstance(failure, Waits),
        failure.name if isinstance(failure, UnknownName) else "",
    )  # fmt: skip


class _Checking:
    """One pass over the lines of a program, in dependency order."""

    def __init__(self, program: Program, tables: Tables) -> None:
        self.program = program
        self.tables = tables
        self.names: dict[str, int] = {}
        self.scopes: dict[str, Scope] = {}
        self.uses: dict[object, typed.Typed] = {}
        self.budget = Scope(lambda name: None, list, "").budget

    def run(self) -> None:
        lines = self.program.lines
        self._settle_names()
        self._hint()
        needs = {
            at: [
                self.names[name]
                for name in sorted(needed_names(line.content))
                if name in self.names
            ]
            for at, line in enumerate(lines)
        }
        order, circles = ordered(needs)
        for circle in circles:
            self._report_circle([lines[at] for at in circle])
        for at in order:
            line = lines[at]
            line.needs = tuple(lines[need].name or "" for need in needs[at])
            self._check_line(line)
            self.program.order.append(line)
        self.program.problems.extend(line.problem for line in lines if line.problem)

    def _hint(self) -> None:
        lines = {id(line.statement): line for line in self.program.lines}
        for statement, note in hints(self.program.sheet.statements):
            lines[id(statement)].remarks += (note,)

    def _settle_names(self) -> None:
        for at, line in enumerate(self.program.lines):
            content = line.content
            if isinstance(content, tree.Unreadable):
                failure = Failure(content.message, content.hint, content.span)
                line.problem = problem_at(line.statement, failure)
            if line.name is None:
                continue
            first = self.names.setdefault(line.name, at)
            if first != at and line.problem is None:
                where = self.program.lines[first].statement.line
                span = content.name_span if isinstance(content, tree.Named) else None
                failure = Failure(
                    f"`{line.name}` is already the name of line {where}",
                    "give it another name",
                    span,
                )
                line.problem = problem_at(line.statement, failure)

    def _report_circle(self, circle: list[ProgramLine]) -> None:
        for at, line in enumerate(circle):
            chain = [*circle[at:], *circle[:at], line]
            said = " → ".join(f"{other.name} (line {other.statement.line})" for other in chain)
            message = f"this line needs itself: {said}"
            if (
                len(circle) == 1
                and isinstance(line.content, tree.Formula)
                and line.content.parameters is not None
            ):
                message = f"the function `{line.name}` uses itself"
            hint = "carry a value along with fold or scan" if "uses itself" in message else ""
            hint = hint or "one of these lines must not depend on the others"
            line.problem = problem_at(line.statement, Failure(message, hint))

    def _kind_of(self, name: str) -> Kind | None:
        at = self.names.get(name)
        if at is None:
            return None
        line = self.program.lines[at]
        if line.kind is None:
            raise Waits(name, line.statement.line)
        return line.kind

    def _check_line(self, line: ProgramLine) -> None:
        if line.problem is not None:
            return
        try:
            checked = self._checked(line)
        except Failure as failure:
            line.problem = problem_at(line.statement, failure)
            return
        except RecursionError:
            too_deep = Failure("this is nested too deeply", "name a piece of it")
            line.problem = problem_at(line.statement, too_deep)
            return
        line.checked = checked
        line.kind = checked.kind
        line.remarks += tuple(
            Note(*line.statement.place(span[0]), message) for message, span in checked.remarks
        )

    def _checked(self, line: ProgramLine) -> Checked:
        """The line checked; remembered by its text and the kinds of what it needs, for those
        are all that it depends on."""
        content = line.content
        if isinstance(content, tree.File):
            scope = Scope(self._kind_of, lambda: list(self.names), line.statement.text)
            return _checked_file(content, self.tables, scope)
        if isinstance(content, tree.Use):
            return _checked_use(content, self.tables)
        if isinstance(content, tree.Preset):
            self._refuse_what_is_no_input(content)
        key = (line.statement.text, tuple((need, self._kind_of(need)) for need in line.needs))
        known = _CHECKED.pop(key, None)
        if known is None:
            scope = Scope(
                self._kind_of, lambda: list(self.names), line.statement.text,
                budget=self.budget, uses=self.uses,
            )  # fmt: skip
            known = _RULES[type(content)](content, scope, line.statement.line)
            known.remarks = tuple(scope.remarks)
        _CHECKED[key] = known
        if len(_CHECKED) > _MOST_REMEMBERED:
            del _CHECKED[next(iter(_CHECKED))]
        return known

    def _refuse_what_is_no_input(self, preset: tree.Preset) -> None:
        inputs = [name for name, at in self.names.items() if _is_input(self.program.lines[at])]
        for setting in preset.settings:
            if setting.name in inputs:
                continue
            span = (setting.span[0], setting.span[0] + len(setting.name))
            if setting.name in self.names:
                at = self.program.lines[self.names[setting.name]].statement.line
                raise Failure(
                    f"`{setting.name}` is not an input but a formula (line {at}), "
                    "which applies in every preset",
                    f"take `{setting.name}` out of this preset",
                    span,
                )
            near = nearest_name(setting.name, inputs)
            hint = f"did you mean `{near}`?" if near else f"inputs: {', '.join(inputs) or 'none'}"
            raise Failure(f"there is no input `{setting.name}`", hint, span)


def _is_input(line: ProgramLine) -> bool:
    return isinstance(line.content, tree.Input)


def _checked_file(content: tree.File, tables: Tables, scope: Scope) -> Checked:
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


def _checked_use(content: tree.Use, tables: Tables) -> Checked:
    """Another study as a function of the inputs that it offers."""
    other = tables.get(study_key(content.study))
    if isinstance(other, Failure):
        raise Failure(other.message, other.hint)
    if not isinstance(other, OtherStudy):
        raise Failure(
            f"there is no study “{content.study}” beside this one",
            'write the title that stands in its line `study "…"`',
        )
    program = checked_program(other.text, other.reached)
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


_CHECKED: dict[object, Checked] = {}
_MOST_REMEMBERED = 20_000


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
    choices = tuple(_literal(node, scope) for node in content.choices)
    for choice, node in zip(choices, content.choices, strict=True):
        if same_kind(choice.kind, value.kind) is None:
            raise Failure(
                f"every choice must be {value.kind.said}; this is {choice.kind.said}", "", node.span
            )
    return Checked(value.kind, value, terms, choices)


def figure_kind(kind: Kind | None) -> Quantity | None:
    """The kind of each figure of an input: of a quantity itself, of the coordinates of a point, of
    the items of a list of quantities; None where it has no figures."""
    match kind:
        case Quantity():
            return kind
        case PointKind(dimension=dimension):
            return Quantity(dimension=dimension)
        case ListOf(item=Quantity() as item):
            return item
    return None


def figures_of(kind: Kind | None) -> int | None:
    """How many figures of the run-time value stand in the text: two of a flat point, else all."""
    return 2 if isinstance(kind, PointKind) and kind.flat else None


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
        return Checked(value.kind, value)
    _check_names(content, scope)
    source = typed.Source(content.name, at)
    definition = Definition(content.value, content.parameters, scope, source, content.name)
    return Checked(function_kind(definition))


def _check_names(content: tree.Formula, scope: Scope) -> None:
    """A function is checked at each use; names that nothing bears are told at once."""
    parameters = [parameter.name for parameter in content.parameters or ()]
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
        if kind not in (REGION, None):
            raise Failure("only regions are hatched", "leave out `hatch`", content.hatch[0].span)
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
    return Checked(YES_NO, value, {f"side {n}": side for n, side in enumerate(sides)})


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
        wanted = scope.lines(setting.name)
        assert wanted is not None
        check_as(setting.value, scope, wanted, f"`{setting.name}`")
        terms[setting.name] = _literal(setting.value, scope)
    return Checked(PRESET, None, terms)


_RULES: dict[type[tree.Content], Callable[[Any, Scope, int], Checked]] = {
    tree.Input: _check_input,
    tree.Formula: _check_formula,
    tree.Part: _check_part,
    tree.Check: _check_check,
    tree.Dim: _check_dim,
    tree.Preset: _check_preset,
}


def choices_of(line: ProgramLine) -> list[Any]:
    """The values an input offers to choose from, if it does."""
    choices = line.checked.choices if line.checked is not None else ()
    return [choice.value for choice in choices if isinstance(choice, typed.Constant)]
