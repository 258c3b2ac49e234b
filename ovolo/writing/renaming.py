"""A line renamed so that all values stay, and what needs a line: chance takes the study's `seed` where it is given none."""

from __future__ import annotations

from collections.abc import Iterator

from ovolo.problems import Failure
from ovolo.sheet import edits, tree
from ovolo.sheet.reader import read_sheet
from ovolo.words.all import WORDS

_SEED = "seed"


def renamed(text: str, old: str, new: str) -> str:
    """The sheet with a name changed wherever it is used. Raises Failure where that cannot be."""
    if old == _SEED:
        text = "\n".join(map(_with_its_seed, read_sheet(text).statements))
    after = edits.renamed(text, old, new)
    if new == _SEED:
        _refuse_other_chance(text)
    return after


def needed_by(text: str, name: str) -> list[tree.Statement]:
    """The statements that use what a line is called, named there or, as a seed, not."""
    found = edits.needed_by(text, name)
    if name != _SEED:
        return found
    lines = {one.line for one in found}
    return [
        one
        for one in read_sheet(text).statements
        if one.line in lines or any(_by_default(one.content))
    ]


def _by_default(content: tree.Content) -> Iterator[tree.Call]:
    """The calls of chance that are given no seed."""
    for node in tree.descendants(content):
        if not isinstance(node, tree.Call) or any(one.name == _SEED for one in node.arguments):
            continue
        if node.function in WORDS and WORDS[node.function].seeded:
            yield node


def _refuse_other_chance(text: str) -> None:
    for statement in read_sheet(text).statements:
        for call in _by_default(statement.content):
            raise Failure(
                f"line {statement.line} has chance without a seed: by an input called `{_SEED}` it would be another",
                f"write `{_SEED} = 0` in its `{call.function}` first, or choose another name",
            )


def _with_its_seed(statement: tree.Statement) -> str:
    """The text of a statement in which all chance says that it takes the study's seed."""
    text = statement.text
    ends = [_closing(text, call.name_span[1]) for call in _by_default(statement.content)]
    for at in sorted(ends, reverse=True):
        comma = "" if text[:at].rstrip().endswith("(") else ", "
        text = f"{text[:at]}{comma}{_SEED} = {_SEED}{text[at:]}"
    return text


def _closing(text: str, at: int) -> int:
    """Where the bracket is closed that opens next; brackets within texts do not count."""
    depth, quoted = 0, False
    for place in range(text.index("(", at), len(text)):
        letter = text[place]
        if letter == '"':
            quoted = not quoted
        elif not quoted and letter in "([{":
            depth += 1
        elif not quoted and letter in ")]}":
            depth -= 1
            if not depth:
                return place
    raise AssertionError("it was read, so it is closed")
