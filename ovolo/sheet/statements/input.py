"""`input size = 200 mm from 100 mm to 500 mm step 5 mm "Size"`: a value to turn."""

from __future__ import annotations

from typing import Any

from ovolo.problems import Failure
from ovolo.quantities.kinds import figure_kind, same_kind
from ovolo.sheet import tree
from ovolo.sheet.clauses import Clause, behind, clauses, label_at_end, name_and_value, one
from ovolo.sheet.construct import Blank, Construct, blank_label, blank_name
from ovolo.sheet.formulas import Reading
from ovolo.sheet.statements.registry import Checker, Running, StatementType, after_the_name


def _read(reading: Reading) -> tree.Input:
    reading.take()
    token, value = name_and_value(reading)
    fields = clauses(reading, _CLAUSES)
    label = label_at_end(reading, "from")
    return tree.Input(token.text, value, token.span, label=label, **fields)


def _limits(reading: Reading) -> dict[str, Any]:
    low = reading.expression()
    return {"low": low, "high": behind(reading, "to")}


def _choices(reading: Reading) -> dict[str, Any]:
    choices = [reading.expression()]
    while reading.takes(","):
        choices.append(reading.expression())
    return {"choices": tuple(choices)}


_CLAUSES: dict[str, Clause] = {
    "from": _limits,
    "step": one("step"),
    "of": _choices,
    "internal": lambda reading: {"internal": True},
}


def _kind(content: tree.Input, checker: Checker) -> Any:
    value = checker.literal(content.value)
    terms = {}
    for role, node in (("low", content.low), ("high", content.high), ("step", content.step)):
        if node is None:
            continue
        figure = figure_kind(value.kind)
        if figure is None:
            raise Failure(
                "only numbers, quantities, points and lists of quantities have limits and a step; "
                f"this input is {value.kind.said}",
                "",
                node.span,
            )
        what = {"low": "the lower limit", "high": "the upper limit", "step": "the step"}[role]
        terms[role] = checker.check_as(node, figure, f"{what} of `{content.name}`")
    choices = checker.choices(content.choices)
    for choice, node in choices:
        if same_kind(choice.kind, value.kind) is None:
            raise Failure(
                f"every choice must be {value.kind.said}; this is {choice.kind.said}", "", node.span
            )
    return checker.done(value.kind, value, terms, tuple(choice for choice, _ in choices))


def _run(content: tree.Input, line: Running) -> Any:
    return line.settings[content.name] if content.name in line.settings else line.value()


_LIMITS = (
    Blank("low", "a length", "the least value", "100 mm", True),
    Blank("high", "a length", "the greatest value", "500 mm", True),
    Blank("step", "a length", "from value to value on the slide rule", "5 mm", True),
)

_GRAMMAR = r"""
input: "input" NAME "=" expression input_clause* [TEXT]
?input_clause: "from" expression "to" expression -> limits
    | "step" expression                          -> step
    | "of" expression ("," expression)*          -> choices
    | "internal"                                 -> internal
"""

STATEMENT = StatementType(
    "input", "a value to turn", tree.Input, {"input": _read}, 40, grammar=_GRAMMAR,
    keywords=("from", "to", "step", "of", "internal"), kind=_kind, run=_run,
    body=after_the_name, limited=True,
    constructs=(
        Construct(
            "An input", "A length, an angle or a number to turn",
            'input {name} = {value}‹ from {low} to {high}›‹ step {step}›‹ "{label}"›',
            (blank_name("new_size"), Blank("value", "a figure with its unit", "what it is at first", "200 mm"),
             *_LIMITS, blank_label("New size")),
        ),
        Construct(
            "An input", "A choice of a few values",
            'input {name} = {value} of {choices}‹ "{label}"›',
            (blank_name("new_choice"), Blank("value", "one of the choices", "what it is at first", '"round"'),
             Blank("choices", "values, by comma", "what can be chosen", '"round", "square"'),
             blank_label("New choice")),
        ),
        Construct(
            "An input", "Yes or no", 'input {name} = {value}‹ "{label}"›',
            (blank_name("new_option"), Blank("value", "yes or no", "what it is at first", "yes"),
             blank_label("New option")),
        ),
        Construct(
            "An input", "A point to drag", 'input {name} = ({x}, {y})‹ "{label}"›',
            (blank_name("new_place"), Blank("x", "a length", "along x", "100 mm"),
             Blank("y", "a length", "along y", "50 mm"), blank_label("New place")),
        ),
        Construct(
            "An input", "A few lengths in a row",
            'input {name} = [{values}]‹ from {low} to {high}›‹ step {step}›‹ "{label}"›',
            (blank_name("new_sizes"), Blank("values", "figures, by comma", "what they are at first",
                                       "120 mm, 180 mm, 240 mm"), *_LIMITS, blank_label("New sizes")),
        ),
    ),
)  # fmt: skip
