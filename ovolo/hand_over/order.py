"""What leaves of a study: which parts, in which formats, at which presets, and how the files are named."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Any

from msgspec import Struct, field

from ovolo.formats.format import on_paper, writable
from ovolo.problems import Failure

AS_IT_IS = ""
"""The values of the text itself, beside the presets."""

PLACES = ("study", "part", "preset", "revision")
"""What a rule may have in braces."""

USUAL_RULE = "{study} {part} {preset}"
MOST_FILES = 400
_LONGEST = 120


class Wanted(Struct, frozen=True):
    """A format: its ending, a file for each part or one for all, its options."""

    ending: str
    each: bool = False
    options: Mapping[str, str] = field(default_factory=dict)


class Paper(Struct, frozen=True):
    """A sheet of paper: its ending, and how it is laid out (`layout_said`)."""

    ending: str
    layout: Mapping[str, Any] = field(default_factory=dict)


class Trial(Struct, frozen=True):
    """A setting that is no preset: a name for it, and values of inputs as screens have them (mm, radians, kg, s)."""

    title: str
    settings: Mapping[str, Any] = field(default_factory=dict)


class Order(Struct, frozen=True):
    """A hand-over. Without parts all leave; `text` says whether the sheet itself does."""

    formats: tuple[Wanted, ...] = ()
    papers: tuple[Paper, ...] = ()
    parts: tuple[str, ...] = ()
    presets: tuple[str, ...] = (AS_IT_IS,)
    rule: str = USUAL_RULE
    text: bool = False
    trials: tuple[Trial, ...] = ()

    @property
    def titles(self) -> tuple[str, ...]:
        """What the settings are called at which it is made: presets, then trials."""
        return (*self.presets, *(one.title for one in self.trials))


def read_order(said: Mapping[str, Any]) -> Order:
    """The order that a person, a file or a request says. Raises Failure."""
    try:
        formats = tuple(
            Wanted(str(one["ending"]), bool(one.get("each")), {str(k): str(v) for k, v in one.get("options", {}).items()})
            for one in said.get("formats", ())
        )  # fmt: skip
        papers = tuple(Paper(str(one["ending"]), dict(one.get("layout", {}))) for one in said.get("papers", ()))  # fmt: skip
        order = Order(
            formats,
            papers,
            tuple(map(str, said.get("parts", ()))),
            tuple(map(str, said.get("presets", (AS_IT_IS,)))),
            str(said.get("rule") or USUAL_RULE),
            bool(said.get("text")),
            tuple(
                Trial(str(one["title"]).strip(), dict(one["set"])) for one in said.get("trials", ())
            ),
        )
    except (TypeError, KeyError, AttributeError, ValueError):
        raise Failure("the hand-over cannot be read") from None
    check(order)
    return order


def check(order: Order) -> None:
    """Raises Failure for what is not known, and where nothing would leave."""
    if not (order.formats or order.papers or order.text):
        raise Failure("nothing would leave", "choose a format, a drawing, or the sheet itself")
    if not order.titles:
        raise Failure("nothing would leave", "choose the study as it is, a preset or a trial")
    for at, title in enumerate(order.titles):
        if title in order.titles[:at]:
            raise Failure(f"two settings are called “{title}”", "name the trials apart from each other and from presets")  # fmt: skip
    if any(not one.title for one in order.trials):
        raise Failure("a trial that leaves needs a name")
    for wanted in order.formats:
        if wanted.ending not in writable():
            raise Failure(f"nothing is written as .{wanted.ending}", f"known: {', '.join(writable())}")  # fmt: skip
        writable()[wanted.ending].settled(wanted.options)
    for paper in order.papers:
        if paper.ending not in on_paper():
            raise Failure(f"no drawing is written as .{paper.ending}", f"known: {', '.join(on_paper())}")  # fmt: skip
    named(order.rule, dict.fromkeys(PLACES, "x"), "x")


def named(rule: str, values: Mapping[str, str], ending: str) -> str:
    """The name of a file by a rule such as `{study} {part}`: what a file system does not take is left out,
    and so is what is empty. Raises Failure for a place that is not known, and for a name of nothing."""
    met = re.findall(r"\{([^{}]*)\}", rule)
    wrong = next((one for one in met if one not in PLACES), None)
    bare = re.sub(r"\{[^{}]*\}", "", rule)
    if wrong is not None or "{" in bare or "}" in bare:
        said = f"`{{{wrong}}}`" if wrong is not None else "a brace that stands alone"
        raise Failure(f"the rule for names has {said}", f"known: {', '.join(f'{{{one}}}' for one in PLACES)}")  # fmt: skip
    filled = re.sub(r"\{([^{}]*)\}", lambda found: values[found[1]], rule)
    clean = re.sub(r'[<>:"/\\|?*\x00-\x1f\x7f\u202a-\u202e\u2066-\u2069]', "", filled)
    clean = re.sub(r"\s+", " ", clean)
    # What was empty leaves no mark that joined it.
    clean = re.sub(r"(?:\s*[-_,]\s*)+(?=$)|^(?:\s*[-_,]\s*)+", "", clean).strip(" .")
    if not clean:
        raise Failure(f"the rule `{rule}` names a file of nothing", f"for example {USUAL_RULE}")
    return f"{clean[:_LONGEST].rstrip()}.{ending}"
