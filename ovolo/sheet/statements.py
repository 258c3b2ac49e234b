"""What each kind of statement says: one rule for each, from its tokens to its content."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from ovolo.problems import Failure, Span
from ovolo.sheet import tree
from ovolo.sheet.formulas import DEEPEST, Reading, pieces_of_text, refuse_deep, unescaped
from ovolo.sheet.tokens import Token

Clause = Callable[[Reading], dict[str, Any]]
"""Reads what follows the word of a clause: fields of the statement's content."""

Head = tuple[str, Span, tuple[tree.Parameter, ...] | None]
"""A name with its place, and the parameters where it has some."""


def content_of(rule: str, code: str, start: int = 0, end: int | None = None) -> tree.Content:
    """What a piece of code says by one of the rules. Raises Failure where it does not follow it."""
    reading = Reading(code, start, end)
    content = RULES[rule](reading)
    if len(reading.tokens) > DEEPEST:
        refuse_deep(content)
    return content


def head_of_block(code: str, start: int, end: int) -> Head:
    """The line above an indented block, up to its colon."""
    reading = Reading(code, start, end)
    token = reading.name()
    parameters = _parameters(reading) if reading.kind == "(" else None
    reading.expect(":")
    reading.end()
    return token.text, token.span, parameters


# What statements have in common


def _name_and_value(reading: Reading) -> tuple[Token, tree.Node]:
    token = reading.name()
    reading.expect("=")
    return token, reading.expression()


def _parameters(reading: Reading) -> tuple[tree.Parameter, ...]:
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


def _keyword(reading: Reading, *words: str) -> Token | None:
    """The next token where it is one of these words, which may be names elsewhere."""
    token = reading.token
    return reading.take() if token.kind == "name" and token.text in words else None


def _expect_word(reading: Reading, word: str, after_value: bool = False) -> None:
    if _keyword(reading, word) is None:
        raise reading.halt(word, after_value=after_value)


def _behind(reading: Reading, word: str) -> tree.Node:
    """The expression behind a word that must follow a value."""
    _expect_word(reading, word, after_value=True)
    return reading.expression()


def _clauses(reading: Reading, rules: dict[str, Clause]) -> dict[str, Any]:
    """The clauses that follow, in any order, each at most once."""
    fields: dict[str, Any] = {}
    met: set[str] = set()
    while word := _keyword(reading, *rules):
        if word.text in met:
            said = _CLAUSES_SAID.get(word.text, word.text)
            span = reading.tokens[0].start, reading.tokens[-1].end
            raise Failure(f"this line gives its {said} twice", "", span)
        met.add(word.text)
        fields |= rules[word.text](reading)
    return fields


_CLAUSES_SAID = {
    "from": "limits", "of": "choices", "internal": "`internal`", "when": "condition", "at": "place",
}  # fmt: skip


def _plain(token: Token | None) -> str:
    """The characters of a text, without looking for braces."""
    return "" if token is None else unescaped(token.text[1:-1])


def _label(reading: Reading, *others: str) -> str:
    """The text at the end of a line, and the end; `others` could have come as well."""
    label = reading.takes("text")
    reading.end(*(() if label else (*others, "text")), after_value=label is None)
    return _plain(label)


def _one(field: str) -> Clause:
    return lambda reading: {field: reading.expression()}


# Lines with a name


def _formula(reading: Reading) -> tree.Formula:
    token, value = _name_and_value(reading)
    return tree.Formula(token.text, value, token.span, None, _label(reading))


def _function(reading: Reading) -> tree.Formula:
    token = reading.name()
    if reading.kind != "(":
        raise reading.halt("(")
    parameters = _parameters(reading)
    reading.expect("=")
    value = reading.expression()
    return tree.Formula(token.text, value, token.span, parameters, _label(reading))


def _input(reading: Reading) -> tree.Input:
    reading.take()
    token, value = _name_and_value(reading)
    fields = _clauses(reading, _CLAUSES_OF_INPUT)
    label = _label(reading, "from")
    return tree.Input(token.text, value, token.span, label=label, **fields)


def _limits(reading: Reading) -> dict[str, Any]:
    low = reading.expression()
    return {"low": low, "high": _behind(reading, "to")}


def _choices(reading: Reading) -> dict[str, Any]:
    choices = [reading.expression()]
    while reading.takes(","):
        choices.append(reading.expression())
    return {"choices": tuple(choices)}


_CLAUSES_OF_INPUT: dict[str, Clause] = {
    "from": _limits,
    "step": _one("step"),
    "of": _choices,
    "internal": lambda reading: {"internal": True},
}


def _part(reading: Reading) -> tree.Part:
    reading.take()
    token, value = _name_and_value(reading)
    fields = _clauses(reading, _CLAUSES_OF_PART)
    return tree.Part(token.text, value, token.span, label=_label(reading), **fields)


def _colour(reading: Reading) -> dict[str, Any]:
    """`oak`, `oak by list`, `by list`, `pine to oak by list`."""
    first = _colour_name(reading)
    if first is not None and _keyword(reading, "to"):
        last = _colour_name(reading)
        if last is None:
            raise reading.halt("name")
        reading.expect("by")
        return {"between": (first, last), "by": reading.expression()}
    fields: dict[str, Any] = {} if first is None else {"colour": first}
    if reading.takes("by"):
        fields["by"] = reading.expression()
    if not fields:
        raise reading.halt("name")
    return fields


def _colour_name(reading: Reading) -> str | None:
    return reading.take().text if reading.kind in ("name", "colour") else None


def _hatch(reading: Reading) -> dict[str, Any]:
    angle = reading.expression()
    reading.expect(",", after_value=True)
    return {"hatch": (angle, reading.expression())}


_CLAUSES_OF_PART: dict[str, Clause] = {
    "when": _one("condition"),
    "colour": _colour,
    "hatch": _hatch,
    "material": _one("material"),
}


def _use(reading: Reading) -> tree.Use:
    reading.take()
    token = reading.name()
    _expect_word(reading, "from")
    study = reading.expect("text")
    reading.end()
    return tree.Use(token.text, _plain(study), token.span)


def _file(reading: Reading) -> tree.File:
    reading.take()
    token = reading.name()
    reading.expect("=")
    name = reading.expect("text")
    calibration = _calibration(reading) if reading.kind != "end" else None
    return tree.File(token.text, _plain(name), token.span, calibration)


def _calibration(reading: Reading) -> tree.Calibration:
    begin = reading.token.start
    _expect_word(reading, "from")
    start = reading.expression()
    end = _behind(reading, "to")
    distance = _behind(reading, "is")
    fields = _clauses(reading, _CLAUSES_OF_CALIBRATION)
    reading.end(after_value=True)
    return tree.Calibration(reading.span_from(begin), start, end, distance, **fields)


_CLAUSES_OF_CALIBRATION: dict[str, Clause] = {
    "at": _one("place"),
    "turn": _one("turn"),
    "strength": _one("strength"),
}


# Lines without a name


def _study(reading: Reading) -> tree.Study:
    reading.take()
    title = reading.expect("text")
    reading.end()
    return tree.Study(_plain(title))


def _tolerance(reading: Reading) -> tree.Tolerance:
    reading.take()
    value = reading.expression()
    reading.end(after_value=True)
    return tree.Tolerance(value)


def _check(reading: Reading) -> tree.Check:
    reading.take()
    condition = reading.expression()
    message = reading.token if reading.kind == "text" else None
    said = _label(reading)
    if message is None:
        return tree.Check(condition)
    return tree.Check(
        condition, said, tree.Text(message.span, pieces_of_text(reading.code, message))
    )


def _preset(reading: Reading) -> tree.Preset:
    reading.take()
    title = reading.expect("text")
    reading.expect(":")
    settings = [_setting(reading)]
    while reading.takes(","):
        settings.append(_setting(reading))
    reading.end(after_value=True)
    if not _plain(title):
        raise Failure("a preset needs a name", 'for example preset "Attic": going = 220 mm')
    return tree.Preset(_plain(title), tuple(settings))


def _setting(reading: Reading) -> tree.Setting:
    token = reading.any_name()
    reading.expect("=")
    value = reading.expression()
    return tree.Setting((token.start, value.span[1]), token.text, value)


# Dims


def _dim(reading: Reading) -> tree.Dim:
    """`dim a from p to q offset d`"""
    reading.take()
    quantity = reading.expression()
    _expect_word(reading, "from", after_value=True)
    return _between(reading, quantity)


def _dim_angle(reading: Reading) -> tree.Dim:
    """`dim angle a at apex from p to q offset d`"""
    reading.take()
    _expect_word(reading, "angle")
    quantity = reading.expression()
    apex = _behind(reading, "at")
    _expect_word(reading, "from", after_value=True)
    return _between(reading, quantity, "angle", apex)


def _between(
    reading: Reading, quantity: tree.Node, form: str = "length", apex: tree.Node | None = None
) -> tree.Dim:
    start = reading.expression()
    end = _behind(reading, "to")
    offset = reading.expression() if _keyword(reading, "offset") else None
    reading.end(after_value=True)
    return tree.Dim(quantity, start, end, offset, form, apex)


def _dim_round(reading: Reading) -> tree.Dim:
    """`dim radius r about centre through p`"""
    reading.take()
    form = _keyword(reading, "radius", "diameter")
    if form is None:
        raise reading.halt()
    quantity = reading.expression()
    centre = _behind(reading, "about")
    rim = _behind(reading, "through")
    reading.end(after_value=True)
    return tree.Dim(quantity, centre, rim, form=form.text)


def _dim_level(reading: Reading) -> tree.Dim:
    """`dim level z at p above datum`"""
    reading.take()
    _expect_word(reading, "level")
    quantity = reading.expression()
    place = _behind(reading, "at")
    datum = reading.expression() if _keyword(reading, "above") else None
    reading.end(after_value=True)
    return tree.Dim(quantity, datum, place, form="level")


RULES: dict[str, Callable[[Reading], tree.Content]] = {
    "formula": _formula, "function": _function, "input": _input, "part": _part, "use": _use, "file": _file,
    "study": _study, "tolerance": _tolerance, "check": _check, "preset": _preset,
    "dim": _dim, "dim_angle": _dim_angle, "dim_round": _dim_round, "dim_level": _dim_level,
}  # fmt: skip
