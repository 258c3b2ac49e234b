"""Work done in a child process, so that a library which leaves things behind does so there."""

from __future__ import annotations

import os
import pickle
from collections.abc import Callable
from typing import Any


def in_child(work: Callable[[], Any]) -> Any:
    """What the work gives, done in a fork of this process; its failure is raised here."""
    reading, writing = os.pipe()
    child = os.fork()
    if not child:
        os.close(reading)
        try:
            answer: Any = ("done", work())
        except BaseException as error:
            answer = ("failed", repr(error))
        with os.fdopen(writing, "wb") as out:
            pickle.dump(answer, out)
        os._exit(0)
    os.close(writing)
    with os.fdopen(reading, "rb") as incoming:
        data = incoming.read()
    os.waitpid(child, 0)
    if not data:
        raise RuntimeError("the child ended without an answer")
    said, result = pickle.loads(data)
    if said == "failed":
        raise RuntimeError(result)
    return result
