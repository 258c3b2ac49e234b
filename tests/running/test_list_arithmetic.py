"""Operators through lists, and some of their items."""

from __future__ import annotations

import numpy as np
import pytest

from tests.sheets import kind, problem, run, value

XS = "xs = [1 mm, 2 mm, 4 mm]"
PS = "ps = [(1 m, 2 m), (3 m, 4 m)]"


@pytest.mark.parametrize(
    ("formula", "wanted"),
    [
        ("xs * 2", [2, 4, 8]), ("2 * xs + 1 mm", [3, 5, 9]), ("xs + xs", [2, 4, 8]), ("-xs", [-1, -2, -4]),
        ("xs / [1, 2, 4]", [1, 1, 1]), ("8 mm / xs", [8, 4, 2]), ("xs ^ 2", [1, 4, 16]),
        ("xs[1 .. 2]", [2, 4]), ("xs[-2 .. -1]", [2, 4]), ("xs[[2, 0]]", [4, 1]), ("xs[0 .. 2 by 2]", [1, 4]),
        ("xs[1 .. 0]", []), ("xs[[i for i in 0 .. 2 if xs[i] > 1 mm]]", [2, 4]),
        ("ps + (1 m, 1 m)", [[2000, 3000], [4000, 5000]]), ("ps * [1, 2]", [[1000, 2000], [6000, 8000]]),
        ("(1 m, 0 m) * [1, 2]", [[1000, 0], [2000, 0]]), ("ps[1 .. 1]", [[3000, 4000]]),
        ("[sum(xs * i) for i in 0 .. 2]", [0, 7, 14]),
    ],
)  # fmt: skip
def test_item_by_item(formula: str, wanted: list[float]) -> None:
    assert value(formula, XS, PS) == wanted


def test_it_is_what_a_comprehension_gives() -> None:
    chance = np.random.default_rng(3)
    for _ in range(20):
        a, b = (chance.uniform(0.5, 9, 6).round(3).tolist() for _ in range(2))
        lines = (f"a = {a}", f"b = {b}")
        for sign in "+-*/":
            assert value(f"a {sign} b", *lines) == value(
                f"[a[i] {sign} b[i] for i in 0 .. 5]", *lines
            )


def test_dimensions_go_through() -> None:
    assert kind("(xs * xs)[0]", XS) == "area" and kind("(xs / xs)[0]", XS) == "number"
    assert "plus a number" in problem(XS, "a = xs + 3").message


@pytest.mark.parametrize(
    ("line", "message"),
    [
        ("a = xs + [1 mm]", "the lists have 3 and 1 items"), ("a = xs / [1, 0, 2]", "item 1 of what it is divided by is 0"),
        ("a = xs[1 .. 5]", "there is no item 3"), ("a = xs[[0.5]]", "whole number"), ('a = xs["a"]', "an index must be a number"),
        ('a = xs * "a"', "makes no sense"),
    ],
)  # fmt: skip
def test_what_does_not_go_together(line: str, message: str) -> None:
    assert message in problem(XS, line).message


def test_a_range_that_counts_from_the_end_gets_a_hint() -> None:
    assert [n.message for n in run(XS, "a = xs[1 .. -1]").lines[1].notes] == [
        "1 .. -1 is empty; up to that item: 1 .. len(xs) - 1"
    ]


def test_gaps_are_refused_with_their_reason() -> None:
    outcome = run("xs = [1 / i for i in 0 .. 2]", "a = xs * 2", "b = xs[1 .. 2]")
    assert "lacks an item: item 0 could not be made" in outcome.problems[1].message
    assert list(outcome.lines[2].value) == [1, 0.5]
