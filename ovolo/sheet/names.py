"""Where names are used: references that a statement does not itself define."""

from __future__ import annotations

import re
from collections.abc import Iterator
from functools import lru_cache

from ovolo.problems import Span
from ovolo.remembering import remembers
from ovolo.sheet import tree
from ovolo.sheet.reader import read_sheet

Reference = tuple[str, Span]
_NONE: frozenset[str] = frozenset()


@lru_cache(maxsize=100_000)
def references(content: tree.Content | tree.Node) -> tuple[Reference, ...]:
    """Each use of a name of the sheet (or of a word) with its place in the statement."""
    found: list[Reference] = []
    _gather(content, _NONE, found)
    return tuple(found)


@lru_cache(maxsize=100_000)
def local_names(content: tree.Content | tree.Node) -> frozenset[str]:
    """The parameters, loop variables and local lines within a statement."""
    return frozenset(
        node.name
        for node in tree.descendants(content)
        if isinstance(node, tree.Parameter | tree.Each | tree.Local)
    )


remembers(references.cache_clear)
remembers(local_names.cache_clear)

_QUOTED = r'"((?:\\.|[^"\\\n])*)"'
# Lines that begin so, in a text with a line feed before it: a pattern that begins with plain letters is found many times
# as quickly, and all sheets of a project are looked through at once.
_FILE = re.compile(rf"\nfile[ \t]+[^\W\d]\w*[ \t]*=[ \t]*{_QUOTED}")
_USE = re.compile(rf"\nuse[ \t]+([^\W\d]\w*)[ \t]+from[ \t]+{_QUOTED}")


def files_named(text: str) -> set[str]:
    """The names of the files that a sheet reads; found without reading all of it."""
    return {_unescaped(found[1]) for found in _FILE.finditer(f"\n{text}")}


def studies_used(text: str) -> dict[str, str]:
    """The titles of the studies that a sheet uses, by the names it uses them under; found without
    reading all of it."""
    return {found[1]: _unescaped(found[2]) for found in _USE.finditer(f"\n{text}")}


def _unescaped(text: str) -> str:
    return re.sub(r"\\(.)", r"\1", text)


def inputs_offered(text: str) -> list[str]:
    """The names of the inputs that a sheet offers to others, in its order."""
    inputs = (one for one in _contents(text) if isinstance(one, tree.Input))
    return [one.name for one in inputs if not one.internal]


def _contents(text: str) -> Iterator[tree.Content]:
    return (statement.content for statement in read_sheet(text).statements)


def _gather(node: tree.Node | tree.Content, bound: frozenset[str], found: list[Reference]) -> None:
    """Adds the names that are used within a node, but those that are bound there."""
    match node:
        case tree.Name(name=name):
            if name not in bound:
                found.append((name, node.span))
        case tree.Number():
            pass
        case tree.Call(function=name):
            if name not in bound:
                found.append((name, node.name_span))
            for argument in node.arguments:
                _gather(argument.value, bound, found)
        case tree.Lambda() | tree.Formula(parameters=tuple()) | tree.Local(parameters=tuple()):
            parameters = node.parameters or ()
            for parameter in parameters:
                if parameter.default is not None:
                    _gather(parameter.default, bound, found)
            inner = bound | {parameter.name for parameter in parameters}
            _gather(node.body if isinstance(node, tree.Lambda) else node.value, inner, found)
        case tree.Comprehension():
            for each in node.each:
                _gather(each.source, bound, found)
                bound = bound | {each.name}
                if each.condition is not None:
                    _gather(each.condition, bound, found)
            _gather(node.body, bound, found)
        case tree.Block():
            for local in node.locals:
                _gather(local, bound, found)
                bound = bound | {local.name}
            _gather(node.value, bound, found)
        case tree.Setting(name=name, span=(start, _)):
            found.append((name, (start, start + len(name))))
            _gather(node.value, bound, found)
        case _:
            for child in tree.children(node):
                _gather(child, bound, found)
