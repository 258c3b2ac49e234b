"""What a statement is to the reader, the checker, the screen and whoever writes one, and which there
are: each is one module of this package with a `STATEMENT`.
"""

from __future__ import annotations

import pkgutil
from collections.abc import Callable, Iterator, Mapping, Sequence
from functools import cache
from importlib import import_module
from typing import Any, Protocol

from msgspec import Struct

from ovolo.problems import Span
from ovolo.quantities.kinds import Kind
from ovolo.quantities.show import DisplayUnits
from ovolo.sheet import tree
from ovolo.sheet.construct import Construct
from ovolo.sheet.formulas import DEEPEST, Reading, refuse_deep

Rule = Callable[[Reading], tree.Content]


class Settings(Protocol):
    """What holds for all of a sheet."""

    title: str
    units: DisplayUnits
    tolerance: float


class Checker(Protocol):
    """What settles the kinds of expressions. Everything it gives has a `kind`; all of it raises
    Failure where an expression has none, or another than is wanted."""

    overruled: frozenset[str]
    """The names that a preset sets in vain, for their lines are formulas."""

    def check(self, node: tree.Node) -> Any: ...

    def check_as(self, node: tree.Node, wanted: Kind, what: str) -> Any: ...

    def literal(self, node: tree.Node) -> Any:
        """A value that is written out in figures."""

    def choices(self, nodes: Sequence[tree.Node]) -> list[tuple[Any, tree.Node]]:
        """What an input offers to choose from, each with its place."""

    def sides(self, value: Any) -> Sequence[Any]:
        """What stands on the sides of a comparison; nothing for all else."""

    def line_kind(self, name: str) -> Kind | None: ...

    def remark_edges(self, kind: Kind, span: Span) -> None:
        """Hints where edges are named that a finish takes away."""

    def function(self, content: tree.Formula) -> Any: ...

    def file(self, content: tree.File) -> Any: ...

    def use(self, content: tree.Use) -> Any: ...

    def done(
        self,
        kind: Kind,
        value: Any = None,
        terms: Mapping[str, Any] | None = None,
        choices: tuple[Any, ...] = (),
    ) -> Any:
        """The line, checked: its value, and its other expressions by their role."""  # fmt: skip


class Running(Protocol):
    """What a line has while it runs."""

    @property
    def settings(self) -> Mapping[str, Any]:
        """The values that inputs were given."""

    @property
    def terms(self) -> Mapping[str, Any]:
        """The values of its other expressions by their role."""

    def value(self) -> Any:
        """The value of its formula; None where it has none. Raises Failure."""


def _of_its_formula(content: tree.Content, line: Running) -> Any:
    return line.value()


class StatementType(Struct, frozen=True):
    """One statement of the language."""

    word: str
    """What its lines begin with; empty where they do not begin with a word of the language."""

    meaning: str
    content: type[tree.Content]
    rules: Mapping[str, Rule]
    """From its tokens to its content, by the name the rule has in the grammar."""

    place: int
    """Where it stands among the others in lists."""

    grammar: str = ""
    """The same rules for people, in the manner of grammar.lark; empty where it is read by its text."""

    keywords: tuple[str, ...] = ()
    """Words with a meaning of their own within its lines; anywhere else they may be names."""

    form: Callable[[str], str] | None = None
    """Which of several rules a line follows, by its text."""

    runs: bool = True
    """Whether it has a value, or is drawn, or may hold or fail."""

    draws: bool = False
    """Whether what it gives is drawn, and worth a note where it is empty."""

    limited: bool = False
    """Whether its value is to lie within the limits that its terms say."""

    row: str = ""
    """What the screen takes it for; its word, where nothing is said."""

    leads: bool = False
    """Whether its word stands on the screen where other lines have their name."""

    says: bool = False
    """Whether its value is a sentence, which stands on the screen in place of what is written."""

    body: Callable[[tree.Statement], str] | None = None
    """What stands behind the name on the screen; where nothing is said, its first line."""

    title: Callable[[Any], str] | None = None
    """The heading that it is."""

    settle: Callable[[Any, Settings], Iterator[Any]] | None = None
    """What it settles for the whole sheet; yields what stands against it."""

    kind: Callable[[Any, Checker], Any] | None = None
    run: Callable[[Any, Running], Any] = _of_its_formula
    """What its value is."""

    reaches_out: bool = False
    """Whether what it is depends on what lies beside the sheet."""

    constructs: tuple[Construct, ...] = ()
    """Lines ready to fill."""

    @property
    def row_type(self) -> str:
        return self.row or self.word

    def rule_for(self, code: str) -> str:
        return self.form(code) if self.form is not None else next(iter(self.rules))

    def body_of(self, statement: tree.Statement) -> str:
        if self.body is not None:
            return self.body(statement)
        first = statement.text.partition("\n")[0].strip()
        return first.removeprefix(self.word).strip() if self.leads else first


def after_the_name(statement: tree.Statement) -> str:
    """The value of a line with a name, as the sheet shows it."""
    value: tree.Node = getattr(statement.content, "value")  # noqa: B009 - of whichever has one
    return f"= {statement.in_one_line(value.span)}"


@cache
def statement_types() -> tuple[StatementType, ...]:
    """All statements, in the order in which they are listed."""
    package = __name__.rpartition(".")[0]
    modules = [one.name for one in pkgutil.iter_modules(import_module(package).__path__)]
    modules.remove("registry")
    found = [import_module(f"{package}.{name}").STATEMENT for name in modules]
    return tuple(sorted(found, key=lambda one: one.place))


@cache
def by_word() -> dict[str, StatementType]:
    """Those whose lines begin with a word, by that word."""
    return {one.word: one for one in statement_types() if one.word}


@cache
def _by_content() -> dict[type[tree.Content], StatementType]:
    return {one.content: one for one in statement_types()}


def type_of(content: tree.Content) -> StatementType | None:
    """The statement that a line is; None for an empty line, and one that cannot be read."""
    return _by_content().get(type(content))


@cache
def rules() -> dict[str, Rule]:
    """All rules by their names in the grammar."""
    return {name: rule for one in statement_types() for name, rule in one.rules.items()}


@cache
def clause_words() -> frozenset[str]:
    """Words that have a meaning of their own within some statement."""
    return frozenset(word for one in statement_types() for word in one.keywords)


def content_of(rule: str, code: str, start: int = 0, end: int | None = None) -> tree.Content:
    """What a piece of code says by one of the rules. Raises Failure where it does not follow it."""
    reading = Reading(code, start, end)
    content = rules()[rule](reading)
    if len(reading.tokens) > DEEPEST:
        refuse_deep(content)
    return content
