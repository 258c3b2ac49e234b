"""Who has a study open, and which line: told by each window when it asks what is new.

One process answers all requests (`studio/config/gunicorn.py`), so this is kept in its memory; it is
nobody's work, and forgotten when a window stays away.
"""

from __future__ import annotations

import threading
import time
from dataclasses import dataclass

from studio.engine.answers import PersonSaid

STAYS = 15.0
"""Seconds after which a window that does not ask any more is thought to be closed."""

MOST_SHOWN = 20
_MANY = 100
"""With more studies than these, those that nobody looks at any more are forgotten at each note."""


@dataclass(frozen=True, slots=True)
class Window:
    person: int
    name: str
    line: int | None
    """The line of the sheet that is open there, by its number in the newest revision it knows."""

    asked: float


_lock = threading.Lock()
_open: dict[int, dict[str, Window]] = {}


def note(study: int, window: str, person: int, name: str, line: int | None) -> None:
    """Notes that a window has a study open."""
    now = time.monotonic()
    with _lock:
        windows = _open.setdefault(study, {})
        windows[f"{person}:{window}"] = Window(person, name, line, now)
        if len(_open) > _MANY:
            _forget_stale(now)


def _forget_stale(now: float) -> None:
    for study, windows in list(_open.items()):
        for key in [key for key, one in windows.items() if now - one.asked > STAYS]:
            del windows[key]
        if not windows:
            del _open[study]


def forget(study: int, window: str, person: int) -> None:
    """A window was closed."""
    with _lock:
        windows = _open.get(study, {})
        windows.pop(f"{person}:{window}", None)
        if not windows:
            _open.pop(study, None)


def others(study: int, window: str, person: int) -> list[PersonSaid]:
    """The other windows in which a study is open, those of other people first."""
    now = time.monotonic()
    with _lock:
        windows = [
            one
            for key, one in _open.get(study, {}).items()
            if key != f"{person}:{window}" and now - one.asked <= STAYS
        ]
    windows.sort(key=lambda one: (one.person == person, one.name))
    return [
        {"name": one.name, "me": one.person == person, "line": one.line}
        for one in windows[:MOST_SHOWN]
    ]
