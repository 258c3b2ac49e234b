"""`dim length from p to q`, `dim radius r about c through p`, `dim angle a at apex from p to q`,
`dim level z at p`: a dimension on the stage.
"""

from __future__ import annotations

import re
from typing import Any

from ovolo.problems import Failure
from ovolo.quantities.kinds import ANGLE_KIND, LENGTH_KIND, POINT, PointKind
from ovolo.sheet import tree
from ovolo.sheet.clauses import behind, expect_word, keyword
from ovolo.sheet.construct import Blank, Construct
from ovolo.sheet.formulas import Reading
from ovolo.sheet.statements.registry import Checker, StatementType


def _dim(reading: Reading) -> tree.Dim:
    """`dim a from p to q offset d`"""
    reading.take()
    quantity = reading.expression()
    expect_word(reading, "from", after_value=True)
    return _between(reading, quantity)


def _dim_angle(reading: Reading) -> tree.Dim:
    """`dim angle a at apex from p to q offset d`"""
    reading.take()
    expect_word(reading, "angle")
    quantity = reading.expression()
    apex = behind(reading, "at")
    expect_word(reading, "from", after_value=True)
    return _between(reading, quantity, "angle", apex)


def _between(
    reading: Reading, quantity: tree.Node, form: str = "length", apex: tree.Node | None = None
) -> tree.Dim:
    start = reading.expression()
    end = behind(reading, "to")
    offset = reading.expression() if keyword(reading, "offset") else None
    reading.end(after_value=True)
    return tree.Dim(quantity, start, end, offset, form, apex)


def _dim_round(reading: Reading) -> tree.Dim:
    """`dim radius r about centre through p`"""
    reading.take()
    form = keyword(reading, "radius", "diameter")
    if form is None:
        raise reading.halt()
    quantity = reading.expression()
    centre = behind(reading, "about")
    rim = behind(reading, "through")
    reading.end(after_value=True)
    return tree.Dim(quantity, centre, rim, form=form.text)


def _dim_level(reading: Reading) -> tree.Dim:
    """`dim level z at p above datum`"""
    reading.take()
    expect_word(reading, "level")
    quantity = reading.expression()
    place = behind(reading, "at")
    datum = reading.expression() if keyword(reading, "above") else None
    reading.end(after_value=True)
    return tree.Dim(quantity, datum, place, form="level")


_CLAUSE_OF_DIM = re.compile(r"(?<=\s)(about|through|at|from)(?=\s)(?!\s+=)")


def _form(stripped: str) -> str:
    """The rule for a dim. Its words may be names as well: `dim radius from p to q`."""
    words = stripped.split(None, 2)
    what = words[1] if len(words) == 3 else ""
    clauses = [found[1] for found in _CLAUSE_OF_DIM.finditer(stripped)]
    if what in ("radius", "diameter") and _in_order(clauses, "about", "through"):
        return "dim_round"
    if what == "level" and "at" in clauses and "from" not in clauses:
        return "dim_level"
    return "dim_angle" if what == "angle" and _in_order(clauses, "at", "from") else "dim"


def _in_order(words: list[str], first: str, second: str) -> bool:
    """Whether one word stands before another somewhere."""
    return first in words and second in words[words.index(first) + 1 :]


def _kind(content: tree.Dim, checker: Checker) -> Any:
    kind = ANGLE_KIND if content.form == "angle" else LENGTH_KIND
    value = checker.check_as(content.quantity, kind, "what a dim states")
    terms = {}
    for role, node in (("start", content.start), ("end", content.end), ("apex", content.apex)):
        if node is None:
            continue
        checked = checker.check(node)
        if not isinstance(checked.kind, PointKind) or checked.kind.dimension != POINT.dimension:
            raise Failure(
                f"a dim runs from a point to a point; this is {checked.kind.said}",
                "for example from (0 mm, 0 mm) to (span, 0 mm)",
                node.span,
            )
        terms[role] = checked
    if content.offset is not None:
        terms["offset"] = checker.check_as(content.offset, LENGTH_KIND, "the offset of a dim")
    return checker.done(kind, value, terms)


_GRAMMAR = r"""
dim: "dim" expression "from" expression "to" expression ["offset" expression]
dim_round: "dim" (RADIUS | DIAMETER) expression "about" expression "through" expression
dim_level: "dim" "level" expression "at" expression ["above" expression]
dim_angle: "dim" "angle" expression "at" expression "from" expression "to" expression ["offset" expression]
"""

STATEMENT = StatementType(
    "dim", "a dimension on the stage", tree.Dim,
    {"dim": _dim, "dim_angle": _dim_angle, "dim_round": _dim_round, "dim_level": _dim_level}, 70, grammar=_GRAMMAR,
    keywords=("from", "to", "offset", "about", "through", "radius", "diameter", "level", "angle", "at", "above"),
    form=_form, kind=_kind, leads=True,
    constructs=(
        Construct(
            "A dimension", "A dim on the stage", "dim {quantity} from {start} to {end}‹ offset {offset}›",
            (Blank("quantity", "a length", "what it says; wrong where the drawing differs", "200 mm"),
             Blank("start", "a point", "where it begins", "(0 mm, 0 mm)"),
             Blank("end", "a point", "where it ends", "(200 mm, 0 mm)"),
             Blank("offset", "a length", "how far beside the points it is drawn", "60 mm", True)),
        ),
    ),
)  # fmt: skip
