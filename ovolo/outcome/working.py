"""Working: a value explained like a calculation sheet, from its formula down to the inputs."""

from __future__ import annotations

from ovolo.outcome import typeset
from ovolo.outcome.outcome import (
    Outcome,
    check_message,
    exactness_json,
    show_line,
    show_value,
)
from ovolo.outcome.scene_message import StepSaid
from ovolo.problems import Failure
from ovolo.quantities.kinds import TEXT, YES_NO, Kind, ListOf, PointKind, Quantity, Record
from ovolo.quantities.show import share_said
from ovolo.running.evaluate import LineOutcome
from ovolo.sheet import tree

MOST_STEPS = 200
"""More lines than these under one value are not explained in one piece."""


def working_of(outcome: Outcome, line: int, deep: bool = True) -> list[StepSaid]:
    """The working of the line that begins at `line`: itself, then what it needs, level by level,
    each once; only itself unless `deep`. Raises Failure where no such line has a value."""
    by_name = {one.line.name: one for one in reversed(outcome.lines) if one.line.name}
    first = next((one for one in outcome.lines if one.line.statement.line == line), None)
    if first is None or _expression(first.line.content) is None:
        raise Failure(f"there is nothing to explain at line {line}", "choose a line with a value")
    found, queue = {id(first): first}, [first]
    for one in queue if deep else ():
        for need in one.line.needs:
            needed = by_name.get(need)
            if needed is not None and id(needed) not in found and len(found) < MOST_STEPS:
                found[id(needed)] = needed
                queue.append(needed)
    return [_step(one, by_name, outcome) for one in found.values()]


def _expression(content: tree.Content) -> tree.Node | None:
    match content:
        case tree.Input(value=node) | tree.Formula(value=node) | tree.Part(value=node):
            return node
        case tree.Check(condition=node) | tree.Dim(quantity=node):
            return node
    return None


def _step(one: LineOutcome, by_name: dict[str, LineOutcome], outcome: Outcome) -> StepSaid:
    statement, content = one.line.statement, one.line.content
    node = _expression(content)
    formula = numbers = ""
    if node is not None and not isinstance(content, tree.Input):
        own = _parameters(content)

        def value_of(name: str) -> str | None:
            return None if name in own else _plain_value(by_name.get(name), outcome)

        formula = typeset.formula(node, statement.text)
        numbers = typeset.formula(node, statement.text, value_of)
    result = _result(one, outcome)
    return {
        "line": statement.line,
        "name": typeset.name(statement.name) + _parameter_list(content) if statement.name else "",
        "label": getattr(content, "label", "") or check_message(one),
        "role": type(content).__name__.lower(),
        "formula": "" if formula == result else formula,
        "numbers": "" if numbers in (formula, result) else numbers,
        "result": result,
        "problem": next((problem.message for problem in one.problems), ""),
        "comment": statement.comment,
        "exactness": _exactness(one),
    }


def _exactness(one: LineOutcome) -> str:
    told = exactness_json(one)
    if not told:
        return ""
    return "exact" if told["exact"] else share_said(told["within"])


def _parameters(content: tree.Content) -> list[str]:
    parameters = content.parameters if isinstance(content, tree.Formula) else None
    return [parameter.name for parameter in parameters or ()]


def _parameter_list(content: tree.Content) -> str:
    names = _parameters(content)
    return typeset.parameter_list(names) if names else ""


def _plain_value(one: LineOutcome | None, outcome: Outcome) -> str | None:
    """What is put in for a name: its value where that is short; otherwise the name stays."""
    if one is None or not one.has_value or not _is_short(one.line.kind):
        return None
    said = typeset.shown(show_line(one, outcome.units))
    return rf"\left({said}\right)" if said.startswith("-") else said


def _is_short(kind: Kind | None) -> bool:
    return isinstance(kind, Quantity | PointKind) or kind in (YES_NO, TEXT)


def _result(one: LineOutcome, outcome: Outcome) -> str:
    kind = one.line.kind
    if not one.has_value or kind is None or _parameters(one.line.content):
        return ""
    if isinstance(one.line.content, tree.Check):
        return typeset.text("holds" if one.value else "fails")
    if _is_short(kind) or isinstance(kind, Record):
        return typeset.shown(show_line(one, outcome.units))
    if isinstance(kind, ListOf):
        return typeset.text(str(show_value(one.value, kind, outcome.units)))
    return typeset.text(kind.said)
