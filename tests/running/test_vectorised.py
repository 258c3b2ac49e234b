"""Many at once gives the same as one by one, over random programs."""

from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ovolo.geometry.solids.solid import Copies, Solid
from ovolo.outcome.outcome import outcome_of
from ovolo.running.compile import Run, compiled
from ovolo.running.values import Gap, fingerprint
from ovolo.sheet import tree
from ovolo.words.all import WORDS
from ovolo.words.registry import Word
from ovolo.writing.vocabulary import call_in_example
from tests.sheets import run

_NAMES = st.sampled_from(["i", "j", "n"])
_NUMBERS = st.recursive(
    st.one_of(_NAMES, st.sampled_from(["0", "1", "2.5", "xs[mod(floor(i), 3)]", "f(i)"])),
    lambda inner: st.one_of(
        st.tuples(inner, st.sampled_from(["+", "-", "*", "/"]), inner).map(lambda t: f"({t[0]} {t[1]} {t[2]})"),
        st.tuples(st.sampled_from(["sin", "abs", "floor", "sqrt", "round", "atan"]), inner).map(
            lambda t: f"{t[0]}({t[1]})" if t[0] != "atan" else f"rad(atan({t[1]}))"
        ),
        st.tuples(inner, inner, inner).map(lambda t: f"(if {t[0]} < {t[1]} and {t[1]} < 3 then {t[2]} else {t[0]})"),
        st.tuples(inner, inner).map(lambda t: f"polar({t[0]}, {t[1]} * 1°).x"),
        st.tuples(inner, inner).map(lambda t: f"max({t[0]}, {t[1]}, 1)"),
    ),
    max_leaves=8,
)  # fmt: skip

_ABOVE = "n = 4\nxs = [3, 1, 2]\nf(q) = if q > 1 then q * 2 else n\n"


def _both(expression: str) -> tuple[Any, Any, list[str], list[str]]:
    """The list made together, and the same made one by one: a text in a condition that always
    holds keeps it from being made together."""
    loops = "for i in -2 .. 3 for j in 0 .. i if j != 1"
    together = outcome_of(f"{_ABOVE}r = [{expression} {loops}]")
    apart = outcome_of(f'{_ABOVE}r = [{expression} {loops} and "{{i}}" != ""]')
    problems = [[(p.item, p.message) for p in o.problems] for o in (together, apart)]
    return together.lines[-1].value, apart.lines[-1].value, *problems  # type: ignore[return-value]


@settings(max_examples=50)
@given(_NUMBERS)
def test_numbers(expression: str) -> None:
    together, apart, said, said_apart = _both(expression)
    assert said == said_apart
    if together is None:
        assert apart is None
        return
    assert len(together) == len(apart)
    for a, b in zip(together, apart, strict=True):
        if isinstance(a, Gap):
            assert isinstance(b, Gap) and a.index == b.index
        else:
            assert a == b


@settings(max_examples=20)
@given(_NUMBERS, _NUMBERS, _NUMBERS)
def test_placed_solids(x: str, angle: str, height: str) -> None:
    solid = f"box(1 mm, 2 mm, ({height}) * 1 mm).move({x} * 1 mm, z = 3 mm).turn({angle} * 1 rad)"
    together, apart, said, said_apart = _both(solid)
    assert said == said_apart
    if together is None:
        assert apart is None
        return
    for a, b in zip(together, apart, strict=True):
        assert type(a) is type(b)
        if isinstance(a, Solid):
            assert a.shape is b.shape
            np.testing.assert_allclose(a.matrix, b.matrix, rtol=1e-12, atol=1e-12)


@pytest.mark.parametrize("height", ["0", "i", "n - 4", "max(0, 0)", "if i < 2 then 1 else 0"])
def test_what_is_empty_is_a_gap_however_it_is_made(height: str) -> None:
    _, _, said, said_apart = _both(f"box(1 mm, 2 mm, ({height}) * 1 mm).move(i * 1 mm)")
    assert said == said_apart and "this is empty: height is 0 mm" in said[0][1]  # type: ignore[operator]


def test_what_is_uniform_is_made_together() -> None:
    outcome = outcome_of("b = box(1 m, 1 m, 1 m)\nr = [b.move(i * 1 m) for i in 0 .. 9 if i != 3]")
    assert isinstance(outcome.lines[-1].value, Copies)
    assert len(outcome.lines[-1].value) == 9


@pytest.mark.parametrize(
    "body",
    [
        "(t * 1 mm, sin(t * 1 rad) * 5 mm)",
        "(t * 1 mm, if t > 3 then 2 mm else t * 1 mm)",
        "polar(3 mm + t * 1 mm, t * 20°)",
        "(t * 1 mm, wave(t), z_of(t))",
        "(t * 1 mm, [1 mm, 2 mm][mod(floor(t), 2)])",
    ],
)
def test_functions_handed_to_words_give_the_same_at_once(body: str) -> None:
    """What a word samples all at once is what the function gives one by one."""
    from ovolo.geometry.surfaces.sampling import sampled

    outcome = run(
        "wave(t) = 4 mm * cos(t / 2)", "z_of(t) = (wave(t) + 1 mm) / 2", f"f = (t, v) -> {body}",
        "c = surface(f)",
    )  # fmt: skip
    assert not outcome.problems, outcome.problems
    call = outcome.lines[-1].line.checked.value  # type: ignore[union-attr]
    values = {one.line.name: one.value for one in outcome.lines if one.line.name}
    frame = {None: Run(values, outcome.units, float("inf"), [])}
    handed = compiled(call.positional[0])(frame)  # type: ignore[union-attr]
    places = np.linspace(0.0, 6.0, 41)
    np.testing.assert_allclose(
        sampled(handed, places, places),
        [handed(float(t), float(t)) for t in places],
        rtol=1e-13,
        atol=1e-12,
    )


def test_a_function_that_fails_somewhere_fails_as_it_would_alone() -> None:
    outcome = run("c = curve(t -> (t * 1 mm, 1 mm / (t - 3)), 0, 6)")
    assert "division by zero" in outcome.problems[0].message


def _varied(word: Word) -> str:
    """The example of a word with every figure in its call growing from item to item."""
    call, text = call_in_example(word)
    if call is None:
        return ""
    figures = [n for n in tree.descendants(call) if isinstance(n, tree.Number)]
    for one in sorted(figures, key=lambda n: -n.span[0]):
        start, end = one.span
        text = f"{text[:start]}({text[start:end]} * (1 + i / 64)){text[end:]}"
    return text.partition("= ")[2]


@pytest.mark.parametrize(
    "word", [one for one in WORDS.values() if one.elementwise], ids=lambda w: w.name
)
def test_every_word_gives_for_many_at_once_what_it_gives_for_each(word: Word) -> None:
    """Over all words of the registry that take many at once, with their own examples."""
    varied = _varied(word)
    lines = [word.above] if word.above else []
    together = outcome_of("\n".join([*lines, f"r = [{varied} for i in 0 .. 5]"]))
    apart = outcome_of("\n".join([*lines, f'r = [{varied} for i in 0 .. 5 if "{{i}}" != ""]']))
    assert varied and [p.message for p in together.problems] == [p.message for p in apart.problems]
    a, b = (one.lines[-1].value for one in (together, apart))
    if a is None:
        assert b is None
        return
    assert len(a) == len(b) == 6
    for one, other in zip(a, b, strict=True):
        if isinstance(one, Gap) or isinstance(other, Gap):
            assert isinstance(one, Gap) and isinstance(other, Gap)
        elif isinstance(one, float | np.ndarray):
            np.testing.assert_allclose(one, other, rtol=1e-13, atol=1e-13)
        else:
            assert fingerprint(one) == fingerprint(other)
