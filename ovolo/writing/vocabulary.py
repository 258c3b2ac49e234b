"""The words of the language, and lines ready to fill, as an editor takes them."""

from __future__ import annotations

import re
from functools import cache

from ovolo.meaning.other_names import OTHER_NAMES
from ovolo.quantities.dimension import dimension_name
from ovolo.quantities.units import UNIT_NAMES, UNITS
from ovolo.sheet import tree
from ovolo.sheet.colours import TINTS
from ovolo.sheet.keywords import RESERVED
from ovolo.sheet.reader import read_statement
from ovolo.sheet.statements.registry import by_word
from ovolo.words.all import WORDS
from ovolo.words.registry import Parameter, Word
from ovolo.writing.answers import ArgumentSaid, NeedSaid, VocabularySaid, WordSaid
from ovolo.writing.constructs import CONSTRUCTS, TRADES_BY_NEED
from ovolo.writing.operators import OPERATORS
from ovolo.writing.pictures import picture_of
from ovolo.writing.starting import starting_points


@cache
def vocabulary() -> VocabularySaid:
    """All an editor offers to a person who writes; takes about a second the first time."""
    return {
        "words": [_word(word) for word in WORDS.values()],
        "constructs": CONSTRUCTS,
        "needs": _needs(),
        "starting": [
            {"key": one.key, "title": one.title, "said": one.said, "needs": ", ".join(one.needs)}
            for one in starting_points()
        ],
        "unit_names": UNIT_NAMES,
        "operators": OPERATORS,
        "units": {symbol: dimension_name(unit.dimension) for symbol, unit in UNITS.items()},
        "colours": TINTS,
        "reserved": sorted(RESERVED),
        "statements": {word: one.meaning for word, one in by_word().items()},
        "clauses": {word: one.keywords for word, one in by_word().items() if one.keywords},
    }


def _needs() -> list[NeedSaid]:
    """The needs in the order they are offered: those of whole lines first met, then of words."""
    titles = dict.fromkeys([c.need for c in CONSTRUCTS if c.need != "Order"])
    order = [*titles, *TRADES_BY_NEED, "Order"]
    return [{"title": title, "trades": TRADES_BY_NEED.get(title, ())} for title in order]


def _word(word: Word) -> WordSaid:
    return {
        "name": word.name,
        "trade": word.trade,
        "usage": word.usage,
        "meaning": " ".join(word.meaning.split()),
        "constant": word.constant,
        "example": word.example,
        "gives": word.gives,
        "others": _other_names(word),
        "parameters": [_argument(one, written) for one, written in arguments_of(word)],
        "picture": picture_of(word),
    }


def _other_names(word: Word) -> list[str]:
    """What the word may be called elsewhere."""
    name = word.name
    if word.constant or len(name) == 1:
        return []
    own = re.compile(rf"(?<![\w.]){re.escape(name)}(?!\w)")
    return [other for other, hint in OTHER_NAMES.items() if own.search(hint)]


def _argument(parameter: Parameter, written: str) -> ArgumentSaid:
    return {
        "name": parameter.name,
        "kind": parameter.kind,
        "meaning": " ".join(parameter.meaning.split()),
        "default": parameter.default,
        "optional": parameter.optional,
        "many": parameter.many,
        "written": written,
    }


def arguments_of(word: Word) -> list[tuple[Parameter, str]]:
    """The parameters of a word, each with what its example writes for it (may be nothing)."""
    call, text = call_in_example(word)
    found: dict[str, str] = {}
    for at, argument in enumerate(call.arguments if call is not None else ()):
        parameter = word.parameters[min(at, len(word.parameters) - 1)]
        name = parameter.name if argument.name is None else argument.name
        written = text[slice(*argument.value.span)]
        if all(name != one.name for one in word.parameters):  # the name of a column, and its value
            found[word.parameters[-2].name] = f'"{name}"'
            name = word.parameters[-1].name
        found[name] = f"{found[name]}, {written}" if parameter.many and name in found else written
    return [(parameter, found.get(parameter.name, "")) for parameter in word.parameters]


def call_in_example(word: Word) -> tuple[tree.Call | None, str]:
    """The call of a word in its example, with the line it stands in; None for a constant."""
    text = f"example = {word.example}"
    content, _ = read_statement(text)
    calls = (one for one in tree.descendants(content) if isinstance(one, tree.Call))
    return next((call for call in calls if call.function == word.name), None), text
