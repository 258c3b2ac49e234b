"""Profiles: what a machine, its material and its habits are, as a small readable text (TOML).

A kind of profile is a dataclass whose fields are made by `setting`: its rail on the screen, the text,
its checks and the words of its complaints are all read from them. Figures are written with their unit
("0.2 mm"), as everywhere; counts are bare.
"""

from __future__ import annotations

import json
import math
import tomllib
from collections.abc import Mapping
from dataclasses import dataclass, field, fields, replace
from functools import cache
from pathlib import Path
from typing import Any, ClassVar, TypeVar

from msgspec import Struct

from ovolo.benches.answers import SettingsSaid
from ovolo.problems import Failure
from ovolo.quantities.dimension import (
    ANGLE,
    AREA,
    DENSITY,
    LENGTH,
    NUMBER,
    TIME,
    Dimension,
)
from ovolo.quantities.show import DisplayUnits, show_quantity
from ovolo.quantities.typed import read_quantity
from ovolo.quantities.units import Unit

SPEED = Dimension(length=1, time=-1)
ACCELERATION = Dimension(length=1, time=-2)

MOST_CHARACTERS = 20_000
"""So long a profile may be."""

_UNITS = DisplayUnits().with_unit("mm/s").with_unit("mm/s^2").with_unit("g/cm^3")
_SHARE = Unit("%", NUMBER, 0.01)

Value = float | int | str


class Setting(Struct, frozen=True):
    """One figure or choice of a profile."""

    label: str
    group: str
    """The heading it stands under, and the table it has in the text."""

    dimension: Dimension | None = NUMBER
    """None for a choice or a text."""

    low: float = 0.0
    high: float = math.inf
    whole: bool = False
    share: bool = False
    """Whether it is written in per cent."""

    choices: tuple[str, ...] = ()
    where: tuple[str, str] | None = None
    """The other setting, and what it must be, for this one to count; None where it always does."""

    def read(self, said: Any) -> Value:
        """The value of what was typed or written. Raises Failure."""
        if self.dimension is None:
            return self._text(said)
        value = self._figure(said)
        if self.whole and value != int(value):
            raise Failure(f"{self.label} is counted; {value:g} is no whole number")
        if not self.low <= value <= self.high:
            raise Failure(f"{self.label} is {self.shown(value)}", self._limits())
        return int(value) if self.whole else value

    def _text(self, said: Any) -> str:
        if not isinstance(said, str) or (self.choices and said not in self.choices):
            wanted = f"one of {', '.join(self.choices)}" if self.choices else "a text"
            raise Failure(f"{self.label} cannot be {_quoted(said)}", wanted)
        return said

    def _figure(self, said: Any) -> float:
        assert self.dimension is not None
        if isinstance(said, bool) or not isinstance(said, str | int | float):
            raise Failure(f"{self.label} cannot be {_quoted(said)}", f"such as {self.shown(max(self.low, 1.0))}")  # fmt: skip
        if not isinstance(said, str):  # a bare figure stands in the unit that is shown
            said = repr(said)
        shown = _SHARE if self.share else None
        return read_quantity(said, self.dimension, _UNITS, self.label, shown)

    def shown(self, value: Value) -> str:
        """The value as it is written in a profile."""
        if isinstance(value, str) or self.dimension is None:
            return str(value)
        if self.share:
            return f"{value * 100:.6g} %"
        return f"{value / self._unit.size:.10g} {self._unit.symbol}".strip()

    def shown_short(self, value: Value) -> tuple[str, str]:
        """The value as it stands on the screen: figure and unit."""
        if isinstance(value, str) or self.dimension is None:
            return str(value), ""
        if self.share:
            return f"{value * 100:.6g}", "%"
        shown = show_quantity(float(value), self.dimension, _UNITS)
        return shown.number, shown.unit

    @property
    def _unit(self) -> Unit:
        assert self.dimension is not None
        return _UNITS.unit_for(self.dimension)

    def _limits(self) -> str:
        if math.isinf(self.high):
            return f"at least {self.shown(self.low)}"
        return f"from {self.shown(self.low)} to {self.shown(self.high)}"


def _quoted(said: Any) -> str:
    return f'"{said}"' if isinstance(said, str) else json.dumps(said, default=str)


def setting(
    default: Value, label: str, group: str, dimension: Dimension | None = NUMBER, **more: Any
) -> Any:
    """A field of a profile, with its value where none is written."""
    known = Setting(label, group, dimension, **more)
    return field(default=default, metadata={"setting": known})


def length(
    default: float,
    label: str,
    group: str,
    low: float,
    high: float,
    where: tuple[str, str] | None = None,
) -> Any:
    return setting(default, label, group, LENGTH, low=low, high=high, where=where)


def count(default: int, label: str, group: str, low: int, high: int) -> Any:
    return setting(default, label, group, low=low, high=high, whole=True)


def share(default: float, label: str, group: str, low: float = 0.0, high: float = 1.0) -> Any:
    return setting(default, label, group, low=low, high=high, share=True)


def choice(
    default: str, label: str, group: str, *choices: str, where: tuple[str, str] | None = None
) -> Any:
    return setting(default, label, group, None, choices=choices, where=where)


def speed(default: float, label: str, group: str) -> Any:
    return setting(default, label, group, SPEED, low=0.1, high=5_000.0)


def acceleration(default: float, label: str, group: str) -> Any:
    return setting(default, label, group, ACCELERATION, low=1.0, high=100_000.0)


def seconds(default: float, label: str, group: str) -> Any:
    return setting(default, label, group, TIME, low=0.0, high=600.0)


def angle(default: float, label: str, group: str, low: float, high: float) -> Any:
    return setting(default, label, group, ANGLE, low=low, high=high)


def surface(default: float, label: str, group: str, low: float, high: float) -> Any:
    return setting(default, label, group, AREA, low=low, high=high)


def density(default: float, label: str, group: str) -> Any:
    return setting(default, label, group, DENSITY, low=1e-8, high=3e-5)


@dataclass(frozen=True)
class Profile:
    """What all profiles have. `check` raises Failure where settings do not go together."""

    MACHINE: ClassVar[str] = ""
    """What machine it is of, in one word: the folder that the shipped ones lie in."""

    title: str = field(default="", metadata={"setting": Setting("Title", "", None)})

    def check(self) -> None:
        """Raises Failure where settings do not go together."""


P = TypeVar("P", bound=Profile)


def settings_of(kind: type[Profile]) -> dict[str, Setting]:
    """The settings of a kind of profile by their names, in their order."""
    return {one.name: one.metadata["setting"] for one in fields(kind)}


def read_profile(kind: type[P], text: str) -> P:
    """The profile that a text says. What is not written is as it is by default. Raises Failure for what
    is no TOML, for a name that is not known, and for a value that makes no sense."""
    if len(text) > MOST_CHARACTERS:
        raise Failure(f"a profile has at most {MOST_CHARACTERS:,} characters")
    try:
        said = tomllib.loads(text)
    except (tomllib.TOMLDecodeError, RecursionError) as error:
        raise Failure(f"the profile cannot be read: {error}", "it is TOML: name = value") from None
    groups = {_table(one.group): one.group for one in settings_of(kind).values()}
    values: dict[str, Any] = {}
    for name, value in said.items():
        if name in groups and isinstance(value, dict):
            values |= {inner: (name, one) for inner, one in value.items()}
        else:
            values[name] = ("", value)
    return _changed(kind(), values, tables=True)


def with_settings(profile: P, said: Mapping[str, Any]) -> P:
    """The profile with other values, as they are typed. Raises Failure."""
    return _changed(profile, {name: ("", value) for name, value in said.items()})


def _changed(profile: P, said: Mapping[str, tuple[str, Any]], tables: bool = False) -> P:
    known = settings_of(type(profile))
    values = {}
    for name, (table, value) in said.items():
        one = known.get(name)
        if one is None or (tables and table != _table(one.group)):
            where = f" in [{table}]" if table else ""
            raise Failure(f"a {profile.MACHINE} has no `{name}`{where}", _near(name, known))
        values[name] = one.read(value)
    changed = replace(profile, **values)  # type: ignore[arg-type]  # each as its setting reads it
    changed.check()
    return changed


def _near(name: str, known: Mapping[str, Setting]) -> str:
    if name in known:
        return f"it stands in [{_table(known[name].group)}]"
    return f"known: {', '.join(known)}"


def _table(group: str) -> str:
    """The name of a group's table in the text."""
    return group.lower().replace(" ", "_")


def as_text(profile: Profile) -> str:
    """The profile as a text that gives it again."""
    lines: list[str] = []
    group = ""
    for name, one in settings_of(type(profile)).items():
        if one.group != group:
            group = one.group
            lines += ["", f"[{_table(group)}]"]
        value = getattr(profile, name)
        bare = one.dimension == NUMBER and not one.share
        written = f"{value:g}" if bare else json.dumps(one.shown(value), ensure_ascii=False)
        lines.append(f"{name} = {written}")
    return "\n".join(lines) + "\n"


def rail(profile: Profile) -> list[SettingsSaid]:
    """The settings as the screen shows them, under their headings; those that count."""
    found: list[SettingsSaid] = []
    for name, one in settings_of(type(profile)).items():
        counts = one.where is None or getattr(profile, one.where[0]) == one.where[1]
        if not one.group or not counts:
            continue
        if not found or found[-1]["group"] != one.group:
            found.append({"group": one.group, "settings": []})
        value = getattr(profile, name)
        number, unit = one.shown_short(value)
        found[-1]["settings"].append(
            {"name": name, "label": one.label, "said": number, "unit": unit,
             "typed": one.shown(value), "choices": list(one.choices)}
        )  # fmt: skip
    return found


def shipped(kind: type[P]) -> dict[str, P]:
    """The profiles that come with Ovolo, by their titles."""
    return _shipped(kind)  # type: ignore[arg-type]


@cache
def _shipped(kind: type[Any]) -> dict[str, Any]:
    folder = Path(__file__).parent / "profiles" / kind.MACHINE
    read = [read_profile(kind, one.read_text("utf-8")) for one in sorted(folder.glob("*.toml"))]
    return {one.title: one for one in read}


def profile_said(kind: type[P], said: str, others: Mapping[str, str] | None = None) -> P:
    """The profile of a title: a shipped one, or one of `others` (their texts); the first shipped one where
    no title is said. Raises Failure where there is none."""
    known = shipped(kind)
    if not said:
        return next(iter(known.values()))
    if others and said in others:
        return read_profile(kind, others[said])
    if said not in known:
        titles = ", ".join(f'"{one}"' for one in [*known, *(others or ())])
        raise Failure(f'there is no {kind.MACHINE} "{said}"', f"known: {titles}")
    return known[said]
