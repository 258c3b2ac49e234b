"""Names of people and of what they make, as they may be shown beside those of others."""

from __future__ import annotations

import unicodedata
from typing import Any

from django.core.exceptions import ValidationError

_TURNS = "".join(map(chr, (0x61C, 0x200E, 0x200F, *range(0x202A, 0x202F), *range(0x2066, 0x206A))))
"""Characters that turn the direction of what follows them (Unicode Standard Annex 9, 2): with them a name
could be shown as another."""


def name_of(person: Any) -> str:
    """A person's name as others read it; empty where nobody is known."""
    return "" if person is None else str(person.get_full_name() or person.get_username())


def plain_name(said: str) -> str:
    """A name with single blanks. Raises ValidationError for characters that are not seen, or that turn
    the direction of what follows."""
    name = " ".join(said.split())
    hidden = next((one for one in name if one in _TURNS or unicodedata.category(one) in ("Cc", "Cs", "Co", "Cn")), None)  # fmt: skip
    if hidden is not None:
        raise ValidationError(f"a name holds no such character: U+{ord(hidden):04X}")
    return name
