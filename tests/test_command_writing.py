"""Commands for who writes sheets in an editor of their own."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import time
from pathlib import Path

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
