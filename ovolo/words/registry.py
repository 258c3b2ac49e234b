"""The registry of words. The checker, the evaluator and the reference all read it."""

from __future__ import annotations

import inspect
import re
from collections.abc import Callable
from functools import cached_property
from typing import Any, TypeVar

from msgspec import Struct

from ovolo.words.signature import ColumnName, Signature, read_signature

Function = TypeVar("Function", bound=Callable[..., Any])


class Parameter(Struct, frozen=True):
    """One parameter of a word; `default` is as written in a sheet, None where it has none.
    `kind` says in words what it takes; `optional` where it may be left out."""

    name: str
    default: str | None = None
    many: bool = False
    optional: bool = False
    kind: str = ""
    meaning: str = ""


class Word(Struct, frozen=True, eq=False, dict=True):
    """A word of the language. (Its signatures and parameters are read from what is `written` of them
    when they are first asked for: few sheets use many words.)

    `function` takes and gives run-time values (float64 in mm, radians, kg, s; points
    as arrays of three). Where `elementwise`, it also takes arrays of n such values
    for any of its arguments and then gives n results.
    `gives` is what `example` evaluates to, as a formula of the language. `gaps` says what
    becomes of a list argument in which items are missing: "refuse" it, "skip" them, or
    "keep" them in their places. Where `seeded`, the function is given the study's seed, unless a call
    says another.
    Where it `settles`, an argument that is a sum counts as 0 where it lies below 0 by no more than
    the noise of its terms. `above` is a line that the example needs. Where `takes_empty`, a solid or a region that is empty
    may be among its arguments; other words refuse it.
    """

    name: str
    trade: str
    function: Callable[..., Any]
    written: tuple[str, ...]
    example: str
    gives: str
    elementwise: bool
    constant: bool
    gaps: str
    hint: str
    seeded: bool
    above: str
    takes_empty: bool
    settles: bool
    defaults: dict[str, str]

    @cached_property
    def signatures(self) -> tuple[Signature, ...]:
        """Raises ValueError for one with more arguments than the function has parameters."""
        read = tuple(map(read_signature, self.written))
        count = len(inspect.signature(self.function).parameters)
        for signature in read:
            if len(signature.arguments) > count:
                raise ValueError(f"`{self.name}`: {signature.written} has too many arguments")
        return read

    @cached_property
    def takes_key(self) -> bool:
        """Whether its last argument is written after the name of a column, as in `lookup(t, "hole", size = "M8")`."""
        last = (one.pattern for signature in self.signatures for one in signature.arguments[-2:])
        return any(isinstance(one, ColumnName) and one.is_key for one in last)

    @cached_property
    def parameters(self) -> tuple[Parameter, ...]:
        meanings = dict(_ARGUMENT.findall(self._doc[1]))
        if self.seeded:
            meanings.setdefault("seed", _SEED)
        return tuple(
            _parameter(at, parameter, self.signatures, meanings, {"seed": "seed", **self.defaults})
            for at, parameter in enumerate(inspect.signature(self.function).parameters.values())
        )

    @property
    def meaning(self) -> str:
        return self._doc[0]

    @cached_property
    def _doc(self) -> tuple[str, str]:
        """The meaning of the word, and what is said of its arguments."""
        meaning, _, rest = (inspect.getdoc(self.function) or "").partition("\n\n")
        return meaning, rest

    @property
    def usage(self) -> str:
        """How it is written, such as `extrude(outline, h)`."""
        if self.constant:
            return self.name
        said = []
        for parameter in self.parameters:
            default = f" = {parameter.default}" if parameter.default is not None else ""
            said.append(f"{parameter.name}{'…' if parameter.many else ''}{default}")
        return f"{self.name}({', '.join(said)})"


WORDS: dict[str, Word] = {}


def word(
    *signatures: str,
    example: str,
    gives: str = "",
    elementwise: bool = False,
    constant: bool = False,
    called: str = "",
    gaps: str = "refuse",
    hint: str = "",
    seeded: bool = False,
    above: str = "",
    takes_empty: bool | None = None,
    defaults: dict[str, str] | None = None,
    settles: bool = False,
) -> Callable[[Function], Function]:
    """Enters a function into the registry under its own name (or `called`).

    Its docstring's first paragraph is its meaning, each `name: …` below it that of an argument;
    its parameter names are the names of its arguments. `defaults` says how a default reads in a
    sheet where it differs.
    """

    def enter(function: Function) -> Function:
        name = called or function.__name__.rstrip("_")
        if name in WORDS:
            raise ValueError(f"the word `{name}` is defined twice")
        if not function.__doc__:
            raise ValueError(f"the word `{name}` has no docstring")
        trade = function.__module__.rpartition(".")[2]
        WORDS[name] = Word(
            name,
            trade,
            function,
            tuple(map(_with_seed, signatures)) if seeded else signatures,
            example,
            gives,
            elementwise,
            constant,
            gaps,
            hint,
            seeded,
            above,
            trade in _TAKE_EMPTY if takes_empty is None else takes_empty,
            settles,
            defaults or {},
        )
        return function

    return enter


_SEED = "another chance for this aspect alone; that of the study where it is not said"


def _with_seed(signature: str) -> str:
    """The signature of a word of chance, whose seed may be said."""
    taken, arrow, given = signature.rpartition("->")
    return f"{taken.rstrip()}, seed: number? {arrow}{given}"


_TAKE_EMPTY = ("placing", "measuring", "arrays", "lists")
"""Trades whose words have something to say of what is empty."""

_ARGUMENT = re.compile(r"^(\w+): (.+(?:\n {4}.+)*)", re.MULTILINE)


def _parameter(
    at: int,
    parameter: inspect.Parameter,
    signatures: tuple[Signature, ...],
    meanings: dict[str, str],
    defaults: dict[str, str],
) -> Parameter:
    many = parameter.kind is inspect.Parameter.VAR_POSITIONAL
    name = parameter.name.rstrip("_")
    default = defaults.get(name)
    if default is None and parameter.default not in (inspect.Parameter.empty, None):
        plain = parameter.default
        default = f'"{plain}"' if isinstance(plain, str) else f"{plain}"
        default = ("yes" if plain else "no") if isinstance(plain, bool) else default
    optional = many or (
        parameter.default is not inspect.Parameter.empty
        and not _is_needed(at, parameter.name, signatures)
    )
    kinds = [
        kind for said in _kinds_said(at, parameter.name, signatures) for kind in said.split(" or ")
    ]
    kind = " or ".join(dict.fromkeys(kinds))
    return Parameter(name, default, many, optional, kind, meanings.get(name, ""))


def _is_needed(at: int, name: str, signatures: tuple[Signature, ...]) -> bool:
    """Whether the first of the signatures, the usual one, cannot do without a parameter."""
    return bool(signatures) and any(
        not (accepts.optional or accepts.many)
        for place, accepts in enumerate(signatures[0].arguments)
        if accepts.fills == name or (place == at and not accepts.fills)
    )


def _kinds_said(at: int, name: str, signatures: tuple[Signature, ...]) -> list[str]:
    """What each of the signatures takes for a parameter, in words."""
    said: list[str] = []
    for signature in signatures:
        for place, accepts in enumerate(signature.arguments):
            if accepts.fills == name or (place == at and not accepts.fills):
                said.append(accepts.pattern.said({}))
        if signature.arguments and signature.arguments[-1].many and at >= len(signature.arguments):
            said.append(signature.arguments[-1].pattern.said({}))
    return said
