"""The syntax tree of expressions and statements, with positions.

Spans are offsets within the text of the statement, so that an unchanged line
has the same tree wherever it stands. Numbers are in mm, radians, kg and s.
"""

from __future__ import annotations

from functools import cache

from msgspec import Struct

from ovolo.problems import Span
from ovolo.quantities.dimension import Dimension


class Node(Struct, frozen=True, eq=False):
    span: Span


class Number(Node, frozen=True):
    value: float
    dimension: Dimension
    unit: str = ""
    """The unit it was written with: `mm`, `kg/m^3`, `:12` of a slope, `ft in` of feet and inches, `°'`
    of minutes; empty where it has none."""

    bracketed: bool = False

    @property
    def bare(self) -> bool:
        """Whether it was written without a unit."""
        return not self.unit


class Text(Node, frozen=True):
    """A text; its pieces are plain strings and expressions put in by braces."""

    pieces: tuple[str | Node, ...]


class YesNo(Node, frozen=True):
    value: bool


class Name(Node, frozen=True):
    name: str


class Unary(Node, frozen=True):
    operator: str
    operand: Node


class Binary(Node, frozen=True):
    operator: str
    left: Node
    right: Node
    operator_span: Span = (0, 0)


class Comparison(Node, frozen=True):
    """`a <= b < c`; `within` is the tolerance of `==` and `!=`."""

    operands: tuple[Node, ...]
    operators: tuple[str, ...]
    within: Node | None = None


class Logical(Node, frozen=True):
    """`and` or `or` over two or more conditions."""

    operator: str
    operands: tuple[Node, ...]


class Not(Node, frozen=True):
    operand: Node


class Choice(Node, frozen=True):
    """`if condition then chosen else other`."""

    condition: Node
    chosen: Node
    other: Node


class Range(Node, frozen=True):
    start: Node
    end: Node
    step: Node | None = None


class ListOfItems(Node, frozen=True):
    items: tuple[Node, ...]


class Each(Node, frozen=True):
    """One `for name in source` with the filter that follows it, if any."""

    name: str
    source: Node
    condition: Node | None = None


class Comprehension(Node, frozen=True):
    body: Node
    each: tuple[Each, ...]


class Point(Node, frozen=True):
    coordinates: tuple[Node, ...]


class Argument(Node, frozen=True):
    name: str | None
    value: Node


class Call(Node, frozen=True):
    """`f(a, b = c)`; `x.f(a)` is the same with x as its first argument."""

    function: str
    arguments: tuple[Argument, ...]
    name_span: Span = (0, 0)


class Member(Node, frozen=True):
    owner: Node
    name: str


class Index(Node, frozen=True):
    owner: Node
    index: Node


class Parameter(Node, frozen=True):
    name: str
    default: Node | None = None


class Lambda(Node, frozen=True):
    parameters: tuple[Parameter, ...]
    body: Node


class Block(Node, frozen=True):
    """Local lines whose last one is the value."""

    locals: tuple[Local, ...]
    value: Node


class Local(Node, frozen=True):
    """A local formula of a block, or a local function where it has parameters."""

    name: str
    value: Node
    parameters: tuple[Parameter, ...] | None = None


class Content(Struct, frozen=True, eq=False):
    """What a statement says, without where it stands."""


class Study(Content, frozen=True):
    title: str


class Units(Content, frozen=True):
    symbols: tuple[tuple[str, Span], ...]


class Section(Content, frozen=True):
    title: str


class Input(Content, frozen=True):
    name: str
    value: Node
    name_span: Span
    low: Node | None = None
    high: Node | None = None
    step: Node | None = None
    choices: tuple[Node, ...] = ()
    internal: bool = False
    """Whether it is left off the faceplate."""

    label: str = ""


class Formula(Content, frozen=True):
    """A formula, or a function where it has parameters."""

    name: str
    value: Node
    name_span: Span
    parameters: tuple[Parameter, ...] | None = None
    label: str = ""


class Part(Content, frozen=True):
    name: str
    value: Node
    name_span: Span
    condition: Node | None = None
    colour: str = ""
    hatch: tuple[Node, ...] = ()
    """Angle and spacing of its hatch, where it has one."""

    material: Node | None = None
    """The density of what it is made of."""

    by: Node | None = None
    """A list of what its items are coloured by."""

    between: tuple[str, str] = ()  # type: ignore[assignment]
    """The colours of the least and of the greatest of these, where they are said."""

    role: str = ""
    """What it is where the study is printed: an area for `support`, or for `no support`."""

    label: str = ""


class Check(Content, frozen=True):
    condition: Node
    message: str = ""
    said: Text | None = None
    """The message with what its braces put in."""


class Dim(Content, frozen=True):
    """`form` is length, radius, diameter, angle or level. A radius and a diameter run from the
    centre (`start`) to a point of the circle (`end`); an angle has its apex beside both its points;
    a level stands at `end`, above a datum (`start`) or above zero."""

    quantity: Node
    start: Node | None
    end: Node
    offset: Node | None = None
    form: str = "length"
    apex: Node | None = None


class Preset(Content, frozen=True):
    title: str
    settings: tuple[Setting, ...] = ()


class Setting(Node, frozen=True):
    name: str
    value: Node


class Calibration(Node, frozen=True):
    """How a picture lies under the drawing: two points of it (in pixels from its upper left
    corner), their true distance, where the first one lies, and how it is turned."""

    start: Node
    end: Node
    distance: Node
    place: Node | None = None
    turn: Node | None = None
    strength: Node | None = None


class File(Content, frozen=True):
    name: str
    file_name: str
    name_span: Span
    calibration: Calibration | None = None


class Tolerance(Content, frozen=True):
    """By how much chords may miss what is round, in all of the study."""

    value: Node


class Use(Content, frozen=True):
    name: str
    study: str
    name_span: Span


class Blank(Content, frozen=True):
    """An empty line or one that holds only a comment."""


class Unreadable(Content, frozen=True):
    """A statement that cannot be read; `name` where it still shows what it would define."""

    message: str
    hint: str
    span: Span
    name: str | None = None


Named = Input | Formula | Part | File | Use
"""The statements that give a name to a value."""


class Statement(Struct, frozen=True):
    """One statement where it stands: its text as written, its first line (from 1), what it says."""

    text: str
    line: int
    content: Content
    comment: str = ""

    @property
    def name(self) -> str | None:
        if isinstance(self.content, Named | Unreadable):
            return self.content.name
        return None

    @property
    def last_line(self) -> int:
        return self.line + self.text.count("\n")

    def in_one_line(self, span: Span) -> str:
        """A piece of it as written, without its line ends and wide spaces."""
        return " ".join(self.text[slice(*span)].split())

    def place(self, offset: int) -> tuple[int, int]:
        """Line and column, both from 1, of an offset within the statement's text."""
        before = self.text[:offset]
        return self.line + before.count("\n"), offset - (before.rfind("\n") + 1) + 1


class Sheet(Struct, frozen=True):
    """A sheet as read: its text, and its statements in order."""

    text: str
    statements: tuple[Statement, ...]


_SCALARS = frozenset(
    {"Span", "str", "float", "bool", "Dimension", "tuple[str, str]", "tuple[tuple[str, Span], ...]"}
)


@cache
def _fields_with_nodes(kind: type[Node | Content]) -> tuple[str, ...]:
    written = {
        k: v for base in kind.__mro__ for k, v in vars(base).get("__annotations__", {}).items()
    }
    return tuple(name for name in kind.__struct_fields__ if written[name] not in _SCALARS)


def children(node: Node | Content) -> list[Node]:
    """The nodes directly within a node or a statement's content, in order."""
    found: list[Node] = []
    for name in _fields_with_nodes(type(node)):
        value = getattr(node, name)
        if isinstance(value, Node):
            found.append(value)
        elif isinstance(value, tuple):
            found += [item for item in value if isinstance(item, Node)]
    return found


def descendants(node: Node | Content) -> list[Node | Content]:
    """A node or a content, and all nodes within it."""
    found: list[Node | Content] = []
    waiting = [node]
    while waiting:
        node = waiting.pop()
        found.append(node)
        within = children(node)
        within.reverse()
        waiting += within
    return found
