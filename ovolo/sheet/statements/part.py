"""`part name = shape when condition colour oak "Label"`: an outcome, drawn and handed over."""

from __future__ import annotations

from typing import Any

from ovolo.problems import Failure
from ovolo.quantities.kinds import (
    ANGLE_KIND,
    DENSITY_KIND,
    GEOMETRY,
    LENGTH_KIND,
    REGION,
    SOLID,
    TEXT,
    YES_NO,
    ListOf,
    Quantity,
    innermost,
)
from ovolo.sheet import tree
from ovolo.sheet.clauses import (
    Clause,
    clauses,
    expect_word,
    keyword,
    label_at_end,
    name_and_value,
    one,
)
from ovolo.sheet.colours import tint
from ovolo.sheet.construct import Blank, Construct, blank_label, blank_name
from ovolo.sheet.formulas import Reading
from ovolo.sheet.statements.registry import Checker, Running, StatementType, after_the_name


def _read(reading: Reading) -> tree.Part:
    reading.take()
    token, value = name_and_value(reading)
    fields = clauses(reading, _CLAUSES)
    return tree.Part(token.text, value, token.span, label=label_at_end(reading), **fields)


def _colour(reading: Reading) -> dict[str, Any]:
    """`oak`, `oak by list`, `by list`, `pine to oak by list`."""
    first = _colour_name(reading)
    if first is not None and keyword(reading, "to"):
        last = _colour_name(reading)
        if last is None:
            raise reading.halt("name")
        reading.expect("by")
        return {"between": (first, last), "by": reading.expression()}
    fields: dict[str, Any] = {} if first is None else {"colour": first}
    if reading.takes("by"):
        fields["by"] = reading.expression()
    if not fields:
        raise reading.halt("name")
    return fields


def _colour_name(reading: Reading) -> str | None:
    return reading.take().text if reading.kind in ("name", "colour") else None


def _hatch(reading: Reading) -> dict[str, Any]:
    angle = reading.expression()
    reading.expect(",", after_value=True)
    return {"hatch": (angle, reading.expression())}


def _for(reading: Reading) -> dict[str, Any]:
    """`support` or `no support`: what a solid is for where the study is printed."""
    no = reading.takes("no") is not None
    expect_word(reading, "support", after_value=no)
    return {"role": "no support" if no else "support"}


_CLAUSES: dict[str, Clause] = {
    "when": one("condition"),
    "colour": _colour,
    "hatch": _hatch,
    "material": one("material"),
    "for": _for,
}


def _kind(content: tree.Part, checker: Checker) -> Any:
    tint(content.colour)
    value = checker.check(content.value)
    kind = innermost(value.kind)
    if kind is not None and kind not in GEOMETRY:
        raise Failure(
            f"a part is a curve, a region, a solid or a list of them; this is {value.kind.said}",
            f"for a value write `{content.name} = …` without the word part",
            content.value.span,
        )
    terms = {}
    if content.condition is not None:
        terms["condition"] = checker.check_as(content.condition, YES_NO, "what follows `when`")
    if content.hatch:
        if kind not in (REGION, SOLID, None):
            said = "only regions, and the cuts of solids, are hatched"
            raise Failure(said, "leave out `hatch`", content.hatch[0].span)
        wanted = (("hatch angle", ANGLE_KIND), ("hatch spacing", LENGTH_KIND))
        for (role, figure), node in zip(wanted, content.hatch, strict=True):
            terms[role] = checker.check_as(node, figure, f"the {role}")
    if content.role and kind not in (SOLID, None):
        raise Failure(
            f"only a solid is an area for {content.role}; this is {value.kind.said}",
            f"leave out `for {content.role}`",
            content.value.span,
        )
    if content.by is not None:
        terms["tint"] = _tints(content, content.by, checker)
    if content.material is not None:
        if kind not in (SOLID, None):
            raise Failure(
                "only solids have a material", "leave out `material`", content.material.span
            )
        terms["density"] = checker.check_as(content.material, DENSITY_KIND, "a material")
    return checker.done(value.kind, value, terms)


def _tints(content: tree.Part, by: tree.Node, checker: Checker) -> Any:
    """What the items of a part are coloured by."""
    for end in content.between:
        tint(end)
    values = checker.check(by)
    item = values.kind.item if isinstance(values.kind, ListOf) else None
    if not isinstance(values.kind, ListOf) or not (
        item is None or isinstance(item, Quantity) or item in (TEXT, YES_NO)
    ):
        raise Failure(
            "what a part is coloured by is a list of numbers, quantities, texts or yes/no, one for "
            f"each item; this is {values.kind.said}",
            "for example colour by [i for i in 0 .. n - 1]",
            by.span,
        )
    return values


def _run(content: tree.Part, line: Running) -> Any:
    """Without items where its condition does not hold."""
    return line.value() if line.terms.get("condition", True) else []


_GRAMMAR = r"""
part: "part" NAME "=" expression part_clause* [TEXT]
?part_clause: "when" expression -> when
    | "colour" (NAME | COLOUR)  -> colour
    | "colour" [NAME | COLOUR] BY expression -> colour_by
    | "colour" (NAME | COLOUR) "to" (NAME | COLOUR) BY expression -> colour_between
    | "hatch" expression "," expression -> hatch
    | "material" expression     -> material
    | "for" ["no"] "support"    -> role
"""

STATEMENT = StatementType(
    "part", "an outcome, drawn and handed over", tree.Part, {"part": _read}, 80, grammar=_GRAMMAR,
    keywords=("when", "colour", "to", "hatch", "material", "for", "support"), kind=_kind, run=_run,
    body=after_the_name, draws=True,
    constructs=(
        Construct(
            "A part", "An outcome, drawn and handed over",
            'part {name} = {shape}‹ when {condition}›‹ colour {colour}›‹ "{label}"›',
            (blank_name("new_part"), Blank("shape", "a solid, a region, or a list of them", "what it is",
                                      "box(200 mm, 100 mm, 40 mm)"),
             Blank("condition", "yes or no", "made only where this holds", "", True),
             Blank("colour", "a name or #RRGGBB", "its tint", "oak", True), blank_label("New part")),
        ),
    ),
)  # fmt: skip
