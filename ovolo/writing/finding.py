"""Words found by what somebody needs: "round up", "equal spacing", "angle from slope".

The words of a phrase are weighed against what is known of each word of the language: its name, what it is
called elsewhere, what people say they need it for, its meaning, its arguments. Rare words weigh more (BM25:
Robertson and Zaragoza, "The probabilistic relevance framework", 2009, 3.2).
"""

from __future__ import annotations

import math
import re
from collections import Counter, defaultdict
from functools import cache
from typing import Any

from msgspec import Struct, field

from ovolo.fields import fields_told
from ovolo.writing.needs_said import NEEDS_SAID
from ovolo.writing.starting import starting_points
from ovolo.writing.vocabulary import vocabulary

_WEIGHTS = {"name": 9.0, "others": 7.0, "needs": 5.0, "meaning": 2.0, "arguments": 0.7}
_SATURATION, _LENGTH = 1.2, 0.3
"""k1 and b of BM25; texts here are short, so their length matters little."""

_EMPTY = frozenset(["a", "an", "the", "of", "in", "on", "at", "by", "to", "for", "with", "and", "or", "is", "are", "be", "it", "its", "that", "this", "how", "do", "i", "my", "me", "want", "need", "make", "get", "from", "into", "as", "so", "than"])  # fmt: skip


class Entry(Struct, frozen=True, eq=False):
    """What can be looked up: a `word`, `value`, `line`, `operator` or `unit` of the language, or a `how-to`."""

    sort: str
    name: str
    told: dict[str, Any] = field(default_factory=dict)
    """What is said of it: `meaning`, `usage`, `example`, `gives`, `parameters`, `others`, `trade`, `picture`."""

    @property
    def key(self) -> str:
        return f"{self.sort} {self.name}"


@cache
def entries() -> tuple[Entry, ...]:
    """All that can be looked up, in the order of the registry."""
    known = vocabulary()
    found = [
        Entry(
            "value" if one["constant"] else "word",
            one["name"],
            {**one, "picture": one["picture"] and fields_told(one["picture"])},
        )
        for one in known["words"]
    ]
    found += [
        Entry("line", name, {"meaning": meaning}) for name, meaning in known["statements"].items()
    ]
    found += [Entry("operator", one.written, fields_told(one)) for one in known["operators"]]
    found += [
        Entry("unit", symbol, {"meaning": f"{known['unit_names'][symbol]}, a unit of {dimension}", "others": [known["unit_names"][symbol], dimension]})
        for symbol, dimension in known["units"].items()
    ]  # fmt: skip
    return tuple(found)


def found_for(phrase: str, most: int = 60) -> list[Entry]:
    """The entries that serve a need, the best first; all in their order where nothing is asked."""
    asked = phrase.strip().casefold()
    if not asked:
        return list(entries()[:most])
    wanted = _stems(asked)
    ranked = [(_score(entry, asked, wanted), -at, entry) for at, entry in enumerate(entries())]
    best = sorted((one for one in ranked if one[0] > 0), key=lambda one: one[:2], reverse=True)
    return [entry for _, _, entry in best[:most]]


def points_for(phrase: str, most: int = 6) -> list[str]:
    """The keys of the starting points that serve a need, the best first."""
    asked = phrase.strip().casefold()
    wanted = _stems(asked)
    ranked = [(_score(one, asked, wanted), -at, one.name) for at, one in enumerate(_points())]
    return [name for score, _, name in sorted(ranked, reverse=True)[:most] if score > 0]


@cache
def _points() -> tuple[Entry, ...]:
    return tuple(
        Entry(
            "how-to",
            one.key,
            {"others": [one.title], "needs": ", ".join(one.needs), "meaning": one.said},
        )
        for one in starting_points()
    )


def _score(entry: Entry, asked: str, wanted: list[str]) -> float:
    name = entry.name.casefold()
    exact = 1000.0 if name == asked else 300.0 if len(asked) > 1 and name.startswith(asked) else 0.0
    if any(one.casefold() == asked for one in entry.told.get("others", ())):
        exact = max(exact, 500.0)
    told = _weighed(entry)
    total = sum(_rarity(stem) * _felt(told.get(stem, 0.0)) for stem in wanted)
    return exact + total * max((_likeness(need, wanted) for need in _needs(entry)), default=1.0)


def _likeness(need: tuple[str, ...], wanted: list[str]) -> float:
    """How much more a need counts that is said with all its words, and more so in their order."""
    if not set(need) <= set(wanted):
        return 1.0
    if len(need) < 2:
        return 1.2
    return 2.0 if [stem for stem in wanted if stem in need] == list(need) else 1.5


def _felt(weight: float) -> float:
    return weight * (_SATURATION + 1) / (weight + _SATURATION) if weight else 0.0


@cache
def _weighed(entry: Entry) -> dict[str, float]:
    """How much each stem stands for an entry."""
    found: defaultdict[str, float] = defaultdict(float)
    for part, weight in _WEIGHTS.items():
        stems = _stems(_text_of(entry, part))
        share = 1 / (1 - _LENGTH + _LENGTH * max(len(stems), 1) / 12)
        for stem, count in Counter(stems).items():
            found[stem] += weight * min(count, 2) * share / 5
    return dict(found)


def _text_of(entry: Entry, part: str) -> str:
    told = entry.told
    if part == "name":
        return re.sub("[_-]", " ", entry.name)
    if part == "others":
        return " ".join(told.get("others", ())).replace("_", " ")
    if part == "needs":
        said = NEEDS_SAID.get(entry.name, "") if entry.sort in ("word", "line") else ""
        return str(told.get("needs", said))
    if part == "meaning":
        return str(told.get("meaning", ""))
    return " ".join(one["meaning"] for one in told.get("parameters", ()))


@cache
def _needs(entry: Entry) -> tuple[tuple[str, ...], ...]:
    said = _text_of(entry, "needs").split(",")
    return tuple(stems for one in said if (stems := tuple(dict.fromkeys(_stems(one)))))


@cache
def _rarity(stem: str) -> float:
    """How much a stem tells entries apart (the inverse document frequency of BM25)."""
    count = sum(stem in _weighed(entry) for entry in entries())
    return math.log(1 + (len(entries()) - count + 0.5) / (count + 0.5))


_ALIKE = {
    "centre": "middle", "center": "middle", "biggest": "great", "largest": "great", "greatest": "great", "larger": "great", "higher": "great", "large": "great",
    "smallest": "least", "fewest": "least", "minimum": "least", "maximum": "great", "even": "equal", "evenly": "equal", "equally": "equal",
    "spaced": "space", "spacing": "space", "distance": "space", "rotate": "turn", "rotation": "turn", "rotated": "turn", "body": "solid", "bodies": "solid",
    "shape": "region", "outline": "region", "randomly": "random", "chance": "random", "tilted": "tilt", "rounded": "round", "rounding": "round",
    "staircase": "stair", "colour": "color", "metre": "meter", "path": "curve", "hollowed": "hollow", "twice": "two", "copy": "copies", "repeated": "repeat",
}  # fmt: skip
"""Words that are said for each other."""


def _stems(text: str) -> list[str]:
    """The words of a text without their endings, those that say nothing left out."""
    words = re.findall(r"[^\W_]+|[^\w\s]+", text.casefold())
    return [_stem(_ALIKE.get(word, word)) for word in words if word not in _EMPTY]


def _stem(word: str) -> str:
    if len(word) > 4:
        for ending in ("ings", "ing", "ies", "es", "ed", "s"):
            if word.endswith(ending) and len(word) - len(ending) >= 3:
                stem = word.removesuffix(ending)
                return stem + "y" if ending == "ies" else stem.removesuffix("e")
    return word.removesuffix("e") if len(word) > 3 else word
