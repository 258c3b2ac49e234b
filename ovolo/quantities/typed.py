"""Reading a quantity as a person types it into a value box: `3.1m`, `10' 2 1/2"`, `24°30'`."""

from __future__ import annotations

import math
import re
from collections.abc import Callable

from ovolo.problems import Failure
from ovolo.quantities.dimension import ANGLE, LENGTH, NUMBER, Dimension, dimension_name
from ovolo.quantities.show import FEET_INCHES, DisplayUnits
from ovolo.quantities.units import UNIT_PATTERN, Unit, unit_named

_SIGN = r"(?P<sign>[-+\u2212]?)\s*"
_DECIMAL = r"(?:\d{1,3}(?:,\d{3})+(?:\.\d+)?|\d{1,3}(?:[ \u2009\u202f]\d{3})+(?:\.\d+)?|\d+(?:\.\d*)?|\.\d+)(?:[eE][-+]?\d+)?"
_FRACTION = r"\d+/\d+"
_MIXED = rf"(?:\d+\s+{_FRACTION}|\d+-{_FRACTION}|{_FRACTION}|{_DECIMAL})"
_FEET = r"(?:'|′|ft|feet|foot)"
_INCHES = r"(?:\"|″|''|in|inch|inches)"


def _figure(text: str) -> float:
    """`1,250.5`, `3/8` or `12 1/4` as a float."""
    text = re.sub(r"(?<=\d)[,\u2009\u202f](?=\d{3})", "", text.strip())
    if "/" not in text:
        return float(text.replace(" ", ""))
    *whole, fraction = re.split(r"[\s-]+", text)
    above, below = map(float, fraction.split("/"))
    if below == 0:
        raise Failure(f"`{text}` divides by zero", "")
    return sum(map(float, whole)) + above / below


def _feet_inches(found: re.Match[str]) -> tuple[float, Dimension]:
    feet = _figure(found["feet"]) if found["feet"] else 0.0
    inches = _figure(found["inches"]) if found["inches"] else 0.0
    if found["feet"] and inches >= 12:
        raise Failure(f"{found['inches']} inches after feet are more than a foot", "")
    return feet * 304.8 + inches * 25.4, LENGTH


def _sexagesimal(found: re.Match[str]) -> tuple[float, Dimension]:
    minutes, seconds = _figure(found["minutes"]), _figure(found["seconds"] or "0")
    if minutes >= 60 or seconds >= 60:
        raise Failure("minutes and seconds of an angle stay below 60", "for example 24°30'")
    return math.radians(_figure(found["degrees"]) + minutes / 60 + seconds / 3600), ANGLE


def _slope(found: re.Match[str]) -> tuple[float, Dimension]:
    run = _figure(found["run"])
    if run == 0:
        raise Failure("a slope over a run of 0 has no end", "for example 1:12")
    return _figure(found["rise"]) / run, NUMBER


def _with_unit(found: re.Match[str]) -> tuple[float, Dimension]:
    unit = unit_named(found["unit"])
    return _figure(found["figure"]) * unit.size, unit.dimension


_FORMS: list[tuple[str, Callable[[re.Match[str]], tuple[float, Dimension]]]] = [
    (_SIGN + body, read)
    for body, read in (
        (
            rf"(?P<feet>{_MIXED})\s*{_FEET}(?:\s*-?\s*(?P<inches>{_MIXED})\s*{_INCHES})?",
            _feet_inches,
        ),
        (rf"(?P<feet>)(?P<inches>{_MIXED})\s*{_INCHES}", _feet_inches),
        (
            rf"(?P<degrees>\d+)\s*(?:°|deg)\s*(?P<minutes>{_DECIMAL})\s*['′]"
            rf"(?:\s*(?P<seconds>{_DECIMAL})\s*[\"″])?",
            _sexagesimal,
        ),
        (rf"(?P<rise>{_DECIMAL})\s*:\s*(?P<run>{_DECIMAL})", _slope),
        (rf"(?P<figure>{_MIXED})\s*(?P<unit>/?{UNIT_PATTERN})", _with_unit),
    )
]
_BARE = _SIGN + rf"(?P<figure>{_MIXED})"
"""They are compiled when they are first used: most processes read no such figure."""


def read_quantity(
    text: str,
    wanted: Dimension,
    units: DisplayUnits | None = None,
    named: str = "this value",
    shown: Unit | None = None,
) -> float:
    """What was typed, in mm, radians, kg and s.

    A bare number is taken in the unit that is shown beside it (`shown`, or that of the study). A comma
    before three figures parts thousands. Raises Failure where the
    text is not one clear quantity or not of the `wanted` dimension.
    """
    units = units or DisplayUnits()
    stripped = text.strip()
    value, dimension = _read(stripped, wanted, units, shown or units.unit_for(wanted))
    if dimension != wanted:
        raise Failure(
            f"`{stripped}` is {_said(dimension)}, but {named} is {_said(wanted)}",
            f"for example {_example(wanted, units)}",
        )
    if not math.isfinite(value):
        raise Failure(f"`{stripped}` is too large", "")
    return value


def read_literal(text: str) -> tuple[float, Dimension]:
    """A figure with its unit, in mm, radians, kg and s. Raises Failure for anything else."""
    for form, read in _FORMS:
        found = re.fullmatch(form, text)
        if found:
            value, dimension = read(found)
            return _signed(value, found), dimension
    raise Failure(f"`{text}` is not a figure with a unit", "for example 12.5 mm")


def _read(
    text: str, wanted: Dimension, units: DisplayUnits, shown: Unit
) -> tuple[float, Dimension]:
    for form, read in _FORMS:
        found = re.fullmatch(form, text)
        if found:
            value, dimension = read(found)
            return _signed(value, found), dimension
    found = re.fullmatch(_BARE, text)
    if not found:
        comma = re.fullmatch(r"[-+]?\d+,\d+\s*\D*", text)
        hint = "write a decimal point, not a comma" if comma else ""
        hint = hint or f"for example {_example(wanted, units)}"
        raise Failure(f"`{text}` cannot be read as {_said(wanted)}", hint)
    if wanted == LENGTH and units.length == FEET_INCHES:
        raise Failure(f"`{text}` could be feet or inches", f"write {text}' or {text}\"")
    return _signed(_figure(found["figure"]), found) * shown.size, wanted


def _signed(value: float, found: re.Match[str]) -> float:
    return -value if found["sign"] in ("-", "\u2212") else value


def _said(dimension: Dimension) -> str:
    name = dimension_name(dimension)
    return f"{'an' if name[0] in 'aeiou' else 'a'} {name}"


def _example(dimension: Dimension, units: DisplayUnits) -> str:
    if dimension == LENGTH and units.length == FEET_INCHES:
        return "6' 2 1/2\""
    if dimension == ANGLE:
        return "24.5° or 24°30'"
    symbol = units.unit_for(dimension).symbol
    return f"12.5 {symbol}".strip()
