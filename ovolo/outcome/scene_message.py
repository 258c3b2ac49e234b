"""What a scene tells the screen: the header of its message, declared once.

`scene.py` makes it, and the scripts of the page know it as types (`frontend/scene.d.ts`, written from
here). Places are in mm. `Floats` and `Integers` stand for figures that lie in the data behind the
header, as [offset, count]; the page has them as arrays.
"""

from __future__ import annotations

from typing import Annotated, Any, NotRequired, TypedDict

from ovolo.problems import NoteTold, ProblemTold

Floats = Annotated[list[int], "Float32Array"]
Integers = Annotated[list[int], "Uint32Array"]


class LineSaid(TypedDict):
    """A statement of the sheet, before anything is run."""

    line: int
    text: str
    type: str
    name: str | None
    body: str
    comment: str
    title: str
    lead: NotRequired[str]
    """The word that stands before it in its row."""


class ProblemSaid(ProblemTold):
    end_column: int | None
    struck: str
    """The items that it struck, in words."""
    waiting: bool
    """Whether it only waits for another line."""
    unknown: str
    """The name that nothing bears, where it is that."""


class StudySaid(TypedDict):
    """A study that is used: what it takes, as its sheet has it, and the names of what it yields."""

    inputs: list[str]
    yields: list[str]


class OutcomeSaid(TypedDict):
    """What a line yields, as its row shows it."""

    kind: str
    number: str
    unit: str
    label: str
    needs: list[str]
    problems: list[ProblemSaid]
    notes: list[NoteTold]
    study: StudySaid | None
    said: NotRequired[str]
    coming: NotRequired[bool]
    """Whether its value comes once the hand rests."""


class InputSaid(TypedDict):
    """An input for its slide rule; quantities in mm, radians, kg, s beside the unit that is shown."""

    name: str | None
    label: str
    help: str
    line: int
    kind: str
    section: str
    internal: bool
    problem: str
    value: float | bool | str | list[float] | None
    choices: list[Any]
    seed: NotRequired[bool]
    number: NotRequired[str]
    numbers: NotRequired[list[str]]
    unit: NotRequired[str]
    size: NotRequired[float]
    """Of the unit, in mm, radians, kg, s."""
    width: NotRequired[int]
    """Figures to a point, where it is a list of points."""
    low: NotRequired[float | None]
    high: NotRequired[float | None]
    step: NotRequired[float | None]
    low_shown: NotRequired[str]
    high_shown: NotRequired[str]
    step_shown: NotRequired[str]
    choices_shown: NotRequired[list[str]]


class ShapeSaid(TypedDict):
    """A shape as it is drawn: corners split where normals differ, and its edges."""

    positions: Floats
    normals: Floats
    triangles: Integers
    edges: Floats


class GroupSaid(TypedDict):
    """Copies of a shape: their placements by columns, the item each belongs to, and their colours."""

    shape: str
    matrices: Floats
    items: Integers
    tints: Integers | None


class LegendSaid(TypedDict):
    said: str
    colour: str


class PartSaid(TypedDict):
    name: str
    label: str
    colour: str
    line: int
    count: int
    solid: bool
    triangles: int
    bounds: list[list[float]] | None
    groups: list[GroupSaid]
    legend: list[LegendSaid]
    hatch: Floats
    cutHatch: list[float]
    mass: str
    """Empty where nothing says what it is made of."""


class ConstructionSaid(TypedDict):
    """Geometry that is no part."""

    name: str
    line: int
    groups: list[GroupSaid]
    points: list[list[float]]


class CheckSaid(TypedDict):
    text: str
    message: str
    passed: bool | None
    """None where it could not be worked out, or is not yet."""
    line: int
    measured: str
    doubt: str
    """Why it might be the other; empty where it is sure."""


class DimSaid(TypedDict):
    line: int
    said: str
    form: str
    start: list[float]
    end: list[float]
    offset: float
    wrong: bool
    name: str
    shown: str
    segments: list[float]
    place: list[float]


class CornerSaid(TypedDict):
    """A corner of a chain that may be dragged: along which axes, and where the pieces at it lead to."""

    name: str | None
    index: int
    at: list[float]
    free: list[str]
    beside: list[list[float]]


class StepSaid(TypedDict):
    """A line of a working. `formula`, `numbers` and `result` are LaTeX; the last two are empty where they
    would say nothing new."""

    line: int
    name: str
    label: str
    role: str
    formula: str
    numbers: str
    result: str
    problem: str
    comment: str
    exactness: str
    """How exact the measures in it are, in words; empty where it has none."""


class UnderlaySaid(TypedDict):
    """A picture under the drawing: its file and its corners (lower left, lower right, upper right,
    upper left)."""

    name: str | None
    file: str
    digest: str
    line: int
    size: list[int]
    corners: list[list[float]]
    strength: float


class LengthUnitSaid(TypedDict):
    symbol: str
    size: float


class PresetSaid(TypedDict):
    title: str
    same: bool
    """Whether the present values are its own."""


class LinesSaid(TypedDict):
    """The lines of a sheet, and what tells them from others; that alone where they are held."""

    lines_of: str
    lines: NotRequired[list[LineSaid]]


class SceneSaid(LinesSaid):
    study: str
    length_unit: LengthUnitSaid
    outcomes: dict[int, OutcomeSaid]
    inputs: list[InputSaid]
    presets: list[PresetSaid]
    parts: list[PartSaid]
    loose: list[PartSaid]
    """What lines made of geometry beside the parts, shown where nothing is a part."""
    checks: list[CheckSaid]
    dims: list[DimSaid]
    problems: list[ProblemSaid]
    construction: list[ConstructionSaid]
    corners: list[CornerSaid]
    working: list[StepSaid]
    underlays: list[UnderlaySaid]
    drawing: dict[str, Any] | None
    shapes: dict[str, ShapeSaid]
    coming: bool
    """Whether a hand is turning an input, and what is measured comes once it rests."""
