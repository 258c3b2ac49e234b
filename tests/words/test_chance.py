"""Chance: even, smooth, and the same everywhere."""

import subprocess
import sys

import numpy as np
import pytest

from ovolo.words.chance import uniform
from tests.sheets import problem, run, value


def test_the_same_in_every_process_and_for_all_time() -> None:
    code = "from ovolo.words.chance import uniform; print(uniform(3.0, 7.0)[0].hex())"
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert done.stdout.strip() == float(uniform(3.0, 7.0)[0]).hex() == "0x1.d187a394f1c25p-1"


def test_values_are_spread_evenly() -> None:
    values = uniform(0.0, np.arange(100_000.0))
    counts, _ = np.histogram(values, 20, (0, 1))
    # Chi-square with 19 degrees of freedom stays below 43.8 in 99.9 % of cases.
    assert ((counts - 5000) ** 2 / 5000).sum() < 43.8
    assert abs(np.corrcoef(values[1:], values[:-1])[0, 1]) < 0.01


def test_the_seed_changes_everything_and_the_index_alone_decides() -> None:
    a = run("input seed = 1", "xs = [random(i, 0, 1) for i in 0 .. 9]", "x = random(4, 0, 1)")
    b = run("input seed = 2", "xs = [random(i, 0, 1) for i in 0 .. 9]", "x = random(4, 0, 1)")
    assert a.lines[1].value[4] == a.lines[2].value
    assert not set(a.lines[1].value) & set(b.lines[1].value)


def test_turning_the_seed_runs_what_depends_on_it() -> None:
    text = ("input seed = 1", "x = random(4, 0 mm, 9 mm)")
    assert run(*text).lines[1].value != run(*text, seed=2.0).lines[1].value
    assert "`seed` of this study is a length" in problem("seed = 1 mm", text[1]).message


@pytest.mark.parametrize("call", ["random(4)", "noise((1 m, 2 m), 1 m)", "shuffled([1, 2, 3])[0]"])
def test_without_a_seed_it_is_0_wherever_chance_is_called(call: str) -> None:
    """In a line, in a function, in a function of that, in a loop and in a function that is handed over."""
    wanted = value(call, "input seed = 0")
    assert value(call) == wanted
    assert value("f(1)", f"f(x) = {call} + 0 * x") == wanted
    assert value("g(1)", f"f(x) = {call}", "g(x) = f(x)") == wanted
    assert value("[f(i) for i in 0 .. 2]", f"f(x) = {call} + 0 * x") == [wanted] * 3
    assert value("integrate(f, 0, 1)", f"f(x) = {call} + 0 * x") == pytest.approx(wanted)
    assert "nothing here is called `seed`" in problem(f"f(x) = {call} + seed").message


def test_shuffled_keeps_all_and_pick_takes_one() -> None:
    assert sorted(value("shuffled([1, 2, 3, 4, 5, 6])")) == [1, 2, 3, 4, 5, 6]
    assert value("shuffled(0 .. 20)") != value("shuffled(0 .. 20, 1)")
    picks = set(value("[pick([10, 20, 30], i) for i in 0 .. 50]"))
    assert picks == {10, 20, 30}
    assert "nothing to pick from" in problem("x = pick([], 1)").message


def test_noise_is_smooth_and_bounded() -> None:
    values = np.array(value("[noise((i * 1 mm, 0 mm), 100 mm) for i in 0 .. 2000]"))
    assert np.abs(values).max() <= 1 and values.std() > 0.2
    assert np.abs(np.diff(values)).max() < 2 * 1.5 * 2 / 100, "slope of 3t² - 2t³ is at most 1.5"
    alone = value("noise((700 mm, 0 mm), 100 mm)")
    assert alone == pytest.approx(values[700])
    assert value("noise(700 mm, 100 mm)") == pytest.approx(alone)
    assert value("[noise(i * 1 mm, 100 mm) for i in 699 .. 701]")[1] == pytest.approx(alone)
