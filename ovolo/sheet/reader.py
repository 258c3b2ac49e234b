"""Reading a sheet: text -> logical lines -> one syntax tree per statement.

The tree of a statement depends on its text alone, so it is cached by that text.
"""

from __future__ import annotations

import re
from functools import lru_cache

from ovolo.problems import Failure, Span, unforeseen
from ovolo.remembering import remembers
from ovolo.sheet import tree
from ovolo.sheet.blocks import block_formula
from ovolo.sheet.halts import Halted
from ovolo.sheet.lines import (
    BLOCK_HEAD,
    BRACKETS,
    FUNCTION_HEAD,
    comment_start,
    lines_of,
    logical_lines,
    scan,
)
from ovolo.sheet.slips import slip_in
from ovolo.sheet.statements.registry import by_word, content_of

MOST_CHARACTERS = 1_000_000
"""A longer sheet is refused: it is not something a person wrote."""

MOST_IN_STATEMENT = 60_000
"""So many characters one statement may have; more figures than that belong into a table."""

_MOST_IN_SLIP = 1_000
"""In longer lines no slip of the pen is looked for."""

_KEYWORD = re.compile(
    rf"({'|'.join(by_word())})\b(?!\s*=(?!=))"
    rf"(?!\s*{BRACKETS}\s*[=:](?!=))"
)
_LEADING_NAME = re.compile(
    rf"(?:(?:input|part|file|use)\s+)?([^\W\d]\w*)\s*(?:{BRACKETS}\s*)?[=:(]"
)


def read_sheet(text: str) -> tree.Sheet:
    """All statements of a sheet, in order. Never raises: what cannot be read is `Unreadable`."""
    if len(text) > MOST_CHARACTERS:
        refusal = tree.Unreadable(
            f"the sheet has {len(text):,} characters; at most {MOST_CHARACTERS:,} are read",
            "split it into several studies",
            (0, 0),
        )
        return tree.Sheet(text, (tree.Statement("", 1, refusal),))
    statements = []
    for line, raw in logical_lines(text):
        content, comment = read_statement(raw)
        statements.append(tree.Statement(raw, line, content, comment))
    return tree.Sheet(text, tuple(statements))


def title_of(text: str) -> str:
    """What a sheet calls itself (`study "…"`), or nothing."""
    found = _TITLE.search(text)
    return re.sub(r"\\(.)", r"\1", found[1]) if found else ""


_TITLE = re.compile(r'^study[ \t]+"((?:\\.|[^"\\\n])*)"', re.MULTILINE)


@lru_cache(maxsize=50_000)
def read_statement(raw: str) -> tuple[tree.Content, str]:
    """What one statement says, and its comment; `raw` is the statement as written."""
    if len(raw) > MOST_IN_STATEMENT:
        return _too_long(raw), ""
    lines = lines_of(raw)
    code = "\n".join(scan(line)[0] for line in lines)
    comment = next((line[at:].lstrip("# ").strip() for line in lines
                    if (at := comment_start(line)) < len(line)), "")  # fmt: skip
    try:
        return _read(code), comment
    except Failure as failure:
        at = failure.span[0] if isinstance(failure, Halted) and failure.span else -1
        message, hint, span = _slip(code, at) or (failure.message, failure.hint, failure.span)
        return _unreadable(code, message, hint, span), comment
    except RecursionError:
        return _unreadable(code, "this is nested too deeply", "name a piece of it", None), comment
    except Exception as error:  # the net: it costs this line alone
        told = unforeseen(error, "the reader")
        return _unreadable(code, told.message, told.hint, None), comment


remembers(read_statement.cache_clear)


def _slip(code: str, at: int) -> tuple[str, str, Span] | None:
    return slip_in(code, at) if len(code) <= _MOST_IN_SLIP else None


def _too_long(raw: str) -> tree.Unreadable:
    said = f"this statement has {len(raw):,} characters; at most {MOST_IN_STATEMENT:,} are read"
    found = _LEADING_NAME.match(raw[:200])
    hint = "keep long lists of figures in a table, and read it with `file`"
    return tree.Unreadable(said, hint, (0, min(len(raw), 80)), found[1] if found else None)


def _unreadable(code: str, message: str, hint: str, span: Span | None) -> tree.Unreadable:
    found = _LEADING_NAME.match(code)
    end = len(code.rstrip())
    span = span or (len(code) - len(code.lstrip()), end)
    return tree.Unreadable(message, hint, span, found[1] if found else None)


def _read(code: str) -> tree.Content:
    stripped = code.strip()
    if not stripped:
        return tree.Blank()
    if code[:1].isspace():
        raise Failure(
            "this line is indented, but the line above it is complete",
            "start it at the margin, or end the line above with an operator or a comma",
        )
    if stripped.startswith("=="):
        return content_of("section", code)
    keyword = _KEYWORD.match(stripped)
    if keyword:
        return content_of(by_word()[keyword[1]].rule_for(stripped), code)
    if BLOCK_HEAD.match(code.partition("\n")[0]):
        return block_formula(code)
    if FUNCTION_HEAD.match(stripped):
        return content_of("function", code)
    if not re.match(r"[^\W\d]\w*\s*=(?!=)", stripped):
        raise Failure("this line has no name", f"write `name = {_first_words(stripped)}`")
    return content_of("formula", code)


def _first_words(text: str) -> str:
    first = text.splitlines()[0]
    return first if len(first) <= 30 else first[:30] + "…"
