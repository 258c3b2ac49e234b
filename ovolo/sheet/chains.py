"""Curves drawn as a chain, `start((0 mm, 0 mm)).to((w, 300 mm)).close()`: their corners in the text."""

from __future__ import annotations

from collections.abc import Sequence

from msgspec import Struct

from ovolo.problems import Failure
from ovolo.quantities.dimension import LENGTH
from ovolo.quantities.show import DisplayUnits
from ovolo.sheet import tree
from ovolo.sheet.edits import rewritten, statement_named
from ovolo.sheet.literals import literal_for

_STEPS = {"to": 1, "tangent_to": 1, "arc_to": 1, "arc_through": 2}
"""The words that go on with a chain, and which of their arguments is where they lead to."""


class Chain(Struct, frozen=True):
    """The corners of a chain in their order, None where one is no point in brackets; and the side on
    which it is set upright."""

    corners: tuple[tree.Point | None, ...]
    closed: bool
    side: str


def chain_of(content: tree.Content) -> Chain | None:
    """None where a line is no chain, or one that is placed otherwise."""
    node = content.value if isinstance(content, tree.Formula | tree.Part) else None
    side, closed = "plan", False
    corners: list[tree.Point | None] = []
    if isinstance(node, tree.Call) and node.function == "on" and len(node.arguments) == 2:
        said = node.arguments[1].value
        side = "".join(map(str, said.pieces)) if isinstance(said, tree.Text) else ""
        node = node.arguments[0].value
    while isinstance(node, tree.Call) and node.arguments:
        given = [one.value for one in node.arguments]
        if node.function == "start":
            return Chain(tuple(reversed([*corners, _flat(given[0])])), closed, side)
        if node.function == "close" and not corners:
            closed = True
        elif (at := _STEPS.get(node.function, len(given))) < len(given):
            corners.append(_flat(given[at]))
        else:
            return None
        node = given[0]
    return None


def _flat(node: tree.Node) -> tree.Point | None:
    return node if isinstance(node, tree.Point) and len(node.coordinates) == 2 else None


def is_figure(node: tree.Node) -> bool:
    """Whether a coordinate is a length that stands for itself."""
    number = node.operand if isinstance(node, tree.Unary) else node
    return isinstance(number, tree.Number) and (number.dimension == LENGTH or number.value == 0)


def with_corner(text: str, name: str, index: int, at: Sequence[float], units: DisplayUnits) -> str:
    """The sheet with a corner of a chain at another place (across, up; mm): of its coordinates those that
    are figures. Raises Failure where it has none."""
    statement = statement_named(text, name)
    chain = chain_of(statement.content)
    corner = chain.corners[index] if chain is not None and 0 <= index < len(chain.corners) else None
    if corner is None or not any(map(is_figure, corner.coordinates)):
        raise Failure(
            f"corner {index + 1} of `{name}` is not written as figures", "change what it is made of"
        )
    for axis in reversed(range(2)):
        node = corner.coordinates[axis]
        if is_figure(node):
            before = statement.text[slice(*node.span)]
            written = literal_for(float(f"{at[axis]:.13g}") + 0.0, LENGTH, before, units)
            text = rewritten(text, statement, node.span, written)
            statement = statement_named(text, name)
    return text
