"""Studies used inside studies: one is a function of its inputs, and yields its parts and values."""

from __future__ import annotations

from collections.abc import Iterator

from ovolo.meaning import checked_tree
from ovolo.meaning.checking import check_as
from ovolo.meaning.program import Program, ProgramLine
from ovolo.meaning.scope import Scope
from ovolo.problems import Failure, nearest_name
from ovolo.quantities.kinds import (
    CURVE,
    GEOMETRY,
    REGION,
    SOLID,
    SURFACE,
    YES_NO,
    FunctionKind,
    Kind,
    StudyYield,
    innermost,
)
from ovolo.sheet import tree

CHECKS_PASS = "checks_pass"
"""The name under which a study that is used says whether all its checks hold."""


class StudyFunction(FunctionKind, frozen=True, eq=False):
    """The kind of a study that is used: it knows the study's program."""

    title: str = ""
    digest: str = ""
    program: Program = None  # type: ignore[assignment]

    @property
    def name(self) -> str:
        return "study"

    @property
    def said(self) -> str:
        return f"the study “{self.title}”"

    @property
    def word(self) -> str:
        return "function"

    def __eq__(self, other: object) -> bool:
        return isinstance(other, StudyFunction) and self.digest == other.digest

    def __hash__(self) -> int:
        return hash(self.digest)

    def __repr__(self) -> str:
        return f"StudyFunction{self.title, self.digest}"


def study_function(title: str, digest: str, program: Program) -> StudyFunction:
    names = tuple(line.name for line in program.offered if line.name)
    return StudyFunction(parameters=names, title=title, digest=digest, program=program)


def yield_kind(function: StudyFunction) -> StudyYield:
    """What a use of the study yields: a list of its solids; where it has none, of its regions, its
    curves or its surfaces. Everything named in it is reached by its name."""
    parts = {geometry_within(line.kind) for line in part_lines(function.program)}
    item = next((kind for kind in (SOLID, REGION, CURVE, SURFACE) if kind in parts), None)
    return StudyYield(
        item=item,
        title=function.title,
        fields=yield_fields(function.program),
        failing=tuple(_failing(function.program)),
    )


def yield_fields(program: Program) -> tuple[tuple[str, Kind], ...]:
    """All that is reached by a name in what a study yields."""
    fields = {
        name: line.kind
        for name, line in program.by_name.items()
        if line.kind is not None and not isinstance(line.kind, FunctionKind)
    }
    return tuple((fields | {CHECKS_PASS: fields.get(CHECKS_PASS, YES_NO)}).items())


def _failing(program: Program) -> Iterator[tuple[str, str]]:
    """The names of lines that have a problem, and the problem; of those that wait, the first that
    stands against anything."""
    root = next((problem for problem in program.problems if not problem.waiting), None)
    for name, line in program.by_name.items():
        problem = root if line.problem is not None and line.problem.waiting else line.problem
        if problem is not None:
            yield name, f"{problem.message} (line {problem.line})"


def part_lines(program: Program) -> list[ProgramLine]:
    return [line for line in program.lines if isinstance(line.content, tree.Part)]


def geometry_within(kind: Kind | None) -> Kind | None:
    """The kind of the pieces within lists."""
    kind = innermost(kind)
    return kind if kind in GEOMETRY else None


def study_call(
    node: tree.Call, owner: checked_tree.Typed, kind: StudyFunction, scope: Scope
) -> checked_tree.Typed:
    """`baluster(height = 900 mm)`: the inputs that are given, the others as in their study."""
    given: dict[str, checked_tree.Typed] = {}
    begun: dict[str, checked_tree.Typed] = {}
    for position, argument in enumerate(node.arguments):
        name = argument.name
        if name == PRESET_NAME and name not in kind.parameters:
            begun = _values_of_preset(kind, argument)
            continue
        if name is None:
            if position >= len(kind.parameters):
                raise Failure(
                    f"“{kind.title}” has {len(kind.parameters)} inputs, and here are {len(node.arguments)} values",
                    _offered(kind), argument.span,
                )  # fmt: skip
            name = kind.parameters[position]
        elif name not in kind.parameters:
            near = nearest_name(name, list(kind.parameters))
            hint = f"did you mean `{near}`?" if near else _offered(kind)
            raise Failure(f"“{kind.title}” has no input `{name}`", hint, argument.span)
        if name in given:
            raise Failure(f"`{name}` is given twice", "", argument.span)
        given[name] = _argument(kind, name, argument, scope)
    given = begun | given
    return checked_tree.StudyCall(
        yield_kind(kind), node.span, owner, tuple(given), tuple(given.values())
    )


PRESET_NAME = "preset"
"""By this name a use begins from a preset of its study: `stair(preset = "Attic", going = 250 mm)`."""


def _values_of_preset(
    kind: StudyFunction, argument: tree.Argument
) -> dict[str, checked_tree.Typed]:
    """The values that a preset of the study gives to the inputs it offers."""
    pieces = argument.value.pieces if isinstance(argument.value, tree.Text) else (argument.value,)
    if len(pieces) != 1 or not isinstance(pieces[0], str):
        raise Failure("the preset of a use is named in quotes", 'for example preset = "Attic"', argument.value.span)  # fmt: skip
    title = pieces[0]
    lines = {
        line.content.title: line
        for line in kind.program.lines
        if isinstance(line.content, tree.Preset)
    }
    line = lines.get(title)
    if line is None:
        near = nearest_name(title, list(lines))
        known = f"its presets: {', '.join(lines)}" if lines else "it has no presets"
        hint = f"did you mean “{near}”?" if near else known
        raise Failure(f"“{kind.title}” has no preset “{title}”", hint, argument.value.span)
    if line.checked is None:
        raise Failure(f"the preset “{title}” of “{kind.title}” has a problem of its own", "", argument.span)  # fmt: skip
    return {name: value for name, value in line.checked.terms.items() if name in kind.parameters}


def _argument(
    kind: StudyFunction, name: str, argument: tree.Argument, scope: Scope
) -> checked_tree.Typed:
    wanted = kind.program.by_name[name].kind
    if wanted is None:
        raise Failure(f"the input `{name}` of “{kind.title}” has a problem of its own")
    what = f"the input `{name}` of “{kind.title}”"
    return check_as(argument.value, scope, wanted, what)


def _offered(kind: StudyFunction) -> str:
    return f"inputs: {', '.join(kind.parameters) or 'none'}"
