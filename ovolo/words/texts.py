"""Texts."""

from __future__ import annotations

from ovolo.problems import Failure
from ovolo.quantities.dimension import NUMBER
from ovolo.quantities.show import FEET_INCHES, Shown, feet_and_inches, shown_in, written_unit
from ovolo.quantities.units import Unit, unit_named
from ovolo.words.registry import word
from ovolo.words.rounding import round_

_MOST_DECIMALS = 15


@word(
    "Q, unit Q, whole?, bare: yes/no? -> text", "number, decimals: whole? -> text",
    example='written(3240 mm, "m", 1)', gives='"3.2 m"',
)  # fmt: skip
def written(x: float, unit: str = "", decimals: float | None = None, bare: bool = False) -> str:
    """A value as a text, in a unit and with so many decimals (halves away from zero), whatever the
    units of the study.

    x: the value
    unit: the unit, such as "m", "kg/m^3", "%" or "ft-in"
    decimals: how many decimals; the usual ones where it is not said
    bare: whether the unit is left out of the text
    """
    if unit == FEET_INCHES:
        return feet_and_inches(x)
    size = unit_named(unit) if unit else Unit("", NUMBER, 1.0)
    if decimals is None:
        shown = shown_in(x, size)
    elif not 0 <= decimals <= _MOST_DECIMALS:
        raise Failure(f"{decimals:g} decimals cannot be written", f"from 0 to {_MOST_DECIMALS}")
    else:
        figure = float(round_(x / size.size, 10.0 ** -int(decimals)))
        shown = Shown(f"{figure:.{int(decimals)}f}", written_unit(size))
    return shown.number if bare else str(shown)
