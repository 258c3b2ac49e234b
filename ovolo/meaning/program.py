"""A sheet as a checked program: each line with its kind, what it needs, and its problem."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from functools import cached_property
from typing import Any

import numpy as np
from msgspec import Struct, field

from ovolo.geometry.tolerance import CHORD_TOLERANCE
from ovolo.meaning import checked_tree
from ovolo.meaning.hints import Hints
from ovolo.problems import Failure, Note, Problem, Span, UnknownName
from ovolo.quantities.kinds import GEOMETRY, Kind, ListOf, PointKind, Quantity, innermost
from ovolo.quantities.show import DisplayUnits
from ovolo.sheet import tree


class Waits(Failure):
    """A line is fine itself but needs one that is not."""

    def __init__(self, name: str, line: int) -> None:
        super().__init__(f"waits for `{name}` (line {line})")


class Checked(Struct, eq=False):
    """What checking made of a line, wherever it stands.

    `value` is what its name stands for (None for a function, which is checked at each use);
    `terms` are the other expressions of the line by their role (low, high, step, condition,
    start, end, offset; each side of a check).
    """

    kind: Kind
    value: checked_tree.Typed | None = None
    terms: dict[str, checked_tree.Typed] = field(default_factory=dict)
    choices: tuple[checked_tree.Typed, ...] = ()
    remarks: tuple[tuple[str, Span], ...] = ()
    compiled: dict[str, Callable[..., object]] = field(default_factory=dict)
    """What running made of the expressions."""


class ProgramLine(Struct, eq=False):
    """A statement that is run: what it needs, what checking made of it, or its problem."""

    statement: tree.Statement
    name: str | None
    hints: Hints
    needs: tuple[str, ...] = ()
    kind: Kind | None = None
    checked: Checked | None = None
    problem: Problem | None = None
    remarks: tuple[Note, ...] = ()
    """What checking remarks on it."""

    fixed_key: str = ""
    remembered: Any = None
    """What running made of the line, kept here so that it is dropped with the program."""

    told: Any = None
    """What was told to a screen of what is remembered."""

    @property
    def notes(self) -> tuple[Note, ...]:
        """The quiet remarks on it before it is run."""
        return (*self.hints.on(self.statement), *self.remarks)

    @property
    def content(self) -> tree.Content:
        return self.statement.content

    @property
    def trees(self) -> list[checked_tree.Typed]:
        """What is worked out in it: its value and its terms."""
        found = () if self.checked is None else (self.checked.value, *self.checked.terms.values())
        return [one for one in found if one is not None]


class Program(Struct, eq=False, dict=True):
    """A sheet checked: `lines` in the order of the text, `order` in the order of running."""

    sheet: tree.Sheet
    title: str
    units: DisplayUnits
    lines: list[ProgramLine]
    order: list[ProgramLine]
    problems: list[Problem]
    tolerance: float = CHORD_TOLERANCE
    """By how many mm chords may miss what is round."""

    _downstream: dict[frozenset[str], list[ProgramLine]] = field(default_factory=dict)

    @cached_property
    def by_name(self) -> dict[str, ProgramLine]:
        found: dict[str, ProgramLine] = {}
        for line in self.lines:
            if line.name is not None:
                found.setdefault(line.name, line)
        return found

    @cached_property
    def seeds(self) -> frozenset[str]:
        """The names of the inputs that words of chance are given as their seed."""
        found: set[str] = set()
        for line in self.lines:
            for one in line.trees:
                found |= _seeds_in(one)
        return frozenset(found & {line.name for line in self.inputs if line.name})

    @cached_property
    def of_geometry(self) -> frozenset[int]:
        """The lines, by their numbers, that make or measure geometry, or need one that does."""
        found: set[int] = set()
        for line in self.order:
            needed = (self.by_name[name].statement.line for name in line.needs)
            if any(one in found for one in needed) or _deals_in_geometry(line):
                found.add(line.statement.line)
        return frozenset(found)

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

    def upstream(self, lines: Iterable[ProgramLine]) -> list[ProgramLine]:
        """These lines and all that they need, in the order of running."""
        needed = {id(line) for line in lines}
        for line in reversed(self.order):
            if id(line) in needed:
                needed |= {id(self.by_name[name]) for name in line.needs}
        return [line for line in self.order if id(line) in needed]

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


def _deals_in_geometry(line: ProgramLine) -> bool:
    """Whether anything within its formulas, and within the functions that they call, is geometry."""
    return any(
        innermost(one.kind) in GEOMETRY or isinstance(one, checked_tree.StudyCall)
        for whole in line.trees
        for one in checked_tree.with_bodies(whole)
    )


def _seeds_in(node: checked_tree.Typed) -> set[str]:
    """The names of lines from which the seeds of a formula are made."""
    found: set[str] = set()
    for one in checked_tree.with_bodies(node):
        if isinstance(one, checked_tree.WordCall) and one.word.seeded:
            seed = dict(one.named).get("seed")
            inner = checked_tree.descendants(seed) if seed is not None else ()
            found |= {part.name for part in inner if isinstance(part, checked_tree.Line)}
    return found


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


def point_width(kind: Kind | None) -> int:
    """How many figures stand in the text for each point of an input: two of a flat one, else three; 0
    where it has no points."""
    point = kind.item if isinstance(kind, ListOf) else kind
    return 0 if not isinstance(point, PointKind) else 2 if point.flat else 3


def figures_in(value: Any, kind: Kind | None) -> list[float]:
    """The figures of a run-time value in the order in which they stand in the text."""
    figures = np.asarray(value, dtype=float)
    width = point_width(kind)
    return [float(one) for one in np.ravel(figures[..., :width] if width else figures)]


def value_of(figures: Sequence[float], kind: Kind | None) -> Any:
    """The run-time value that has these figures. Raises ValueError where their number is wrong."""
    width = point_width(kind)
    if isinstance(kind, Quantity):
        return float(figures[0])
    if not width:
        return np.array(figures, dtype=float)
    points = np.zeros((len(figures) // width, 3))
    points[:, :width] = np.reshape(np.asarray(figures, dtype=float), (-1, width))
    return points if isinstance(kind, ListOf) else points[0]


def choices_of(line: ProgramLine) -> list[Any]:
    """The values an input offers to choose from, if it does."""
    choices = line.checked.choices if line.checked is not None else ()
    return [choice.value for choice in choices if isinstance(choice, checked_tree.Constant)]
