"""The words of expressions. Those that a line or a clause begins with stand with their statement
(`statements/`).
"""

from __future__ import annotations

RESERVED = frozenset(
    ["if", "then", "else", "and", "or", "not", "for", "in", "by", "within", "yes", "no"]
)
"""Words of expressions: they cannot name a line."""
