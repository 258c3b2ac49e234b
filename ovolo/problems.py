"""What can be wrong with a sheet, said so that a person can act on it."""

from __future__ import annotations

import itertools
import logging
from collections.abc import Callable
from typing import TypedDict

from msgspec import Struct

Span = tuple[int, int]
"""Start and end offset of a piece of text within the statement it belongs to."""


_ITEMS_NAMED = 3


class ProblemTold(TypedDict):
    """A problem as programs are told of it."""

    line: int
    column: int
    name: str | None
    item: int | None
    items: list[int]
    message: str
    hint: str


class NoteTold(TypedDict):
    line: int
    column: int
    message: str
    overruled: str


class Problem(Struct, frozen=True):
    """One thing that is wrong: where, what (with its numbers), and a way out."""

    line: int
    column: int
    name: str | None
    message: str
    hint: str = ""
    item: int | None = None
    """The number of the first item that it struck, where it is one of items."""

    end_column: int | None = None
    waiting: bool = False
    """True where the line itself is fine but waits for another line that has a problem."""

    unknown: str = ""
    """The name that nothing bears, where that is what is wrong."""

    items: tuple[int, ...] = ()
    """The numbers of all items that it struck."""

    @property
    def struck(self) -> str:
        """The items that it struck, in words: "items 3, 4, 7 and 81 more"."""
        if self.item is None:
            return ""
        if len(self.items) < 2:
            return f"item {self.item}"
        first = ", ".join(map(str, self.items[:_ITEMS_NAMED]))
        more = len(self.items) - _ITEMS_NAMED
        return f"items {first} and {more} more" if more > 0 else f"items {first}"

    @property
    def in_few_words(self) -> str:
        """What is wrong, with the name of its line, or its number where it has none."""
        return f"{self.name or f'line {self.line}'}: {self.message}"

    def as_json(self) -> ProblemTold:
        return {
            "line": self.line,
            "column": self.column,
            "name": self.name,
            "item": self.item,
            "items": list(self.items),
            "message": self.message,
            "hint": self.hint,
        }

    def __str__(self) -> str:
        where = f"line {self.line}, column {self.column}"
        item = f", {self.struck}" if self.struck else ""
        hint = f" ({self.hint})" if self.hint else ""
        return f"{where}{item}: {self.message}{hint}"


class Note(Struct, frozen=True):
    """A quiet remark on a line that is not wrong."""

    line: int
    column: int
    message: str
    overruled: str = ""
    """The name that a preset sets in vain, for its line is a formula now."""

    def as_json(self) -> NoteTold:
        return {
            "line": self.line, "column": self.column,
            "message": self.message, "overruled": self.overruled,
        }  # fmt: skip


def count_said(count: float) -> str:
    """A number of things, in groups of three figures where these tell anything."""
    return f"{count:,.0f}" if abs(count) < 1e15 else f"{count:g}"


class Failure(Exception):
    """Raised wherever something cannot be done; whoever knows the place adds it.

    `span` is relative to the statement; the innermost place is kept.
    """

    def __init__(self, message: str, hint: str = "", span: Span | None = None) -> None:
        super().__init__(message)
        self.message = message
        self.hint = hint
        self.span = span
        self.through: tuple[str, ...] = ()
        """The functions of the sheet within which it came up, the outermost first."""

    @property
    def said(self) -> str:
        """Message and hint in one line."""
        return f"{self.message} ({self.hint})" if self.hint else self.message

    def __reduce__(self) -> tuple[object, ...]:
        # Exceptions carry only their message from one process to another unless told otherwise.
        return Failure, (self.message, self.hint, self.span)

    def at(self, span: Span) -> Failure:
        if self.span is None:
            self.span = span
        return self


class FailureOfFigures(Failure):
    """One that names figures of what a word was given, by `{name}` in its message: each is told with the parameter whose
    kind it is of, or that gives it where that is a function. Who knows the kinds shows them in the study's units."""

    def __init__(self, message: str, hint: str = "", **figures: tuple[float, str]) -> None:
        self.template, self.figures = message, figures
        super().__init__(message.format(**{name: f"{one:.6g}" for name, (one, _) in figures.items()}), hint)  # fmt: skip

    def shown(self, show: Callable[[list[tuple[float, str]]], list[str]]) -> FailureOfFigures:
        """The same with its figures as `show` gives them; what was shown before stays as it is."""
        if self.figures:
            said = dict(zip(self.figures, show(list(self.figures.values())), strict=True))
            self.message, self.figures = self.template.format(**said), {}
            self.args = (self.message,)
        return self


class UnknownName(Failure):
    """Nothing bears this name; a line of that name would mend it."""

    def __init__(self, name: str, hint: str) -> None:
        super().__init__(f"nothing here is called `{name}`", hint)
        self.name = name


_LOG = logging.getLogger("ovolo")


def unforeseen(error: Exception, where: str) -> Failure:
    """What is said where something went wrong that nobody thought of; logged with its traceback."""
    _LOG.error("unforeseen, in %s", where, exc_info=error)
    return Failure(
        "this could not be worked out, for a reason that was not foreseen",
        "it was noted; try smaller figures, or write it in another way",
    )


class OneByOne(Exception):
    """Raised where many items cannot be made together; they are then made one by one."""


_MANY, _FEW = 400, 40


def meant(name: str, known: list[str], otherwise: str = "") -> str:
    """The hint for a name that nothing bears: the one that was most likely meant, or what else helps."""
    near = nearest_name(name, known)
    return f"did you mean `{near}`?" if near else otherwise


def nearest_name(name: str, known: list[str]) -> str | None:
    """The known name a person most likely meant, or None where nothing is close."""
    import difflib

    if len(known) > _MANY:  # in a large sheet only those that are easily taken for it
        near = (
            one
            for one in known
            if one[:1].lower() == name[:1].lower() and abs(len(one) - len(name)) < 2
        )
        known = list(itertools.islice(near, _FEW))
    folded = {candidate.lower(): candidate for candidate in known}
    close = difflib.get_close_matches(name.lower(), list(folded), n=1, cutoff=0.66)
    return folded[close[0]] if close else None
