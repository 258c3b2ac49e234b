"""Every word of the language: its example gives what it says, its entry is complete."""

import inspect

import pytest

from ovolo.calling.trying import SIZES
from ovolo.formats.attached import read_files
from ovolo.outcome.outcome import outcome_of
from ovolo.running.operators import equal
from ovolo.words.all import WORDS
from ovolo.words.registry import Word

TABLES = read_files({"sizes.csv": SIZES})


@pytest.mark.parametrize("word", WORDS.values(), ids=lambda word: word.name)
def test_the_example_gives_what_it_says(word: Word) -> None:
    above = [word.above] if word.above else []
    outcome = outcome_of(
        "\n".join([*above, f"example = {word.example}", f"gives = {word.gives}"]), tables=TABLES
    )
    assert not outcome.problems, [str(problem) for problem in outcome.problems]
    example, gives = outcome.lines[-2:]
    assert example.line.kind == gives.line.kind
    assert equal(example.value, gives.value)


@pytest.mark.parametrize("word", WORDS.values(), ids=lambda word: word.name)
def test_the_example_gives_the_same_in_functions_loops_and_blocks(word: Word) -> None:
    inner = ["f(one):", f"  local = {word.example}", "  local", "g(one) = f(one)"]
    lines = [
        "[g(one) for one in 1 .. 2][1]",
        "if 1 > 2 then g(1) else g(2)",
        f"[{word.example}][0]",
    ]
    above = [word.above] if word.above else []
    given = [f"v{at} = {line}" for at, line in enumerate(lines)]
    outcome = outcome_of(
        "\n".join([*above, *inner, *given, f"gives = {word.gives}"]), tables=TABLES
    )
    assert not outcome.problems, [str(problem) for problem in outcome.problems]
    *found, gives = outcome.lines[-4:]
    assert all(equal(one.value, gives.value) for one in found)


@pytest.mark.parametrize("word", WORDS.values(), ids=lambda word: word.name)
def test_the_example_uses_the_word(word: Word) -> None:
    assert word.name in word.example


@pytest.mark.parametrize("word", WORDS.values(), ids=lambda word: word.name)
def test_every_named_argument_exists(word: Word) -> None:
    parameters = inspect.signature(word.function).parameters
    for signature in word.signatures:
        for accepts in signature.arguments:
            if accepts.fills:
                assert accepts.fills in parameters
    assert word.meaning.endswith((".", ").")) or "." in word.meaning
