"""What the page on adding things shows is added to a copy of the core, and works there."""

from __future__ import annotations

import os
import re
import shutil
import subprocess
import sys
from pathlib import Path

ROOT = Path(__file__).parents[1]
PAGE = (ROOT / "docs" / "contributing.md").read_text(encoding="utf-8")
TRIED = """
from ovolo.formats.attached import attachable
from ovolo.formats.export import exported
from ovolo.formats.format import formats
from ovolo.outcome.outcome import outcome_of
from ovolo.outcome.scene import scene_of
from ovolo.sheet.statements.registry import statement_types
from ovolo.words.all import WORDS
from ovolo.writing.vocabulary import vocabulary
import ovolo
assert ovolo.__file__.startswith({folder!r}), ovolo.__file__
outcome = outcome_of('source "Handbook, table 4"\\npart p = box(golden(1 m), 1 m, 1 m)\\nhalves = [golden(i) for i in 1 .. 3]')
assert not outcome.problems, outcome.problems
assert abs(outcome.parts["p"].volume / 1e9 - 0.6180339887) < 1e-9
assert exported(outcome, "a.xyz").count(b"\\n") == 8
assert b'"lead": "source"' in scene_of(outcome)
words = vocabulary()
assert words["statements"]["source"] and any(one["name"] == "golden" for one in words["words"])
assert [one.offered for one in formats() if one.ending == "xyz"] == ["Corners as XYZ"]
print("all of it works")
"""


def test_what_the_page_on_adding_shows_works(tmp_path: Path) -> None:
    shutil.copytree(ROOT / "ovolo", tmp_path / "ovolo", ignore=shutil.ignore_patterns("*.pyc"))
    blocks = re.findall(r"```python\n# (ovolo/\S+)\n(.*?)```", PAGE, re.DOTALL)
    assert len(blocks) == 3, "a word, a statement, a format"
    for name, code in blocks:
        assert not (tmp_path / name).exists()
        (tmp_path / name).write_text(code, encoding="utf-8")
    made = subprocess.run(
        [sys.executable, "-c", TRIED.format(folder=str(tmp_path))],
        env={**os.environ, "PYTHONPATH": str(tmp_path)}, cwd=tmp_path, capture_output=True, text=True,
    )  # fmt: skip
    assert made.stdout.strip() == "all of it works", made.stderr
