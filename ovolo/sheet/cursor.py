"""Going along the tokens of a statement."""

from __future__ import annotations

from ovolo.problems import Failure, Span
from ovolo.sheet.halts import Halted, halted
from ovolo.sheet.keywords import RESERVED
from ovolo.sheet.tokens import Token, tokens_of


class Cursor:
    """A piece of a statement and how far it is read. `kind` is that of the token that comes next.

    Every method that takes something raises Failure where it cannot, with its place.
    """

    __slots__ = ("at", "code", "kind", "tokens")

    def __init__(self, code: str, start: int = 0, end: int | None = None) -> None:
        self.code = code
        self.tokens = tokens_of(code, start, len(code) if end is None else end)
        self.at = 0
        self.kind = self.tokens[0].kind

    @property
    def token(self) -> Token:
        """The token that comes next."""
        return self.tokens[self.at]

    def take(self) -> Token:
        token = self.tokens[self.at]
        self.at += 1
        self.kind = self.tokens[self.at].kind
        return token

    def takes(self, kind: str) -> Token | None:
        return self.take() if self.kind == kind else None

    def expect(self, kind: str, *others: str, after_value: bool = False) -> Token:
        """The next token, which must be of a kind; `others` could have come as well."""
        if self.kind != kind:
            raise self.halt(kind, *others, after_value=after_value)
        return self.take()

    def end(self, *others: str, after_value: bool = False) -> None:
        """Nothing more may follow; `others` could have come as well."""
        if self.kind != "end":
            raise self.halt(*others, after_value=after_value)

    def halt(self, *wanted: str, after_value: bool = False) -> Halted:
        return halted(self.code, self.token, wanted, after_value)

    def span_from(self, start: int) -> Span:
        """From a place to the end of what was read last."""
        return start, self.tokens[self.at - 1].end

    def any_name(self) -> Token:
        """A name, also one that a line could not have."""
        if self.kind != "name" and self.kind not in RESERVED:
            raise self.halt("name")
        return self.take()

    def name(self) -> Token:
        return checked_name(self.any_name())

    def kind_at(self, ahead: int) -> str:
        """The kind of a token behind the next one."""
        return self.tokens[min(self.at + ahead, len(self.tokens) - 1)].kind


def checked_name(token: Token) -> Token:
    """The token, if a line may bear its name."""
    if token.kind in RESERVED:
        raise Failure(
            f"`{token.text}` is a word of the language and cannot be a name",
            f"for example `{token.text}_`",
            token.span,
        )
    return token
