"""Lines ready to fill, by what a person needs. Each works as it stands, in an empty sheet.

A blank is written `{name}` in the pattern; what a word takes is not told here but read from the
registry of words.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Any


@dataclass(frozen=True, slots=True)
class Blank:
    """A place to fill in a line: what it takes, what it means, and what stands in it at first."""

    name: str
    kind: str
    meaning: str
    written: str
    optional: bool = False

    def as_json(self) -> dict[str, Any]:
        return {field: getattr(self, field) for field in self.__slots__}


@dataclass(frozen=True, slots=True)
class Construct:
    """A kind of line. Where a blank is left empty, the piece of the pattern in ‹ › around it
    falls away."""

    need: str
    title: str
    pattern: str
    blanks: tuple[Blank, ...]

    def as_json(self) -> dict[str, Any]:
        return {
            "need": self.need,
            "title": self.title,
            "pattern": self.pattern,
            "blanks": [blank.as_json() for blank in self.blanks],
        }

    def filled(self) -> str:
        """The line as it is offered."""
        line = self.pattern
        for blank in self.blanks:
            if not blank.written:
                line = re.sub(rf"‹[^‹]*{{{blank.name}}}[^›]*›", "", line)
            line = line.replace(f"{{{blank.name}}}", blank.written)
        return line.replace("‹", "").replace("›", "")


_NAME = "a letter, then letters, figures and _"


def _name(written: str) -> Blank:
    return Blank("name", "a name", _NAME, written)


def _label(written: str) -> Blank:
    return Blank("label", "a text", "what others read at its slide rule or value", written, True)


_LIMITS = (
    Blank("low", "a length", "the least value", "100 mm", True),
    Blank("high", "a length", "the greatest value", "500 mm", True),
    Blank("step", "a length", "from value to value on the slide rule", "5 mm", True),
)

CONSTRUCTS = (
    Construct(
        "An input", "A length, an angle or a number to turn",
        'input {name} = {value}‹ from {low} to {high}›‹ step {step}›‹ "{label}"›',
        (_name("new_size"), Blank("value", "a figure with its unit", "what it is at first", "200 mm"),
         *_LIMITS, _label("New size")),
    ),
    Construct(
        "An input", "A choice of a few values",
        'input {name} = {value} of {choices}‹ "{label}"›',
        (_name("new_choice"), Blank("value", "one of the choices", "what it is at first", '"round"'),
         Blank("choices", "values, by comma", "what can be chosen", '"round", "square"'),
         _label("New choice")),
    ),
    Construct(
        "An input", "Yes or no", 'input {name} = {value}‹ "{label}"›',
        (_name("new_option"), Blank("value", "yes or no", "what it is at first", "yes"),
         _label("New option")),
    ),
    Construct(
        "An input", "A point to drag", 'input {name} = ({x}, {y})‹ "{label}"›',
        (_name("new_place"), Blank("x", "a length", "along x", "100 mm"),
         Blank("y", "a length", "along y", "50 mm"), _label("New place")),
    ),
    Construct(
        "An input", "A few lengths in a row",
        'input {name} = [{values}]‹ from {low} to {high}›‹ step {step}›‹ "{label}"›',
        (_name("new_sizes"), Blank("values", "figures, by comma", "what they are at first",
                                   "120 mm, 180 mm, 240 mm"), *_LIMITS, _label("New sizes")),
    ),
    Construct(
        "A formula", "A value that follows", '{name} = {formula}‹ "{label}"›',
        (_name("new_value"), Blank("formula", "a formula", "what it follows from", "2 * 150 mm + 20 mm"),
         _label("New value")),
    ),
    Construct(
        "A formula", "One of two values", "{name} = if {condition} then {value} else {other}",
        (_name("new_value"), Blank("condition", "yes or no", "decides", "3 > 2"),
         Blank("value", "a value", "where it holds", "100 mm"),
         Blank("other", "a value of the same kind", "where it does not", "80 mm")),
    ),
    Construct(
        "A formula", "A function of your own", "{name}({parameter}) = {formula}",
        (_name("new_function"), Blank("parameter", "names, by comma", "what it is given", "i"),
         Blank("formula", "a formula", "what it makes of it", "(i + 1) * 100 mm")),
    ),
    Construct(
        "An array", "The same, by index", "{name} = [{item} for {index} in {from} .. {to}]",
        (_name("new_array"), Blank("item", "a formula of the index", "one item",
                                   "box(80 mm, 40 mm, 20 mm).move(i * 100 mm)"),
         Blank("index", "a name", "the number of the item", "i"),
         Blank("from", "a whole number", "the first index", "0"),
         Blank("to", "a whole number", "the last index, itself in", "4")),
    ),
    Construct(
        "A check", "What must hold", 'check {condition}‹ "{message}"›',
        (Blank("condition", "a comparison", "holds or fails", "20 mm <= 30 mm <= 60 mm"),
         Blank("message", "a text", "said where it fails", "wide enough to hold", True)),
    ),
    Construct(
        "A dimension", "A dim on the stage", "dim {quantity} from {start} to {end}‹ offset {offset}›",
        (Blank("quantity", "a length", "what it says; wrong where the drawing differs", "200 mm"),
         Blank("start", "a point", "where it begins", "(0 mm, 0 mm)"),
         Blank("end", "a point", "where it ends", "(200 mm, 0 mm)"),
         Blank("offset", "a length", "how far beside the points it is drawn", "60 mm", True)),
    ),
    Construct(
        "A part", "An outcome, drawn and handed over",
        'part {name} = {shape}‹ when {condition}›‹ colour {colour}›‹ "{label}"›',
        (_name("new_part"), Blank("shape", "a solid, a region, or a list of them", "what it is",
                                  "box(200 mm, 100 mm, 40 mm)"),
         Blank("condition", "yes or no", "made only where this holds", "", True),
         Blank("colour", "a name or #RRGGBB", "its tint", "oak", True), _label("New part")),
    ),
    Construct("Order", "A section", "== {title} ==", (Blank("title", "a title", "groups the lines below it", "New section"),)),
    Construct(
        "Order", "A comment", "# {words}",
        (Blank("words", "words", "for whoever reads the sheet", "why it is so"),),
    ),
)  # fmt: skip

TRADES_BY_NEED = {
    "A rounding rule": ("rounding",),
    "A point": ("points",),
    "A curve": ("curves",),
    "An outline": ("regions",),
    "A solid": ("solids",),
    "A surface": ("surfaces",),
    "Placing": ("placing",),
    "An array": ("arrays",),
    "A list": ("lists", "chance"),
    "Choosing": ("choosing",),
    "Trigonometry": ("trigonometry",),
    "Numbers": ("numbers",),
    "A text": ("texts",),
    "Functions": ("functions",),
    "A measure": ("measuring",),
}
"""The words offered for a need, by the modules they stand in."""
