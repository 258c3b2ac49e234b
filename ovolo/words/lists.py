"""Lists: making, adding up, ordering and carrying values along."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ovolo.geometry.arrays.setting_out import MOST_ITEMS
from ovolo.geometry.curves.curve import Curve
from ovolo.geometry.curves.drafting import joined
from ovolo.problems import Failure
from ovolo.quantities.show import NOISE
from ovolo.words.registry import word

Values = Any


def _not_empty(xs: Values, name: str) -> Values:
    if len(xs) == 0:
        raise Failure(f"`{name}` of an empty list does not exist", "guard it with `if len(…) > 0`")
    return xs


@word("Q, Q, whole -> list Q", example="spread(0 m, 1 m, 5)[1]", gives="25 cm")
def spread(a: float, b: float, n: int) -> Values:
    """n values from a to b at equal distances, both ends in.

    a: the first value
    b: the last value
    n: how many values
    """
    if not 1 <= n <= MOST_ITEMS:
        raise Failure(f"{n:,} values cannot be spread", f"from 1 to {MOST_ITEMS:,}")
    return np.linspace(a, b, n) if n > 1 else np.array([a])


@word("list Q -> Q", example="sum([1 mm, 2 mm, 3 mm])", gives="6 mm", gaps="skip")
def sum_(xs: Values) -> float:
    """The sum of a list; of an empty list 0. Items that could not be made are left out.

    xs: the list
    """
    return math.fsum(np.asarray(xs, dtype=float))


@word("list number -> number", example="product([2, 3, 4])", gives="24")
def product(xs: Values) -> float:
    """The product of a list of numbers; of an empty list 1.

    xs: the list
    """
    return float(np.prod(np.asarray(xs, dtype=float)))


@word("list Q -> list Q", example="running([3 mm, 4 mm, 5 mm])", gives="[3 mm, 7 mm, 12 mm]")
def running(xs: Values) -> Values:
    """Running totals: the sum up to and with each item.

    xs: the list
    """
    return np.cumsum(np.asarray(xs, dtype=float))


@word(
    "list T -> whole", "text -> whole", "table -> whole",
    example="len([2, 3, 5])", gives="3", gaps="keep",
)  # fmt: skip
def len_(xs: Values) -> float:
    """How many items a list has, characters a text, or rows a table.

    xs: a list, a text or a table
    """
    return float(len(xs))


@word("list Q -> Q", example="mean([1 mm, 2 mm, 6 mm])", gives="3 mm", gaps="skip")
def mean(xs: Values) -> float:
    """The sum of a list by the number of its items. Items that could not be made are left out.

    xs: the list
    """
    figures = _not_empty(np.asarray(xs, dtype=float), "mean")
    return math.fsum(figures) / len(figures)


@word(
    "list yes/no -> yes/no", "list T, (T -> yes/no) -> yes/no",
    example="any([1, 5, 3], x -> x > 4)", gives="yes",
)  # fmt: skip
def any_(xs: Values, holds: Callable[[Any], bool] | None = None) -> bool:
    """Whether something holds for at least one item; of an empty list no.

    xs: a list of yes and no, or any list
    holds: the condition on an item
    """
    return _holding(xs, holds) > 0


@word(
    "list yes/no -> yes/no", "list T, (T -> yes/no) -> yes/no",
    example="all([1, 5, 3], x -> x > 0)", gives="yes",
)  # fmt: skip
def all_(xs: Values, holds: Callable[[Any], bool] | None = None) -> bool:
    """Whether something holds for every item; of an empty list yes.

    xs: a list of yes and no, or any list
    holds: the condition on an item
    """
    return _holding(xs, holds) == len(xs)


@word(
    "list yes/no -> whole", "list T, (T -> yes/no) -> whole",
    example="count([1, 5, 3], x -> x > 2)", gives="2",
)  # fmt: skip
def count(xs: Values, holds: Callable[[Any], bool] | None = None) -> float:
    """For how many items something holds.

    xs: a list of yes and no, or any list
    holds: the condition on an item
    """
    return float(_holding(xs, holds))


def _holding(xs: Values, holds: Callable[[Any], bool] | None) -> int:
    return sum(bool(x if holds is None else holds(x)) for x in xs)


@word(
    "list Q -> list Q", "list text -> list text", "list yes/no -> list yes/no",
    "list point Q -> list point Q",
    example="unique([3, 1, 3, 2, 1])", gives="[3, 1, 2]",
)  # fmt: skip
def unique(xs: Values) -> Values:
    """Each value of a list once, where it first stands; values that differ only by noise are one.

    xs: the list
    """
    if isinstance(xs, list):
        return list(dict.fromkeys(xs))
    figures = np.asarray(xs, dtype=float).reshape(len(xs), -1)
    noise, groups = _noise(figures), np.zeros(len(xs), dtype=int)
    for column in figures.T:
        order = np.lexsort((column, groups))
        apart = np.diff(column[order]) > np.maximum(noise[order][1:], noise[order][:-1])
        apart |= np.diff(groups[order]) > 0
        groups[order] = np.cumsum(np.concatenate([[0], apart])[: len(xs)])
    return xs[np.sort(np.unique(groups, return_index=True)[1])]


def _noise(figures: NDArray[np.float64]) -> NDArray[np.float64]:
    """By how much each of some values or points (n, k) may be off by noise alone, as in `==`; where all
    are small, by less than that."""
    sizes: NDArray[np.float64] = np.linalg.norm(figures, axis=1)
    return NOISE * np.maximum(sizes, min(float(np.max(sizes, initial=0.0)), 1.0))


@word(
    "list Q, Q -> whole", "list text, text -> whole", "list point Q, point Q -> whole",
    "list T, (T -> yes/no) -> whole",
    example="index_of([3 mm, 5 mm, 8 mm], 5 mm)", gives="1",
)  # fmt: skip
def index_of(xs: Values, x: Any) -> float:
    """The number of the first item that is x, or for which a condition holds; counted from 0.

    xs: the list
    x: the item looked for, or a condition on an item
    """
    if callable(x):
        found = next((at for at, one in enumerate(xs) if x(one)), None)
    elif isinstance(x, str):
        found = next((at for at, one in enumerate(xs) if one == x), None)
    else:
        figures = np.asarray(xs, dtype=float).reshape(len(xs), -1)
        near = np.linalg.norm(figures - x, axis=1) <= np.maximum(_noise(figures), NOISE * np.linalg.norm(x))  # fmt: skip
        found = int(np.argmax(near)) if np.any(near) else None
    if found is None:
        said = f'"{x}"' if isinstance(x, str) else "this"
        raise Failure(f"no item of the list is {said}", "ask first with `any(xs, x -> …)`")
    return float(found)


@word("list T -> T", example="first([2, 3, 5])", gives="2")
def first(xs: Values) -> Any:
    """The first item of a list.

    xs: the list
    """
    return _not_empty(xs, "first")[0]


@word("list T -> T", example="last([2, 3, 5])", gives="5")
def last(xs: Values) -> Any:
    """The last item of a list.

    xs: the list
    """
    return _not_empty(xs, "last")[-1]


@word("list T -> list T", example="reversed([2, 3, 5])", gives="[5, 3, 2]", gaps="keep")
def reversed_(xs: Values) -> Values:
    """The list from its end to its beginning.

    xs: the list
    """
    return xs[::-1]


@word(
    "list Q -> list Q", "list text -> list text", "list T, by: (T -> Q) -> list T",
    example="sorted([5 mm, 2 mm, 3 mm])", gives="[2 mm, 3 mm, 5 mm]",
)  # fmt: skip
def sorted_(xs: Values, by: Callable[[Any], float] | None = None) -> Values:
    """The list in ascending order, of its values or of what `by` makes of each item.

    xs: the list
    by: a function that gives what to order by
    """
    if by is not None:
        order = sorted(range(len(xs)), key=lambda at: by(xs[at]))
        return (
            xs[np.array(order, dtype=int)] if not isinstance(xs, list) else [xs[i] for i in order]
        )
    return sorted(xs) if isinstance(xs, list) else np.sort(np.asarray(xs, dtype=float))


@word("list T -> list list T", example="pairs([2, 3, 5])", gives="[[2, 3], [3, 5]]")
def pairs(xs: Values) -> list[Any]:
    """Each item with the one after it.

    xs: the list
    """
    return [xs[at : at + 2] for at in range(len(xs) - 1)]


@word("list T, list U -> list pair T U", example="zip([1, 2], [3, 4])", gives="[[1, 3], [2, 4]]")
def zip_(xs: Values, ys: Values) -> list[Any]:
    """The items of two lists of one length side by side: `zip(xs, ys)[0][1]` is the first of ys.

    xs: the left list
    ys: the right list, as long
    """
    if len(xs) != len(ys):
        raise Failure(
            f"the lists have {len(xs)} and {len(ys)} items", "`zip` takes lists of one length"
        )
    return [list(both) for both in zip(xs, ys, strict=True)]


@word(
    "list list T -> list T", "list text, text -> text", "list T, list T, list T... -> list T",
    "list curve -> curve",
    example="join([1, 2], [3])", gives="[1, 2, 3]",
)  # fmt: skip
def join(xs: Values, ys: Values = None, *more: Values) -> Any:
    """Lists one after another (several, or a list of lists); texts with another between them;
    curves that meet, as one curve.

    xs: a list, a list of lists, of texts or of curves
    ys: the next list, or what to put between the texts
    more: and further lists
    """
    if isinstance(ys, str):
        return ys.join(xs)
    if ys is None and len(xs) and isinstance(xs[0], Curve):
        return joined(xs)
    lists = list(xs) if ys is None else [xs, ys, *more]
    return [item for one in lists for item in one]


@word(
    "(T, U -> T), T, list U -> T",
    example="fold((total, x) -> total * 2 + x, 0, [1, 0, 1])", gives="5",
)  # fmt: skip
def fold(f: Callable[[Any, Any], Any], start: Any, xs: Values) -> Any:
    """Carries a value along a list: from `start`, f(value, item) for each item in turn.

    f: from the value so far and an item, the next value
    start: the value to begin with
    xs: the list
    """
    for x in xs:
        start = f(start, x)
    return start


@word(
    "(T, U -> T), T, list U -> list T",
    example="scan((total, x) -> total + x, 10, [1, 2, 3])", gives="[11, 13, 16]",
)  # fmt: skip
def scan(f: Callable[[Any, Any], Any], start: Any, xs: Values) -> list[Any]:
    """All the steps of `fold`: the value after each item.

    f: from the value so far and an item, the next value
    start: the value to begin with
    xs: the list
    """
    steps = []
    for x in xs:
        start = f(start, x)
        steps.append(start)
    return steps
