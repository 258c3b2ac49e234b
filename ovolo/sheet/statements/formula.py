"""`name = formula` and `name(parameters) = formula`: a value that follows, or a function."""

from __future__ import annotations

from typing import Any

from ovolo.sheet import tree
from ovolo.sheet.clauses import label_at_end, name_and_value, parameters
from ovolo.sheet.construct import Blank, Construct, blank_label, blank_name
from ovolo.sheet.formulas import Reading
from ovolo.sheet.statements.registry import Checker, StatementType


def _formula(reading: Reading) -> tree.Formula:
    token, value = name_and_value(reading)
    return tree.Formula(token.text, value, token.span, None, label_at_end(reading))


def _function(reading: Reading) -> tree.Formula:
    token = reading.name()
    if reading.kind != "(":
        raise reading.halt("(")
    given = parameters(reading)
    reading.expect("=")
    value = reading.expression()
    return tree.Formula(token.text, value, token.span, given, label_at_end(reading))


def _kind(content: tree.Formula, checker: Checker) -> Any:
    if content.parameters is not None:
        return checker.function(content)
    value = checker.check(content.value)
    checker.remark_edges(value.kind, content.value.span)
    return checker.done(value.kind, value)


def _body(statement: tree.Statement) -> str:
    content = statement.content
    assert isinstance(content, tree.Formula)
    end = content.name_span[1]
    if isinstance(content.value, tree.Block):
        first = statement.text.partition("\n")[0]
        return first[end:].split("#")[0].rstrip() + " …"
    head, tail = statement.text[end : content.value.span[0]], content.value.span
    return " ".join((head + statement.text[tail[0] : tail[1]]).split())


_GRAMMAR = r"""
formula: NAME "=" expression [TEXT]
function: NAME "(" [parameters] ")" "=" expression [TEXT]
"""

STATEMENT = StatementType(
    "", "a value that follows", tree.Formula, {"formula": _formula, "function": _function}, 50, grammar=_GRAMMAR,
    row="formula", kind=_kind, body=_body,
    constructs=(
        Construct(
            "A formula", "A value that follows", '{name} = {formula}‹ "{label}"›',
            (blank_name("new_value"), Blank("formula", "a formula", "what it follows from", "2 * 150 mm + 20 mm"),
             blank_label("New value")),
        ),
        Construct(
            "A formula", "One of two values", "{name} = if {condition} then {value} else {other}",
            (blank_name("new_value"), Blank("condition", "yes or no", "decides", "3 > 2"),
             Blank("value", "a value", "where it holds", "100 mm"),
             Blank("other", "a value of the same kind", "where it does not", "80 mm")),
        ),
        Construct(
            "A formula", "A function of your own", "{name}({parameter}) = {formula}",
            (blank_name("new_function"), Blank("parameter", "names, by comma", "what it is given", "i"),
             Blank("formula", "a formula", "what it makes of it", "(i + 1) * 100 mm")),
        ),
        Construct(
            "An array", "The same, by index", "{name} = [{item} for {index} in {from} .. {to}]",
            (blank_name("new_array"), Blank("item", "a formula of the index", "one item",
                                       "box(80 mm, 40 mm, 20 mm).move(i * 100 mm)"),
             Blank("index", "a name", "the number of the item", "i"),
             Blank("from", "a whole number", "the first index", "0"),
             Blank("to", "a whole number", "the last index, itself in", "4")),
        ),
    ),
)  # fmt: skip
