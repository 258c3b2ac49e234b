"""Blocks: a head that ends in a colon, and indented lines below it, the last of which is its value."""

from __future__ import annotations

import re

from ovolo.problems import Failure, Span
from ovolo.sheet import tree
from ovolo.sheet.clauses import head_of_block
from ovolo.sheet.formulas import expression_in
from ovolo.sheet.lines import BLOCK_HEAD, FUNCTION_HEAD, LOCAL_HEAD, goes_on, scan
from ovolo.sheet.statements.registry import content_of


def block_formula(code: str) -> tree.Formula:
    """A formula or a function whose value is a block. Raises Failure."""
    end_of_head = (code + "\n").index("\n")
    name, name_span, parameters = head_of_block(code, 0, end_of_head)
    if not code[end_of_head:].strip():
        raise Failure(
            f"the block `{name}` has no lines", "indent its lines below it; the last is its value"
        )
    return tree.Formula(name, _block(code, end_of_head + 1, len(code)), name_span, parameters)


def _block(code: str, start: int, end: int) -> tree.Block:
    *lines, last = _lines_of_block(code, start, end)
    locals_ = tuple(_local(code, *line) for line in lines)
    if _is_local(code[slice(*last)]):
        found = re.match(r"\s*([^\W\d]\w*)", code[slice(*last)])
        raise Failure(
            "the last line of a block is its value and has no name",
            f"add a line with `{found[1] if found else ''}`",
            _span_of(code, *last),
        )
    return tree.Block((start, end), locals_, expression_in(code, *last))


def _span_of(code: str, start: int, end: int) -> Span:
    """The place of a piece without the space around it."""
    piece = code[start:end]
    return start + len(piece) - len(piece.lstrip()), start + len(piece.rstrip())


def _is_local(piece: str) -> bool:
    head = piece.partition("\n")[0]
    return bool(BLOCK_HEAD.match(head) or LOCAL_HEAD.match(piece))


def _local(code: str, start: int, end: int) -> tree.Local:
    piece = code[start:end]
    head, _, rest = piece.partition("\n")
    span = _span_of(code, start, end)
    if BLOCK_HEAD.match(head):
        name, _, parameters = head_of_block(code, start, start + len(head))
        if not rest.strip():
            raise Failure(f"the block `{name}` has no lines", "indent its lines below it", span)
        return tree.Local(span, name, _block(code, start + len(head) + 1, end), parameters)
    if not _is_local(piece):
        raise Failure(
            "only the last line of a block may be without a name", "write `name = …`", span
        )
    formula = content_of("function" if FUNCTION_HEAD.match(piece) else "formula", code, start, end)
    assert isinstance(formula, tree.Formula)
    return tree.Local(span, formula.name, formula.value, formula.parameters)


def _lines_of_block(code: str, start: int, end: int) -> list[Span]:
    """The places of the logical lines of a block."""
    found: list[Span] = []
    margin: int | None = None
    depth, last, at = 0, "", start
    for line in code[start:end].split("\n"):
        indent = len(line) - len(line.lstrip())
        if line.strip():
            margin = indent if margin is None else margin
            if found and (depth > 0 or goes_on(last) or indent > margin):
                found[-1] = found[-1][0], at + len(line)
            else:
                depth = 0
                found.append((at, at + len(line)))
            depth = max(depth + scan(line)[1], 0)
            last = line
        at += len(line) + 1
    return found
