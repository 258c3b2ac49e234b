"""Presets: named sets of input values."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from ovolo.meaning.program import Program
from ovolo.outcome.outcome import Outcome
from ovolo.problems import Failure, nearest_name
from ovolo.running.evaluate import evaluate_only
from ovolo.running.operators import equal
from ovolo.sheet import tree


def preset_values(program: Program, title: str) -> dict[str, Any]:
    """The run-time values a preset gives to inputs. Raises Failure where there is none."""
    titles = []
    presets = [line for line in program.lines if isinstance(line.content, tree.Preset)]
    for line in evaluate_only(program, presets):
        content = line.line.content
        if not isinstance(content, tree.Preset):
            continue
        titles.append(content.title)
        if content.title == title:
            if line.result is None or not line.has_value:
                raise Failure(f'the preset "{title}" has a problem: {line.problems[0].message}')
            return dict(line.result.terms)
    near = nearest_name(title, titles)
    hint = f'did you mean "{near}"?' if near else f"presets: {', '.join(titles) or 'none'}"
    raise Failure(f'there is no preset "{title}"', hint)


def preset_titles(program: Program) -> list[str]:
    """The titles of all presets, in their order."""
    found = (line.content for line in program.lines)
    return [content.title for content in found if isinstance(content, tree.Preset)]


def matching_presets(outcome: Outcome) -> list[tuple[str, bool]]:
    """Each preset that is well, in order, and whether the present values are its values."""
    values: Mapping[str, Any] = {
        line.line.name: line.value for line in outcome.lines if line.line.name and line.has_value
    }
    found = []
    for line in outcome.lines:
        content = line.line.content
        if isinstance(content, tree.Preset) and line.has_value and line.result is not None:
            terms = line.result.terms
            same = bool(terms) and all(
                name in values and equal(values[name], terms[name]) for name in terms
            )
            found.append((content.title, same))
    return found


def preset_shown(outcome: Outcome) -> str:
    """The first preset whose values are the present ones; empty where there is none."""
    return next((title for title, same in matching_presets(outcome) if same), "")
