"""What the menu of hand-overs offers: the entries of all formats that write parts."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any
from urllib.parse import urlencode

from ovolo.formats.format import Format, formats
from studio.rights.models import Link


def menu(link: Link | None = None) -> list[dict[str, Any]]:
    """What the menu offers: of each file its name, what is said, and other ways to write it. By a link,
    what it lets a visitor take."""
    return [
        {"file": file, "said": said, "others": list(_others(one))}
        for one in formats()
        for ending, said in ((one.ending, one.offered), (f"{one.ending}.zip", one.offered_each))
        for file in [f"{one.file}.{ending}"]
        if said and may_take(link, file)
    ]


def may_take(link: Link | None, file_name: str) -> bool:
    """Whether a file of this name is among those that a link lets a visitor take."""
    ending = file_name.removesuffix(".zip").rpartition(".")[2].lower()
    return link is None or ending in link.formats


def takeable() -> list[tuple[str, str]]:
    """The formats that a link may let a visitor take: the ending of each, and what it is called."""
    given = [one for one in formats() if one.offered or one.offered_each or one.draw]
    return [(one.ending, one.title) for one in given]


def _others(format: Format) -> Iterator[dict[str, str]]:
    """The choices of a format's options that are not taken where nothing is said."""
    for option in format.options:
        for choice in option.choices[1:]:
            yield {
                "query": urlencode({option.name: choice}),
                "said": choice,
                "meaning": option.meaning,
            }
