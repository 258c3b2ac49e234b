"""What names mean at a place of a sheet, and functions as kinds."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from msgspec import Struct, field

from ovolo.meaning import checked_tree
from ovolo.meaning.other_names import other_name
from ovolo.problems import Span, UnknownName, nearest_name
from ovolo.quantities.kinds import (
    FunctionKind,
    Kind,
)
from ovolo.quantities.table import Table
from ovolo.sheet import tree

MOST_USES = 20_000
"""How often functions may be checked for new kinds in one sheet."""


class Scope(Struct, eq=False):
    """What names mean at one place: local names here and outside, then lines, then words."""

    lines: Callable[[str], Kind | None]
    """The kind of a line by its name; None where there is no such line. May raise Failure."""

    names: Callable[[], list[str]]
    text: str
    """The text of the statement, for messages."""

    locals: dict[str, Kind] = field(default_factory=dict)
    depth: int = 0
    budget: list[int] = field(default_factory=lambda: [MOST_USES])
    remarks: list[tuple[str, Span]] = field(default_factory=list)
    """Quiet hints found on the way."""

    uses: dict[object, checked_tree.Typed] = field(default_factory=dict)
    """Bodies already checked, by function and the kinds it was used with."""

    tables: Callable[[str], Table | None] = lambda name: None
    """The attached table that a line is, by its name."""

    overruled: frozenset[str] = frozenset()
    """The names that a preset sets in vain, for their lines are formulas."""

    def within(self, names: dict[str, Kind]) -> Scope:
        return Scope(
            self.lines, self.names, self.text, {**self.locals, **names},
            self.depth, self.budget, self.remarks, self.uses,
        )  # fmt: skip

    def written(self, node: tree.Node) -> str:
        """A piece of the statement as it is written, without brackets around it."""
        start, end = node.span
        said = " ".join(self.text[start:end].split())
        bracketed = said.startswith("(") and not isinstance(node, tree.Point | tree.Lambda)
        return said[1:-1] if bracketed and _closes_last(said) else said


def _closes_last(said: str) -> bool:
    """Whether the first bracket is closed by the last."""
    depth = 0
    for at, character in enumerate(said):
        depth += (character == "(") - (character == ")")
        if depth == 0:
            return at == len(said) - 1
    return False


class Definition(Struct, frozen=True, eq=False):
    """Where a function's body stands, and the names around it."""

    body: tree.Node
    parameters: tuple[tree.Parameter, ...]
    scope: Scope
    source: checked_tree.Source
    name: str


class SheetFunction(FunctionKind, frozen=True, eq=False):
    """The kind of one particular function: it knows its definition."""

    definition: Definition = None  # type: ignore[assignment]


def function_kind(definition: Definition) -> SheetFunction:
    names = tuple(parameter.name for parameter in definition.parameters)
    required = sum(parameter.default is None for parameter in definition.parameters)
    return SheetFunction(parameters=names, required=required, definition=definition)


def unknown_name(name: str, scope: Scope, also: Sequence[str] = ()) -> UnknownName:
    known = [*scope.locals, *scope.names(), *also]
    same = next((one for one in known if one.lower() == name.lower()), None)
    other = "" if same else other_name(name)
    if other:
        return UnknownName(name, f"write {other}")
    near = same or nearest_name(name, known)
    hint = f"did you mean `{near}`?" if near else f"write a line `{name} = …`"
    return UnknownName(name, hint)
