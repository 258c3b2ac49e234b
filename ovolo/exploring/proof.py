"""Proof: which values of the inputs break a study.

*Tried*: the settings at the limits of the inputs, singly and in pairs. *Proved*: checks of figures are
decided for all values between the limits, by interval arithmetic, boxes split until they are decided or
the patience is at its end (branch and bound). What was only tried is never called proved.
"""

from __future__ import annotations

import itertools
import time
from collections.abc import Iterator, Mapping, Sequence
from typing import Any

import numpy as np
from msgspec import Struct

from ovolo.exploring.axes import Axis, axes_of, plain
from ovolo.exploring.intervals import Boxes, Interval, Reading, Truth, Unsupported
from ovolo.fields import fields_told
from ovolo.meaning.program import Program, ProgramLine
from ovolo.running.evaluate import Memo, evaluate_only
from ovolo.sheet import tree

SECONDS = 1.5
"""Of patience for one check, of work of its own: what others do beside it changes no verdict."""

MOST_BOXES = 4096
"""So many boxes are read at once."""

MOST_TRIED = 2000
"""So many boxes that cannot be split are tried."""

MOST_COMBINATIONS = 512
"""So many combinations of choices are gone through."""

HOLDS, FAILS, UNDECIDED, TRIED = "holds everywhere", "fails", "undecided", "only tried"


class Verdict(Struct, frozen=True):
    """What is known of one check for all values of the inputs it depends on. Where it fails, a setting
    that shows it (run-time values, and said); where it is undecided, on what share of the range."""

    line: int
    text: str
    message: str
    verdict: str
    inputs: list[str]
    settings: dict[str, Any]
    said: dict[str, str]
    share: float = 0.0
    why: str = ""


def proved(
    program: Program, present: Mapping[str, Any] | None = None, seconds: float = SECONDS
) -> list[Verdict]:
    """A verdict on every check of the sheet, in their order; inputs that cannot be varied stay as they
    are."""
    present = dict(present or {})
    axes = axes_of(program, present)
    checks = [line for line in program.lines if isinstance(line.content, tree.Check)]
    return [_Proving(program, present, axes, line, seconds).verdict() for line in checks]


class _Proving:
    """The proof of one check."""

    def __init__(
        self,
        program: Program,
        present: Mapping[str, Any],
        axes: Mapping[str, Axis],
        line: ProgramLine,
        seconds: float,
    ) -> None:
        self.program, self.present, self.line = program, present, line
        needed = {one.name for one in program.upstream([line])}
        self.axes = [axis for axis in axes.values() if axis.name in needed]
        self.until = time.thread_time() + seconds
        self._memo = Memo(300)
        self.fixed = {
            one.line.name: one.value
            for one in evaluate_only(program, program.inputs, present)
            if one.line.name and one.line.name in needed and one.has_value
        }

    def verdict(self) -> Verdict:
        if self.line.checked is None or self.line.checked.value is None:
            why = self.line.problem.message if self.line.problem is not None else ""
            return self._said(UNDECIDED, share=1.0, why=why)
        corner = next((v for v in self._corners() if self._fails(v)), None)
        if corner is not None:
            return self._fails_at(corner)
        chosen = [axis for axis in self.axes if axis.choices]
        combinations = list(
            itertools.islice(
                itertools.product(*(axis.choices for axis in chosen)), MOST_COMBINATIONS + 1
            )
        )
        if len(combinations) > MOST_COMBINATIONS:
            return self._said(TRIED, why=f"more than {MOST_COMBINATIONS} combinations of choices")
        undecided = 0.0
        for values in combinations:
            named = dict(zip((axis.name for axis in chosen), values, strict=True))
            try:
                result = self._decide(named)
            except Unsupported as missing:
                return self._said(
                    TRIED, why=f"`{missing}` cannot be followed for all values at once"
                )
            except RecursionError:
                return self._said(TRIED, why="it is nested too deeply to be followed")
            if isinstance(result, dict):
                return self._fails_at(result)
            undecided += result / len(combinations)
        return self._said(HOLDS) if undecided == 0 else self._said(UNDECIDED, share=undecided)

    def _said(self, verdict: str, **more: Any) -> Verdict:
        content = self.line.content
        assert isinstance(content, tree.Check)
        text = self.line.statement.in_one_line(content.condition.span)
        told: dict[str, Any] = {"settings": {}, "said": {}, **more}
        names = [axis.name for axis in self.axes]
        return Verdict(
            self.line.statement.line, text, str(content.message or ""), verdict, names, **told
        )

    def _fails_at(self, values: Mapping[str, Any]) -> Verdict:
        pairs = [(axis, values[axis.name]) for axis in self.axes]
        return self._said(
            FAILS,
            settings={axis.name: plain(axis, value) for axis, value in pairs},
            said={axis.name: axis.said(value, self.program.units) for axis, value in pairs},
        )

    # --- real settings ---

    def _corners(self) -> Iterator[dict[str, Any]]:
        """The present setting, and every input at its ends with the others as they are and all together."""
        present = {axis.name: axis.present for axis in self.axes}
        yield present
        ends = {
            axis.name: list(axis.choices) or [axis.nearest(axis.low), axis.nearest(axis.high)]
            for axis in self.axes
        }
        for name, values in ends.items():
            for value in values:
                yield {**present, name: value}
        for together in itertools.islice(itertools.product(*ends.values()), 64):
            yield dict(zip(ends, together, strict=True))

    def _fails(self, values: Mapping[str, Any]) -> bool:
        """Whether the check fails, or cannot be tried, at a real setting."""
        (found,) = (
            one
            for one in evaluate_only(
                self.program, [self.line], {**self.present, **values}, self._memo
            )
            if one.line is self.line
        )
        return not found.has_value or not found.value

    # --- all settings ---

    def _decide(self, chosen: Mapping[str, Any]) -> float | dict[str, Any]:
        """For one combination of choices: a setting that fails, or on what share of the range nothing is
        known. Raises Unsupported."""
        figures = [axis for axis in self.axes if not axis.choices]
        boxes = _whole(figures)
        undecided = 0.0
        while len(boxes):
            rest = []
            for some in np.array_split(boxes, max(1, -(-len(boxes) // MOST_BOXES))):
                truth = self._read(figures, some, chosen)
                failing = np.flatnonzero(
                    ~truth.can_hold | ~truth.sure & (_extent(figures, some) == 0)
                )
                for at in failing[:8]:
                    values = {**chosen, **_middle(figures, some[at])}
                    if self._fails(values):
                        return values
                open_ = truth.can_fail | ~truth.sure
                rest.append(some[open_])
            boxes = np.concatenate(rest)
            shown = self._tried_of(figures, boxes, chosen)
            if shown is not None:
                return shown
            points = _extent(figures, boxes) <= 0
            if points.any():
                result = self._at_points(figures, boxes[points], chosen)
                if isinstance(result, dict):
                    return result
                undecided += result
                boxes = boxes[~points]
            if time.thread_time() > self.until or len(boxes) > 16 * MOST_BOXES:
                return undecided + float(_shares(figures, boxes).sum())
            if len(boxes):
                boxes = _split(figures, boxes)
        return undecided

    def _at_points(
        self, figures: Sequence[Axis], boxes: np.ndarray[Any, Any], chosen: Mapping[str, Any]
    ) -> float | dict[str, Any]:
        """What cannot be split is tried itself. That decides it where it is one setting; what is left of
        an input without steps stays undecided, as small as it is."""
        for box in boxes[:MOST_TRIED]:
            values = {**chosen, **_middle(figures, box)}
            if self._fails(values):
                return values
        single = (boxes[:MOST_TRIED, :, 0] == boxes[:MOST_TRIED, :, 1]).all(axis=1)
        open_ = np.concatenate([boxes[:MOST_TRIED][~single], boxes[MOST_TRIED:]])
        return float(np.maximum(_shares(figures, open_), 1e-300).sum())

    def _tried_of(
        self, figures: Sequence[Axis], boxes: np.ndarray[Any, Any], chosen: Mapping[str, Any]
    ) -> dict[str, Any] | None:
        """A real setting that fails in the middle of one of a few open boxes."""
        for box in boxes[:: max(1, len(boxes) // 6)][:6]:
            values = {**chosen, **_middle(figures, box)}
            if self._fails(values):
                return values
        return None

    def _read(
        self, figures: Sequence[Axis], boxes: np.ndarray[Any, Any], chosen: Mapping[str, Any]
    ) -> Truth:
        given: dict[str, Reading] = {
            axis.name: Interval.of(boxes[:, at, 0], boxes[:, at, 1], len(boxes))
            for at, axis in enumerate(figures)
        }
        assert self.line.checked is not None and self.line.checked.value is not None
        reading = Boxes(self.program, len(boxes), given, {**self.fixed, **chosen})
        return reading.truth(self.line.checked.value)


# --- boxes: (n, axes, 2), the ends of each; of a stepped input they lie on steps ---


def _whole(figures: Sequence[Axis]) -> np.ndarray[Any, Any]:
    ends = [
        (axis.nearest(axis.low), axis.nearest(axis.high))
        if axis.step > 0
        else (axis.low, axis.high)
        for axis in figures
    ]
    return np.array(ends, float).reshape(1, len(figures), 2)


def _steps(figures: Sequence[Axis]) -> np.ndarray[Any, Any]:
    return np.array([axis.step for axis in figures], float)


def _spans(figures: Sequence[Axis]) -> np.ndarray[Any, Any]:
    """The widths of all axes, 1 of those that have none."""
    widths = np.array([axis.high - axis.low for axis in figures], float)
    return np.where(widths > 0, widths, 1.0)


_NARROW = 1e-12
"""Of a range: what is as narrow is not split any more."""


def _extent(figures: Sequence[Axis], boxes: np.ndarray[Any, Any]) -> np.ndarray[Any, Any]:
    """The greatest width of each box as a share of the range; 0 of one that cannot be split."""
    if not len(figures):
        return np.zeros(len(boxes))
    return np.asarray(_shares_to_split(figures, boxes).max(axis=1))


def _shares_to_split(figures: Sequence[Axis], boxes: np.ndarray[Any, Any]) -> np.ndarray[Any, Any]:
    """The widths of each box as shares of the ranges, (n, axes); 0 where it cannot be split."""
    width = boxes[:, :, 1] - boxes[:, :, 0]
    steps = _steps(figures)
    splittable = np.where(steps > 0, width > 0.5 * steps, width > _NARROW * _spans(figures))
    return np.where(splittable, width / _spans(figures), 0.0)


def _split(figures: Sequence[Axis], boxes: np.ndarray[Any, Any]) -> np.ndarray[Any, Any]:
    """Every box in two, across its greatest width; of a stepped input between two steps."""
    axis = _shares_to_split(figures, boxes).argmax(axis=1)
    each = np.arange(len(boxes))
    low, high, step = boxes[each, axis, 0], boxes[each, axis, 1], _steps(figures)[axis]
    middle = (low + high) / 2
    with np.errstate(all="ignore"):
        whole = np.where(step > 0, low + np.floor((middle - low) / step + 1e-6) * step, middle)
    next_ = np.where(step > 0, whole + step, middle)
    first, second = boxes.copy(), boxes.copy()
    first[each, axis, 1] = _settled(figures, axis, whole)
    second[each, axis, 0] = np.minimum(_settled(figures, axis, next_), high)
    return np.concatenate([first, second])


def _settled(
    figures: Sequence[Axis], axis: np.ndarray[Any, Any], values: np.ndarray[Any, Any]
) -> np.ndarray[Any, Any]:
    """Figures on steps as the input itself writes them, so that a box ends on values that are tried."""
    found = values.copy()
    for at, one in enumerate(figures):
        if one.step > 0:
            here = axis == at
            numbers = np.rint((values[here] - one.base) / one.step)
            found[here] = [one.on_step(number) for number in numbers]
    return found


def _middle(figures: Sequence[Axis], box: np.ndarray[Any, Any]) -> dict[str, Any]:
    """A real setting in a box."""
    return {
        axis.name: min(max(axis.nearest(float(low + high) / 2), float(low)), float(high))
        for axis, (low, high) in zip(figures, box, strict=True)
    }


def _shares(figures: Sequence[Axis], boxes: np.ndarray[Any, Any]) -> np.ndarray[Any, Any]:
    """What share of the whole range each box is; of stepped inputs by their steps."""
    shares = np.ones(len(boxes))
    for at, axis in enumerate(figures):
        width = boxes[:, at, 1] - boxes[:, at, 0]
        if axis.step > 0:
            count = (axis.nearest(axis.high) - axis.nearest(axis.low)) / axis.step + 1
            shares *= (width / axis.step + 1) / count
        elif axis.high > axis.low:
            shares *= width / (axis.high - axis.low)
    return shares


# --- tried ---


class Breaking(Struct, frozen=True):
    """One way in which a study breaks, with the smallest setting that shows it: the fewest inputs away
    from the present."""

    why: str
    count: int
    settings: dict[str, Any]
    said: dict[str, str]


class Proof(Struct, frozen=True):
    """Both together, and how many settings at the limits were tried."""

    tried: int
    breakings: list[Breaking]
    verdicts: list[Verdict]

    def as_json(self) -> dict[str, Any]:
        return fields_told(self)


def breakings_of(axes: Sequence[Axis], tried: Sequence[Mapping[str, Any]]) -> list[Breaking]:
    """Every failing line, check, dim and empty part among some trials (as JSON has them), the commonest
    first."""
    present = {axis.name: plain(axis, axis.present) for axis in axes}
    found: dict[str, list[Mapping[str, Any]]] = {}
    for one in tried:
        for why in dict.fromkeys(one["reasons"]):
            found.setdefault(why, []).append(one)
    told = (_breaking(why, some, present) for why, some in found.items())
    return sorted(told, key=lambda one: -one.count)


def _breaking(why: str, some: list[Mapping[str, Any]], present: Mapping[str, Any]) -> Breaking:
    def moved(one: Mapping[str, Any]) -> list[str]:
        return [name for name, value in one["settings"].items() if value != present[name]]

    least = min(some, key=lambda one: (len(moved(one)), one["number"]))
    names = moved(least)
    return Breaking(
        why,
        len(some),
        {name: least["settings"][name] for name in names},
        {name: least["said"][name] for name in names},
    )
