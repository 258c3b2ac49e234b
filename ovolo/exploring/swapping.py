"""Swapping one study for another that has the same inputs, and who uses a study for what."""

from __future__ import annotations

from msgspec import Struct, field

from ovolo.meaning.program import Program
from ovolo.meaning.study_kinds import yield_fields
from ovolo.quantities.kinds import same_kind
from ovolo.sheet import tree
from ovolo.sheet.reader import read_sheet


class Call(Struct):
    """What a sheet makes of a study that it uses: the inputs it sets, by their names or positions,
    and the names it reads of what the study yields, where they stand right behind a use or behind
    the name of a line that is one."""

    line: int
    inputs: set[str] = field(default_factory=set)
    positions: int = 0
    read: set[str] = field(default_factory=set)


class Swap(Struct, frozen=True):
    """How another study would serve in the place of one that is used."""

    title: str
    missing: tuple[str, ...]
    """Inputs that are set here, and that it lacks."""

    misfits: tuple[str, ...]
    """Inputs that are set here, and are of another kind there: "height, a number there"."""

    unread: tuple[str, ...]
    """Names that are read here, and that it does not yield."""

    extra: tuple[str, ...]
    """Inputs that it has beyond those of the present one."""

    without: tuple[str, ...]
    """Inputs of the present one that it lacks, and that are not set here."""

    @property
    def fits(self) -> bool:
        return not (self.missing or self.misfits or self.unread)

    def as_json(self) -> dict[str, object]:
        return {**{name: getattr(self, name) for name in self.__struct_fields__}, "fits": self.fits}


def calls_of(text: str, name: str) -> Call:
    """All that a sheet makes of the study it uses under a name."""
    sheet = read_sheet(text)
    found = Call(0)
    for statement in sheet.statements:
        if isinstance(statement.content, tree.Use) and statement.name == name:
            found.line = statement.line
    yields = {s.name for s in sheet.statements if s.name and _is_use(_value(s.content), name)}
    for statement in sheet.statements:
        for node in tree.descendants(statement.content):
            if isinstance(node, tree.Call) and node.function == name:
                found.inputs |= {one.name for one in node.arguments if one.name}
                unnamed = sum(1 for one in node.arguments if not one.name)
                found.positions = max(found.positions, unnamed)
            elif isinstance(node, tree.Member) and (
                _is_use(node.owner, name)
                or (isinstance(node.owner, tree.Name) and node.owner.name in yields)
            ):
                found.read.add(node.name)
    return found


def swap(text: str, name: str, present: Program | None, title: str, other: Program) -> Swap:
    """How `other` would serve where a sheet uses a study under a name. `present` is that study,
    where it can be reached."""
    call = calls_of(text, name)
    before = [line.name or "" for line in present.offered] if present is not None else []
    there = {line.name: line.kind for line in other.offered if line.name}
    wanted = [*before[: call.positions], *sorted(call.inputs - set(before[: call.positions]))]
    misfits = []
    for one in wanted:
        here = present.by_name.get(one) if present is not None else None
        kind = there.get(one)
        if here is None or here.kind is None or kind is None:
            continue
        if same_kind(here.kind, kind) is None:
            misfits.append(f"{one}, {kind.said} there")
    return Swap(
        title,
        tuple(one for one in wanted if one not in there),
        tuple(misfits),
        tuple(sorted(call.read - dict(yield_fields(other)).keys())),
        tuple(one for one in there if one not in before) if present is not None else (),
        tuple(one for one in before if one not in there and one not in wanted),
    )


def _value(content: tree.Content) -> tree.Node | None:
    return content.value if isinstance(content, tree.Formula | tree.Part) else None


def _is_use(node: tree.Node | None, name: str) -> bool:
    return isinstance(node, tree.Call) and node.function == name
