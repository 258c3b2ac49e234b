"""A constant of a module has one value: one that is bound again further down changes what stands above, and nothing says so."""

import ast
from collections import Counter
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[1]
MODULES = [
    path for room in ("ovolo", "studio", "bench") for path in sorted((ROOT / room).rglob("*.py"))
]


def bound_twice(text: str) -> list[str]:
    found: Counter[str] = Counter()
    for line in ast.parse(text).body:
        targets = line.targets if isinstance(line, ast.Assign) else []
        targets = [line.target] if isinstance(line, ast.AnnAssign) and line.value else targets
        flat = [one for target in targets for one in getattr(target, "elts", [target])]
        found.update(one.id for one in flat if isinstance(one, ast.Name))
    return [name for name, count in found.items() if count > 1]


def test_no_constant_is_bound_twice() -> None:
    twice = {str(path.relative_to(ROOT)): bound_twice(path.read_text()) for path in MODULES}
    assert {path: names for path, names in twice.items() if names} == {}


@pytest.mark.parametrize(
    ("text", "names"),
    [("a = 1\na = 2", ["a"]), ("a: int = 1\na, b = 2, 3", ["a"]), ("a = 1\ndef f():\n    a = 2", [])],
)  # fmt: skip
def test_what_is_bound_twice_is_found(text: str, names: list[str]) -> None:
    assert bound_twice(text) == names
