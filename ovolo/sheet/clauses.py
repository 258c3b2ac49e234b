"""What the rules of statements have in common: a name and its value, parameters, clauses, the end."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from ovolo.problems import Failure, Span
from ovolo.sheet import tree
from ovolo.sheet.formulas import Reading, unescaped
from ovolo.sheet.tokens import Token

Clause = Callable[[Reading], dict[str, Any]]
"""Reads what follows the word of a clause: fields of the statement's content."""

Head = tuple[str, Span, tuple[tree.Parameter, ...] | None]
"""A name with its place, and the parameters where it has some."""


def head_of_block(code: str, start: int, end: int) -> Head:
    """The line above an indented block, up to its colon."""
    reading = Reading(code, start, end)
    token = reading.name()
    given = parameters(reading) if reading.kind == "(" else None
    reading.expect(":")
    reading.end()
    return token.text, token.span, given


def name_and_value(reading: Reading) -> tuple[Token, tree.Node]:
    token = reading.name()
    reading.expect("=")
    return token, reading.expression()


def parameters(reading: Reading) -> tuple[tree.Parameter, ...]:
    reading.take()
    found: list[tree.Parameter] = []
    while reading.kind != ")":
        token = reading.name()
        default = reading.expression() if reading.takes("=") else None
        if any(token.text == other.name for other in found):
            raise Failure(f"`{token.text}` is given twice", "", token.span)
        found.append(tree.Parameter(token.span, token.text, default))
        if not reading.takes(","):
            break
    after_value = bool(found) and found[-1].default is not None
    reading.expect(")", after_value=after_value)
    return tuple(found)


def keyword(reading: Reading, *words: str) -> Token | None:
    """The next token where it is one of these words; they may be names, or words of expressions, elsewhere."""
    token = reading.token
    is_word = token.kind in ("name", token.text)
    return reading.take() if is_word and token.text in words else None


def expect_word(reading: Reading, word: str, after_value: bool = False) -> None:
    if keyword(reading, word) is None:
        raise reading.halt(word, after_value=after_value)


def behind(reading: Reading, word: str) -> tree.Node:
    """The expression behind a word that must follow a value."""
    expect_word(reading, word, after_value=True)
    return reading.expression()


def clauses(reading: Reading, rules: dict[str, Clause]) -> dict[str, Any]:
    """The clauses that follow, in any order, each at most once."""
    fields: dict[str, Any] = {}
    met: set[str] = set()
    while word := keyword(reading, *rules):
        if word.text in met:
            said = _SAID.get(word.text, word.text)
            span = reading.tokens[0].start, reading.tokens[-1].end
            raise Failure(f"this line gives its {said} twice", "", span)
        met.add(word.text)
        fields |= rules[word.text](reading)
    return fields


_SAID = {
    "from": "limits", "of": "choices", "internal": "`internal`", "when": "condition", "at": "place",
}  # fmt: skip
"""What a clause that is given twice is called, where that is not its word."""


def plain(token: Token | None) -> str:
    """The characters of a text, without looking for braces."""
    return "" if token is None else unescaped(token.text[1:-1])


def label_at_end(reading: Reading, *others: str) -> str:
    """The text at the end of a line, and the end; `others` could have come as well."""
    label = reading.takes("text")
    reading.end(*(() if label else (*others, "text")), after_value=label is None)
    return plain(label)


def one(field: str) -> Clause:
    return lambda reading: {field: reading.expression()}
