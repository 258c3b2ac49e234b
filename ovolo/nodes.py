"""What trees are made of: small things of named fields, many of them."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, TypeVar, dataclass_transform

T = TypeVar("T")

if TYPE_CHECKING:

    @dataclass_transform(frozen_default=True, eq_default=False)
    def node(kind: type[T]) -> type[T]:
        """A dataclass told from others by identity, which nobody changes: mypy sees to that, for a
        class that watches over it itself is three times as slow to make."""
        raise NotImplementedError

else:
    node = dataclass(slots=True, eq=False)
