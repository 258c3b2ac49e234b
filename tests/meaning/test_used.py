"""Studies used inside studies."""

import math
import shutil
from pathlib import Path

import numpy as np
import pytest

from ovolo.formats.attached import Sheet, everything_named, read_files
from ovolo.meaning.attachments import Tables, study_key
from ovolo.outcome.outcome import Outcome, outcome_of
from ovolo.outcome.schedule import schedule
from ovolo.running import used
from ovolo.running.evaluate import Memo
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


def test_many_uses_beyond_a_limit_are_one_problem() -> None:
    outcome = using(
        "part all = [baluster(height = 2 m + i * 1 mm).move(i * 1 m, 0 m) for i in 0 .. 99]"
    )
    (problem,) = outcome.problems
    assert problem.message == "in “Turned baluster”: 2000 mm is above the upper limit 1500 mm"
    assert [len(group.items) for group in outcome.parts["all"].groups] == [100, 100]


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
    assert outcome.parts["many"].count == 15 and outcome.parts["many"].closed
    assert outcome.parts["cut"].volume < 1e9 - 60 * 60 * 20 + 1


def test_its_checks_are_reached() -> None:
    outcome = using("good = baluster().checks_pass", "check baluster(waist = 35 mm).checks_pass")
    assert outcome.as_json()["values"]["good"]["value"] is True
    own, used_one = outcome.checks
    assert not own.passed and not used_one.passed
    assert used_one.message == "in “Turned baluster”: slender" and used_one.line == 4
    assert used_one.measured == "35 mm < 30 mm"


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

    used._USES.clear()
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
    assert outcome.parts["p"].count == 5


def test_the_reason_of_a_gap_survives_a_swap() -> None:
    gappy = BALUSTER.replace("cylinder(waist, height)", "[cylinder(i * 1 mm, height) for i in 0 .. 3]")  # fmt: skip
    memo = Memo()
    said = []
    for text in (gappy, BALUSTER, gappy):
        sheet = (
            'study "Stair"\nuse baluster from "Turned baluster"\npart p = row(baluster(), 2, 1 m)'
        )
        outcome = outcome_of(sheet, memo=memo, tables=reached(sheet, beside(text)))
        said.append([problem.message for problem in outcome.problems])
    assert said[0] == said[2] and "this is empty" in said[0][0] and said[1] == []


def test_files_of_a_study_that_is_used_are_its_own(tmp_path: Path) -> None:
    from ovolo.command.__main__ import main

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


COLOURED = """study "Turned baluster"
input height = 900 mm from 300 mm to 1500 mm
input waist = 18 mm from 6 mm to 40 mm
check waist < 30 mm "slender at {waist}"
part body = cylinder(waist, height) colour oak material 700 kg/m^3 "Turned body"
part feet = row(box(60 mm, 60 mm, 20 mm), 2, 100 mm) material 7850 kg/m^3 colour by [1, 2]
part plan = rect(60 mm, 60 mm) colour slate
part axis = line((0 mm, 0 mm), (0 mm, 60 mm))
"""


def test_colours_materials_labels_and_all_kinds_of_pieces_are_kept() -> None:
    outcome = using(
        "part one = baluster()",
        "part many = row(baluster(), 3, 300 mm).turn(90°)",
        "part body = baluster().body",
        "part painted = baluster() colour steel material 1 kg/m^3",
        studies=beside(COLOURED),
    )
    assert not outcome.problems
    one, many, body, painted = outcome.parts.values()
    assert one.count == 5 and many.count == 15
    assert len(one.regions) == 1 and len(one.curves) == 1 and len(many.curves) == 3
    assert [coat.label for coat in one.coats if coat] == [
        "Turned body",
        "feet",
        "feet",
        "plan",
        "axis",
    ]
    oak, low, high, slate, plain = (one.colour_of(item) for item in range(5))
    assert len({oak, high, slate}) == 3 and body.colour_of(0) == oak and plain == one.colour
    assert low != high
    assert one.tinting is not None and ("Turned body", oak) in one.tinting.legend
    # The mass is that of the volumes by hand: a cylinder and two boxes.
    mass = math.pi * 18**2 * 900 * 700e-9 + 2 * 60 * 60 * 20 * 7850e-9
    assert one.mass == pytest.approx(mass) and many.mass == pytest.approx(3 * mass)
    assert {painted.colour_of(item) for item in range(5)} == {painted.colour}
    assert painted.mass == pytest.approx((painted.volume or 0) * 1e-9)
    rows = [(piece.label, piece.quantity) for piece in schedule([many])]
    assert sorted(rows) == [("Turned body", 3), ("axis", 3), ("feet", 6), ("plan", 3)]


SET_OUT = [
    ("{}.move(x = 1 m).turn(30°).mirror(y)", 1), ("{}.scale(2)", 1), ("if yes then {0} else {0}", 1),
    ('align({}, "bottom")', 1), ('on({}, "front")', 1), ("{}.at(frame_at(line((0 m, 0 m), (1 m, 0 m)), 1/2))", 1),
    ("[{} for i in 0 .. 2]", 3), ("[{}.mirror(z) for i in 0 .. 2]", 3), ("[{}.move(x = i * 1 m) for i in 0 .. 2]", 3),
    ("[if i > 1 then {0} else {0}.turn(9°) for i in 0 .. 2]", 3), ("[[{} for i in 0 .. 1] for j in 0 .. 1]", 4),
    ("[one.move(z = 1 m) for one in row({}, 3, 1 m)]", 3), ("row(row({}, 2, 1 m), 2, 5 m)", 4), ("grid({}, 2, 2, 1 m, 1 m)", 4),
    ("ring({}, 5)", 5), ("at_points({}, [(0 m, 0 m), (1 m, 0 m)])", 2), ("laid((1 m, 0 m), (1 m, 3 m), l -> {})", 1),
    ("scan((t, i) -> t.move(x = 1 m), {}, [1, 2])", 2), ("reversed(row({}, 4, 1 m))", 4), ("alternate([{0}], [{0}, {0}])", 3),
    ("over(surface((u, v) -> (u * 2 m, v * 1 m, 0 m)), 2, 2, c -> {})", 4),
]  # fmt: skip
FOUR = """study "Turned baluster"
part body = cylinder(20 mm, 90 mm) colour oak material 700 kg/m^3
part plan = rect(60 mm, 60 mm) colour oak
part axis = line((0 mm, 0 mm), (0 mm, 60 mm)) colour oak
part skin = surface((u, v) -> (u * 1 m, v * 1 m, 0 mm)) colour oak
"""


@pytest.mark.parametrize(("said", "count"), [*SET_OUT, ("reverse({})", 1), ("flip({})", 1)])
def test_what_is_set_out_keeps_its_colour_and_its_material(said: str, count: int) -> None:
    only = {"reverse": ("axis",), "flip": ("skin",)}
    for piece in only.get(said.partition("(")[0], ("body", "plan", "axis", "skin")):
        outcome = using(
            f"one = baluster().{piece}", f"part all = {said.format('one')}", studies=beside(FOUR)
        )
        assert not outcome.problems
        part = outcome.parts["all"]
        labels = [coat.label for coat in part.coats if coat is not None]
        assert labels == [piece] * count == [piece] * part.count
        if piece == "body":
            assert part.mass == pytest.approx((part.volume or 0) * 700e-9)


def test_limits_are_as_soft_as_in_the_study_itself() -> None:
    outcome = using("part p = baluster(height = 3 m)", studies=beside(COLOURED))
    (problem,) = outcome.problems
    assert "in “Turned baluster”: 3000 mm is above the upper limit 1500 mm" in problem.message
    assert outcome.parts["p"].bounds[1][2] == 3000  # type: ignore[index]


def test_checks_of_used_studies_count() -> None:
    outcome = using(
        "part p = [baluster(waist = 25 mm + i * 5 mm) for i in 0 .. 2]", studies=beside(COLOURED)
    )
    (check,) = outcome.checks
    assert check.passed is False and not outcome.well
    assert check.message == "in “Turned baluster”: slender at 30 mm" and check.line == 3
    well = using("part p = baluster()", studies=beside(COLOURED))
    assert [one.passed for one in well.checks] == [True] and well.well


def test_measures_of_several_uses() -> None:
    outcome = using(
        "uses = [baluster(height = 400 mm), baluster(height = 500 mm)]",
        "v = volume(uses)",
        "part left = box(1 m, 1 m, 1 m) - uses",
        studies=beside(COLOURED),
    )
    assert not outcome.problems, outcome.problems
    feet = 2 * 60 * 60 * 20
    assert outcome.as_json()["values"]["v"]["value"] == pytest.approx(
        math.pi * 18**2 * 900 + 2 * feet
    )


WITH_PRESETS = BALUSTER + 'preset "Stout": height = 700 mm, waist = 28 mm\n'


def test_a_use_begins_from_a_preset_and_follows_it() -> None:
    studies = beside(WITH_PRESETS)
    line = 'part b = baluster(preset = "Stout", height = 650 mm)'
    lines = (line, "n = baluster(preset = \"Stout\").rise", "w = volume(baluster(preset = \"Stout\", height = 650 mm).body)")  # fmt: skip
    outcome = using(*lines, studies=studies)
    assert not outcome.problems
    values = outcome.as_json()["values"]
    assert values["n"]["value"] == pytest.approx(700 / 3)
    assert values["w"]["value"] == pytest.approx(math.pi * 28**2 * 650, rel=1e-9)
    changed = beside(WITH_PRESETS.replace("waist = 28 mm", "waist = 20 mm"))
    values = using(*lines, studies=changed).as_json()["values"]
    assert values["w"]["value"] == pytest.approx(math.pi * 20**2 * 650, rel=1e-9)


@pytest.mark.parametrize(
    ("use", "said"),
    [
        (
            'baluster(preset = "Stuot")',
            "“Turned baluster” has no preset “Stuot” (did you mean “Stout”?)",
        ),
        ("baluster(preset = 3)", "the preset of a use is named in quotes"),
        ('baluster(preset = "St{1}")', "the preset of a use is named in quotes"),
        ('baluster(preset = "Stout", wast = 3 mm)', "has no input `wast`"),
    ],
)
def test_a_preset_that_is_none_is_refused(use: str, said: str) -> None:
    (problem, *_) = using(f"part b = {use}", studies=beside(WITH_PRESETS)).problems
    assert said in f"{problem.message} ({problem.hint})"


def test_a_study_without_presets_says_so() -> None:
    (problem, *_) = using('part b = baluster(preset = "Stout")').problems
    assert problem.hint == "it has no presets"


def test_a_study_is_laid_between_two_points() -> None:
    """Along (3, 4): 5 m (Pythagoras); a piece of that height stands from one point to the other."""
    outcome = using(
        "input q = (4 m, 6 m)",
        "part legs = laid((1 m, 2 m), q, l -> baluster(height = l / 5))",
        "far = laid((1 m, 2 m), q, l -> (l, 0 m, 0 m))",
    )
    assert not outcome.problems
    assert outcome.as_json()["values"]["far"]["value"] == pytest.approx([4000, 6000, 0])
    middle = np.mean(outcome.parts["legs"].bounds, axis=0)
    assert middle[:2] == pytest.approx([1000, 2000], abs=1e-6), "upright at the first point"
