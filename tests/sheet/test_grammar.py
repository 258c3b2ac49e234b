"""The reader against its grammar as it is written down, read by a general parser (Lark, LALR)."""

from __future__ import annotations

import random
import re
from functools import cache
from pathlib import Path

import pytest
from lark import Lark
from lark.exceptions import UnexpectedInput

from ovolo.problems import Failure
from ovolo.quantities.units import UNIT_PATTERN
from ovolo.sheet import reader
from ovolo.sheet.halts import Halted
from ovolo.sheet.keywords import RESERVED
from ovolo.sheet.statements import registry
from ovolo.sheet.tokens import FIGURE, tokens_of
from tests.sheets import DEMO

GRAMMAR = "\n".join(
    [
        *(one.grammar.strip() for one in registry.statement_types()),
        Path(reader.__file__).with_name("grammar.lark").read_text(encoding="utf-8"),
    ]
)
_UNIT = UNIT_PATTERN.replace("/", r"\/")
_FRACTION = r"(?:\d+[ \t])?\d+\/\d+"
FIGURES = rf"""
SEXAGESIMAL.7: /{FIGURE}\s?°\s?\d+(?:\.\d+)?'(?:\s?\d+(?:\.\d+)?")?/
FEET_INCHES.7: /{FIGURE}\s?ft\s?(?:{_FRACTION}|{FIGURE})\s?in(?!\w)|{FIGURE}'(?:[ \t]?-?[ \t]?(?:{_FRACTION}|{FIGURE})")?/
FRACTION.6: /{_FRACTION}[ \t]?(?:{_UNIT})/
SLOPE.5: /{FIGURE}:{FIGURE}(?![\w.])/
QUANTITY.4: /{FIGURE}[ \t]?(?:{_UNIT})/
"""
_RULES = [rule for one in registry.statement_types() if one.grammar for rule in one.rules]
"""Sections and units are read by their text, not by tokens."""

_PIECES = [
    *"()[],=.+-*/^:<", "==", "->", "..", "if", "then", "else", "for", "in", "by", "within", "not", "and",
    "or", "yes", "1", "2 mm", "x", '"t"', "from", "to", "step", "colour", "1/2 in", "5'", "f ( x )",
]  # fmt: skip


@cache
def _lark() -> Lark:
    return Lark(GRAMMAR + FIGURES, parser="lalr", start=_RULES)


def _fits(rule: str, code: str) -> bool:
    try:
        _lark().parse(code, start=rule)
    except UnexpectedInput:
        return False
    return True


@pytest.fixture(scope="module")
def lines() -> list[tuple[str, str]]:
    """The rule and the code of every statement of the demonstration that is one rule's."""
    found: list[tuple[str, str]] = []

    def noted(rule: str, code: str, start: int = 0, end: int | None = None) -> object:
        found.append((rule, code))
        return registry.content_of(rule, code, start, end)

    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(reader, "content_of", noted)
        reader.read_statement.cache_clear()
        for path in sorted(DEMO.glob("*.ovo")):
            reader.read_sheet(path.read_text(encoding="utf-8"))
    return sorted({(rule, code) for rule, code in found if rule in _RULES})


def test_every_statement_of_the_demonstration_fits(lines: list[tuple[str, str]]) -> None:
    assert {rule for rule, _ in lines} >= {"input", "formula", "function", "part", "check", "dim"}
    assert [code for rule, code in lines if not _fits(rule, code)] == []


def _read(rule: str, code: str) -> bool | None:
    """Whether the reader takes it; None where it is refused for what it would mean."""
    try:
        registry.content_of(rule, code)
    except Halted:
        return False
    except Failure:
        return None
    return True


def test_what_is_altered_at_random_fits_where_it_is_read(lines: list[tuple[str, str]]) -> None:
    """Tokens are taken out, put in and swapped; the reader takes what the grammar takes."""
    rng = random.Random(11)
    differing, taken = [], 0
    for _ in range(3000):
        rule, code = rng.choice(lines)
        tokens = [token.text for token in tokens_of(code, 0, len(code))[:-1]]
        at = rng.randrange(1, len(tokens))
        match rng.randrange(3):
            case 0:
                del tokens[at]
            case 1:
                tokens.insert(at, rng.choice(_PIECES))
            case _:
                other = rng.randrange(1, len(tokens))
                tokens[at], tokens[other] = tokens[other], tokens[at]
        altered = " ".join(tokens)
        read = _read(rule, altered)
        if read is not None and read is not _fits(rule, altered):
            differing.append(altered)
        taken += bool(read)
    assert differing == [] and 300 < taken < 2700


def test_every_word_of_the_grammar_is_among_the_keywords() -> None:
    """From there the colours of the editor and completion have them."""
    words = set(re.findall(r'"([a-z]{2,})"', GRAMMAR))
    statements, clauses = registry.by_word().keys(), registry.clause_words()
    assert words - {*statements, *clauses, *RESERVED} == set()
    assert {*statements, *clauses} - {"units"} <= words
