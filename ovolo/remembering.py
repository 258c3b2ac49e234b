"""What is remembered so that it need not be worked out again, and may be forgotten at any time."""

from __future__ import annotations

import ctypes
import gc
from collections.abc import Callable

_FORGETTING: list[Callable[[], None]] = []


def remembers(forget: Callable[[], None]) -> None:
    """Notes how something that is remembered is forgotten."""
    _FORGETTING.append(forget)


def forget_all() -> None:
    """Forgets all that is remembered in this process, and gives its memory back to the machine."""
    for forget in _FORGETTING:
        forget()
    gc.collect()
    ctypes.CDLL(None).malloc_trim(0)
