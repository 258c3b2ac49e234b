"""How the flat pieces of a study are cut: nests for each thickness, the cuts of every sheet, what they take."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from msgspec import Struct

from ovolo.benches.cutting.cutter import Cutter
from ovolo.benches.cutting.flat_pieces import FlatPiece, flat_pieces, told_together
from ovolo.benches.cutting.nesting import WORK, Laid, Nest, nested
from ovolo.benches.cutting.routes import Cut, Effort, cuts_of, effort_of
from ovolo.geometry.same import SAME_PLACE
from ovolo.outcome.part import Part
from ovolo.problems import Failure
from ovolo.quantities.kinds import REGION, SOLID
from ovolo.running.under_way import Told, nobody, stretch

CUT, LEFT_OUT = "cut", "left out"
ROLES = (CUT, LEFT_OUT)


class Sheet(Struct, frozen=True, eq=False):
    """A sheet of stock of one thickness (mm; None for regions), with its cuts in their order."""

    nest: Nest
    number: int
    """Of the sheet in its nest."""

    thickness: float | None
    cuts: Sequence[Cut]
    effort: Effort

    @property
    def laid(self) -> list[Laid]:
        return self.nest.on(self.number)


class NothingCut(Failure):
    """All pieces are refused; the first of them stands for all."""

    def __init__(self, refused: Sequence[Failure]) -> None:
        super().__init__(refused[0].message, refused[0].hint)
        self.refused = tuple(refused)


class CutPlan(Struct, frozen=True, eq=False):
    """All sheets, and why some pieces are on none."""

    cutter: Cutter
    nests: Sequence[tuple[float | None, Nest]]
    sheets: Sequence[Sheet]
    refused: Sequence[Failure] = ()


def role_of(part: Part, roles: Mapping[str, str]) -> str:
    """Whether a part is cut, as it is said. Raises Failure."""
    said = roles.get(part.name, CUT)
    if said not in ROLES:
        raise Failure(f"`{part.name}` cannot be `{said}` on the cutting bench", ", ".join(ROLES))
    return said if part.kind in (REGION, SOLID) else LEFT_OUT


_NESTING = 0.8
"""Of the work is the nesting, about; the rest are the cuts."""


def cut_plan(
    parts: Sequence[Part],
    cutter: Cutter,
    roles: Mapping[str, str],
    work: int = WORK,
    told: Told = nobody,
) -> CutPlan:
    """How parts are cut, pieces of one thickness together; `told` takes how far it is. Raises Failure where nothing is cut."""
    for name in roles:
        if all(part.name != name for part in parts):
            raise Failure(f"there is no part `{name}`")
    chosen = [part for part in parts if role_of(part, roles) == CUT]
    pieces, refused = flat_pieces(chosen)
    stocks: dict[float | None, list[FlatPiece]] = {}
    too_thick: dict[str, list[FlatPiece]] = {}
    for one in pieces:
        if one.thickness is not None and one.thickness > cutter.thickest + SAME_PLACE:
            too_thick.setdefault(one.piece.part, []).append(one)
            continue
        key = None if one.thickness is None else round(one.thickness, 4)
        stocks.setdefault(key, []).append(one)
    refused += [_too_thick(own, cutter) for own in too_thick.values()]
    nests, sheets = [], []
    for number, (thickness, own) in enumerate(stocks.items()):
        told_of_one = stretch(told, number / len(stocks), (number + 1) / len(stocks))
        try:
            nest = nested(own, cutter, work // len(stocks), stretch(told_of_one, 0.0, _NESTING))
            made = []
            for at in range(nest.sheets):
                told_of_one(_NESTING + (1 - _NESTING) * at / nest.sheets)
                made.append(_sheet(nest, at, thickness))
        except Failure as failure:
            refused.append(failure)
            continue
        nests.append((thickness, nest))
        sheets += made
    if not sheets:
        raise NothingCut(refused)
    return CutPlan(cutter, nests, sheets, refused)


def _too_thick(pieces: Sequence[FlatPiece], cutter: Cutter) -> Failure:
    """What stands against the pieces of a part, all of them too thick."""
    thick = sorted(one.thickness or 0.0 for one in pieces)
    said = told_together(
        [one.piece for one in pieces],
        f"is {thick[0]:.6g} mm thick",
        f"are {thick[0]:.6g} to {thick[-1]:.6g} mm thick",
    )
    bars = "it as a bar" if len(pieces) == 1 else "them as bars"
    return Failure(
        f"{said}; the cutter goes through {cutter.thickest:g} mm", f"another cutter, or cut {bars}"
    )


def _sheet(nest: Nest, number: int, thickness: float | None) -> Sheet:
    cuts = cuts_of(nest, number)
    return Sheet(nest, number, thickness, cuts, effort_of(cuts, nest.cutter))
