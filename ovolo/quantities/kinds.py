"""The kinds a value can have. They are settled before anything runs."""

from __future__ import annotations

from typing import Any

from msgspec import Struct

from ovolo.quantities.dimension import (
    ANGLE,
    AREA,
    DENSITY,
    LENGTH,
    MASS,
    NUMBER,
    TIME,
    VOLUME,
    Dimension,
    dimension_name,
    kind_name,
)


class Kind(Struct, frozen=True):
    """What a value is."""

    @property
    def name(self) -> str:
        """What a value of this kind is called."""
        raise NotImplementedError

    @property
    def said(self) -> str:
        """The kind with its article, for messages."""
        article = "an" if self.name[0] in "aeiou" else "a"
        return f"{article} {self.name}"

    @property
    def word(self) -> str:
        """The word for this kind in results."""
        return self.name


class Plain(Kind, frozen=True):
    """A kind without inner structure: yes/no, text, region, solid and the like."""

    called: str

    @property
    def name(self) -> str:
        return self.called


class Quantity(Kind, frozen=True):
    """A number with a dimension; a plain number has none."""

    dimension: Dimension = NUMBER

    @property
    def name(self) -> str:
        return dimension_name(self.dimension)

    @property
    def word(self) -> str:
        return kind_name(self.dimension)


class PointKind(Kind, frozen=True):
    """A point or a vector; `flat` where it was written with two coordinates."""

    dimension: Dimension = LENGTH
    flat: bool = False

    @property
    def name(self) -> str:
        return "point"

    @property
    def said(self) -> str:
        if self.dimension == LENGTH:
            return "a point"
        return f"a point whose coordinates are each {Quantity(dimension=self.dimension).said}"

    def coordinates(self, point: Any) -> Any:
        """The coordinates to show of a point (three figures): two where it was written so, as long as
        it lies in plan. What has been moved out of it shows how high it lies."""
        size = max(1.0, abs(point[0]), abs(point[1]))
        return point[:2] if self.flat and abs(point[2]) <= 1e-12 * size else point


class ListOf(Kind, frozen=True):
    """A list whose items are all of one kind; None where it is empty and nobody knows."""

    item: Kind | None = None

    @property
    def name(self) -> str:
        return "list"

    @property
    def said(self) -> str:
        return "a list" if self.item is None else f"a list of {plural(self.item)}"


class StudyYield(ListOf, frozen=True):
    """What a study yields when it is used: the list of its pieces, with all that it names."""

    title: str = ""
    fields: tuple[tuple[str, Kind], ...] = ()
    failing: tuple[tuple[str, str], ...] = ()
    """Names that it would have but for a problem, and that problem."""

    def field_kind(self, wanted: str) -> Kind | None:
        return dict(self.fields).get(wanted)

    @property
    def said(self) -> str:
        return f"what “{self.title}” yields"


class Together(Kind, frozen=True):
    """A few values of different kinds side by side, as `zip` gives them."""

    items: tuple[Kind, ...] = ()

    @property
    def name(self) -> str:
        return "list"

    @property
    def said(self) -> str:
        return "a list of " + " and ".join(item.said for item in self.items)


class Record(Kind, frozen=True):
    """Named values, as a row of a table or the result of setting out."""

    fields: tuple[tuple[str, Kind], ...] = ()

    @property
    def name(self) -> str:
        return "record"

    def field_kind(self, wanted: str) -> Kind | None:
        return dict(self.fields).get(wanted)

    @property
    def said(self) -> str:
        return "a set of values (" + ", ".join(f".{name}" for name, _ in self.fields) + ")"

    @property
    def word(self) -> str:
        return "list"


class TableKind(Kind, frozen=True):
    """A table: named columns, each of one kind."""

    columns: tuple[tuple[str, Kind], ...] = ()

    @property
    def name(self) -> str:
        return "table"

    def column_kind(self, wanted: str) -> Kind | None:
        return dict(self.columns).get(wanted)

    @property
    def word(self) -> str:
        return "list"


class FunctionKind(Kind, frozen=True, eq=False):
    """A function as a value. It is generic: what it gives is found at each use, so each
    function is a kind of its own."""

    parameters: tuple[str, ...] = ()
    required: int = 0

    def __repr__(self) -> str:
        return f"{type(self).__name__}{self.parameters, self.required}"

    @property
    def name(self) -> str:
        return "function"


NUMBER_KIND = Quantity(dimension=NUMBER)
LENGTH_KIND = Quantity(dimension=LENGTH)
ANGLE_KIND = Quantity(dimension=ANGLE)
AREA_KIND = Quantity(dimension=AREA)
VOLUME_KIND = Quantity(dimension=VOLUME)
MASS_KIND = Quantity(dimension=MASS)
DENSITY_KIND = Quantity(dimension=DENSITY)
TIME_KIND = Quantity(dimension=TIME)
YES_NO = Plain("yes/no")
TEXT = Plain("text")
POINT = PointKind()
CURVE = Plain("curve")
REGION = Plain("region")
SOLID = Plain("solid")
SURFACE = Plain("surface")
EDGE = Plain("edge")
"""How an edge is finished: round(3 mm), bevel(1 mm)."""

PRESET = Plain("preset")
"""What a preset line is; no value has this kind."""

GEOMETRY = (CURVE, REGION, SOLID, SURFACE)


def plural(kind: Kind) -> str:
    """The kind as one says it of many: "lengths", "lists of points"."""
    match kind:
        case ListOf(item=item):
            return "lists" if item is None else f"lists of {plural(item)}"
        case Together() | Record():
            return "sets of values"
        case Quantity() if kind.name.startswith("quantity"):
            return kind.name.replace("quantity", "quantities", 1)
    if kind in (YES_NO, TEXT):
        return {"yes/no": "yes/no values", "text": "texts"}[kind.name]
    if kind.name.endswith("y"):
        return kind.name[:-1] + "ies"
    return kind.name + ("es" if kind.name.endswith("s") else "s")


def is_number(kind: Kind) -> bool:
    return isinstance(kind, Quantity) and kind.dimension == NUMBER


def same_kind(a: Kind, b: Kind) -> Kind | None:
    """The kind both are, or None. An empty list fits any list; flat fits spatial."""
    if a == b:
        return a
    match a, b:
        case ListOf(item=None), ListOf():
            return b
        case ListOf(), ListOf(item=None):
            return a
        case ListOf(item=Kind() as x), ListOf(item=Kind() as y):
            item = same_kind(x, y)
            return None if item is None else ListOf(item=item)
        case PointKind(), PointKind() if a.dimension == b.dimension:
            return a if a.flat == b.flat else PointKind(dimension=a.dimension)
    return None


def innermost(kind: Kind | None) -> Kind | None:
    """What lists within lists hold; any other kind itself."""
    while isinstance(kind, ListOf):
        kind = kind.item
    return kind


def plain_list(kind: Kind) -> Kind:
    """The kind without the names of what a study yields, which placing and the like do not keep."""
    if isinstance(kind, ListOf):
        return ListOf(item=None if kind.item is None else plain_list(kind.item))
    return kind


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
        case ListOf(item=PointKind(dimension=dimension)):
            return Quantity(dimension=dimension)
    return None
