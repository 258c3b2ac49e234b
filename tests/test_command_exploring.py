"""The commands that try a study at many settings, as they are called."""

from __future__ import annotations

import csv
import io
import json
from pathlib import Path

import pytest

from ovolo.command.__main__ import main
from tests.sheets import DEMO

STAIR = str(DEMO / "01-spiral-stair.ovo")
BOX = 'input w = 3 cm from 1 cm to 9 cm step 1 cm "Width"\ninput k = 2 from 1 to 9 step 1\nv = w * k\ncheck v < 20 cm "short enough"\npart p = box(w, 1 cm, 1 cm)\n'


@pytest.fixture
def sheet(tmp_path: Path) -> str:
    path = tmp_path / "box.ovo"
    path.write_text(BOX, encoding="utf-8")
    return str(path)


def ovolo(capsys: pytest.CaptureFixture[str], *arguments: str) -> tuple[int, str, str]:
    status = main(arguments)
    said = capsys.readouterr()
    return status, said.out, said.err


Said = pytest.CaptureFixture[str]


def test_vary_prints_trials_as_csv(sheet: str, capsys: Said) -> None:
    status, out, err = ovolo(capsys, "vary", sheet, "--roll", "12", "--hold", "k", "--workers", "1")
    rows = list(csv.DictReader(io.StringIO(out)))
    assert status == 0 and len(rows) == 12 and err == "12 trials, 0 fail\n"
    assert list(rows[0]) == ["number", "w", "k", "v", "well", "why not"]
    assert {row["k"] for row in rows} == {"2"}
    assert {float(row["w"]) for row in rows} <= {10.0 * n for n in range(1, 10)}


def test_vary_along_inputs_to_a_file_with_drawings(
    sheet: str, tmp_path: Path, capsys: Said
) -> None:
    target, folder = tmp_path / "t.csv", tmp_path / "drawn"
    status, out, err = ovolo(
        capsys, "vary", sheet, "--field", "w=2cm..6cm:3,k:2", "--parts", "--to", str(target),
        "--pictures", str(folder), "--workers", "1", "--values", "v",
    )  # fmt: skip
    rows = list(csv.DictReader(io.StringIO(target.read_text(encoding="utf-8"))))
    assert (status, out) == (0, "") and err.endswith("6 trials, 2 fail\n")
    assert [(row["w"], row["k"]) for row in rows] == [
        (w, k) for k in ("1", "9") for w in ("20", "40", "60")
    ]
    assert rows[-1]["why not"] == "short enough" and rows[0]["p pieces"] == "1"
    assert sorted(one.name for one in folder.iterdir()) == [f"{n}.svg" for n in range(1, 7)]


def test_vary_by_rows_presets_and_limits(sheet: str, tmp_path: Path, capsys: Said) -> None:
    rows = tmp_path / "sizes.csv"
    rows.write_text("w [cm],k\n2,3\n4 kg,1\n", encoding="utf-8")
    _, out, err = ovolo(capsys, "vary", sheet, "--rows", str(rows), "--workers", "1")
    assert "row 3, w: `4 kg` is a mass" in out and err == "2 trials, 1 fail\n"
    folder = tmp_path / "drawn"
    _, _, err = ovolo(capsys, "vary", sheet, "--rows", str(rows), "--workers", "1", "--pictures", str(folder))  # fmt: skip
    assert [one.name for one in folder.iterdir()] == ["1.svg"] and "2.svg: row 3, w:" in err
    assert ovolo(capsys, "vary", sheet, "--presets", "--workers", "1")[0] == 2
    _, out, _ = ovolo(capsys, "vary", sheet, "--limits", "--workers", "1")
    assert len(out.splitlines()) > 15


@pytest.mark.parametrize(
    ("arguments", "said"),
    [
        (("--roll", "0"), "0 trials are none"),
        (("--roll", "1000000000"), "too many"),
        (("--series", "w=1cm..5cm:many"), "no number of settings"),
        (("--series", "w=5cm"), "is no range"),
        (("--series", "v:3"), "`v` is not an input"),
        (("--roll", "3", "--range", "w=8cm..2cm"), "nothing is left"),
        (("--roll", "3", "--range", "w=1kg..2kg"), "is a mass"),
        (("--roll", "3", "--hold", "v"), "is not an input"),
        (("--roll", "3", "--values", "nothing"), "no line is called `nothing`"),
        (("--rows", "/nowhere.csv"), "cannot be read"),
        (("--roll", "3", "--cluster", "tcp://127.0.0.1:1"), "no cluster answers"),
        (("--roll", "3", "--to", "/nowhere/t.csv"), "cannot be written"),
    ],
)
@pytest.mark.filterwarnings("default")
def test_what_makes_no_sense_exits_2_and_says_why(
    arguments: tuple[str, ...], said: str, sheet: str, capsys: Said, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("ovolo.exploring.carriers._SECONDS_TO_ANSWER", 1)
    status, out, err = ovolo(capsys, "vary", sheet, *arguments, "--workers", "1")
    assert (status == 2 and said in err and err.startswith("ovolo: ")) or out


def test_aim_prints_what_it_found_and_exits_by_it(sheet: str, capsys: Said) -> None:
    status, out, _ = ovolo(capsys, "aim", sheet, "v=12cm", "--by", "w")
    assert (status, out) == (0, "v = 120 mm: w = 60 mm\n")
    status, out, _ = ovolo(capsys, "aim", sheet, "v=125mm", "--by", "w")
    assert status == 1 and "the step below" in out and "no step of `w`" in out
    status, out, _ = ovolo(capsys, "aim", sheet, "v=most", "--by", "w,k", "--json")
    found = json.loads(out)
    assert status == 0 and found["found"][0]["reached"] == pytest.approx(180)
    assert ovolo(capsys, "aim", sheet, "v=5kg", "--by", "w")[0] == 2
    assert ovolo(capsys, "aim", sheet, "v", "--by", "w")[0] == 2


def test_proof_exits_1_where_something_fails(sheet: str, tmp_path: Path, capsys: Said) -> None:
    status, out, _ = ovolo(capsys, "proof", sheet)
    assert status == 1 and "v < 20 cm: fails" in out and "fails" in out
    good = tmp_path / "good.ovo"
    good.write_text("input a = 1 from 0 to 5\ncheck a <= 5\ncheck a * a >= 0\n", encoding="utf-8")
    status, out, _ = ovolo(capsys, "proof", str(good), "--json")
    found = json.loads(out)
    assert status == 0 and found["fails"] == []
    assert [one["verdict"] for one in found["checks"]] == ["holds everywhere"] * 2


def test_compare_prints_what_differs(sheet: str, tmp_path: Path, capsys: Said) -> None:
    other = tmp_path / "other.ovo"
    other.write_text(BOX.replace("= 3 cm", "= 5 cm"), encoding="utf-8")
    status, out, _ = ovolo(capsys, "compare", sheet, str(other))
    assert status == 1 and "input w: 30 mm ≠ 50 mm" in out and "value v" in out
    assert ovolo(capsys, "compare", sheet, sheet) == (0, "nothing differs\n", "")


def test_a_sheet_without_inputs_cannot_be_varied(tmp_path: Path, capsys: Said) -> None:
    path = tmp_path / "still.ovo"
    path.write_text("a = 3\n", encoding="utf-8")
    status, _, err = ovolo(capsys, "vary", str(path), "--roll", "3")
    assert status == 2 and "no inputs to vary" in err


def test_the_stair_is_varied_with_its_used_studies(capsys: Said) -> None:
    status, out, err = ovolo(
        capsys, "vary", STAIR, "--series", "floor_height=2.6m..3m:3", "--parts", "--workers", "1"
    )
    rows = list(csv.DictReader(io.StringIO(out)))
    assert status == 0 and err == "3 trials, 0 fail\n"
    assert [row["balusters pieces"] for row in rows] == ["39", "42", "45"]
