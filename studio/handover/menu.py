"""What the menu of hand-overs offers: the entries of all formats that write parts."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any
from urllib.parse import urlencode

from ovolo.formats.format import Format, formats


def menu() -> list[dict[str, Any]]:
    """What the menu offers: of each file its name, what is said, and other ways to write it."""
    return [
        {"file": f"{one.file}.{ending}", "said": said, "others": list(_others(one))}
        for one in formats()
        for ending, said in ((one.ending, one.offered), (f"{one.ending}.zip", one.offered_each))
        if said
    ]


def _others(format: Format) -> Iterator[dict[str, str]]:
    """The choices of a format's options that are not taken where nothing is said."""
    for option in format.options:
        for choice in option.choices[1:]:
            yield {
                "query": urlencode({option.name: choice}),
                "said": choice,
                "meaning": option.meaning,
            }
