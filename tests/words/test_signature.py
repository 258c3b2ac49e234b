"""The notation in which words say what they take and give."""

import pytest

from ovolo.quantities.dimension import AREA, LENGTH
from ovolo.quantities.kinds import (
    ANGLE_KIND,
    AREA_KIND,
    LENGTH_KIND,
    NUMBER_KIND,
    REGION,
    SOLID,
    TEXT,
    Kind,
    ListOf,
    PointKind,
    Quantity,
    Record,
    TableKind,
    Together,
)
from ovolo.words.all import WORDS
from ovolo.words.signature import Bindings, ColumnName, read_signature


def result(written: str, *kinds: Kind) -> Kind | None:
    """What a signature gives for arguments of these kinds, or None where they do not fit."""
    signature = read_signature(written)
    bound: Bindings = {}
    if not signature.takes(range(len(kinds))):
        return None
    for at, kind in enumerate(kinds):
        if not signature.accepts(at).pattern.match(kind, bound):
            return None
    return signature.result.build(bound)


@pytest.mark.parametrize(
    ("written", "kinds", "wanted"),
    [
        ("angle or number -> number", (ANGLE_KIND,), NUMBER_KIND),
        ("angle or number -> number", (LENGTH_KIND,), None),
        ("Q, Q -> Q", (LENGTH_KIND, LENGTH_KIND), LENGTH_KIND),
        ("Q, Q -> Q", (LENGTH_KIND, NUMBER_KIND), None),
        ("Q, R -> Q*R", (LENGTH_KIND, LENGTH_KIND), AREA_KIND),
        ("Q, R -> Q/R", (AREA_KIND, LENGTH_KIND), LENGTH_KIND),
        ("Q^2 -> Q", (AREA_KIND,), LENGTH_KIND),
        ("Q -> Q^2", (LENGTH_KIND,), AREA_KIND),
        ("Q -> Q^1/2", (AREA_KIND,), LENGTH_KIND),
        ("Q, angle -> flat point Q", (LENGTH_KIND, ANGLE_KIND), PointKind(dimension=LENGTH, flat=True)),
        ("point Q -> Q", (PointKind(dimension=AREA),), AREA_KIND),
        ("list Q -> Q", (ListOf(item=LENGTH_KIND),), LENGTH_KIND),
        ("list Q -> Q", (ListOf(),), NUMBER_KIND),
        ("list Q -> Q", (LENGTH_KIND,), None),
        ("T, T -> list T", (TEXT, TEXT), ListOf(item=TEXT)),
        ("T, T -> list T", (TEXT, SOLID), None),
        ("shape, length? -> shape", (ListOf(item=SOLID),), ListOf(item=SOLID)),
        ("shape, length? -> shape", (TEXT,), None),
        ("region, length -> solid", (REGION, LENGTH_KIND), SOLID),
        ("region, length -> solid", (REGION,), None),
        ("Q, Q... -> Q", (LENGTH_KIND,) * 5, LENGTH_KIND),
        ("Q, Q... -> Q", (LENGTH_KIND,), LENGTH_KIND),
        ("T, U -> pair T U", (TEXT, TEXT), ListOf(item=TEXT)),
        ("T, U -> pair T U", (TEXT, SOLID), Together(items=(TEXT, SOLID))),
        ("Q -> {n: whole, gap: Q}", (LENGTH_KIND,), Record(fields=(("n", NUMBER_KIND), ("gap", LENGTH_KIND)))),
    ],
)  # fmt: skip
def test_what_fits_and_what_follows(
    written: str, kinds: tuple[Kind, ...], wanted: Kind | None
) -> None:
    assert result(written, *kinds) == wanted


def test_columns_of_a_table() -> None:
    signature = read_signature("row table, column Q, Q -> row")
    table, column, x = (signature.accepts(at).pattern for at in range(3))
    kind = TableKind(columns=(("size", TEXT), ("hole", LENGTH_KIND)))
    bound: Bindings = {}
    assert table.match(kind, bound) and isinstance(column, ColumnName)
    assert not column.match_literal("size", dict(bound)), "texts are no quantities"
    assert column.match_literal("hole", bound)
    assert x.match(LENGTH_KIND, bound) and not x.match(NUMBER_KIND, bound)
    assert signature.result.build(bound) == Record(fields=kind.columns)


@pytest.mark.parametrize("written", ["length -> ", "lenght -> number", "length; number -> number"])
def test_a_signature_that_makes_no_sense_is_told_at_once(written: str) -> None:
    with pytest.raises((ValueError, KeyError, IndexError)):
        read_signature(written)


def test_whole_arguments_are_marked() -> None:
    signature = read_signature("whole, length -> region")
    assert signature.accepts(0).pattern.whole and not signature.accepts(1).pattern.whole
    assert signature.accepts(0).pattern.said({}) == "a whole number"


def test_every_word_says_how_it_is_written() -> None:
    assert WORDS["move"].usage == "move(what, x = 0 mm, y = 0 mm, z = 0 mm, by)"
    assert WORDS["pi"].usage == "pi"
    assert WORDS["region"].usage == "region(outline, holes…)"
    assert Quantity(dimension=LENGTH).said == "a length"
