"""Helpers to run small sheets in tests."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from ovolo.formats.attached import everything_named, folder_shelf, read_files
from ovolo.meaning.attachments import Tables
from ovolo.outcome.outcome import Outcome, outcome_of, plain_value
from ovolo.problems import Problem

DEMO = Path(__file__).parents[1] / "demo" / "quillmere"


def run(*lines: str, **settings: Any) -> Outcome:
    """The outcome of a sheet given line by line."""
    return outcome_of("\n".join(lines), settings)


def value(expression: str, *lines: str) -> Any:
    """What an expression gives (mm, degrees), the lines standing above it. It must be well."""
    outcome = run(*lines, f"the_result = {expression}")
    assert not outcome.problems, [str(problem) for problem in outcome.problems]
    result = outcome.lines[-1]
    return plain_value(result.value, result.line.kind)


def kind(expression: str, *lines: str) -> str:
    result = run(*lines, f"the_result = {expression}").lines[-1]
    assert result.line.kind is not None
    return result.line.kind.word


def problem(*lines: str) -> Problem:
    """The one problem of a sheet."""
    problems = run(*lines).problems
    assert len(problems) == 1, [str(one) for one in problems]
    return problems[0]


def demo_outcome(name: str, settings: dict[str, Any] | None = None) -> Outcome:
    """A study of the demonstration with those it uses."""
    text = demo(name)
    return outcome_of(text, settings, tables=demo_tables(text))


def demo_tables(text: str) -> Tables:
    """What a sheet of the demonstration names, from the folder it lies in."""
    return read_files(everything_named(text, folder_shelf(DEMO)))


def demo(name: str) -> str:
    """The text of a demo sheet by a part of its file name."""
    (path,) = DEMO.glob(f"*{name}*.ovo")
    return path.read_text(encoding="utf-8")
