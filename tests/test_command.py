"""The command line, as it is called."""

import io
import json
import subprocess
import sys
from contextlib import redirect_stderr, redirect_stdout
from pathlib import Path

import pytest

from ovolo.command.__main__ import main
from tests.sheets import DEMO

STAIR = str(DEMO / "01-spiral-stair.ovo")


Done = subprocess.CompletedProcess[str]


def as_a_program(*arguments: str, given: str | None = None) -> Done:
    """Called as from a shell."""
    command = [sys.executable, "-m", "ovolo.command", *arguments]
    return subprocess.run(command, capture_output=True, text=True, input=given)


def ovolo(*arguments: str, given: str = "") -> Done:
    """The same within this process, which is there already."""
    out, err = io.StringIO(), io.StringIO()
    with pytest.MonkeyPatch.context() as patch, redirect_stdout(out), redirect_stderr(err):
        patch.setattr(sys, "stdin", io.TextIOWrapper(io.BytesIO(given.encode()), encoding="utf-8"))
        try:
            status = main(arguments)
        except SystemExit as ended:
            status = int(ended.code or 0)
    return Done(arguments, status, out.getvalue(), err.getvalue())


@pytest.fixture
def failing(tmp_path: Path) -> str:
    path = tmp_path / "failing.ovo"
    path.write_text("a = 1 / 0\ncheck 1 > 2\n", encoding="utf-8")
    return str(path)


def test_eval_prints_values_and_exits_0() -> None:
    done = as_a_program("eval", STAIR)
    assert done.returncode == 0
    assert "  risers = 18\n" in done.stdout and "holds: " in done.stdout
    assert ovolo("eval", STAIR).stdout == done.stdout


def test_eval_prints_notes_and_export_takes_options(tmp_path: Path) -> None:
    sheet = tmp_path / "peg.ovo"
    sheet.write_text('r = 254 mm\nnote "a radius of {r}"\npart p = box(r, r, r)', encoding="utf-8")
    assert "  note: a radius of 254 mm\n" in ovolo("eval", str(sheet)).stdout
    target = tmp_path / "peg.obj"
    done = ovolo("export", str(sheet), "--to", str(target), "--option", "unit=in")
    assert done.returncode == 0 and "# lengths in in" in target.read_text()
    wrong = ovolo("export", str(sheet), "--to", str(target), "--option", "unit")
    assert wrong.returncode == 2 and "`unit` is not NAME=VALUE" in wrong.stderr


def test_set_takes_a_value_as_a_person_types_it() -> None:
    done = ovolo("eval", STAIR, "--set", "floor_height=3.1m", "--set", "outline=kite", "--json")
    result = json.loads(done.stdout)
    assert done.returncode == 0
    assert result["values"]["floor_height"]["value"] == 3100
    assert result["values"]["risers"]["value"] == 17
    assert result["parts"]["treads"]["items"] == 16


def test_problems_and_failed_checks_exit_1(failing: str) -> None:
    done = ovolo("eval", failing)
    assert done.returncode == 1
    assert "fails: line 2: 1 > 2" in done.stdout
    assert "problem: line 1, column 7: division by zero" in done.stdout
    assert ovolo("check", failing).returncode == 1


def test_an_input_beyond_its_limit_is_a_problem_that_stands_at_its_line() -> None:
    done = ovolo("eval", STAIR, "--set", "floor_height=9 m", "--json")
    assert done.returncode == 1
    (problem,) = json.loads(done.stdout)["problems"]
    assert "9000 mm is above the upper limit 4200 mm" in problem["message"]


@pytest.mark.parametrize(
    ("arguments", "said"),
    [
        (("eval", "missing.ovo"), "missing.ovo cannot be read"),
        (("eval", STAIR, "--set", "floor_height"), "is not NAME=VALUE"),
        (("eval", STAIR, "--set", "flor_height=3 m"), "did you mean `floor_height`?"),
        (("eval", STAIR, "--set", "rise=3 m"), "`rise` is not an input"),
        (("eval", STAIR, "--set", "floor_height=3 kg"), "is a mass"),
        (("eval", STAIR, "--set", "outline=round"), "one of wedge, kite"),
        (("export", STAIR, "--to", "x.zzz"), "known: .3mf"),
        (("export", STAIR, "--to", "x.stl", "--part", "tred"), "there is no part `tred`"),
        (("words", "nothing"), "there is no word `nothing`"),
    ],
)
def test_what_cannot_be_read_exits_2(arguments: tuple[str, ...], said: str) -> None:
    done = ovolo(*arguments)
    assert done.returncode == 2
    assert said in done.stderr


def test_a_sheet_comes_in_by_the_standard_input() -> None:
    """And nothing is said at the end but what was asked for: some libraries speak up there."""
    text = "input rise = 150 mm\ntotal = 10 * rise\npart p = box(rise, rise, rise) - cylinder(1 mm, 1 m)"
    done = ovolo("eval", "-", "--set", "rise=30mm", given=text)
    assert done.returncode == 0 and done.stderr == "" and "total = 300 mm" in done.stdout


def test_a_file_that_is_not_text_exits_2(tmp_path: Path) -> None:
    path = tmp_path / "binary.ovo"
    path.write_bytes(b"\xff\xfe\x00")
    done = ovolo("eval", str(path))
    assert done.returncode == 2 and "is not UTF-8 text" in done.stderr


def test_export_writes_the_named_part(tmp_path: Path) -> None:
    target = tmp_path / "treads.stl"
    done = ovolo("export", STAIR, "--to", str(target), "--part", "treads")
    assert done.returncode == 0
    data = target.read_bytes()
    assert len(data) == 84 + 50 * int.from_bytes(data[80:84], "little")


def test_a_key_is_asked_for_alone_and_lays_the_plan_on_paper(tmp_path: Path) -> None:
    target = tmp_path / "garden.svg"
    (tmp_path / "post.ovo").write_text(
        'study "Post"\npart p = box(9 cm, 9 cm, 1 m)', encoding="utf-8"
    )
    garden = tmp_path / "garden.ovo"
    garden.write_text('study "Garden"\nuse post from "Post"\npart gate = post() "Gate post"', encoding="utf-8")  # fmt: skip
    done = ovolo("export", str(garden), "--to", str(target), "--key")
    assert done.returncode == 0, done.stderr
    drawn = target.read_text(encoding="utf-8")
    assert "Gate post" in drawn and ">Post<" in drawn
    none = ovolo("export", STAIR, "--to", str(target), "--key")
    assert none.returncode == 2 and "nothing for a key" in none.stderr


def test_words_are_listed() -> None:
    done = ovolo("words", "extrude")
    assert done.returncode == 0 and done.stdout.startswith("extrude(outline, h,")


def test_one_word_is_explained_whole() -> None:
    said = ovolo("words", "row").stdout
    assert "largest step or density." in said, "not only the first line of its meaning"
    assert '    rest = "end": what becomes of' in said and "[a text]" in said
    assert "    n: how many [a whole number, optional]" in said
    assert said.endswith("(0 m, 0 m), 4, 3 m)[3].x gives 9 m\n")


def test_a_sheet_of_figures_is_asked_for_by_its_list(tmp_path: Path) -> None:
    target = tmp_path / "gear.svg"
    figures = "plan; front; section y"
    done = ovolo("export", str(DEMO / "20-square-baluster.ovo"), "--to", str(target), "--figures", figures, "--dashed", "--schedule")  # fmt: skip
    assert done.returncode == 0, done.stderr
    assert "A–A" in target.read_text(encoding="utf-8")
    wrong = ovolo("export", str(DEMO / "20-square-baluster.ovo"), "--to", str(target), "--figures", "top")  # fmt: skip
    assert wrong.returncode == 2 and "`top` is no figure" in wrong.stderr
