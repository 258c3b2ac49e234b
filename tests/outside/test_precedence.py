"""The precedence of operators against Python's own parser, whose arithmetic, comparison and
logical operators have the same precedence where both languages have them."""

import math

from hypothesis import assume, given
from hypothesis import strategies as st

from ovolo.outcome.outcome import outcome_of

_FIGURES = st.sampled_from(["1", "2", "3", "0.5", "(1 + 2)", "(4 - 7)"])
_ARITHMETIC = st.lists(
    st.tuples(st.sampled_from(["+", "-", "*", "/", "^"]), st.sampled_from(["", "-", "- -"]), _FIGURES),
    min_size=1, max_size=6,
)  # fmt: skip


def _chain(first: str, rest: list[tuple[str, str, str]]) -> str:
    return first + "".join(f" {operator} {sign}{figure}" for operator, sign, figure in rest)


def _result(formula: str) -> object:
    (line,) = outcome_of(f"x = {formula}").lines
    return line.value if line.has_value else None


def _by_python(formula: str) -> object:
    try:
        return eval(formula.replace("^", "**").replace("yes", "True").replace("no", "False"))
    except (ZeroDivisionError, OverflowError):
        return None


@given(_FIGURES, _ARITHMETIC)
def test_arithmetic(first: str, rest: list[tuple[str, str, str]]) -> None:
    formula = _chain(first, rest)
    theirs = _by_python(formula)
    assume(theirs is None or not isinstance(theirs, complex))
    ours = _result(formula)
    if theirs is None or ours is None:
        assert ours is None or theirs is None
        return
    assert isinstance(ours, float) and isinstance(theirs, int | float)
    assert ours == theirs or math.isclose(ours, theirs, rel_tol=1e-12)


@given(
    st.lists(_FIGURES, min_size=2, max_size=4),
    st.lists(st.sampled_from(["<", "<=", "==", "!=", ">", ">="]), min_size=3, max_size=3),
)
def test_chained_comparisons(figures: list[str], signs: list[str]) -> None:
    formula = figures[0] + "".join(
        f" {sign} {figure}" for sign, figure in zip(signs, figures[1:], strict=False)
    )
    assert _result(formula) == _by_python(formula)


_CONDITIONS = st.sampled_from(["True", "False", "1 < 2", "2 <= 1", "not True", "not 3 > 2"])


@given(
    st.lists(_CONDITIONS, min_size=1, max_size=5),
    st.lists(st.sampled_from(["and", "or"]), min_size=5, max_size=5),
)
def test_logic(conditions: list[str], words: list[str]) -> None:
    formula = conditions[0] + "".join(
        f" {word} {condition}" for word, condition in zip(words, conditions[1:], strict=False)
    )
    ours = formula.replace("True", "yes").replace("False", "no")
    assert _result(ours) == eval(formula)
