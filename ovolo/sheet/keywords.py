"""The words of the grammar: what a line begins with, and what its clauses begin with. The reader, the
colours of the editor and completion all read them here; grammar.lark says how they go together."""

from __future__ import annotations

STATEMENTS = {
    "study": "the title of the study", "units": "how values are shown",
    "tolerance": "how finely round things are divided", "input": "a value to turn",
    "part": "an outcome, drawn and handed over", "check": "what must hold",
    "dim": "a dimension on the stage", "use": "another study as a function", "file": "an attached file",
    "preset": "a named set of input values",
}  # fmt: skip
"""What a line may begin with, and what it then is."""

CLAUSES = {
    "input": ("from", "to", "step", "of", "internal"),
    "part": ("when", "colour", "to", "hatch", "material"),
    "dim": (
        "from", "to", "offset", "about", "through", "radius", "diameter", "level", "angle", "at", "above",
    ),
    "use": ("from",),
    "file": ("from", "to", "is", "at", "turn", "strength"),
}  # fmt: skip
"""Words that have a meaning of their own within such a line; anywhere they may be names."""

RESERVED = frozenset(
    ["if", "then", "else", "and", "or", "not", "for", "in", "by", "within", "yes", "no"]
)
"""Words of expressions: they cannot name a line."""
