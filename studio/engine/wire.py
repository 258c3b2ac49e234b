"""What the browser sends, declared once: every message is a dataclass, checked at the door.

`read` is the only place where a body is looked into; what is behind it takes messages.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import MISSING, dataclass, field, fields
from functools import cache
from types import UnionType
from typing import Any, Literal, TypeVar, Union, get_args, get_origin, get_type_hints

from ovolo.problems import Failure

Message = TypeVar("Message")
Value = bool | int | float | str | list[Any]
"""What an input may be turned to: yes or no, a figure, a text, the figures of a list or a point."""


def read(kind: type[Message], body: Mapping[str, Any]) -> Message:
    """The message of this kind that a body carries; other keys of it belong to somebody else. Raises
    Failure for what is missing, or of the wrong type."""
    given = {}
    hints = _hints(kind)  # type: ignore[arg-type]  # a class can be hashed
    for one in fields(kind):  # type: ignore[arg-type]  # every message is a dataclass
        if one.name in body:
            if not _fits(body[one.name], hints[one.name]):
                raise Failure("the request cannot be read", f"`{one.name}` is wrong")
            given[one.name] = body[one.name]
        elif one.default is MISSING and one.default_factory is MISSING:
            raise Failure("the request cannot be read", f"`{one.name}` is missing")
    return kind(**given)


@cache
def _hints(kind: type[Any]) -> dict[str, Any]:
    """The types of the fields of a message, which it takes a millisecond to find out."""
    return get_type_hints(kind)


def _fits(value: Any, hint: Any) -> bool:
    """Whether a value of JSON is of a type. A yes or no is no figure."""
    if hint is Any:
        return True
    origin, inner = get_origin(hint), get_args(hint)
    if origin in (Union, UnionType):
        return any(_fits(value, one) for one in inner)
    if origin is Literal:
        return value in inner
    if origin is list:
        return isinstance(value, list) and all(_fits(one, inner[0]) for one in value)
    if origin is dict:
        return isinstance(value, dict) and all(_fits(one, inner[1]) for one in value.values())
    if hint is float:
        return isinstance(value, int | float) and not isinstance(value, bool)
    if hint is int:
        return isinstance(value, int) and not isinstance(value, bool)
    return isinstance(value, hint)


# --- what is worked out ---


@dataclass(frozen=True)
class Asked:
    """What is seen of a study: a text that is being typed, or a revision; with inputs at other values."""

    text: str | None = None
    revision: int | None = None
    set: dict[str, Any] | None = field(default_factory=dict)
    held: list[Any] | None = field(default_factory=list)
    """The shapes that are there already."""

    lines_held: str | None = ""
    moving: bool | None = None
    """Whether a hand is turning an input: what is measured may wait until it rests."""

    construction: list[Any] | None = field(default_factory=list)
    working: int | None = None
    drawing: dict[str, Any] | None = None
    name: str | None = ""
    """The input or the part that is asked about, and of that its item (`index`)."""

    index: int | None = 0
    point: list[Any] | None = None
    """Where it was picked (x, y, z in mm)."""

    picks: list[Any] | None = field(default_factory=list)
    ending: str | None = None
    """How an outline ends whose corners were picked, and whether its figures are `named`."""

    named: bool | None = None

    def as_task(self) -> dict[str, Any]:
        """As workers take it: without what is not said."""
        return {key: value for key, value in vars(self).items() if value is not None}


@dataclass(frozen=True)
class BarsAsked(Asked):
    """Bars to cut the pieces from, as they were typed: the length of one, what a cut takes, what each end
    loses."""

    bar: str = ""
    kerf: str = ""
    trim: str = ""


@dataclass(frozen=True)
class Turned:
    """The values at which inputs are for the moment, beside an edit that turns one of them."""

    present: dict[str, Any] = field(default_factory=dict)


@dataclass(frozen=True)
class SheetTried:
    """A small sheet that is tried beside the reference."""

    text: str


# --- several people at one study ---


@dataclass(frozen=True)
class Here:
    """A window that asks what is new: which one, and the line that is open in it."""

    window: str = ""
    line: int | None = None
    gone: bool = False
    """That it is being closed."""


@dataclass(frozen=True)
class RemarkMade:
    """A remark on a line of a revision, or an answer to one."""

    said: str
    line: int = 0
    revision: int | None = None
    answers: int | None = None


@dataclass(frozen=True)
class RemarkMeant:
    """One remark, and whether it is settled."""

    remark: int
    settled: bool = True


# --- changes of a study ---


@dataclass(frozen=True)
class Change:
    """From which revision a change was made: the window's newest, or (`mine`) the one it was typed on."""

    revision: int | None = None
    mine: int | None = None


@dataclass(frozen=True)
class Moment:
    moment: int
    name: str = ""


# --- variations ---


@dataclass(frozen=True)
class PlanAsked:
    """A plan (as the core has it), around inputs at other values; of its trials those from `first` to
    `last`, the last left out, with or without `parts`, of the revision for which it was made."""

    plan: dict[str, Any] = field(default_factory=dict)
    set: dict[str, Any] | None = field(default_factory=dict)
    first: int = 0
    last: int = 0
    parts: bool = False
    revision: int | None = None


@dataclass(frozen=True)
class PictureAsked:
    """A small picture of one setting of a revision; the shapes that are there already."""

    set: dict[str, Any] = field(default_factory=dict)
    held: list[Any] = field(default_factory=list)
    revision: int | None = None


@dataclass(frozen=True)
class AimAsked:
    """A value that is to become the `goal` (typed, or `least`, `most`) by moving some inputs of a revision."""

    name: str
    goal: str
    by: list[Any]
    set: dict[str, Any] | None = field(default_factory=dict)
    revision: int | None = None


@dataclass(frozen=True)
class AlongAsked:
    """A line of a revision, with inputs at other values: how far it is moved, or where the study fails along it."""

    name: str = ""
    set: dict[str, Any] | None = field(default_factory=dict)
    revision: int | None = None


@dataclass(frozen=True)
class CompareAsked:
    """What is compared: each side has a `title`, and a `set`, a `moment` or a `study` of its own."""

    sides: list[Any]


@dataclass(frozen=True)
class Side:
    title: str
    set: dict[str, Any] | None = None
    moment: int | None = None
    study: int | None = None


@dataclass(frozen=True)
class TableAsked:
    """Trials as they came, and the values that are wanted of them."""

    trials: list[Any]
    values: list[Any] = field(default_factory=list)


@dataclass(frozen=True)
class FilesAsked:
    """The trials of a plan, of the revision for which it was made, that are handed over as files."""

    plan: dict[str, Any]
    numbers: list[Any]
    file: str
    set: dict[str, Any] | None = field(default_factory=dict)
    revision: int | None = None


@dataclass(frozen=True)
class SheetKept:
    """A contact sheet to be kept: its title, its plan, and what is looked at, of the revision for which it was made."""

    title: str
    plan: dict[str, Any]
    set: dict[str, Any] = field(default_factory=dict)
    shown: dict[str, Any] = field(default_factory=dict)
    revision: int | None = None


@dataclass(frozen=True)
class SheetNumbered:
    sheet: int


# --- benches ---


@dataclass(frozen=True)
class BenchAsked:
    """A study on a bench: inputs at other values (`set`), the machine by its title, what is set otherwise,
    what the parts are there; of a print a plate and its layers from `first` to `last`, that left out, and
    where the machine stands (`at`)."""

    set: dict[str, Any] | None = field(default_factory=dict)
    machine: str = ""
    settings: dict[str, Any] = field(default_factory=dict)
    roles: dict[str, str] = field(default_factory=dict)
    plate: int = 0
    first: int = 0
    last: int = 0
    at: list[float] | None = None


@dataclass(frozen=True)
class BenchKept:
    """How a study is set up on a bench."""

    machine: str = ""
    settings: dict[str, Any] = field(default_factory=dict)
    roles: dict[str, str] = field(default_factory=dict)


@dataclass(frozen=True)
class HandOverAsked:
    """What leaves (`ovolo/hand_over/order.py`), and whether a manifest goes with a file that is alone."""

    order: dict[str, Any]
    with_manifest: bool = False


@dataclass(frozen=True)
class HandedOverAgain:
    """A hand-over that was made, once more; `anyway` where what it was made from has changed."""

    number: int
    anyway: bool = False


@dataclass(frozen=True)
class ProfileKept:
    """A profile of a machine, by its text."""

    text: str


# --- edits of the text ---


@dataclass(frozen=True)
class SetInput:
    """An input turned to a `value`, or `typed` by hand: of a list or a point its figure `at`; or all
    coordinates of a point, in a list of the one with the number `point`."""

    name: str
    value: Value | None = None
    typed: str | None = None
    at: int | None = None
    point: int | None = None


@dataclass(frozen=True)
class Limit:
    """A limit or the step of an input; with the first limit goes the `other`."""

    name: str
    role: Literal["low", "high", "step"]
    typed: str = ""
    other: str = ""


@dataclass(frozen=True)
class Take:
    """Several inputs set at once; `said` is where the values are from."""

    values: dict[str, Any]
    said: str = ""


@dataclass(frozen=True)
class KeepPreset:
    """Values of inputs kept as a preset, without turning to them."""

    title: str
    values: dict[str, Any]


@dataclass(frozen=True)
class Internal:
    name: str
    internal: bool


@dataclass(frozen=True)
class Replace:
    line: int
    text: str


@dataclass(frozen=True)
class Insert:
    after: int
    text: str


@dataclass(frozen=True)
class InsertStarting:
    """The lines of a starting point."""

    after: int
    key: str


@dataclass(frozen=True)
class Rewrite:
    text: str


@dataclass(frozen=True)
class Delete:
    """The line, or all from it to the line `last`."""

    line: int
    last: int | None = None
    all_the_same: bool = False


@dataclass(frozen=True)
class Move:
    line: int
    before: int
    last: int | None = None


@dataclass(frozen=True)
class Lines:
    """The lines from `line` to `last`."""

    line: int
    last: int | None = None


@dataclass(frozen=True)
class Rename:
    name: str
    new: str


@dataclass(frozen=True)
class SwapStudy:
    name: str
    title: str


@dataclass(frozen=True)
class Named:
    """An edit of what bears this name."""

    name: str


@dataclass(frozen=True)
class UnknownToInput:
    """An input of a name that a line uses; of a line that is being typed with its `text`."""

    name: str
    line: int | None = None
    after: int | None = None
    text: str | None = None


@dataclass(frozen=True)
class PieceInput:
    """An input of a placed study, typed; or (nothing typed) as in the study again; the same of other
    pieces that were picked with it (`also`)."""

    name: str
    argument: str
    typed: str | None = None
    also: list[Any] = field(default_factory=list)


@dataclass(frozen=True)
class MovePiece:
    """A placed piece moved on by lengths (mm), or turned on by an angle that was typed."""

    name: str
    by: list[Any] | None = None
    typed: str | None = None


@dataclass(frozen=True)
class MoveCorner:
    """A corner of a chain, by its number from 0, at another place (x, y, z in mm)."""

    name: str
    index: int
    at: list[Any]


@dataclass(frozen=True)
class PlaceStudy:
    """A point (mm), and where it is that of a part's face the part, and the direction it faces."""

    title: str
    at: list[Any]
    facing: list[Any] | None = None
    on: str = ""


@dataclass(frozen=True)
class ArrayItem:
    """A place of the array that `word` makes in the line `name`, by its number of `count`; of a grid
    with so many `columns`."""

    name: str
    word: str
    number: int
    count: int
    columns: int | None = None


@dataclass(frozen=True)
class Titled:
    title: str
