"""A name for what was asked for, by which its result is remembered."""

from __future__ import annotations

import hashlib
import pickle
from typing import Any


def name_of(*asked: Any) -> str:
    """The same name for the same texts, files and figures, within one process."""
    return hashlib.blake2b(pickle.dumps(asked), digest_size=16).hexdigest()
