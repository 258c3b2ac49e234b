"""Reading a sheet: text -> logical lines -> one syntax tree per statement.

The tree of a statement depends on its text alone, so it is cached by that text.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from functools import lru_cache
from typing import Any

from lark import Token
from lark.exceptions import UnexpectedCharacters, UnexpectedInput, UnexpectedToken

from ovolo.problems import Failure, Span, unforeseen
from ovolo.sheet import tree
from ovolo.sheet.build import parse
from ovolo.sheet.keywords import STATEMENTS
from ovolo.sheet.slips import slip_in

MOST_CHARACTERS = 1_000_000
"""A longer sheet is refused: it is not something a person wrote."""

MOST_IN_STATEMENT = 60_000
"""So many characters one statement may have; more figures than that belong into a table."""

_MOST_IN_SLIP = 1_000
"""In longer lines no slip of the pen is looked for."""

_BRACKETS = r"\((?:[^()]|\((?:[^()]|\((?:[^()]|\([^()]*\))*\))*\))*\)"
"""Brackets with up to three more in each other: the parameters of a function and their defaults."""

_KEYWORD = re.compile(
    rf"({'|'.join(STATEMENTS)})\b(?!\s*=(?!=))"
    rf"(?!\s*{_BRACKETS}\s*[=:](?!=))"
)
_SCAN = re.compile(
    r"""(?P<feet>\d'\s?-?\s?[\d ./]+")   # inches behind feet, not a text
      | (?P<angle>\d\s?°\s?\d+(?:\.\d+)?'(?:\s?\d+(?:\.\d+)?")?)   # minutes and seconds, not a text
      | (?P<text>"(?:\\.|[^"\\])*"?)
      | (?P<colour>\bcolour\s+(?:\w+\s+to\s+)?\#[0-9A-Fa-f]{3,6}(?:\s+to\s+\#[0-9A-Fa-f]{3,6})?)
      | (?P<comment>\#.*)
      | (?P<open>[(\[])
      | (?P<close>[)\]])""",
    re.VERBOSE,
)
_GOES_ON = re.compile(
    r"(?:[-+*/^&=<>,(\[×·−≤≥≠]|\.\.|\b(?:and|or|not|then|else|if|in|by|within|to|from|for))\s*$"
)
_BLOCK_HEAD = re.compile(rf"\s*[^\W\d]\w*\s*(?:{_BRACKETS}\s*)?:\s*$")
_FUNCTION_HEAD = re.compile(rf"\s*[^\W\d]\w*\s*{_BRACKETS}\s*=(?!=)")
_LOCAL_HEAD = re.compile(rf"\s*[^\W\d]\w*\s*(?:{_BRACKETS}\s*)?=(?!=)")
_LEADING_NAME = re.compile(
    rf"(?:(?:input|part|file|use)\s+)?([^\W\d]\w*)\s*(?:{_BRACKETS}\s*)?[=:(]"
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
    for line, raw in _logical_lines(text):
        content, comment = read_statement(raw)
        statements.append(tree.Statement(raw, line, content, comment))
    return tree.Sheet(text, tuple(statements))


def title_of(text: str) -> str:
    """What a sheet calls itself (`study "…"`), or nothing."""
    found = _TITLE.search(text)
    return re.sub(r"\\(.)", r"\1", found[1]) if found else ""


_TITLE = re.compile(r'^study[ \t]+"((?:\\.|[^"\\\n])*)"', re.MULTILINE)


def lines_of(text: str) -> list[str]:
    """The physical lines of a text; only a line feed ends one, so that a text is never altered."""
    return text.split("\n")


def _logical_lines(text: str) -> Iterator[tuple[int, str]]:
    """First line number and text of each statement, together covering every line."""
    pending: list[str] = []
    first, depth, last_code, in_block = 1, 0, "", False
    lines = lines_of(text)
    indented_after = _indented_after(lines)
    for number, line in enumerate(lines, start=1):
        code, change = _scan(line)
        indented = bool(code.strip()) and line[:1].isspace()
        goes_on = depth > 0 or in_block or _goes_on(last_code)
        blank_inside = not code.strip() and bool(pending) and goes_on
        if pending and ((indented and goes_on) or (blank_inside and indented_after[number - 1])):
            pending.append(line)
            depth = max(depth + change, 0)
            last_code = code if code.strip() else last_code
            continue
        if pending:
            yield first, "\n".join(pending)
        pending, first, depth, last_code = [line], number, max(change, 0), code
        in_block = bool(_BLOCK_HEAD.match(code)) and not indented
    if pending:
        yield first, "\n".join(pending)


def _indented_after(lines: list[str]) -> list[bool]:
    """For each line whether the next one that is not blank is indented."""
    found, indented = [False] * len(lines), False
    for at in range(len(lines) - 1, -1, -1):
        found[at] = indented
        if _scan(lines[at])[0].strip():
            indented = lines[at][:1].isspace()
    return found


def _goes_on(code: str) -> bool:
    """Whether a line ends so that the next one goes on with it."""
    return bool(_GOES_ON.search(code.rstrip()[-12:]))


@lru_cache(maxsize=50_000)
def _scan(line: str) -> tuple[str, int]:
    """The line with its comment blanked out, and how many more brackets it opens than closes."""
    depth = 0
    for found in _SCAN.finditer(line):
        if found["comment"] is not None:
            return line[: found.start()].ljust(len(line)), depth
        depth += (found["open"] is not None) - (found["close"] is not None)
    return line, depth


def comment_start(line: str) -> int:
    """Where the comment of a physical line begins, or its length where it has none."""
    for found in _SCAN.finditer(line):
        if found["comment"] is not None:
            return found.start()
    return len(line)


@lru_cache(maxsize=50_000)
def read_statement(raw: str) -> tuple[tree.Content, str]:
    """What one statement says, and its comment; `raw` is the statement as written."""
    if len(raw) > MOST_IN_STATEMENT:
        return _too_long(raw), ""
    lines = lines_of(raw)
    code = "\n".join(_scan(line)[0] for line in lines)
    comment = next((line[at:].lstrip("# ").strip() for line in lines
                    if (at := comment_start(line)) < len(line)), "")  # fmt: skip
    try:
        return _read(code), comment
    except Failure as failure:
        slip = _slip(code, -1)
        message, hint, span = slip or (failure.message, failure.hint, failure.span)
        return _unreadable(code, message, hint, span), comment
    except UnexpectedInput as error:
        explained = _explain(code, error)
        message, hint, span = _slip(code, explained[2][0]) or explained
        return _unreadable(code, message, hint, span), comment
    except RecursionError:
        return _unreadable(code, "this is nested too deeply", "name a piece of it", None), comment
    except Exception as error:  # the net: it costs this line alone
        told = unforeseen(error, "the reader")
        return _unreadable(code, told.message, told.hint, None), comment


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
        return _section(stripped)
    keyword = _KEYWORD.match(stripped)
    if keyword:
        word = _form_of_dim(stripped) if keyword[1] == "dim" else keyword[1]
        return _units(stripped) if word == "units" else _content(word, code)
    head, _, rest = code.partition("\n")
    if _BLOCK_HEAD.match(head):
        return _block_formula(head, rest)
    if _FUNCTION_HEAD.match(stripped):
        return _content("function", code)
    if not re.match(r"[^\W\d]\w*\s*=(?!=)", stripped):
        raise Failure("this line has no name", f"write `name = {_first_words(stripped)}`")
    return _content("formula", code)


_CLAUSE_OF_DIM = re.compile(r"(?<=\s)(about|through|at|from)(?=\s)(?!\s+=)")


def _form_of_dim(stripped: str) -> str:
    """The rule for a dim. Its words may be names as well: `dim radius from p to q`."""
    words = stripped.split(None, 2)
    what = words[1] if len(words) == 3 else ""
    clauses = [found[1] for found in _CLAUSE_OF_DIM.finditer(stripped)]
    if what in ("radius", "diameter") and _in_order(clauses, "about", "through"):
        return "dim_round"
    if what == "level" and "at" in clauses and "from" not in clauses:
        return "dim_level"
    return "dim_angle" if what == "angle" and _in_order(clauses, "at", "from") else "dim"


def _in_order(words: list[str], first: str, second: str) -> bool:
    """Whether one word stands before another somewhere."""
    return first in words and second in words[words.index(first) + 1 :]


def _content(start: str, code: str) -> tree.Content:
    content: tree.Content = parse(start, code)
    if isinstance(content, tree.Preset) and not content.title:
        raise Failure("a preset needs a name", 'for example preset "Attic": going = 220 mm')
    return content


def _first_words(text: str) -> str:
    first = text.splitlines()[0]
    return first if len(first) <= 30 else first[:30] + "…"


def _section(stripped: str) -> tree.Section:
    title = stripped[2:-2].strip() if len(stripped) > 4 and stripped.endswith("==") else ""
    if not title:
        raise Failure("a section is written == Title ==", "two equals signs on either side")
    return tree.Section(title)


def _units(stripped: str) -> tree.Units:
    body = stripped.removeprefix("units")
    symbols = []
    for found in re.finditer(r"[^,]+", body):
        symbol = found[0].strip()
        at = len("units") + found.start() + found[0].index(symbol) if symbol else 0
        if symbol:
            symbols.append((symbol, (at, at + len(symbol))))
    if not symbols:
        raise Failure("which units?", "for example units mm, deg")
    return tree.Units(tuple(symbols))


def _block_formula(head: str, body: str) -> tree.Formula:
    name, name_span, parameters = parse("block_head", head)
    if not body.strip():
        raise Failure(
            f"the block `{name}` has no lines", "indent its lines below it; the last is its value"
        )
    return tree.Formula(name, _block(body, len(head) + 1), name_span, parameters)


def _block(body: str, offset: int) -> tree.Block:
    """The tree of a block's lines; `body` begins `offset` characters into the statement."""
    pieces = _pieces_of_block(body, offset)
    locals_ = []
    for start, piece in pieces[:-1]:
        locals_.append(_local(start, piece))
    start, piece = pieces[-1]
    if _is_local(piece):
        found = re.match(r"\s*([^\W\d]\w*)", piece)
        name = found[1] if found else ""
        raise Failure(
            "the last line of a block is its value and has no name",
            f"add a line with `{name}`",
            _span_of(start, piece),
        )
    value = parse("expression", " " * start + piece)
    return tree.Block((offset, offset + len(body)), tuple(locals_), value)


def _span_of(start: int, piece: str) -> Span:
    """The place of a piece without the space around it."""
    return start + len(piece) - len(piece.lstrip()), start + len(piece.rstrip())


def _is_local(piece: str) -> bool:
    head = piece.partition("\n")[0]
    return bool(_BLOCK_HEAD.match(head) or _LOCAL_HEAD.match(piece))


def _local(start: int, piece: str) -> tree.Local:
    head, _, rest = piece.partition("\n")
    span = _span_of(start, piece)
    if _BLOCK_HEAD.match(head):
        name, _, parameters = parse("block_head", " " * start + head)
        if not rest.strip():
            raise Failure(f"the block `{name}` has no lines", "indent its lines below it", span)
        return tree.Local(span, name, _block(rest, start + len(head) + 1), parameters)
    if not _is_local(piece):
        raise Failure(
            "only the last line of a block may be without a name", "write `name = …`", span
        )
    rule = "function" if _FUNCTION_HEAD.match(piece) else "formula"
    formula: tree.Formula = parse(rule, " " * start + piece)
    return tree.Local(span, formula.name, formula.value, formula.parameters)


def _pieces_of_block(body: str, offset: int) -> list[tuple[int, str]]:
    """The logical lines of a block with the offset of each within the statement."""
    pieces: list[tuple[int, str]] = []
    margin: int | None = None
    depth, last, at = 0, "", offset
    for line in body.split("\n"):
        indent = len(line) - len(line.lstrip())
        if line.strip():
            margin = indent if margin is None else margin
            goes_on = bool(pieces) and (depth > 0 or _goes_on(last) or indent > margin)
            if goes_on:
                start, text = pieces[-1]
                pieces[-1] = (start, text + " " * (at - start - len(text) - 1) + "\n" + line)
            else:
                depth = 0
                pieces.append((at, line))
            depth = max(depth + _scan(line)[1], 0)
            last = line
        at += len(line) + 1
    return pieces


_EXPECTED = {
    "RPAR": "`)`", "RSQB": "`]`", "THEN": "`then`", "ELSE": "`else`", "EQUAL": "`=`",
    "IN": "`in`", "COLON": "`:`", "TO": "`to`", "FROM": "`from`", "TEXT": 'a text in quotes "…"',
    "NAME": "a name",
}  # fmt: skip


def _explain(code: str, error: UnexpectedInput) -> tuple[str, str, Span]:
    """A reading error in plain words: message, hint and place."""
    bracket = _unclosed_bracket(code)
    if isinstance(error, UnexpectedCharacters):
        at = error.pos_in_stream or 0
        return *_explain_characters(code, at), (at, at + 1)
    assert isinstance(error, UnexpectedToken)
    token: Token = error.token
    expected = set(error.accepts or error.expected)
    if token.type == "$END":
        end = len(code.rstrip())
        if bracket is not None:
            closing = ")" if code[bracket] == "(" else "]"
            said = f"the bracket `{code[bracket]}` is not closed"
            return said, f"write `{closing}` where it ends", (bracket, bracket + 1)
        return "the line ends too early", _wanted(expected), (max(end - 1, 0), end)
    at = token.start_pos or 0
    span = (at, at + len(token))
    if token.type == "EQUAL" and "COMPARISON" in expected:
        return "a single = gives a name to a value", "to compare, write ==", span
    if bracket is not None and bracket < at and not expected & {"NAME", "NUMBER"}:
        hint = f"the bracket `{code[bracket]}` before it is not closed"
        return f"`{token}` was not expected here", _wanted(expected) or hint, span
    if token.type in ("NAME", "NUMBER", "QUANTITY") and "SIGN" in expected:
        return f"`{token}` follows a value without an operator", _unit_hint(code, token), span
    return f"`{token}` was not expected here", _wanted(expected), span


def _unit_hint(code: str, token: Any) -> str:
    before = code[: token.start_pos or 0].rstrip()
    if token.type == "NAME" and before[-1:].isdigit():
        return f"`{token}` is not a unit; to multiply write *"
    return "to multiply write *"


def _explain_characters(code: str, at: int) -> tuple[str, str]:
    character = code[at]
    if character == '"':
        return "this text has no closing quote", 'end it with "'
    if character.isdigit():
        found = re.match(r"[\d.]+(?:[eE][-+]?\d+)?\s?([^\s\d.,()\[\]+*/^<>=-]+)", code[at:])
        if found:
            return f"`{found[0]}` cannot be read: `{found[1]}` is not a unit", "for example 12 mm"
    if character == ".":
        return "a number begins with a figure", "write 0.5, not .5"
    if character in "{};$@!?\\`~|%'":
        return f"the character `{character}` has no meaning here", ""
    return f"`{character}` was not expected here", ""


def _wanted(expected: set[str]) -> str:
    if {"NAME", "NUMBER", "LPAR"} <= expected:
        return "a value is expected here"
    named = [said for terminal, said in _EXPECTED.items() if terminal in expected]
    return f"expected {' or '.join(named[:3])}" if named else ""


def _unclosed_bracket(code: str) -> int | None:
    opened: list[int] = []
    for found in _SCAN.finditer(code):
        if found["open"] is not None:
            opened.append(found.start())
        elif found["close"] is not None and opened:
            opened.pop()
    return opened[-1] if opened else None
