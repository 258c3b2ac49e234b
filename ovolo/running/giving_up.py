"""Work that nobody waits for any more: it ends where it next looks, and leaves all that it remembers whole."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager


class GivenUp(BaseException):
    """The work is wanted no longer. Not an error: nothing that catches errors keeps it."""


_asked: Callable[[], bool] | None = None


@contextmanager
def given_up_when(asked: Callable[[], bool]) -> Iterator[None]:
    """Within it, work ends with GivenUp once this is true. For the one piece of work of a process."""
    global _asked
    before, _asked = _asked, asked
    try:
        yield
    finally:
        _asked = before


def go_on() -> None:
    """Raises GivenUp where the work is wanted no longer."""
    if _asked is not None and _asked():
        raise GivenUp
