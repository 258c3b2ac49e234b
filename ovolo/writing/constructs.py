"""Lines ready to fill, by what a person needs: those of all statements, and the words for a need."""

from __future__ import annotations

from ovolo.sheet.construct import Blank, Construct
from ovolo.sheet.statements.registry import statement_types

CONSTRUCTS = (
    *(construct for one in statement_types() for construct in one.constructs),
    Construct(
        "Order", "A comment", "# {words}",
        (Blank("words", "words", "for whoever reads the sheet", "why it is so"),),
    ),
)  # fmt: skip

TRADES_BY_NEED = {
    "A rounding rule": ("rounding",),
    "A point": ("points",),
    "A curve": ("curves",),
    "An outline": ("regions",),
    "A solid": ("solids",),
    "A surface": ("surfaces",),
    "Placing": ("placing",),
    "An array": ("arrays",),
    "A list": ("lists", "chance"),
    "Choosing": ("choosing",),
    "Trigonometry": ("trigonometry",),
    "Numbers": ("numbers",),
    "A text": ("texts",),
    "Functions": ("functions",),
    "A measure": ("measuring",),
}
"""The words offered for a need, by the modules they stand in."""
