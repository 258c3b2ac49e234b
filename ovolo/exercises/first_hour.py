"""The six exercises of the first hour, in their order."""

from __future__ import annotations

import itertools
import math
from collections.abc import Mapping

import numpy as np

from ovolo.exercises.exercise import Exercise, Step
from ovolo.exercises.facts import Facts, extents, near
from ovolo.exploring.axes import Axis
from ovolo.geometry.curves.curve import Curve
from ovolo.geometry.curves.pieces import Arc
from ovolo.outcome.part import Part
from ovolo.problems import Failure, meant
from ovolo.quantities.dimension import ANGLE, LENGTH, NUMBER
from ovolo.quantities.kinds import CURVE, ListOf
from ovolo.sheet import tree
from ovolo.sheet.names import studies_used


def _unless(done: object, said: str) -> str:
    """What is missing, unless it is done."""
    return "" if done else said


# --- a triangle and its height ---


def _a_length(facts: Facts) -> str:
    return _unless(facts.inputs(LENGTH), "there is no input yet that is a length with limits")


def _an_angle(facts: Facts) -> str:
    return _unless(facts.inputs(ANGLE), "there is no input yet that is an angle with limits")


def _height(base: float, pitch: float) -> float:
    return base / 2 * math.tan(pitch)


def _the_height(facts: Facts) -> str:
    if facts.follows((LENGTH, ANGLE), _height):
        return ""
    return "no line has that value yet, wherever both inputs stand"


def _a_triangle(facts: Facts) -> str:
    """A part as wide as the base and as high as the triangle, upright or flat, wherever the inputs stand."""
    name = facts.follows((LENGTH, ANGLE), _height)
    if not name:
        return "the height comes first"
    axes = [*facts.inputs(LENGTH), *facts.inputs(ANGLE)]
    return _unless(
        all(_has_triangle(facts, setting, name) for setting in facts.settings_of(axes)),
        "no part is a triangle as wide as the base and as high as the height, wherever both inputs stand",
    )


def _has_triangle(facts: Facts, setting: Mapping[str, float], height: str) -> bool:
    high = facts.value(height, setting) or 0.0
    widths = [facts.value(one.name, setting) or 0.0 for one in facts.inputs(LENGTH)]

    def fits(part: Part) -> bool:
        """It fills half of its frame, as a triangle does."""
        wide, deep, tall = extents(part)
        thick = tall if near(deep, high) else deep
        framed = any(near(wide, one) for one in widths) and (near(deep, high) or near(tall, high))
        filled = part.area if part.volume is None else part.volume / (thick or 1.0)
        return framed and near(filled or 0.0, wide * high / 2, 1e-4)

    return any(map(fits, facts.at(setting).parts.values()))


def _a_limit(facts: Facts) -> str:
    if not facts.now.checks:
        return "there is no check yet"
    if not any(one.passed for one in facts.now.checks):
        return "the check fails as the inputs stand now"
    return _unless(
        facts.fails_somewhere(),
        "it holds wherever the inputs stand: nothing can be told by it",
    )


_TRIANGLE = Exercise(
    "triangle", "A triangle and its height",
    "The gable of the keeper's porch is a triangle on a base, with the same pitch on both sides. Its height follows from the two.",
    "",
    (
        Step("Give it an input for the base: a length with limits.",
             "Press “Insert…” below the sheet, choose “An input” and fill in: name `base`, value `2 m`, from `1 m` to `4 m`. Or write `input base = 2 m from 1 m to 4 m step 50 mm \"Base\"` into the empty line.", _a_length),
        Step("Give it an input for the pitch: an angle with limits.",
             "`input pitch = 35° from 10° to 60° step 1° \"Pitch\"`. The sign ° is also written `deg`.", _an_angle),
        Step("Work out the height in the middle: half the base times the tangent of the pitch.",
             "`high = base / 2 * tan(pitch) \"Height\"`", _the_height),
        Step("See it: make the triangle a part.",
             "`part gable = region([(0 mm, 0 mm), (base, 0 mm), (base / 2, high)]).on(\"front\")`. Three corners make an outline; `region` is what lies inside; `on` sets it upright.", _a_triangle),
        Step("Say what must hold: a check that fails where the gable becomes too high. Then turn the slide rules and watch.",
             "`check high <= 1.5 m \"it stays below the window\"`", _a_limit),
    ),
    ready="""
input base = 2 m from 1 m to 4 m step 50 mm "Base"
input pitch = 35° from 10° to 60° step 1° "Pitch"
high = base / 2 * tan(pitch) "Height"
part gable = region([(0 mm, 0 mm), (base, 0 mm), (base / 2, high)]).on("front") colour oak "Gable"
check high <= 3.5 m "it stays below the window"
""",
)  # fmt: skip


# --- a count rounded up ---


def _rounded_up(long: float, largest: float) -> float:
    return float(math.ceil(long / largest - 1e-9))


def _bay(long: float, largest: float) -> float:
    return long / _rounded_up(long, largest)


def _the_count(facts: Facts) -> str:
    if facts.follows((LENGTH, LENGTH), _rounded_up, NUMBER):
        return ""
    return "no line has that count yet, wherever both inputs stand"


def _the_bay(facts: Facts) -> str:
    return _unless(
        facts.follows((LENGTH, LENGTH), _bay),
        "no line is the length divided by the count",
    )


def _holds_everywhere(facts: Facts) -> str:
    """A check of what follows from both inputs, that holds wherever they stand."""
    lengths = {one.name for one in facts.inputs(LENGTH)}
    lines = [line for line in facts.program.lines if isinstance(line.content, tree.Check)]
    told = [
        line
        for line in lines
        if len(lengths & {one.name for one in facts.program.upstream([line])}) > 1
    ]
    if not told:
        return "there is no check yet of a bay against the widest"
    for setting in facts.settings_of(facts.inputs(LENGTH)):
        if not all(one.passed for one in facts.at(setting).checks):
            return "a check fails at some setting of the inputs; a bay should never be wider than the largest"
    return ""


_COUNT = Exercise(
    "count", "A count rounded up",
    "A rail runs along the boardwalk. Its posts stand in equal bays, the fewest of which none is wider than allowed.",
    """
input long = 4.2 m from 1 m to 12 m step 50 mm "Length of the rail"
input largest = 1.4 m from 0.6 m to 2.4 m step 50 mm "Widest bay"
""",
    (
        Step("Count the bays: the length divided by the widest bay, rounded up.",
             "`bays = ceil(long / largest) \"Bays\"`: `ceil` rounds up to a whole number. What is whole but for noise stays: 4.2 m / 1.4 m is 3.", _the_count),
        Step("How wide is each bay? Divide the length by the count, so that all are equal.",
             "`bay = long / bays \"Bay\"`", _the_bay),
        Step("Write a check that no bay is wider than the widest, and turn both inputs to their ends: it holds everywhere.",
             "`check bay <= largest \"no bay is too wide\"`. A value that meets its limit exactly holds.", _holds_everywhere),
    ),
)  # fmt: skip


# --- an array by index ---


def _heights(facts: Facts) -> list[list[float]]:
    """Of each part of several pieces how high its pieces stand or reach, in their order."""
    found = []
    for part in facts.parts():
        tops = [
            bounds[1][2] for at in range(part.count) if (bounds := part.bounds_of(at)) is not None
        ]
        if len(tops) > 1:
            found.append(tops)
    return found


def _several(facts: Facts) -> str:
    return _unless(
        any(part.count > 2 for part in facts.parts()),
        "there is no part of three or more pieces",
    )


def _rising(facts: Facts) -> str:
    for tops in _heights(facts):
        steps = np.diff(tops)
        if len(steps) > 1 and steps.min() > 1 and np.ptp(steps) < 1e-6:
            return ""
    return "no part has pieces of which each reaches as much higher as the one before"


def _as_many(facts: Facts) -> str:
    for axis in facts.inputs(NUMBER):
        for name, part in facts.now.parts.items():
            counts = [
                facts.at(setting).parts[name].count == setting[axis.name]
                for setting in list(facts.settings_of([axis]))[1:]
                if name in facts.at(setting).parts
            ]
            if part.count == facts.value(axis.name, {}) and counts and all(counts):
                return ""
    return "no part has as many pieces as an input says, wherever that stands"


_ARRAY = Exercise(
    "array", "An array by index",
    "Steps lead up to the terrace. Each is one further on and one higher than the step before: all that differs is its number.",
    """
input steps = 6 from 2 to 20 step 1 "Steps"
rise = 160 mm "Rise"
going = 300 mm "Going"
""",
    (
        Step("Make a part of several pieces: a list of steps, one for each number `i` from 0.",
             "`part stair = [box(going, 1 m, rise).move(x = i * going) for i in 0 .. steps - 1]`: what stands before `for` is made once for each `i`.", _several),
        Step("Let each step be one rise higher than the one before.",
             "Move it up, too: `.move(x = i * going, z = i * rise)`. Click the part's line to change it.", _rising),
        Step("Turn the number of steps: the part has as many pieces as the input says.",
             "The list runs `0 .. steps - 1`: both ends are in, so that is as many as `steps`.", _as_many),
    ),
)  # fmt: skip


# --- an outline with a tangent arc ---


def _curves(facts: Facts) -> list[Curve]:
    found: list[Curve] = []
    for one in facts.now.lines:
        kind = one.line.kind
        if one.has_value and kind == CURVE:
            found.append(one.value)
        elif one.has_value and isinstance(kind, ListOf) and kind.item == CURVE:
            found.extend(item for item in one.value if isinstance(item, Curve))
    return found


def _is_smooth_between(curve: Curve) -> bool:
    """Whether some arc goes on in the direction of a piece beside it."""
    pieces = list(curve.pieces)
    pairs = list(itertools.pairwise(pieces))
    if curve.closed and len(pieces) > 1:
        pairs.append((pieces[-1], pieces[0]))
    return any(
        _along(one.slope(1.0)) @ _along(other.slope(0.0)) > 1 - 1e-9
        for one, other in pairs
        if isinstance(one, Arc) or isinstance(other, Arc)
    )


def _along(
    way: np.ndarray[tuple[int, ...], np.dtype[np.float64]],
) -> np.ndarray[tuple[int, ...], np.dtype[np.float64]]:
    flat = np.asarray(way, float).reshape(-1)
    return np.asarray(flat / (np.linalg.norm(flat) or 1.0))


def _a_closed_outline(facts: Facts) -> str:
    return _unless(any(one.closed for one in _curves(facts)), "no line is a closed curve yet")


def _an_arc(facts: Facts) -> str:
    smooth = [one for one in _curves(facts) if one.closed and _is_smooth_between(one)]
    return _unless(
        smooth,
        "no closed curve has an arc that begins or ends in the direction of the line beside it",
    )


def _made_solid(facts: Facts) -> str:
    """A solid part that is such an outline pulled up by an input."""
    return _unless(
        any(_is_pulled_by(facts, one) for one in facts.inputs(LENGTH)),
        "no solid part is the outline, as thick as an input says",
    )


def _is_pulled_by(facts: Facts, thickness: Axis) -> bool:
    for name, part in facts.now.parts.items():
        figure, volume = facts.value(thickness.name, {}), part.volume
        if (
            not figure
            or not volume
            or not any(near(volume / figure, one, 1e-3) for one in _areas(facts))
        ):
            continue
        turned = facts.at({thickness.name: thickness.high}).parts.get(name)
        if (
            turned is not None
            and turned.volume
            and near(turned.volume / thickness.high, volume / figure)
        ):
            return True
    return False


def _areas(facts: Facts) -> list[float]:
    """What the closed curves with a smooth arc enclose (mm²), to a share of 1e-4 (the shoelace formula)."""
    found = []
    for curve in _curves(facts):
        if curve.closed and _is_smooth_between(curve):
            corners = np.asarray(curve.points(0.001))
            found.append(
                float(np.linalg.norm(np.cross(corners, np.roll(corners, -1, axis=0)).sum(axis=0)))
                / 2
            )
    return found


_OUTLINE = Exercise(
    "outline", "An outline with a tangent arc, made solid",
    "A bracket carries the lamp at the door: a foot, an upright, and an arc that runs smoothly out of the upright.",
    """
input long = 240 mm from 120 mm to 400 mm step 5 mm "Length of the foot"
input high = 160 mm from 80 mm to 300 mm step 5 mm "Height of the upright"
""",
    (
        Step("Draw a closed outline: begin at a point, go on to others, close.",
             "`outline = start((0 mm, 0 mm)).to((long, 0 mm)).to((long, high)).to((0 mm, high)).close()`. “Outline” above the picture writes such a line from clicks.", _a_closed_outline),
        Step("Let one piece be an arc that goes on smoothly from the line before it.",
             "Instead of the last `.to(…)`: `.tangent_to((0 mm, high))`, an arc that begins in the direction in which the line ends.", _an_arc),
        Step("Make it solid: give its thickness an input, and pull the region inside the outline up by it.",
             "`input thick = 18 mm from 6 mm to 40 mm step 1 mm \"Thickness\"` and `part bracket = extrude(region(outline), thick)`", _made_solid),
    ),
)  # fmt: skip


# --- a study in a study ---


def _uses_another(facts: Facts) -> str:
    return _unless(studies_used(facts.text), "no line begins with `use` yet")


def _called(facts: Facts) -> list[tree.Call]:
    names = set(studies_used(facts.text))
    return [
        node
        for line in facts.program.lines
        for node in tree.descendants(line.content)
        if isinstance(node, tree.Call) and node.function in names
    ]


def _made_of_it(facts: Facts) -> str:
    if not _called(facts):
        return "no line makes anything of the study that is used"
    return _unless(any(part.count for part in facts.parts()), "there is no part made of it yet")


def _otherwise(facts: Facts) -> str:
    given = any(call.arguments for call in _called(facts))
    return _unless(given, "all its inputs have the values that they have there")


def _a_row_of_it(facts: Facts) -> str:
    several = any(part.count >= 3 for part in facts.parts())
    return _unless(several and _called(facts), "no part of it has three pieces or more")


_USE = Exercise(
    "use", "A study used in a study",
    "The porch has a gable at each end and one in the middle: three times the triangle of the first exercise, which is drawn there and only there.",
    "",
    (
        Step("Name the study that is used, and what it is called here.",
             "`use gable from \"{used}\"`", _uses_another),
        Step("Make a part of it: the study is a function of its inputs.",
             "`part porch = gable()`", _made_of_it),
        Step("Give one of its inputs another value here; there it stays as it is.",
             "`part porch = gable(base = 3 m)`. What stands in the brackets are its inputs by their names.", _otherwise),
        Step("Set up three of them, one behind the other.",
             "`part porch = [gable(base = 3 m).move(y = i * 1.2 m) for i in 0 .. 2]`", _a_row_of_it),
    ),
    uses="triangle",
)  # fmt: skip


# --- vary and hand over ---


def _two_presets(facts: Facts) -> str:
    titles = [line for line in facts.program.lines if isinstance(line.content, tree.Preset)]
    return (
        "" if len(titles) >= 2 else f"there {'is one preset' if titles else 'are no presets'} yet"
    )


def _varied(facts: Facts) -> str:
    return _unless(facts.kept.get("contact_sheets"), "no contact sheet of this study is kept yet")


def _handed_over(facts: Facts) -> str:
    return _unless(facts.kept.get("hand_overs"), "nothing of this study was handed over yet")


_VARY = Exercise(
    "vary", "Vary and hand over",
    "A knob for the drawers of the plan chest is wanted in several sizes. Try many, keep what is good, and hand it over.",
    """
input across = 34 mm from 20 mm to 60 mm step 1 mm "Width"
input high = 26 mm from 15 mm to 45 mm step 1 mm "Height"
input waist = 55 % from 30 % to 90 % step 5 % "Waist, in shares of the width"
outline = [(0 mm, 0 mm), (across * waist / 2, 0 mm), (across * waist / 2, high / 3), (across / 2, high / 2), (across / 2, high), (0 mm, high)]
part knob = revolve(region(outline)) colour oak "Knob"
neck = across * waist "Neck"
check neck >= 12 mm "a screw goes into the neck"
""",
    (
        Step("Turn the slide rules until you like it, and save that as a preset. Do it twice, with different values.",
             "“Save these values” on the faceplate, with a name. Or write `preset \"Slim\": across = 26 mm, waist = 50 %`", _two_presets),
        Step("Roll a hundred settings on the page “Variations”, look which fail their check, and keep the contact sheet.",
             "“Variations” in the head of the page; “Roll”; then open “Contact sheets” there and keep this one under a name.", _varied),
        Step("Hand the knob over for printing.",
             "“Hand over”, then “Put a hand-over together…”: tick the knob and 3MF, and make it.", _handed_over),
    ),
)  # fmt: skip


FIRST_HOUR = (_TRIANGLE, _COUNT, _ARRAY, _OUTLINE, _USE, _VARY)


def exercise(key: str) -> Exercise:
    """The exercise of a key. Raises Failure where there is none."""
    found = {one.key: one for one in FIRST_HOUR}
    if key not in found:
        raise Failure(f"there is no exercise `{key}`", meant(key, list(found)))
    return found[key]
