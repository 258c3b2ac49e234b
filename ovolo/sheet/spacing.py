"""The spacing of a sheet by one rule.

One blank where there is any, one around the `=` of a line and behind a comma, none within brackets beside them, two
before a comment; no blanks at the end of a line, one blank line where there are more. What a statement says stays the
same: a line that cannot be read, or would be read otherwise, stays as it is.
"""

from __future__ import annotations

import re

from ovolo.sheet.lines import comment_start, lines_of, with_line_feeds
from ovolo.sheet.tokens import Token, tokens_of

_OPENING, _CLOSING = ("(", "["), (")", "]", ",")


def spaced(text: str) -> str:
    """The text of a sheet, spaced by the rule."""
    lines = [_spaced_line(line) for line in lines_of(with_line_feeds(text))]
    whole = re.sub(r"\n{3,}", "\n\n", "\n".join(lines))
    return whole.strip("\n") + "\n"


def _spaced_line(line: str) -> str:
    at = comment_start(line)
    code, comment = line[:at].rstrip(), line[at:].rstrip()
    if not code.strip():
        return f"{line[:at]}{comment}".rstrip()
    said = _spaced_code(code)
    return f"{said}  {comment}" if comment else said


def _spaced_code(code: str) -> str:
    tokens = tokens_of(code, 0, len(code))[:-1]
    if any(token.kind == "unreadable" for token in tokens):
        return code
    found, depth = code[: len(code) - len(code.lstrip())], 0
    sets: Token | None = None
    for before, token in zip([None, *tokens], tokens, strict=False):
        if sets is None and token.kind == "=" and depth == 0:
            sets = token
        found += _gap(code, before, token, sets) + token.text
        depth += (token.kind in _OPENING) - (token.kind in (")", "]"))
    return found if _alike(tokens, tokens_of(found, 0, len(found))[:-1]) else code


def _gap(code: str, before: Token | None, token: Token, sets: Token | None) -> str:
    """What stands between two tokens; `sets` is the `=` of the line."""
    if before is None or token.kind in _CLOSING or before.kind in _OPENING:
        return ""
    apart = token is sets or before is sets or before.kind == ","
    return " " if apart or code[before.end : token.start] else ""


def _alike(old: list[Token], new: list[Token]) -> bool:
    return [(one.kind, one.text) for one in old] == [(one.kind, one.text) for one in new]
