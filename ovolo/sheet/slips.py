"""Slips of the pen: what people type who write formulas elsewhere, and what is written here instead.

Each is looked for only in a line that cannot be read.
"""

from __future__ import annotations

import re

from msgspec import Struct

from ovolo.problems import nearest_name
from ovolo.quantities.units import UNIT_NAMES, UNITS
from ovolo.sheet.keywords import RESERVED
from ovolo.sheet.statements.registry import by_word, clause_words

_UNIT = "|".join(sorted(map(re.escape, UNITS), key=len, reverse=True))
_STATEMENT = "|".join(by_word())
_WORD = "|".join(sorted({*RESERVED, *by_word(), *clause_words()}))
_NAME = r"[^\W\d]\w*"
_FIGURE = r"(?:\d+(?:\.\d+)?|\.\d+)"
_TEXTS = re.compile(r'"(?:\\.|[^"\\\n])*"')


class Slip(Struct, frozen=True):
    """A pattern in the code of a line, and what to say of it: message and hint, where `{0}` is all
    that was found and `{1}`, `{2}` … its groups. (The patterns are compiled when a line first cannot
    be read: most processes never need them.)"""

    pattern: str
    message: str
    hint: str
    near: bool = False
    """Whether it counts only where reading came to a halt."""

    def told(self, found: re.Match[str]) -> tuple[str, str, tuple[int, int]]:
        groups = [found[0].strip(), *((one or "").strip() for one in found.groups())]
        return self.message.format(*groups), self.hint.format(*groups), found.span()


_SLIPS = (
    Slip(rf"^\s*(let|var|const|set|val)\s+({_NAME}\s*=.*)", "`{1}` is not needed", "write `{2}`"),
    Slip(rf"^\s*(def|function|func|fn)\s+({_NAME}\s*\([^()]*\)).*", "`{1}` is not needed", "write `{2} = …`"),
    Slip(r"^\s*return\b\s*(.*)", "`return` is not needed", "the last line of a block is its value: `{1}`"),
    Slip(r"^\s*print\s*\((.*)\)", "nothing is printed: every line shows its value", "give it a name: `shown = {1}`"),
    Slip(r"^\s*unit\s+(\S.*)", "`unit` is written `units`", "write `units {1}`"),
    Slip(rf"^\s*({_NAME})\s*:=", "`:=` is written =", "write `{1} = …`"),
    Slip(rf"^\s*({_NAME})\s*(?:==)(?!=)", "a line gives a value a name with one =", "write `{1} = …`; for a check `check {1} == …`"),
    Slip(rf"^\s*(?!(?:{_STATEMENT})\b)({_NAME}) +({_NAME})(?: +({_NAME}))?\s*=(?!=)", "a name has no blank in it", "write `{1}_{2} = …`"),
    Slip(rf"^\s*(input|part)\s+({_NAME}) +({_NAME})\s*=(?!=)", "a name has no blank in it", "write `{1} {2}_{3} = …`"),
    Slip(rf"^\s*input\s+({_NAME})\s+({_FIGURE}.*)", "there is no = behind the name", "write `input {1} = {2}`"),
    Slip(rf"^\s*preset\s+({_NAME})\s*:", "the name of a preset stands in quotes", 'write `preset "{1}": …`'),
    Slip(r"\bcolor\b", "`color` is written `colour`", "for example colour oak, or colour #8A6D3B"),
    Slip(r"\bbetween\b(.*?)\band\b(.*)", "limits and ends are written with from and to", "write `from {1} to {2}`"),
    Slip(rf"(?<![\w.])(\d+),(\d+)\s*({_UNIT})?(?!\w)", "`{0}` has a decimal comma", "write a decimal point: `{1}.{2} {3}`; thousands are written without a comma", near=True),
    Slip(rf"({_FIGURE})'\s*({_FIGURE}(?:\s\d+/\d+)?)\s*$", "the inches behind the feet have no mark", "write `{1}' {2}\"`, or `{1} ft {2} in`"),
    Slip(rf"(?<![\w'])((?:\d+\s)?\d+/\d+|{_FIGURE})\"", "inches alone are written `in`", "write `{1} in`"),
    Slip(r"'([^'\n]*)'", "a text stands in double quotes", 'write `"{1}"`'),
    Slip(rf"(?<![\w.])({_FIGURE})\s?(metres?|meters?|millimetres?|millimeters?|centimetres?|centimeters?|inch|inches|foot|feet|yards?|degrees?|radians?|seconds?|minutes?|hours?|kilograms?|grams?|pounds?|tonnes?|litres?|liters?)\b", "`{2}` is not a unit", "{2}"),
    Slip(r"([^?\n]+)\?([^:\n]+):(.+)", "a choice is written with if, then and else", "`if … then … else …`"),
    Slip(r"&&", "`&&` is written `and`", "for example a > 3 and b < 5"),
    Slip(r"\|\|", "`||` is written `or`", "for example a > 3 or b < 5"),
    Slip(r"!(?!=)", "`!` is written `not`", "for example not (a > 3)"),
    Slip(r"<>|=/=|=!", "`{0}` is written `!=`", "for example a != b"),
    Slip(r"=<|=>", "`{0}` is written `<=` or `>=`", "for example a <= b"),
    Slip(r"\*\*", "`**` is written `^`", "for example 2^3"),
    Slip(r"(\S+)\s*//\s*(\S+)", "`//` is written with floor", "`floor({1} / {2})`"),
    Slip(rf"({_NAME}|{_FIGURE}|\))\s*%\s*({_NAME}|{_FIGURE}|\()", "what remains is written with mod; % is per cent", "`mod({1}, {2})`"),
    Slip(r"(\S+)\s+mod\s+(\S+)", "`mod` is a word that takes two values", "`mod({1}, {2})`"),
    Slip(r"(\S+)\s+div\s+(\S+)", "`div` is written with floor", "`floor({1} / {2})`"),
    Slip(r"\bfor\s+(\w+)\s*=\s*", "a loop runs over a list or a range with `in`", "`for {1} in 0 .. 5`"),
    Slip(r"\[\s*for\s+([^:\n]+):\s*([^\]\n]+)\]", "the item of an array comes first", "`[{2} for {1}]`"),
    Slip(r"\[\s*for\b", "the item of an array comes first", "`[f(i) for i in 0 .. 5]`"),
    Slip(r"=\s*for\b(.*)", "an array stands in square brackets, its item first", "`[f(i) for i in 0 .. 5]`"),
    Slip(r";\s*\S", "a line holds one statement", "begin the next one on a new line"),
    Slip(r";", "a line does not end with ;", "leave it out"),
    Slip(r"\{([^{}]*)\}", "a list stands in square brackets", "`[{1}]`; braces put values into a text"),
    Slip(rf"(?<![\w.'])({_FIGURE})\s?\((?!\s*\))", "to multiply write *", "`{1} * (…)`", near=True),
    Slip(rf"([)\]])\s*({_UNIT})(?![\w^])", "a unit stands right behind a figure", "multiply by one of it: `(…) * 1 {2}`", near=True),
    Slip(rf"(?<![\w.])({_UNIT})\s+({_UNIT})(?![\w^])", "a figure has one unit", "to multiply write `1 {1} * 1 {2}`", near=True),
    Slip(rf"(?<![\w.])(?<!study )(?!(?:{_UNIT}|{_WORD})\b)({_NAME})\s+({_FIGURE})(?![\w^])", "what a function takes stands in brackets", "write `{1}({2})`; to multiply `{1} * {2}`", near=True),
    Slip(rf"(?<![\w.])({_NAME})\s+({_UNIT})(?![\w^])", "a unit stands right behind a figure, and `{1}` is a name", "multiply by one of it: `{1} * 1 {2}`", near=True),
    Slip(rf"(?<![\w.])({_FIGURE})\s?(?!(?:{_WORD})\b)({_NAME})", "`{2}` is not a unit", "to multiply write `{1} * {2}`", near=True),
    Slip(r"\]\s*\((\w+)\)", "an item of a list is taken with square brackets", "`[{1}]`", near=True),
    Slip(r"()\)\s*$", "the bracket `)` has no partner", "take it out, or open one before it", near=True),
)  # fmt: skip

_FACTOR = next(slip for slip in _SLIPS if slip.hint == "to multiply write `{1} * {2}`")

_CLOSED = _SLIPS[-1]

_LONG_UNITS = {
    "millimet": "mm", "centimet": "cm", "met": "m", "inch": "in", "foot": "ft", "feet": "ft",
    "yard": "yd", "degree": "°", "radian": "rad", "second": "s", "minute": "min", "hour": "h",
    "kilogram": "kg", "gram": "g", "pound": "lb", "tonne": "t", "lit": "l",
}  # fmt: skip
"""By how their names begin."""


_BY_NAME = {
    f"{name}{ending}": symbol
    for symbol, names in reversed(UNIT_NAMES.items())
    for name in names.split(", ")
    for ending in ("", "s")
}
"""The units by their names, for those that are written out and misspelt."""


def slip_in(code: str, at: int) -> tuple[str, str, tuple[int, int]] | None:
    """What was slipped into a line that cannot be read beyond `at`: message, hint and place; None
    where it is nothing known. What stands in texts is passed over."""
    plain = _TEXTS.sub(lambda found: '"' + "_" * (len(found[0]) - 2) + '"', code)
    for slip in _SLIPS:
        places = re.finditer(slip.pattern, plain, re.MULTILINE)
        found = next((p for p in places if not slip.near or p.start() <= at <= p.end()), None)
        if found is None or (slip is _FACTOR and found[2] in UNITS):
            continue
        if slip is _CLOSED and plain.count(")") <= plain.count("("):
            continue
        message, hint, span = slip.told(found)
        word = hint if hint.isalpha() else ""
        unit = next((u for start, u in _LONG_UNITS.items() if word and word.startswith(start)), "")
        near = nearest_name(found[2], [*UNITS, *_BY_NAME]) if slip is _FACTOR else None
        near = _BY_NAME.get(near, near) if near else None
        if near and len(found[2]) > 1:
            hint = f"did you mean `{found[1]} {near}`? {hint}"
        if unit:
            hint = f"write `{found[1]}{'' if unit == '°' else ' '}{unit}`"
        return message, re.sub(r" +`(?=[;,]|$)", "`", hint), span
    return None
