"""Values explained, from their formula down to the inputs."""

import json
import subprocess
from pathlib import Path

import pytest

from ovolo.outcome.outcome import Outcome
from ovolo.outcome.scene_message import StepSaid
from ovolo.outcome.typeset import formula
from ovolo.outcome.working import working_of
from ovolo.problems import Failure
from ovolo.sheet.reader import read_statement
from tests.sheets import DEMO, demo_outcome, run


def steps(*lines: str, of: int = 0) -> list[StepSaid]:
    return working_of(run(*lines), of or len(lines))


def latex(expression: str) -> str:
    text = f"it = {expression}"
    content, _ = read_statement(text)
    return formula(content.value, text)  # type: ignore[attr-defined]


def test_the_rise_of_the_stair_is_explained_down_to_its_inputs() -> None:
    found = {step["name"]: step for step in working_of(demo_outcome("spiral-stair"), 9)}
    rise = found[r"\textit{rise}"]
    assert rise["formula"] == r"\dfrac{\textit{floor\_height}}{\textit{risers}}"
    assert rise["numbers"] == r"\dfrac{3\,240\,\text{mm}}{18}"
    assert rise["result"] == r"180\,\text{mm}" and rise["label"] == "Rise"
    assert list(found) == [
        r"\textit{rise}", r"\textit{floor\_height}", r"\textit{risers}", r"\textit{max\_rise}",
    ]  # fmt: skip
    assert found[r"\textit{floor\_height}"]["role"] == "input"
    assert found[r"\textit{floor\_height}"]["comment"] == "finished floor to finished floor"


def test_only_the_line_itself_where_no_more_is_wanted() -> None:
    outcome = demo_outcome("spiral-stair")
    assert [step["line"] for step in working_of(outcome, 9, deep=False)] == [9]


@pytest.mark.parametrize(
    ("expression", "said"),
    [
        ("a + b * c", r"\textit{a} + \textit{b} \cdot \textit{c}"),
        ("(a + b) * c", r"\left(\textit{a} + \textit{b}\right) \cdot \textit{c}"),
        ("a - (b - c)", r"\textit{a} - \left(\textit{b} - \textit{c}\right)"),
        ("(a + b) / c", r"\dfrac{\textit{a} + \textit{b}}{\textit{c}}"),
        ("(a / b)^2", r"\left(\dfrac{\textit{a}}{\textit{b}}\right)^{2}"),
        ("-(a + b)", r"-\left(\textit{a} + \textit{b}\right)"),
        ("sqrt(a^2 + b^2)", r"\sqrt{\textit{a}^{2} + \textit{b}^{2}}"),
        ("ceil(a / b)", r"\left\lceil \dfrac{\textit{a}}{\textit{b}}\right\rceil "),
        ("abs(a)", r"\left|\textit{a}\right|"),
        ("a <= b", r"\textit{a} \le \textit{b}"),
        ("not (a and b)", r"\text{not}\;\left(\textit{a}\;\text{and}\;\textit{b}\right)"),
        ("(10 mm)^2", r"\left(10\,\text{mm}\right)^{2}"),
        ("10 mm^2", r"10\,\text{mm²}"),
        ("(12 %)^2", r"\left(12\text{%}\right)^{2}".replace("%", r"\%")),
        ("2 * pi * 12 mm", r"2 \cdot \pi \cdot 12\,\text{mm}"),
        ("t -> t^2", r"\textit{t} \mapsto \textit{t}^{2}"),
        (
            "if a then b else c",
            r"\begin{cases}\textit{b} & \text{if }\textit{a} \\ \textit{c} & \text{otherwise}\end{cases}",
        ),
    ],
)
def test_formulas_are_set_like_mathematics(expression: str, said: str) -> None:
    assert latex(expression) == said


def test_nothing_a_person_writes_is_read_as_a_command() -> None:
    assert latex(r'"\\href{x}$%"') == (
        r"\text{" + r'"\textbackslash \textbackslash href\{x\}\$\%"' + "}"
    )


def test_loop_variables_keep_their_names_when_numbers_are_put_in() -> None:
    (step,) = steps("i = 3", "xs = [i * 2 for i in 0 .. 4]", of=2)[:1]
    assert step["numbers"] == "" and step["formula"].startswith(r"\left[\,\textit{i} \cdot 2")


def test_negative_values_are_put_in_brackets() -> None:
    (step, *_) = steps("a = 0 mm - 3 mm", "b = 2 mm - a")
    assert step["numbers"] == r"2\,\text{mm} - \left(-3\,\text{mm}\right)"


def test_a_check_says_whether_it_holds() -> None:
    (step, *_) = steps("a = 3 mm", 'check a < 2 mm "narrow"')
    assert (
        step["result"] == r"\text{fails}" and step["label"] == "narrow" and step["role"] == "check"
    )


def test_a_line_with_a_problem_says_it() -> None:
    (step, *_) = steps("a = 0", "b = 1 / a")
    assert step["result"] == "" and "division by zero" in step["problem"]


def test_lines_without_a_value_cannot_be_explained() -> None:
    with pytest.raises(Failure, match="nothing to explain at line 1"):
        steps("== Title ==", of=1)


def test_a_value_in_a_power_stands_in_brackets() -> None:
    """(30 mm)² is 900 mm², which 30 mm² is not."""
    (step, *_) = steps("input w = 30 mm", "input p = 12 %", "a = w^2 * p^2")
    assert step["numbers"] == r"\left(30\,\text{mm}\right)^{2} \cdot \left(12\text{\%}\right)^{2}"
    assert step["result"] == r"12.96\,\text{mm²}"


ODD = (
    'said = "é ß 日本 € \\\\ ~ ^ # $ % & { } _ < > | \'"',
    "kept = [[i * j for j in 0 .. 2 if j > i] for i in 0 .. 3]",
    "square(x) = if x > 2 then x^2 else -x",
    "läng_te_1 = 12°30' + 1:12",
    'known = "{square(3)} mm"',
    "last = not (1 > 2 and 3 < 4 or 1 == 1 within 0.1)",
)
_READ = """const katex = require("katex"), lines = JSON.parse(require("fs").readFileSync(0));
for (const line of lines) katex.renderToString(line, { throwOnError: true, strict: "ignore" });
console.log(lines.length);"""


def test_what_is_typeset_is_read_by_another_reader_of_latex() -> None:
    """KaTeX reads every line of the studies of the demonstration, and some that are hard to escape."""
    names = [one.stem.partition("-")[2] for one in sorted(DEMO.glob("*.ovo"))]
    said: list[str] = []
    for outcome in (run(*ODD), *map(demo_outcome, names[::3])):
        for line in outcome.lines:
            for step in _explained(outcome, line.line.statement.line):
                said += [step["name"], step["formula"], step["numbers"], step["result"]]
    command = ["node", "-e", _READ]
    found = subprocess.run(
        command,
        cwd=Path(__file__).parents[2],
        input=json.dumps(said),
        capture_output=True,
        text=True,
    )
    assert found.returncode == 0, found.stderr
    assert int(found.stdout) > 500


def _explained(outcome: Outcome, line: int) -> list[StepSaid]:
    try:
        return working_of(outcome, line, deep=False)
    except Failure:  # a line without a value of its own: a preset, a use
        return []
