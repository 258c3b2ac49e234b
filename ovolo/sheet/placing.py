"""Placed pieces: lines that use a study and say where it stands, written and changed from the picture.

A placed piece is `part north = truss(pitch = 22°).turn(90°).move(2 m, 3.5 m) "North truss"`.
"""

from __future__ import annotations

import math
import re
from collections.abc import Iterator, Sequence

from msgspec import Struct

from ovolo.problems import Failure
from ovolo.quantities.dimension import ANGLE, LENGTH
from ovolo.quantities.show import DisplayUnits
from ovolo.sheet import tree
from ovolo.sheet.edits import inserted, quoted, rewritten, statement_named, with_its_comma
from ovolo.sheet.literals import literal_for
from ovolo.sheet.names import references, studies_used
from ovolo.sheet.reader import read_sheet

_AXES = ("x", "y", "z")


class Piece(Struct, frozen=True):
    """A placed piece in the text: its line, the call of its study, and the words that place it, from
    the study outwards; `laid(p, q, l -> truss(span = l))` is one of them."""

    statement: tree.Statement
    call: tree.Call
    placing: tuple[tree.Call, ...]

    @property
    def place(self) -> tree.Call | None:
        """The move that comes last, where it is one by lengths."""
        last = self.placing[-1] if self.placing else None
        return last if last is not None and last.function == "move" else None

    @property
    def is_laid(self) -> bool:
        """Whether two points tell where it lies."""
        return any(one.function == "laid" for one in self.placing)


def piece_of(text: str, name: str) -> Piece | None:
    """The placed piece of a line; None where the line is something else."""
    statement = statement_named(text, name)
    content = statement.content
    if not isinstance(content, tree.Part | tree.Formula):
        return None
    calls = list(_calls(content.value))
    used = studies_used(text)
    if not calls or calls[-1].function not in used:
        return None
    placing = tuple(reversed(calls[:-1]))
    return Piece(statement, calls[-1], placing) if all(_places(one) for one in placing) else None


def _places(call: tree.Call) -> bool:
    return call.function in ("move", "turn", "mirror", "scale", "on", "laid")


def _calls(node: tree.Node | None) -> Iterator[tree.Call]:
    """A call, the call of what it places, and so on inwards."""
    while isinstance(node, tree.Call):
        yield node
        node = _placed_by(node) if _places(node) else None


def _placed_by(call: tree.Call) -> tree.Node | None:
    """What a word places: its first argument; of `laid` what its function gives."""
    if call.function != "laid":
        return call.arguments[0].value if call.arguments else None
    laid = call.arguments[-1].value if len(call.arguments) == 3 else None
    return laid.body if isinstance(laid, tree.Lambda) else None


def _piece(text: str, name: str) -> Piece:
    found = piece_of(text, name)
    if found is None:
        raise Failure(
            f"`{name}` is no placed study", "a line such as `part a = truss().move(2 m, 0 m)`"
        )
    return found


# --- the inputs of its study ---


def argument_of(piece: Piece, name: str) -> str | None:
    """An argument as it is written; None where the study's own value stands."""
    found = next((one for one in piece.call.arguments if one.name == name), None)
    return None if found is None else piece.statement.text[slice(*found.value.span)]


def with_argument(text: str, name: str, argument: str, written: str | None) -> str:
    """The sheet with an input of a placed study written anew, or (None) as in the study again. Raises
    Failure where a value without a name stands for it."""
    piece = _piece(text, name)
    source = piece.statement.text
    if any(one.name is None for one in piece.call.arguments):
        raise Failure(f"`{name}` gives values without names", "name them first: pitch = 22°")
    found = next((one for one in piece.call.arguments if one.name == argument), None)
    if found is not None and written is not None:
        return rewritten(text, piece.statement, found.value.span, written)
    if found is not None:
        return rewritten(text, piece.statement, with_its_comma(source, found.span), "")
    if written is None:
        return text
    end = source.rindex(")", *piece.call.span)
    comma = ", " if piece.call.arguments else ""
    return rewritten(text, piece.statement, (end, end), f"{comma}{argument} = {written}")


# --- where it stands ---


def with_move(text: str, name: str, by: Sequence[float], units: DisplayUnits) -> str:
    """The piece moved on by lengths (mm) along x, y and z: its last `move` written anew, or one more.
    Raises Failure where its place is a formula."""
    piece = _piece(text, name)
    place = piece.place
    if place is None:
        end = piece.placing[-1].span[1] if piece.placing else piece.call.span[1]
        return rewritten(
            text, piece.statement, (end, end), f".move({_lengths(by, [''] * 3, units)})"
        )
    written, values = _figures(piece, place, LENGTH, _AXES)
    total = [a + b for a, b in zip(values, by, strict=True)]
    start = place.arguments[0].span[1] if _is_behind(piece, place) else place.arguments[1].span[0]
    inner = piece.statement.text[start : place.span[1]]
    opening = inner.index("(") + 1 if _is_behind(piece, place) else 0
    end = start + len(inner) - 1
    place_written = _lengths(total, written, units)
    return rewritten(text, piece.statement, (start + opening, end), place_written)


def _is_behind(piece: Piece, call: tree.Call) -> bool:
    """Whether a word stands behind what it places: `a.move(…)` and not `move(a, …)`."""
    return not piece.statement.text[slice(*call.span)].lstrip().startswith(call.function)


def _figures(
    piece: Piece, call: tree.Call, dimension: object, names: Sequence[str]
) -> tuple[list[str], list[float]]:
    """The figures that a placing word is given, as they are written and what they are; 0 for those that are
    not. Raises Failure for a formula, with the names that are behind it."""
    written, values = [""] * len(names), [0.0] * len(names)
    for at, one in enumerate(call.arguments[1:]):
        if one.name is not None and one.name not in names:
            raise _formula(piece, one.value, one.name)
        place = names.index(one.name) if one.name is not None else at
        number, sign = _number(one.value)
        if number is None or number.dimension != dimension or place >= len(names):
            raise _formula(piece, one.value, "the place")
        written[place] = piece.statement.text[slice(*one.value.span)]
        values[place] = sign * number.value
    return written, values


def _number(node: tree.Node) -> tuple[tree.Number | None, float]:
    if isinstance(node, tree.Number):
        return node, 1.0
    operand = getattr(node, "operand", None)
    return (operand, -1.0) if isinstance(operand, tree.Number) else (None, 1.0)


def _formula(piece: Piece, node: tree.Node, what: str) -> Failure:
    said = piece.statement.text[slice(*node.span)]
    names = sorted({name for name, _ in references(node)})
    hint = f"change {', '.join(f'`{one}`' for one in names)}" if names else "change it in its line"
    return Failure(f"{what} of `{piece.statement.name}` is a formula: {said}", hint)


def _lengths(values: Sequence[float], written: Sequence[str], units: DisplayUnits) -> str:
    """Two lengths, or three where the piece is lifted, each in the unit in which it was written."""
    usual = next((one for one in written if one), "")
    literals = [
        literal_for(_clean(value), LENGTH, before or usual, units)
        for value, before in zip(values, written, strict=True)
    ]
    return ", ".join(literals if _clean(values[2]) or written[2] else literals[:2])


def _clean(value: float) -> float:
    return float(f"{value:.13g}") + 0.0


def place_in_figures(piece: Piece) -> list[float] | None:
    """Where a piece stands (mm) as its last `move` says; at nothing where it is not moved; None where that
    is a formula, or told by two points."""
    if piece.is_laid:
        return None
    if piece.place is None:
        return [0.0, 0.0, 0.0] if not any(one.function == "move" for one in piece.placing) else None
    try:
        return _figures(piece, piece.place, LENGTH, _AXES)[1]
    except Failure:
        return None


def stands_level(piece: Piece) -> bool:
    """Whether its own z axis still points upwards, so that it is turned as one sees it in plan."""
    return all(
        one.function == "move" or (one.function == "turn" and len(one.arguments) == 2)
        for one in piece.placing
    )


def with_turn(text: str, name: str, by: float, units: DisplayUnits) -> str:
    """The piece turned on by an angle (radians) where it stands: the `turn` behind its study written
    anew, or one more. Raises Failure where that is a formula."""
    piece = _piece(text, name)
    if piece.is_laid:
        raise Failure(f"`{name}` is laid between two points", "move one of its ends")
    first = piece.placing[0] if piece.placing else None
    if first is None or first.function != "turn" or len(first.arguments) != 2:
        end = piece.call.span[1]
        angle = literal_for(_clean(by), ANGLE, "", units)
        return rewritten(text, piece.statement, (end, end), f".turn({angle})")
    (before, *_), (value, *_) = _figures(piece, first, ANGLE, ("angle",))
    total = math.remainder(value + by, math.tau)
    angle = literal_for(_clean(total), ANGLE, before, units)
    return rewritten(text, piece.statement, first.arguments[1].value.span, angle)


# --- more of them ---


class Stand(Struct, frozen=True):
    """Where a piece is put: a point (mm), and what it lies on there: a plane by the direction that it
    faces, or a surface by its name."""

    at: Sequence[float]
    facing: Sequence[float] = (0.0, 0.0, 1.0)
    surface: str = ""


def placed(text: str, title: str, stand: Stand, units: DisplayUnits) -> tuple[str, str]:
    """The sheet with a study of this title placed, and the name of its line; used under a name of its
    own where it was not used yet."""
    used = {study: name for name, study in studies_used(text).items()}
    alias = used.get(title)
    if alias is None:
        alias = free_name(text, _plain(title))
        text = inserted(text, _after_uses(text), f"use {alias} from {quoted(title)}")
    name = free_name(text, f"{alias}_1")
    line = f"part {name} = {alias}(){_standing(stand, units)} {quoted(_numbered(title, name))}"
    return inserted(text, len(text.rstrip("\n").split("\n")), line), name


def _standing(stand: Stand, units: DisplayUnits) -> str:
    if stand.surface:
        over = _lengths([*stand.at[:2], 0.0], [""] * 3, units)
        return f".move({over}, level({stand.surface}, ({over})))"
    return f"{_facing(stand.facing, units)}.move({_lengths(stand.at, [''] * 3, units)})"


_SIDES = {(0, -1, 0): "front", (1, 0, 0): "side", (0, 1, 0): "back", (-1, 0, 0): "left"}
"""The sides of `on` by the direction that what is drawn on them faces."""

_PLACES_OF_ANGLES = 4
"""A direction is known from what is drawn (float32): so many decimals of a degree."""


def _facing(direction: Sequence[float], units: DisplayUnits) -> str:
    """The words that lay what lies flat into a plane that faces a direction, its x axis level. Raises
    Failure for none."""
    size = math.sqrt(sum(one * one for one in direction))
    if not size > 0 or not math.isfinite(size):
        raise Failure("a plane faces some way", "pick a face of a part")
    x, y, z = (one / size for one in direction)
    near = tuple(round(one) for one in (x, y, z))
    if max(abs(a - b) for a, b in zip((x, y, z), near, strict=True)) < 1e-6 and near in _SIDES:
        return f'.on("{_SIDES[near]}")'
    tilt = round(math.degrees(math.atan2(math.hypot(x, y), z)), _PLACES_OF_ANGLES)
    if not tilt:
        return ""
    yaw = (
        round(math.degrees(math.atan2(x, -y)), _PLACES_OF_ANGLES)
        if math.hypot(x, y) > 1e-6
        else 0.0
    )
    tilted, turned = (literal_for(math.radians(one), ANGLE, "", units) for one in (tilt, yaw))
    return f".turn({tilted}, x)" + (f".turn({turned})" if yaw else "")


def copied(text: str, name: str, by: Sequence[float], units: DisplayUnits) -> tuple[str, str]:
    """The sheet with another piece below one, of the same values, moved on by lengths (mm); and its name."""
    piece = _piece(text, name)
    with_move(text, name, by, units)  # raises for this one what would be told of its copy
    content = piece.statement.content
    assert isinstance(content, tree.Part | tree.Formula)
    new = free_name(text, name)
    source, (start, end), behind = piece.statement.text, content.name_span, content.value.span[1]
    label = source[behind:]  # an input may have the same text as its value
    if content.label:
        label = label.replace(quoted(content.label), quoted(_numbered(content.label, new)), 1)
    line = source[:start] + new + source[end:behind] + label
    text = inserted(text, piece.statement.last_line, line)
    return with_move(text, new, by, units), new


def free_name(text: str, wanted: str) -> str:
    """A name that no line has: the wanted one, or the next number of it."""
    taken = {statement.name for statement in read_sheet(text).statements}
    if wanted not in taken:
        return wanted
    stem, number = re.fullmatch(r"(.*?)_?(\d*)", wanted).groups()  # type: ignore[union-attr]
    at = int(number or 1) + 1
    while f"{stem}_{at}" in taken:
        at += 1
    return f"{stem}_{at}"


def _numbered(label: str, name: str) -> str:
    """A label with the number that a name ends in: "Truss 3" of `truss_3`."""
    number = re.search(r"_(\d+)$", name)
    stem = re.sub(r"\s+\d+$", "", label)
    return f"{stem} {number[1]}" if number else label


def _plain(title: str) -> str:
    words = re.sub(r"\W+", "_", title.lower()).strip("_") or "study"
    return words if not words[0].isdigit() else f"_{words}"


def _after_uses(text: str) -> int:
    """Below the last `use` line, or below the lines that tell of the study as a whole."""
    statements = read_sheet(text).statements
    uses = [one.last_line for one in statements if isinstance(one.content, tree.Use)]
    if uses:
        return uses[-1]
    heads = [
        one.last_line for one in statements if isinstance(one.content, tree.Study | tree.Units)
    ]
    return max(heads, default=0)
