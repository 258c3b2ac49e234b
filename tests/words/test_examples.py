"""Every word of the language: its example gives what it says, its entry is complete."""

import inspect

import pytest

from ovolo.words.all import WORDS
from ovolo.words.registry import Word
from tests.sheets import run


@pytest.mark.parametrize("word", WORDS.values(), ids=lambda word: word.name)
def test_the_example_gives_what_it_says(word: Word) -> None:
    outcome = run(f"example = {word.example}", f"gives = {word.gives}")
    assert not outcome.problems, [str(problem) for problem in outcome.problems]
    example, gives = outcome.lines
    assert example.line.kind == gives.line.kind
    compared = run(f"same = {word.example} == {word.gives}")
    tolerant = example.value == pytest.approx(gives.value, rel=1e-12)
    assert compared.lines[0].value or tolerant


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
