"""What clings to a piece that comes from another study: its label, its colour, what it is made of."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from typing import Any

from msgspec import Struct
from msgspec.structs import replace


class Coat(Struct, frozen=True):
    """`colour` is #RRGGBB, or empty where none was said; `density` is in kg/mm³."""

    label: str
    colour: str = ""
    density: float | None = None


class Gathered(list[Any]):
    """Pieces of one kind that belong together, and those of other kinds (`others`) that go where they
    go: the drawing of a solid, its surfaces. Never changed once made."""

    def __init__(self, items: Iterable[Any], others: Iterable[Any] = ()) -> None:
        super().__init__(items)
        self.others = tuple(others)


def coated(value: Any, coats: Iterator[Coat]) -> Any:
    """A geometry, or a list of it, each piece with the next of the coats; what has one keeps it."""
    if isinstance(value, list):
        return [coated(item, coats) for item in value]
    if hasattr(value, "matrices"):  # copies
        if value.coat is not None:
            return value
        own = [next(coats) for _ in range(len(value))]
        if len(set(own)) == 1:
            return replace(value, coat=own[0])
        return [replace(piece, coat=coat) for piece, coat in zip(value, own, strict=True)]
    coat = next(coats)
    if getattr(value, "coat", coat) is not None:
        return value
    return replace(value, coat=coat)


def everything(value: Any) -> Iterator[Any]:
    """Single geometries, copies of one solid, and gaps, within anything made of them, also those of
    other kinds that go along."""
    if isinstance(value, list):
        for item in value:
            yield from everything(item)
        if isinstance(value, Gathered):
            yield from value.others
    else:
        yield value


def places_of(piece: Any) -> int:
    """How many places of the list a piece takes; a gap takes one, too."""
    places: int = getattr(piece, "places", 1)
    return places
