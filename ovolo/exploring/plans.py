"""Plans: lists of settings of a study's inputs, the same on every machine."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Iterator, Mapping
from functools import lru_cache
from typing import Any

import numpy as np
from msgspec import Struct, field

from ovolo.exploring.axes import Axis, axes_of, axis_of
from ovolo.exploring.presets import preset_titles, preset_values
from ovolo.exploring.rows import settings_in_rows
from ovolo.meaning.program import Program
from ovolo.problems import Failure
from ovolo.running.operators import equal

MOST_TRIALS = 10_000
MOST_ROLLED = 60
"""So many inputs can be rolled together (a Sobol sequence has good directions for many more)."""


class Asked(Struct, frozen=True):
    """What a plan is to be: its kind, and what belongs to that kind.

    `hold` are inputs that stay where they are; `ranges` narrow others (mm, radians, kg, s); `inputs`
    are the one of a series or the two of a field, `counts` how many values of each.
    """

    kind: str = "roll"
    number: int = 100
    roll: int = 1
    hold: frozenset[str] = frozenset()
    ranges: Mapping[str, tuple[float, float]] = field(default_factory=dict)
    inputs: tuple[str, ...] = ()
    counts: tuple[int, ...] = ()
    rows: str = ""


class Setting(Struct, frozen=True):
    """One setting of a plan: run-time values by input; `title` where it has a name of its own, and
    why it cannot be tried, where it cannot."""

    values: Mapping[str, Any]
    title: str = ""
    refused: str = ""


class Plan(Struct, frozen=True):
    """The axes that a plan varies, and its settings in order."""

    axes: tuple[Axis, ...]
    settings: tuple[Setting, ...]


def planned(program: Program, asked: Asked, present: Mapping[str, Any] | None = None) -> Plan:
    """The plan that is asked for, around the present settings. Raises Failure."""
    present = dict(present or {})
    kind = _KINDS.get(asked.kind)
    if kind is None:
        raise Failure(f"there is no plan called `{asked.kind}`", f"one of {', '.join(_KINDS)}")
    axes = axes_of(program, present)
    for name in asked.hold:
        axis_of(axes, program, name)
    for name, (low, high) in asked.ranges.items():
        axes[name] = axis_of(axes, program, name).narrowed(low, high)
    varied = [axis for axis in axes.values() if axis.name not in asked.hold]
    around = _Around(program, asked, present, axes, varied)
    settings = tuple(itertools.islice(kind(around), MOST_TRIALS + 1))
    around.refuse_too_many(len(settings))
    return Plan(tuple(varied), settings)


class _Around(Struct, frozen=True):
    """What a plan is made from."""

    program: Program
    asked: Asked
    present: Mapping[str, Any]
    axes: dict[str, Axis]
    varied: list[Axis]

    def with_values(self, values: Mapping[str, Any], title: str = "") -> Setting:
        return Setting({**self.present, **values}, title)

    def refuse_too_many(self, number: int) -> None:
        """Raises Failure for more trials than there may be, or none."""
        if number < 1:
            raise Failure(f"{number} trials are none", "at least one")
        if number > MOST_TRIALS:
            raise Failure(f"{number:,} trials are too many", f"at most {MOST_TRIALS:,}")

    def chosen(self, count: int) -> list[Axis]:
        """The inputs that are named, as many as the kind of plan takes."""
        names = self.asked.inputs
        if len(set(names)) != count:
            said = "one input" if count == 1 else f"{count} different inputs"
            raise Failure(f"a {self.asked.kind} goes along {said}", f"{len(names)} were named")
        held = [name for name in names if name in self.asked.hold]
        if held:
            raise Failure(f"`{held[0]}` is held", f"a {self.asked.kind} goes along it: let it go")
        return [axis_of(self.axes, self.program, name) for name in names]


def _roll(around: _Around) -> Iterator[Setting]:
    """Settings evenly spread over all axes together: a scrambled Sobol sequence (SciPy's `qmc`; Joe and
    Kuo, Constructing Sobol sequences with better two-dimensional projections, 2008)."""
    asked, axes = around.asked, around.varied
    around.refuse_too_many(asked.number)
    if not axes:
        raise Failure("every input is held", "let one go, so that there is something to vary")
    if len(axes) > MOST_ROLLED:
        raise Failure(f"{len(axes)} inputs are too many to roll together", f"hold some: at most {MOST_ROLLED}")  # fmt: skip
    if not 0 <= asked.roll < 2**31:
        raise Failure(f"{asked.roll} is no roll number", "a whole number from 0")
    shares = _spread(len(axes), asked.number, asked.roll)
    return (
        around.with_values(
            {axis.name: axis.at(float(u)) for axis, u in zip(axes, row, strict=True)}
        )
        for row in shares
    )


@lru_cache(maxsize=16)
def _sobol(dimensions: int, power: int, roll: int) -> np.ndarray[Any, np.dtype[np.float64]]:
    from scipy.stats import qmc

    generator = np.random.default_rng(roll)
    found: np.ndarray[Any, np.dtype[np.float64]] = qmc.Sobol(
        dimensions, scramble=True, rng=generator
    ).random_base2(power)
    return found


def _spread(dimensions: int, number: int, roll: int) -> np.ndarray[Any, np.dtype[np.float64]]:
    """Shares (number, dimensions) from 0 to 1, 1 left out."""
    power = max(int(np.ceil(np.log2(number))), 0)
    return _sobol(dimensions, power, roll)[:number]


def _count(around: _Around, at: int) -> int:
    counts = around.asked.counts
    count = counts[at] if at < len(counts) else 10
    if count < 1:
        raise Failure(f"{count} values are none", "at least one")
    return count


def _series(around: _Around) -> Iterator[Setting]:
    (axis,) = around.chosen(1)
    count = _count(around, 0)
    around.refuse_too_many(count)
    return (around.with_values({axis.name: value}) for value in axis.evenly(count))


def _field(around: _Around) -> Iterator[Setting]:
    one, other = around.chosen(2)
    counts = _count(around, 0), _count(around, 1)
    around.refuse_too_many(counts[0] * counts[1])
    return (
        around.with_values({one.name: a, other.name: b})
        for b in other.evenly(counts[1])
        for a in one.evenly(counts[0])
    )


def _presets(around: _Around) -> Iterator[Setting]:
    titles = preset_titles(around.program)
    if not titles:
        raise Failure("this study has no presets", "*Save these values* on the faceplate makes one")
    for title in titles:
        try:
            values = preset_values(around.program, title)
        except Failure as failure:
            yield Setting(dict(around.present), title, failure.said)
            continue
        held = {k: v for k, v in values.items() if k not in around.asked.hold}
        yield around.with_values(held, title)


def _rows(around: _Around) -> Iterator[Setting]:
    rows = settings_in_rows(around.program, around.asked.rows)
    around.refuse_too_many(len(rows))
    for number, (values, refused) in rows:
        yield Setting({**around.present, **values}, f"row {number}", refused)


def _limits(around: _Around) -> Iterator[Setting]:
    """The present setting; each input at its limits, next to them, at 0 and at each choice, the others
    as they are; then all pairs of these (a covering array)."""
    levels = {axis.name: limits_of(axis) for axis in around.varied}
    yield around.with_values({})
    for name, values in levels.items():
        for value in values:
            yield around.with_values({name: value})
    several = {name: values for name, values in levels.items() if len(values) > 1}
    if len(several) > 1:
        for row in covering(tuple(len(values) for values in several.values())):
            yield around.with_values(
                {name: values[at] for (name, values), at in zip(several.items(), row, strict=True)}
            )


MOST_CHOICES = 12
"""So many choices of an input are tried at the limits; of more, the first and the last ones."""


def limits_of(axis: Axis) -> list[Any]:
    """What an axis is tried at: each choice, or its limits, next to them, and 0."""
    if axis.choices:
        if len(axis.choices) <= MOST_CHOICES:
            return list(axis.choices)
        half = MOST_CHOICES // 2
        return [*axis.choices[:half], *axis.choices[-half:]]
    step = axis.step or (axis.high - axis.low) / 1000
    tried = [axis.low, axis.low + step, axis.high - step, axis.high]
    if axis.low <= 0 <= axis.high:
        tried.append(0.0)
    found: list[float] = []
    for value in sorted(axis.nearest(one) for one in tried):
        if not any(equal(value, one) for one in found):
            found.append(value)
    return found


@lru_cache(maxsize=16)
def covering(counts: tuple[int, ...]) -> tuple[tuple[int, ...], ...]:
    """Rows of level numbers in which every pair of levels of every two axes stands at least once."""
    from allpairspy import AllPairs

    return tuple(tuple(row) for row in AllPairs([list(range(count)) for count in counts]))


_KINDS: dict[str, Callable[[_Around], Iterator[Setting]]] = {
    "roll": _roll,
    "series": _series,
    "field": _field,
    "presets": _presets,
    "rows": _rows,
    "limits": _limits,
}
KINDS = tuple(_KINDS)
