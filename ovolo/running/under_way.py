"""Work that somebody waits for: how far it is, and whether it is wanted still. What nobody waits for any more
ends where it next looks, and leaves all that it remembers whole."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager


class GivenUp(BaseException):
    """The work is wanted no longer. Not an error: nothing that catches errors keeps it."""


Told = Callable[[float], None]
"""Takes what share of some work is done."""


def nobody(share: float) -> None:
    """Nobody is told."""


def stretch(told: Told, low: float, high: float) -> Told:
    """What takes the share that is done of a stretch of some work, which is that from `low` to `high` of all of it."""
    return lambda share: told(low + share * (high - low))


_asked: Callable[[], bool] | None = None
_told: Told = nobody


@contextmanager
def followed(given_up: Callable[[], bool], told: Told = nobody) -> Iterator[None]:
    """Within it, work ends with GivenUp once that is true, and tells how far it is. For the one piece of
    work of a process."""
    global _asked, _told
    before, (_asked, _told) = (_asked, _told), (given_up, told)
    try:
        yield
    finally:
        _asked, _told = before


def go_on() -> None:
    """Raises GivenUp where the work is wanted no longer."""
    if _asked is not None and _asked():
        raise GivenUp


def so_far(share: float) -> None:
    """Tells what share of the work is done. Raises GivenUp where it is wanted no longer."""
    go_on()
    _told(share)
