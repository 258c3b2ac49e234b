"""What depends on what: the names a line needs, the order of lines, circles."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from functools import lru_cache

from ovolo.remembering import remembers
from ovolo.sheet import tree
from ovolo.sheet.names import references
from ovolo.words.all import WORDS


@lru_cache(maxsize=100_000)
def needed_names(content: tree.Content) -> frozenset[str]:
    """All names used in a statement that it does not itself define. Words of chance also need
    the study's seed."""
    names = {name for name, _ in references(content)}
    if any(name in WORDS and WORDS[name].seeded for name in names):
        names.add("seed")
    return frozenset(names)


remembers(needed_names.cache_clear)


def ordered(needs: Mapping[int, Iterable[int]]) -> tuple[list[int], list[list[int]]]:
    """The keys with those they need first, and the circles (each in order of need).

    Keys in a circle, and those that need them, still appear in the order, after the rest
    they need. Tarjan's strongly connected components, without recursion.
    """
    index: dict[int, int] = {}
    low: dict[int, int] = {}
    on_stack: set[int] = set()
    stack: list[int] = []
    order: list[int] = []
    circles: list[list[int]] = []
    for root in needs:
        if root in index:
            continue
        work = [(root, iter(needs[root]))]
        index[root] = low[root] = len(index)
        stack.append(root)
        on_stack.add(root)
        while work:
            key, rest = work[-1]
            deeper = next((need for need in rest if need not in index), None)
            if deeper is not None:
                index[deeper] = low[deeper] = len(index)
                stack.append(deeper)
                on_stack.add(deeper)
                work.append((deeper, iter(needs[deeper])))
                continue
            work.pop()
            for need in needs[key]:
                if need in on_stack:
                    low[key] = min(low[key], low[need])
            if work:
                above = work[-1][0]
                low[above] = min(low[above], low[key])
            if low[key] == index[key]:
                component = stack[stack.index(key) :]
                del stack[stack.index(key) :]
                on_stack.difference_update(component)
                order.extend(sorted(component))
                if len(component) > 1 or key in needs[key]:
                    circles.append(_around(set(component), min(component), needs))
    return order, circles


def _around(component: set[int], start: int, needs: Mapping[int, Iterable[int]]) -> list[int]:
    """A shortest circle through `start` within a component."""
    before: dict[int, int] = {}
    queue = [start]
    for key in queue:
        for need in needs[key]:
            if need == start:
                path = [key]
                while path[-1] != start:
                    path.append(before[path[-1]])
                return path[::-1]
            if need in component and need not in before:
                before[need] = key
                queue.append(need)
    return sorted(component)
