"""What words remark on what they give: nothing is wrong with it, but it may not be what was meant."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar

_said: ContextVar[list[str] | None] = ContextVar("what was remarked", default=None)


@contextmanager
def remarking() -> Iterator[list[str]]:
    """Within it, each remark is added."""
    said: list[str] = []
    token = _said.set(said)
    try:
        yield said
    finally:
        _said.reset(token)


def remark(said: str) -> None:
    """Remarks on the line that is run; where none is, nobody hears it."""
    now = _said.get()
    if now is not None and said not in now:
        now.append(said)
