"""Operators that Python does not have: ranges, tolerances, and what is refused."""

import pytest

from ovolo.sheet import tree
from ovolo.sheet.formulas import expression_in
from ovolo.sheet.reader import read_statement
from tests.sheets import value


@pytest.mark.parametrize(
    ("formula", "wanted"),
    [
        ("len(1 + 1 .. 2 * 3)", 5),
        ("[i for i in 0 .. 10 by 2 + 3]", [0, 5, 10]),
        ("[i for i in 3 .. -3 by -3]", [3, 0, -3]),
        ("1 == 1.4 within 0.2 + 0.3 and yes", True),
        ("3 − 2 × 2", -1),
        ("2 ≤ 3 and 3 ≥ 3 and 2 ≠ 3", True),
        ("6 / 2 * 3", 9),
        ("if yes then 1 else 2 + 10", 1),
        ("(t -> t * 2 + 1)", None),
    ],
)
def test_how_they_bind(formula: str, wanted: object) -> None:
    if wanted is None:
        assert isinstance(expression_in(formula), tree.Lambda)
    else:
        assert value(formula) == wanted


@pytest.mark.parametrize(
    ("line", "message", "column"),
    [
        ("a = 1 .. 2 .. 3", "this range has two ends", 12),
        ("a = 3 by 2", "`by` has nothing to belong to", 7),
        ("a = 3 within 2", "`within` has nothing to belong to", 7),
        ("a = 1 < 2 within 3", "`within` belongs to == or !=", 5),
        ("a = 1 + not yes", "`not` stands in brackets here", 9),
    ],
)
def test_what_does_not_fit_together(line: str, message: str, column: int) -> None:
    content, _ = read_statement(line)
    assert isinstance(content, tree.Unreadable)
    assert message in content.message and content.span[0] + 1 == column


def test_places_reach_from_the_first_to_the_last_piece() -> None:
    node = expression_in("(a + b) * -c ^ 2")
    assert isinstance(node, tree.Binary) and node.span == (0, 16)
    assert isinstance(node.left, tree.Binary) and node.left.span == (0, 7)
    assert isinstance(node.right, tree.Unary) and node.right.span == (10, 16)
