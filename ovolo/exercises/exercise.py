"""What an exercise is: where it begins, its steps, and how far a study has come."""

from __future__ import annotations

from collections.abc import Callable
from typing import TypedDict

from msgspec import Struct

from ovolo.exercises.facts import Facts


class Step(Struct, frozen=True):
    """One step: what is to be reached, how to, and `missing`: what a study lacks of it, empty where it is there."""

    said: str
    hint: str
    missing: Callable[[Facts], str]


class ExerciseStepSaid(TypedDict):
    """A step of an exercise; `missing` says what a study lacks of it, nothing where it is done."""

    said: str
    hint: str
    missing: str


class SeenSaid(TypedDict):
    """How far a study has come with an exercise."""

    steps: list[ExerciseStepSaid]
    problems: list[str]
    done: bool


class Exercise(Struct, frozen=True):
    key: str
    title: str
    goal: str
    begins: str
    """The sheet that it begins with, below `study` and `units`."""

    steps: tuple[Step, ...]
    uses: str = ""
    """The key of the exercise whose study it uses."""

    ready: str = ""
    """Its finished lines, for others that use it while a person has not done it."""

    def sheet(self, title: str = "", used: str = "") -> str:
        """The sheet to begin with; `{used}` in it is the title of the study that it uses."""
        head = f'study "{title or self.title}"\nunits mm, deg\n'
        return head + self.begins.replace("{used}", used)

    def seen(self, facts: Facts) -> SeenSaid:
        """How far a study has come: each step with what is missing, and whether all are done."""
        steps: list[ExerciseStepSaid] = [
            {"said": one.said, "hint": one.hint, "missing": one.missing(facts)}
            for one in self.steps
        ]
        problems = [str(one) for one in facts.now.problems]
        done = not problems and all(not one["missing"] for one in steps)
        return {"steps": steps, "problems": problems[:3], "done": done}
