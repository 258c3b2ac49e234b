"""Commands for who writes sheets in an editor of their own."""

from __future__ import annotations

import json
import os
import signal
import subprocess
import sys
import time
from pathlib import Path
from typing import Any

import pytest

from ovolo.command import writing
from ovolo.command.__main__ import main


def test_a_new_sheet_is_well_and_goes_over_nothing(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    sheet = tmp_path / "bracket.ovo"
    assert main(["new", str(sheet), "--title", 'A "bracket"']) == 0
    assert main(["check", str(sheet)]) == 0 and main(["format", "--check", str(sheet)]) == 0
    assert sheet.read_text().startswith('study "A bracket"')
    assert main(["new", str(sheet)]) == 2 and "is there already" in capsys.readouterr().err
    assert main(["new", str(tmp_path / "b.txt")]) == 2
    assert main(["new", str(tmp_path / "no" / "b.ovo")]) == 2


def test_a_sheet_is_spaced_or_only_looked_at(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    sheet = tmp_path / "a.ovo"
    sheet.write_text("a=3 mm\n")
    assert main(["format", "--check", str(sheet)]) == 1 and sheet.read_text() == "a=3 mm\n"
    assert main(["format", str(sheet)]) == 0 and sheet.read_text() == "a = 3 mm\n"
    assert "would change" in capsys.readouterr().out
    assert main(["format", "--check", str(sheet)]) == 0
    assert main(["format", str(tmp_path / "none.ovo")]) == 2


def _hear_ctrl_c() -> None:
    """Also where the tests run in the background, whose processes do not hear it."""
    signal.signal(signal.SIGINT, signal.SIG_DFL)


def test_a_sheet_that_is_watched_is_evaluated_at_each_saving(tmp_path: Path) -> None:
    sheet = tmp_path / "a.ovo"
    sheet.write_text("a = 3 mm")
    command = [sys.executable, "-m", "ovolo.command", "eval", str(sheet), "--watch"]
    run = subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True, env={**os.environ, "PYTHONUNBUFFERED": "1"}, preexec_fn=_hear_ctrl_c)  # fmt: skip
    assert run.stdout is not None
    try:
        assert "a = 3 mm" in run.stdout.readline()
        sheet.write_text("a = 4 mm")
        assert "a = 4 mm" in run.stdout.readline()
        sheet.write_bytes(b"\xff")
        assert "not UTF-8" in run.stdout.readline()
        time.sleep(0.1)
    finally:
        run.send_signal(signal.SIGINT)
        assert run.wait(20) == 2
        run.stdout.close()


def test_a_shell_completes_commands_and_options(tmp_path: Path) -> None:
    """Tried in bash."""
    script = subprocess.run([sys.executable, "-m", "ovolo.command", "completion", "bash"], capture_output=True, text=True, check=True).stdout  # fmt: skip

    def offered(*words: str) -> list[str]:
        line = f"{script}\nCOMP_WORDS=({' '.join(words)}); COMP_CWORD={len(words) - 1}; _ovolo; echo ${{COMPREPLY[@]}}"
        return subprocess.run(["bash", "-c", line], capture_output=True, text=True, cwd=tmp_path, check=True).stdout.split()  # fmt: skip

    assert offered("ovolo", "ex") == ["export"]
    assert offered("ovolo", "export", "--pap") == ["--paper"]
    assert set(offered("ovolo", "eval", "--")) >= {"--json", "--watch", "--set", "--preset"}


def test_without_the_application_serving_says_where_it_is(
    monkeypatch: pytest.MonkeyPatch, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    monkeypatch.setattr(writing, "CHECKOUT", tmp_path)
    assert main(["serve"]) == 2 and "from a checkout" in capsys.readouterr().err


def test_a_sheet_is_begun_like_a_starting_point(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    sheet = tmp_path / "porch.ovo"
    assert main(["new", str(sheet), "--like", "roof-triangle"]) == 0
    assert main(["check", str(sheet)]) == 0 and 'study "porch"' in sheet.read_text()
    assert main(["new", str(tmp_path / "b.ovo"), "--like", "roof-triangel"]) == 2
    assert "did you mean" in capsys.readouterr().err
    assert main(["starts"]) == 0 and "holes-in-a-ring\n" in capsys.readouterr().out


SHEET = 'study "S"\ninput w = 3 mm from 1 mm to 9 mm\na = 2 * w\npart p = box(a, a, a)\ncheck a < 7 mm "small"\npreset "P": w = 2 mm'
TOLD = {
    "eval": ([], "values"), "check": ([], "well"), "export": (["--to", "TMP/p.stl"], "bytes"), "cut": (["--bar", "1 m"], "sections"),
    "nest": ([], "cutter"), "print": ([], "printer"), "hand-over": (["--to", "TMP/out", "--format", "stl"], "files"),
    "vary": (["--presets"], "trials"), "aim": (["a=5mm", "--by", "w"], "found"), "proof": ([], "checks"),
}  # fmt: skip


@pytest.mark.parametrize("command", TOLD)
def test_every_command_tells_a_program(
    command: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    sheet = tmp_path / "s.ovo"
    sheet.write_text(SHEET)
    more, _ = TOLD[command]
    arguments = [one.replace("TMP", str(tmp_path)) for one in more]
    assert main([command, str(sheet), *arguments, "--json"]) in (0, 1)
    told = json.loads(capsys.readouterr().out)
    assert told and isinstance(told, dict | list)
    sheet.write_bytes(b"\xff")
    assert main([command, str(sheet), *arguments, "--json"]) == 2
    assert "not UTF-8" in json.loads(capsys.readouterr().out)["error"]


def test_commands_of_other_things_tell_it_too(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    one, other = tmp_path / "a.ovo", tmp_path / "b.ovo"
    one.write_text("a = 1 mm\n")
    other.write_text("a=2 mm")

    def found(*arguments: str) -> Any:
        main([*arguments, "--json"])
        return json.loads(capsys.readouterr().out)

    assert found("compare", str(one), str(other))["rows"][0]["name"] == "a"
    assert found("words", "ceil")[0]["parameters"][0]["name"] == "x" and len(found("words")) > 100
    assert found("format", "--check", str(one), str(other)) == {"would_change": [str(other)]}
    assert found("new", str(tmp_path / "c.ovo")) == {"file": str(tmp_path / "c.ovo")}
    assert found("words", "nothing")["error"] == "there is no word `nothing`"
    assert len(found("starts")) == 23


def test_zsh_takes_the_script_of_bash(capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["completion", "bash"]) == 0
    bash = capsys.readouterr().out
    assert main(["completion", "zsh"]) == 0
    assert capsys.readouterr().out.partition("_ovolo()")[2] == bash.partition("_ovolo()")[2]
