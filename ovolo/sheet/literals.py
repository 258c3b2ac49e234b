"""Figures as they are written in a sheet: as they were typed, or in the form the line had."""

from __future__ import annotations

import math
import re
from fractions import Fraction

from ovolo.problems import Failure
from ovolo.quantities.dimension import NUMBER, Dimension
from ovolo.quantities.show import FEET_INCHES, DisplayUnits, follows_closely, written_unit
from ovolo.quantities.typed import read_quantity
from ovolo.quantities.units import Unit, unit_named
from ovolo.sheet import tree
from ovolo.sheet.formulas import expression_in

_FINEST = 64
"""Fractions of an inch are written down to this one."""


def figure_in(written: str) -> tree.Number | None:
    """The figure that a piece of a sheet is; None where it is none."""
    try:
        node = expression_in(written)
    except Failure:
        return None
    return node if isinstance(node, tree.Number) else None


def literal_for(value: object, dimension: Dimension, written: str, units: DisplayUnits) -> str:
    """A value (mm, radians, kg, s) as it is written in a sheet, in the form that the line had
    (`written`) where it had one: its unit, a ratio, feet and inches, minutes, a fraction."""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, str):
        escaped = value.replace("\\", "\\\\").replace('"', '\\"')
        return '"' + escaped.replace("{", "{{").replace("}", "}}") + '"'
    assert isinstance(value, int | float)
    before = figure_in(written)
    form = before.unit if before is not None and before.dimension == dimension else ""
    if form in ("ft in", "'"):
        return _feet_inches(float(value), form)
    if form == "°'" and (sexagesimal := _sexagesimal(float(value))):
        return sexagesimal
    unit = _unit(form, dimension) or own_unit(dimension, units)
    if "/" in written.removesuffix(unit.symbol) and (fraction := _fraction(value / unit.size)):
        return f"{fraction} {unit.symbol}".strip()
    return _in_unit(float(value), unit)


def typed_literal(
    text: str, dimension: Dimension, units: DisplayUnits, written: str, named: str
) -> str:
    """What was typed into a value box as it is written in a sheet: just so where it has a unit and a
    sheet reads it so, else as a figure in the form that the line had.

    Raises Failure where it is not one clear quantity of the dimension.
    """
    before = figure_in(written)
    shown = shown_unit(before, dimension, units)
    value = read_quantity(text, dimension, units, named, shown)
    tidy = re.sub(
        r"(?<=\d)[,\u2009\u202f ](?=\d{3}(?!\d))", "", text.strip().replace("\u2212", "-")
    )
    figure = figure_in(tidy)
    if figure is not None and not figure.bare and figure.value == value:
        return _spaced(tidy, figure.unit)
    if dimension == NUMBER and figure is None and re.fullmatch(r"-?\d+/\d+", tidy):
        return literal_for(value, dimension, written if before is not None else "", units)
    return literal_for(value, dimension, written, units)


def _spaced(literal: str, unit: str) -> str:
    """A figure and its unit with the space between them that a sheet has."""
    if literal.endswith(unit) and not follows_closely(unit):
        return f"{literal.removesuffix(unit).strip()} {unit}"
    return literal


def shown_unit(figure: tree.Number | None, dimension: Dimension, units: DisplayUnits) -> Unit:
    """The unit in which an input that is written as `figure` is shown: a plain number in that of
    ratios, per cents, inches by the foot, where it is written so."""
    if figure is not None and dimension == NUMBER and not figure.bare:
        return unit_named(figure.unit)
    return units.unit_for(dimension)


def own_unit(dimension: Dimension, units: DisplayUnits) -> Unit:
    """The unit a study writes quantities of a dimension in."""
    if units.length == FEET_INCHES:
        units = units.with_unit("in")
    return units.unit_for(dimension)


def _unit(form: str, dimension: Dimension) -> Unit | None:
    if not form or form in ("ft in", "'", "°'"):
        return None
    unit = unit_named(form)
    return unit if unit.dimension == dimension else None


def _in_unit(value: float, unit: Unit) -> str:
    figure = f"{value / unit.size:.12g}"
    if unit.symbol.startswith("1/"):
        return f"{figure} / 1 {unit.symbol.removeprefix('1/')}"
    symbol = written_unit(unit) if unit.symbol == "deg" else unit.symbol
    return f"{figure}{'' if follows_closely(symbol) else ' '}{symbol}".strip()


def _feet_inches(value: float, form: str) -> str:
    """`6 ft 2.5 in` or `6' 2 1/2"`, as it was before."""
    feet, inches = divmod(abs(value) / 25.4, 12)
    if math.isclose(inches, 12, abs_tol=1e-9):
        feet, inches = feet + 1, 0.0
    sign = "-" if value < 0 else ""
    said = (_fraction(inches) if form == "'" else "") or f"{inches:.12g}"
    if form == "'":
        return f"{sign}{feet:g}'" + ("" if said == "0" else f' {said}"')
    return f"{sign}{feet:g} ft {said} in"


def _sexagesimal(value: float) -> str:
    """`24°30'` where it is whole minutes, else nothing."""
    minutes = abs(math.degrees(value)) * 60
    if abs(minutes - round(minutes)) > 1e-9 * max(minutes, 1):
        return ""
    degrees, rest = divmod(round(minutes), 60)
    sign = "-" if value < 0 else ""
    return f"{sign}{degrees}°{rest:02d}'" if rest else f"{sign}{degrees}°"


def _fraction(value: float) -> str:
    """`1 5/8` where it is a fraction of an inch as rules have them, else nothing."""
    parts = value * _FINEST
    if abs(parts - round(parts)) > 1e-9 or value < 0:
        return ""
    whole, rest = divmod(Fraction(round(parts), _FINEST), 1)
    return " ".join(str(one) for one in (whole, rest) if one) or "0"
