"""A sheet becomes a checked program."""

from __future__ import annotations

from collections.abc import Iterator

from msgspec.structs import replace

from ovolo.meaning import checked_tree
from ovolo.meaning.attachments import Attached, Tables
from ovolo.meaning.graph import needed_names, ordered
from ovolo.meaning.hints import Hints
from ovolo.meaning.program import (
    Checked,
    Program,
    ProgramLine,
    Waits,
    problem_at,
)
from ovolo.meaning.scope import Scope
from ovolo.meaning.statements import LineChecker
from ovolo.problems import Failure, Note, nearest_name, unforeseen
from ovolo.quantities.kinds import (
    Kind,
)
from ovolo.quantities.show import DisplayUnits
from ovolo.quantities.table import Table
from ovolo.remembering import Remembered
from ovolo.sheet import tree
from ovolo.sheet.reader import read_sheet
from ovolo.sheet.statements.registry import StatementType, type_of


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
    key = text, _SameTables(tables or {})
    known = _PROGRAMS.get(key)
    if known is None:
        known = check_sheet(read_sheet(text), tables)
        _PROGRAMS.put(key, known)
    return known


_OF_A_LINE = 4_000
"""Bytes that a line of a program, and one that is checked, holds each; measured with tracemalloc."""

_TOLD = 1_100
"""The same of what is told of a line of a program to a screen."""

_PROGRAMS = Remembered[Program](
    lambda program: (_OF_A_LINE + _TOLD) * (1 + len(program.lines)) + len(program.sheet.text)
)


def check_sheet(sheet: tree.Sheet, tables: Tables | None = None) -> Program:
    """Checks every line for itself; a line with a problem only holds up those that need it."""
    hints = Hints(sheet.statements)
    lines = [ProgramLine(s, s.name, hints) for s in sheet.statements if _runs(s.content)]
    program = Program(sheet, "", DisplayUnits(), lines, [], [])
    _settle(program)
    _Checking(program, tables or {}).run()
    return program


def _runs(content: tree.Content) -> bool:
    """Whether a line is one of the program; one that cannot be read keeps its place in it."""
    known = type_of(content)
    return isinstance(content, tree.Unreadable) if known is None else known.runs


def _settle(program: Program) -> None:
    """What lines settle for all of the sheet."""
    for statement in program.sheet.statements:
        known = type_of(statement.content)
        if known is not None and known.settle is not None:
            for failure in known.settle(statement.content, program):
                program.problems.append(problem_at(statement, failure))


_CHECKED = Remembered[Checked](lambda checked: _OF_A_LINE)


class _Checking:
    """One pass over the lines of a program, in dependency order."""

    def __init__(self, program: Program, tables: Tables) -> None:
        self.program = program
        self.tables = tables
        self.names: dict[str, int] = {}
        self.scopes: dict[str, Scope] = {}
        self.uses: dict[object, checked_tree.Typed] = {}
        self.budget = Scope(lambda name: None, list, "").budget

    def run(self) -> None:
        lines = self.program.lines
        self._settle_names()
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
            problem = problem_at(line.statement, Failure(message, hint))
            # One circle is one problem: the others in it wait for its first line.
            line.problem = replace(problem, waiting=at > 0)

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
            for name in reversed(failure.through):
                at = self.program.lines[self.names[name]].statement.line
                failure.message = f"in `{name}` (line {at}): {failure.message}"
            line.problem = problem_at(line.statement, failure)
            return
        except RecursionError:
            too_deep = Failure("this is nested too deeply", "name a piece of it")
            line.problem = problem_at(line.statement, too_deep)
            return
        except Exception as error:  # the net: it costs this line alone
            line.problem = problem_at(line.statement, unforeseen(error, "the checker"))
            return
        line.checked = checked
        line.kind = checked.kind
        line.remarks += tuple(
            Note(*line.statement.place(span[0]), message) for message, span in checked.remarks
        )

    def _checked(self, line: ProgramLine) -> Checked:
        """The line checked; remembered by its text and the kinds of what it needs, for those
        are all that it depends on."""
        content, known_type = line.content, type_of(line.content)
        assert known_type is not None and known_type.kind is not None
        if known_type.reaches_out:
            scope = Scope(self._kind_of, lambda: list(self.names), line.statement.text)
            return self._by_its_rule(known_type, line, scope)
        overruled: frozenset[str] = frozenset()
        if isinstance(content, tree.Preset):
            overruled = self._overruled(content)
            line.remarks += tuple(self._said_of_overruled(line, content, overruled))
        kinds = tuple((need, self._kind_of(need)) for need in line.needs if need not in overruled)
        key = (line.statement.text, kinds, overruled, self._tables_of(line))
        known = _CHECKED.get(key)
        if known is None:
            scope = Scope(
                self._kind_of, lambda: list(self.names), line.statement.text,
                budget=self.budget, uses=self.uses, overruled=overruled,
                tables=self._table_of,
            )  # fmt: skip
            known = self._by_its_rule(known_type, line, scope)
            _CHECKED.put(key, known)
        return known

    def _by_its_rule(self, known: StatementType, line: ProgramLine, scope: Scope) -> Checked:
        assert known.kind is not None
        checker = LineChecker(scope, line.statement.line, self.tables, checked_program)
        checked: Checked = known.kind(line.content, checker)
        checked.remarks = tuple(scope.remarks)
        return checked

    def _table_of(self, name: str) -> Table | None:
        """The attached table that a line is, by its name."""
        checked = self._line_of(name).checked if name in self.names else None
        value = checked.value if checked is not None else None
        held = value.value if isinstance(value, checked_tree.Constant) else None
        return held if isinstance(held, Table) else None

    def _tables_of(self, line: ProgramLine) -> tuple[str, ...]:
        """The digests of the tables that an input may choose from."""
        if not isinstance(line.content, tree.Input):
            return ()
        found = [self._table_of(need) for need in line.needs]
        return tuple(table.digest for table in found if table is not None)

    def _overruled(self, preset: tree.Preset) -> frozenset[str]:
        """The names in a preset that are formulas by now, which hold in every preset. Raises Failure
        for a name that no input and no formula has."""
        inputs = [name for name, at in self.names.items() if _is_input(self.program.lines[at])]
        overruled = set()
        for setting in preset.settings:
            if setting.name in inputs:
                continue
            span = (setting.span[0], setting.span[0] + len(setting.name))
            if setting.name in self.names and _is_formula(self._line_of(setting.name)):
                overruled.add(setting.name)
                continue
            near = nearest_name(setting.name, inputs)
            hint = f"did you mean `{near}`?" if near else f"inputs: {', '.join(inputs) or 'none'}"
            raise Failure(f"there is no input `{setting.name}`", hint, span)
        return frozenset(overruled)

    def _said_of_overruled(
        self, line: ProgramLine, preset: tree.Preset, overruled: frozenset[str]
    ) -> Iterator[Note]:
        for setting in preset.settings:
            if setting.name in overruled:
                at = self._line_of(setting.name).statement.line
                message = (
                    f"`{setting.name}` is a formula (line {at}), which holds in every preset; "
                    "this value is passed over"
                )
                yield Note(*line.statement.place(setting.span[0]), message, setting.name)

    def _line_of(self, name: str) -> ProgramLine:
        return self.program.lines[self.names[name]]


def _is_formula(line: ProgramLine) -> bool:
    return isinstance(line.content, tree.Formula) and line.content.parameters is None


def _is_input(line: ProgramLine) -> bool:
    return isinstance(line.content, tree.Input)
