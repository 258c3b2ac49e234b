"""Studies used inside studies."""

import shutil
from pathlib import Path

import pytest

from ovolo.formats.attached import Sheet, everything_named, read_files
from ovolo.meaning.attached import Tables, study_key
from ovolo.outcome.outcome import Outcome, outcome_of
from ovolo.running import used
from ovolo.sheet.reader import title_of

BALUSTER = """study "Turned baluster"
input height = 900 mm from 300 mm to 1500 mm
input waist = 18 mm from 6 mm to 40 mm
input secret = 2 internal
rise = height / 3
check waist < 30 mm "slender"
part body = cylinder(waist, height)
part foot = box(60 mm, 60 mm, 20 mm)
part plan = rect(60 mm, 60 mm)
"""


def beside(*texts: str) -> dict[str, str]:
    return {title_of(text): text for text in texts}


def reached(text: str, studies: dict[str, str]) -> Tables:
    def shelf(names: set[str], titles: set[str]):  # type: ignore[no-untyped-def]
        return {}, {t: (studies[t], shelf) for t in titles if t in studies}

    return read_files(everything_named(text, shelf))


def using(*lines: str, studies: dict[str, str] | None = None) -> Outcome:
    text = "\n".join(['study "Stair"', 'use baluster from "Turned baluster"', *lines])
    return outcome_of(text, tables=reached(text, studies or beside(BALUSTER)))


def test_a_study_is_a_function_of_its_inputs() -> None:
    outcome = using(
        "part all = baluster(height = 800 mm)",
        "part one = baluster(700 mm, waist = 10 mm).body",
        "part flat = baluster().plan",
        "part many = row(baluster(), 5, 110 mm)",
        "part cut = box(1 m, 1 m, 1 m) - baluster()",
        "third = baluster(height = 600 mm).rise",
        "n = len(baluster())",
    )
    assert not outcome.problems, outcome.problems
    values = outcome.as_json()["values"]
    assert values["third"]["value"] == 200 and values["n"]["value"] == 2
    assert outcome.parts["all"].bounds[1][2] == 800  # type: ignore[index]
    assert outcome.parts["one"].bounds[1] == pytest.approx([10, 10, 700])  # type: ignore[index]
    assert outcome.parts["flat"].area == pytest.approx(3600)
    assert outcome.parts["many"].count == 10 and outcome.parts["many"].closed
    assert outcome.parts["cut"].volume < 1e9 - 60 * 60 * 20 + 1


def test_its_checks_are_reached() -> None:
    outcome = using("good = baluster().checks_pass", "check baluster(waist = 35 mm).checks_pass")
    assert outcome.as_json()["values"]["good"]["value"] is True
    assert [check.passed for check in outcome.checks] == [False]


def test_each_item_may_have_other_inputs() -> None:
    outcome = using("part p = [baluster(height = 400 mm + i * 50 mm).body for i in 0 .. 4]")
    assert outcome.parts["p"].count == 5
    heights = sorted(group.matrices[0, 2, 2] for group in outcome.parts["p"].groups)
    assert outcome.parts["p"].bounds[1][2] == 600 and heights  # type: ignore[index]


def test_what_is_used_may_use_others() -> None:
    rail = 'study "Rail"\nuse b from "Turned baluster"\ninput h = 800 mm\npart p = b(height = h)\nlow = b(height = h).rise'
    text = (
        'study "House"\nuse rail from "Rail"\npart p = rail(h = 600 mm)\nx = rail(h = 600 mm).low'
    )
    outcome = outcome_of(text, tables=reached(text, beside(rail, BALUSTER)))
    assert not outcome.problems and outcome.as_json()["values"]["x"]["value"] == 200


def test_a_change_of_what_is_used_travels() -> None:
    before = using("part p = baluster()").parts["p"].volume
    wider = BALUSTER.replace("waist = 18 mm", "waist = 28 mm")
    after = using("part p = baluster()", studies=beside(wider)).parts["p"].volume
    assert before is not None and after is not None and after > before * 1.5


def test_the_same_piece_is_worked_out_once(monkeypatch: pytest.MonkeyPatch) -> None:
    from ovolo.running import evaluate as evaluating

    used._YIELDS.clear()
    asked: list[object] = []
    evaluate = evaluating.evaluate

    def counted(program, settings=None, *rest):  # type: ignore[no-untyped-def]
        asked.append(settings)
        return evaluate(program, settings, *rest)

    monkeypatch.setattr(evaluating, "evaluate", counted)
    using("part p = [baluster(height = 400 mm + mod(i, 2) * 50 mm) for i in 0 .. 19]")
    assert asked == [{"height": 400.0}, {"height": 450.0}]


def test_a_study_is_divided_to_the_tolerance_of_the_one_that_uses_it() -> None:
    """Whatever else used it before: here one that is content with 5 mm."""
    fine = using("part p = baluster().body")
    coarse = using("tolerance 5 mm", "part p = baluster().body")
    again = using("part p = baluster(height = 900 mm).body")
    found = [one.parts["p"].triangles for one in (fine, coarse, again)]
    assert found[0] == found[2] > 2 * found[1]


def test_circles_are_refused_with_their_chain() -> None:
    a = 'study "Stair"\nuse b from "Landing"\npart p = b()'
    b = 'study "Landing"\nuse s from "Stair"\npart p = s()'
    outcome = outcome_of(a, tables=reached(a, beside(a, b)))
    messages = " ".join(problem.message for problem in outcome.problems)
    assert "“Stair” → “Landing” → “Stair”" in messages
    own = 'study "Stair"\nuse me from "Stair"'
    outcome = outcome_of(own, tables=reached(own, beside(own)))
    assert "“Stair” → “Stair”" in outcome.problems[0].message


@pytest.mark.parametrize(
    ("line", "said"),
    [
        ("part p = baluster(hight = 1 m)", "no input `hight`"),
        ("part p = baluster(hight = 1 m)", "did you mean `height`"),
        ("part p = baluster(secret = 3)", "no input `secret`"),
        ("part p = baluster(height = 3)", "must be a length"),
        ("part p = baluster(1 m, 10 mm, 3)", "has 2 inputs"),
        ("part p = baluster(1 m, height = 2 m)", "given twice"),
        ("part p = baluster(height = 3 m)", "above the upper limit"),
        ("x = baluster().ryse", "did you mean .rise"),
        ("x = baluster + 1", "makes no sense"),
        ('use other from "Nowhere"', "no study “Nowhere”"),
    ],
)
def test_what_does_not_fit_is_said(line: str, said: str) -> None:
    (problem, *_) = using(line).problems
    assert said in f"{problem.message} {problem.hint}"


def test_a_part_that_fails_inside_says_where() -> None:
    broken = BALUSTER.replace("box(60 mm", "box(height - 901 mm")
    outcome = using("part p = baluster()", "part q = baluster(height = 902 mm)", studies=beside(broken))  # fmt: skip
    (problem,) = outcome.problems
    assert (
        "in “Turned baluster”: width is -1 mm" in problem.message or "(line 8)" in problem.message
    )
    assert list(outcome.parts) == ["q"]


def test_a_gap_inside_is_told_and_the_rest_stays() -> None:
    gappy = BALUSTER.replace("cylinder(waist, height)", "[cylinder(i * 1 mm, height) for i in 0 .. 3]")  # fmt: skip
    outcome = using("part p = baluster()", studies=beside(gappy))
    (problem,) = outcome.problems
    assert problem.item == 0 and "Turned baluster" in problem.message
    assert outcome.parts["p"].count == 4


def test_files_of_a_study_that_is_used_are_its_own(tmp_path: Path) -> None:
    from ovolo.command import main

    (tmp_path / "stair.ovo").write_text('study "Stair"\nuse b from "Turned baluster"\nn = len(b().sizes)')  # fmt: skip
    (tmp_path / "other.ovo").write_text(BALUSTER + 'file t = "t.csv"\nsizes = t.size\n')
    (tmp_path / "t.csv").write_text("size\n1\n2\n3\n")
    assert main(["check", str(tmp_path / "stair.ovo")]) == 0
    shutil.move(tmp_path / "other.ovo", tmp_path / "kept.txt")
    assert main(["check", str(tmp_path / "stair.ovo")]) == 1


def test_a_sheet_names_what_it_reaches() -> None:
    def shelf(names: set[str], titles: set[str]):  # type: ignore[no-untyped-def]
        files = dict.fromkeys(names, b"a\n1\n")
        return files, dict.fromkeys(titles, ('study "B"\nfile t = "b.csv"', shelf))

    found = everything_named('study "A"\nfile t = "a.csv"\nuse b from "B"', shelf)
    assert found["a.csv"] == b"a\n1\n"
    other = found[study_key("B")]
    assert isinstance(other, Sheet) and list(other.files) == ["b.csv"]


def test_many_ways_to_the_same_study_cost_nothing() -> None:
    """Each of 25 studies uses the next one twice: 2^25 ways, but 25 studies."""
    studies = {}
    for k in range(25):
        studies[f"S{k}"] = (
            f'study "S{k}"\nuse a from "S{k + 1}"\nuse b from "S{k + 1}"\nx = a().x + b().x'
        )
    studies["S25"] = 'study "S25"\nx = 1'
    text = studies.pop("S0")
    outcome = outcome_of(text, tables=reached(text, studies))
    assert outcome.as_json()["values"]["x"]["value"] == 2**25


def test_a_row_of_studies_that_is_too_long_is_refused() -> None:
    studies = {f"S{k}": f'study "S{k}"\nuse a from "S{k + 1}"\nx = a().x' for k in range(40)}
    text = studies.pop("S0")
    outcome = outcome_of(text, tables=reached(text, studies))
    assert "more than 30 studies" in outcome.problems[0].message
