"""What the browser loads is committed, and is what the sources build."""

import subprocess
from pathlib import Path

ROOT = Path(__file__).parents[1]
BUILT = ROOT / "studio" / "static" / "dist"


def files(folder: Path) -> dict[str, bytes]:
    return {
        str(path.relative_to(folder)): path.read_bytes()
        for path in sorted(folder.rglob("*"))
        if path.is_file()
    }


def test_the_built_assets_are_not_stale(tmp_path: Path) -> None:
    command = ["node", "frontend/build.mjs", str(tmp_path / "built")]
    done = subprocess.run(command, cwd=ROOT, capture_output=True, text=True)
    assert done.returncode == 0, done.stderr
    fresh, committed = files(tmp_path / "built"), files(BUILT)
    assert list(fresh) == list(committed), "run `make assets` and commit the result"
    stale = [name for name in fresh if fresh[name] != committed[name]]
    assert not stale, f"run `make assets` and commit the result: {stale}"


def test_nothing_is_fetched_from_elsewhere() -> None:
    for template in (ROOT / "studio" / "templates").rglob("*.html"):
        assert "http" not in template.read_text(encoding="utf-8"), template


def test_lock_files_carry_no_registry_address() -> None:
    for name in (
        "requirements/app.txt",
        "requirements/dev.txt",
        "requirements/uv.txt",
        "package-lock.json",
    ):
        text = (ROOT / name).read_text(encoding="utf-8")
        assert "index-url" not in text and '"resolved"' not in text, name
