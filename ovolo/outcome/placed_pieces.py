"""Parts that are one study put somewhere: which study, how it is set, and where it stands."""

from __future__ import annotations

import numpy as np
from msgspec import Struct

from ovolo.geometry.digest import digest
from ovolo.geometry.placement import IDENTITY, Matrix
from ovolo.geometry.same import SAME_PLACE, SAME_SHARE
from ovolo.geometry.types import Floats
from ovolo.meaning import checked_tree
from ovolo.outcome.array_place import made_again
from ovolo.outcome.outcome import Outcome
from ovolo.outcome.part import Part
from ovolo.outcome.placed_schedule import studies_used_by
from ovolo.words.placing import towards

_DECIMALS = 6


class PlacedPiece(Struct, frozen=True, eq=False):
    """`place` (4, 4) takes what the study draws to where it stands here; `alike` is the same for pieces
    of the same study that are the same."""

    study: str
    settings: str
    place: Matrix
    alike: str


def placed_piece(outcome: Outcome, part: Part) -> PlacedPiece | None:
    """None where the part is something else, or more than one study, or its solids were changed since."""
    line = outcome.program.by_name.get(part.name)
    if line is None or line.checked is None or line.checked.value is None or not part.groups:
        return None
    used = studies_used_by(outcome, part.name)
    node = _innermost(line.checked.value)
    if len(used) != 1 or node is None:
        return None
    own = _own_place(outcome, node)
    made = made_again(outcome, node)
    if own is None or made is None:
        return None
    before = Part("", "", "", part.kind, made, 0)
    since = _moved_since(before, part)
    if since is None:
        return None
    return PlacedPiece(
        *used[0], since @ own, _likeness(before, np.linalg.inv(own).astype(np.float64))
    )


def _likeness(before: Part, back: Floats) -> str:
    """What tells the solids of a study from others: settings may be names whose values differ by place."""
    solids = [
        (one.shape.key, np.round(back @ one.matrices, _DECIMALS) + 0.0) for one in before.groups
    ]
    return digest("piece", *(figure for solid in solids for figure in solid))


def _innermost(node: checked_tree.Typed) -> checked_tree.Typed | None:
    """What is placed by words: the call of a study, or one laid between two points."""
    while isinstance(node, checked_tree.WordCall) and node.word.trade == "placing":
        if node.word.name == "laid":
            return node
        if not node.positional:
            return None
        node = node.positional[0]
    return node if isinstance(node, checked_tree.StudyCall) else None


def _own_place(outcome: Outcome, node: checked_tree.Typed) -> Matrix | None:
    if not isinstance(node, checked_tree.WordCall):
        return IDENTITY
    ends = [made_again(outcome, end) for end in node.positional[:2]]
    if len(ends) < 2 or any(end is None for end in ends):
        return None
    p, q = (np.append(end, np.zeros(3 - len(end))) for end in ends)
    return towards(p, (q - p) / np.linalg.norm(q - p))


def _moved_since(before: Part, part: Part) -> Matrix | None:
    """The one placement by which each of the solids was moved; None where there is no such."""
    if len(before.groups) != len(part.groups):
        return None
    since: Matrix | None = None
    for one, other in zip(before.groups, part.groups, strict=True):
        if one.shape.key != other.shape.key or len(one.matrices) != len(other.matrices):
            return None
        if since is None:
            since = other.matrices[0] @ np.linalg.inv(one.matrices[0])
        if not np.allclose(since @ one.matrices, other.matrices, rtol=SAME_SHARE, atol=SAME_PLACE):
            return None
    return since
