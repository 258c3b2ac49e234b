"""The named colours of parts."""

from __future__ import annotations

from ovolo.problems import Failure, nearest_name

TINTS = {
    "oak": "#E9D9BE", "steel": "#CFD6D4", "stone": "#D9DEDC", "brass": "#E3CF94",
    "slate": "#A9B4BA", "brick": "#D9A58F", "glass": "#CFE0E0", "plaster": "#F3EFE6",
}  # fmt: skip
DEFAULT = "plaster"


def channels(colour: str) -> tuple[int, int, int]:
    """Red, green and blue of #RRGGBB, each from 0 to 255."""
    red, green, blue = (int(colour[at : at + 2], 16) for at in (1, 3, 5))
    return red, green, blue


def tint(written: str) -> str:
    """The colour as #RRGGBB. Raises Failure for an unknown name."""
    if written.startswith("#"):
        digits = written[1:]
        return (
            "#" + (digits if len(digits) == 6 else "".join(2 * digit for digit in digits)).upper()
        )
    if written and written not in TINTS:
        near = nearest_name(written, list(TINTS))
        hint = f"did you mean {near}?" if near else f"one of {', '.join(TINTS)}, or #RRGGBB"
        raise Failure(f"`{written}` is not a colour", hint)
    return TINTS[written or DEFAULT]
