"""Where reading came to a halt, in plain words."""

from __future__ import annotations

import re

from ovolo.problems import Failure, Span
from ovolo.sheet.lines import unclosed_bracket
from ovolo.sheet.tokens import Token

VALUE = "a value"
"""Among what is wanted: the beginning of an expression."""

_SAID = {
    ")": "`)`", "]": "`]`", "then": "`then`", "else": "`else`", "=": "`=`", "in": "`in`", ":": "`:`",
    "to": "`to`", "from": "`from`", "text": 'a text in quotes "…"', "name": "a name",
}  # fmt: skip
"""What is proposed, the first three of them in this order."""


class Halted(Failure):
    """A piece of a statement that does not go on as it must."""


def halted(code: str, token: Token, wanted: tuple[str, ...], after_value: bool) -> Halted:
    """Reading stopped before `token`, where one of `wanted` was to come; `after_value` tells that an
    operator could have followed."""
    message, hint, span = _told(code, token, wanted, after_value)
    return Halted(message, hint, span)


def _told(
    code: str, token: Token, wanted: tuple[str, ...], after_value: bool
) -> tuple[str, str, Span]:
    bracket = unclosed_bracket(code)
    if token.kind == "unreadable":
        return *_of_character(code, token.start), (token.start, token.start + 1)
    if token.kind == "end":
        end = len(code.rstrip())
        if bracket is not None:
            closing = ")" if code[bracket] == "(" else "]"
            said = f"the bracket `{code[bracket]}` is not closed"
            return said, f"write `{closing}` where it ends", (bracket, bracket + 1)
        return "the line ends too early", _proposed(wanted), (max(end - 1, 0), end)
    if token.kind == "=" and after_value:
        return "a single = gives a name to a value", "to compare, write ==", token.span
    if bracket is not None and bracket < token.start and not {VALUE, "name"} & set(wanted):
        hint = f"the bracket `{code[bracket]}` before it is not closed"
        return f"`{token.text}` was not expected here", _proposed(wanted) or hint, token.span
    known = token.kind == "name" and _begins_a_clause(token.text)
    if after_value and token.kind in ("name", "number", "quantity") and not known:
        return f"`{token.text}` follows a value without an operator", _of_unit(code, token), token.span  # fmt: skip
    return f"`{token.text}` was not expected here", _proposed(wanted), token.span


def _begins_a_clause(word: str) -> bool:
    from ovolo.sheet.statements.registry import clause_words  # which reads by what stands here

    return word in clause_words()


def _of_unit(code: str, token: Token) -> str:
    before = code[: token.start].rstrip()
    if token.kind == "name" and before[-1:].isdigit():
        return f"`{token.text}` is not a unit; to multiply write *"
    return "to multiply write *"


def _of_character(code: str, at: int) -> tuple[str, str]:
    character = code[at]
    if character == '"':
        return "this text has no closing quote", 'end it with "'
    if character.isdigit():
        found = re.match(r"[\d.]+(?:[eE][-+]?\d+)?\s?([^\s\d.,()\[\]+*/^<>=-]+)", code[at:])
        if found:
            return f"`{found[0]}` cannot be read: `{found[1]}` is not a unit", "for example 12 mm"
    if character in "{};$@!?\\`~|%'":
        return f"the character `{character}` has no meaning here", ""
    return f"`{character}` was not expected here", ""


def _proposed(wanted: tuple[str, ...]) -> str:
    if VALUE in wanted:
        return "a value is expected here"
    named = [said for kind, said in _SAID.items() if kind in wanted]
    return f"expected {' or '.join(named[:3])}" if named else ""
