"""What a statement asks of the checker: its expressions, and what it names beside the sheet."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence

from ovolo.geometry.attached_drawing import AttachedDrawing
from ovolo.geometry.solids.attached_solid import AttachedSolid
from ovolo.geometry.underlay import Underlay
from ovolo.meaning import checked_tree
from ovolo.meaning.attachments import Attached, OtherStudy, Tables, study_key
from ovolo.meaning.checker import check, check_as
from ovolo.meaning.operator_kinds import ROUNDED_EDGE
from ovolo.meaning.program import Checked, Program
from ovolo.meaning.scope import Definition, Scope, function_kind, unknown_name
from ovolo.meaning.study_kinds import study_function
from ovolo.problems import Failure, Span, nearest_name
from ovolo.quantities.dimension import NUMBER
from ovolo.quantities.kinds import (
    ANGLE_KIND,
    EDGE,
    LENGTH_KIND,
    NUMBER_KIND,
    POINT,
    YES_NO,
    Kind,
    ListOf,
    PointKind,
)
from ovolo.sheet import tree
from ovolo.sheet.names import references
from ovolo.words.all import WORDS


class LineChecker:
    """The checker for one line (the `Checker` of sheet/statements/registry.py)."""

    def __init__(
        self, scope: Scope, line: int, tables: Tables, program_of: Callable[[str, Tables], Program]
    ) -> None:
        self.scope, self.line = scope, line
        self.tables, self.program_of = tables, program_of
        self.overruled = scope.overruled

    def check(self, node: tree.Node) -> checked_tree.Typed:
        return check(node, self.scope)

    def check_as(self, node: tree.Node, wanted: Kind, what: str) -> checked_tree.Typed:
        return check_as(node, self.scope, wanted, what)

    def line_kind(self, name: str) -> Kind | None:
        return self.scope.lines(name)

    def done(
        self,
        kind: Kind,
        value: checked_tree.Typed | None = None,
        terms: Mapping[str, checked_tree.Typed] | None = None,
        choices: tuple[checked_tree.Typed, ...] = (),
    ) -> Checked:
        return Checked(kind, value, dict(terms or {}), choices)

    def sides(self, value: checked_tree.Typed) -> Sequence[checked_tree.Typed]:
        return value.operands if isinstance(value, checked_tree.Compared) else ()

    def remark_edges(self, kind: Kind, span: Span) -> None:
        if kind == EDGE:
            self.scope.remarks.append((ROUNDED_EDGE, span))

    # --- inputs ---

    def literal(self, node: tree.Node) -> checked_tree.Typed:
        checked = self.check(node)
        if not _is_literal(checked):
            raise Failure(
                "an input's value is written out: a number, a quantity, a text, yes or no, a point or a list",
                "for a formula, leave out the word `input`",
                node.span,
            )
        return checked

    def choices(self, nodes: Sequence[tree.Node]) -> list[tuple[checked_tree.Typed, tree.Node]]:
        """Values written out, or the cells of a column of an attached table."""
        found: list[tuple[checked_tree.Typed, tree.Node]] = []
        for node in nodes:
            owner = node.owner if isinstance(node, tree.Member) else None
            table = self.scope.tables(owner.name) if isinstance(owner, tree.Name) else None
            if table is None:
                found.append((self.literal(node), node))
                continue
            column = self.check(node)
            assert isinstance(node, tree.Member) and isinstance(column.kind, ListOf)
            kind = column.kind.item or NUMBER_KIND
            cells = dict.fromkeys(
                cell if isinstance(cell, str) else cell.item() for cell in table[node.name]
            )
            found += [(checked_tree.Constant(kind, node.span, cell), node) for cell in cells]
        return found

    # --- functions ---

    def function(self, content: tree.Formula) -> Checked:
        """It is checked at each use; names that nothing bears are told at once."""
        assert content.parameters is not None
        parameters = [parameter.name for parameter in content.parameters]
        _refuse_parameters_in_defaults(content.parameters, parameters)
        for name in sorted({name for name, _ in references(content)}):
            if name not in WORDS and self.scope.lines(name) is None:
                inner = self.scope.within(dict.fromkeys(parameters, YES_NO))
                failure = unknown_name(name, inner, list(WORDS))
                raise failure.at(dict(reversed(references(content))).get(name, content.name_span))
        source = checked_tree.Source(content.name, self.line)
        definition = Definition(content.value, content.parameters, self.scope, source, content.name)
        return Checked(function_kind(definition))

    # --- what lies beside the sheet ---

    def file(self, content: tree.File) -> Checked:
        """A table, a plot, a picture or a solid: its kind is that of its columns, its layers, its
        place, or solid."""
        table = self.tables.get(content.file_name)
        if table is None:
            near = nearest_name(content.file_name, list(self.tables))
            hint = f"did you mean {near}?" if near else "attach it to the study"
            raise Failure(f"there is no file {content.file_name}", hint)
        if isinstance(table, Failure):
            raise Failure(table.message, table.hint)
        assert not isinstance(table, OtherStudy)
        if isinstance(table, AttachedDrawing) and table.unit:
            said = f"{table.name} says no unit: it is read in {table.unit}"
            self.scope.remarks.append((said, content.name_span))
        held = table.solid if isinstance(table, AttachedSolid) else table
        value = checked_tree.Constant(table.kind, content.name_span, held)
        return Checked(table.kind, value, self._calibration(content.calibration, table))

    def _calibration(
        self, said: tree.Calibration | None, file: Attached
    ) -> dict[str, checked_tree.Typed]:
        """What is said of how a picture lies, by the names of `Underlay.calibrated`."""
        if said is None:
            return {}
        if not isinstance(file, Underlay):
            raise Failure(
                "only a picture is laid out", "leave out what follows the file", said.span
            )
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
                terms[role] = self.check_as(node, wanted, f"the {role} of a picture")
        return terms

    def use(self, content: tree.Use) -> Checked:
        """Another study as a function of the inputs that it offers."""
        other = self.tables.get(study_key(content.study))
        if isinstance(other, Failure):
            raise Failure(other.message, other.hint)
        if not isinstance(other, OtherStudy):
            raise Failure(
                f"there is no study “{content.study}” beside this one",
                'write the title that stands in its line `study "…"`',
            )
        program = self.program_of(other.text, other.reached)
        kind = study_function(content.study, other.digest, program)
        return Checked(kind, checked_tree.Constant(kind, content.name_span, program))


def _is_literal(value: checked_tree.Typed) -> bool:
    match value:
        case checked_tree.Constant():
            return True
        case checked_tree.Items(items=items) | checked_tree.PointOf(coordinates=items):
            return all(_is_literal(item) for item in items)
    return False


def _refuse_parameters_in_defaults(
    parameters: Sequence[tree.Parameter], names: Sequence[str]
) -> None:
    for parameter in parameters:
        for name, span in references(parameter.default) if parameter.default is not None else ():
            if name in names:
                raise Failure(
                    f"the default of `{parameter.name}` uses the parameter `{name}`",
                    f"a default knows only lines; leave it out and give `{parameter.name}` in each call",
                    span,
                )
