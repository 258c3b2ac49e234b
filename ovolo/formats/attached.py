"""What a sheet names: attached files, each read by what its ending says it is, and other studies."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from pathlib import Path
from typing import Any

from msgspec import Struct, field

from ovolo.formats.format import dotted, ending_of, formats, readable
from ovolo.formats.table_csv import shown_rows
from ovolo.geometry.attached_drawing import AttachedDrawing
from ovolo.geometry.solids.attached_solid import AttachedSolid
from ovolo.geometry.underlay import Underlay
from ovolo.meaning.attachments import Attached, OtherStudy, Tables, study_key
from ovolo.problems import Failure
from ovolo.quantities.table import Table
from ovolo.sheet.names import files_named, studies_used
from ovolo.sheet.reader import title_of

MOST_BYTES = 20_000_000
"""The most that any attached file may have; each reader has its own limit below that."""


def attachable() -> str:
    """The endings of all files that a sheet can read, as a browser asks for them."""
    return ",".join(f".{ending}" for ending in readable())


def attached_as() -> str:
    """What files a sheet takes, in words: `a solid (3MF, STL), a table (CSV) or a picture (PNG)`."""
    titles: dict[str, list[str]] = {}
    for one in formats():
        if one.read:
            titles.setdefault(one.holds, []).append(one.title)
    *others, last = [f"{holds} ({', '.join(said)})" for holds, said in titles.items()]
    return f"{', '.join(others)} or {last}"


def read_attached(data: bytes, name: str) -> Attached:
    """A file as a sheet takes it. Raises Failure, also for an ending that is not known."""
    format = readable().get(ending_of(name))
    if format is None or format.read is None:
        raise Failure(f"{name} ends in no format that can be read", f"known: {dotted(readable())}")
    return format.read(data, name)


class Sheet(Struct, frozen=True):
    """Another study as it is sent to where it is worked out: its text, and what that names; or what
    stands against using it."""

    title: str
    text: str = ""
    files: Files = field(default_factory=dict)
    refused: str = ""


Files = dict[str, "bytes | Sheet"]
"""What a sheet names: attached files by their names, other studies by their `study_key`."""


def size_of(files: Files) -> int:
    """How many bytes of files there are, also of the studies among them; each counts once, however many use it."""
    size, met, waiting = 0, set[int](), [files]
    while waiting:
        for one in waiting.pop().values():
            if isinstance(one, bytes):
                size += len(one)
            elif id(one) not in met:
                met.add(id(one))
                waiting.append(one.files)
    return size


Shelf = Callable[[set[str], set[str]], tuple[dict[str, bytes], dict[str, tuple[str, "Shelf"]]]]
"""Gives, of some names of files and some titles of studies, those that there are: the files, and of
each study the text and the shelf of its own files."""


_DEEPEST = 30
"""So many studies may use each other in a row."""


def everything_named(
    text: str, shelf: Shelf, chain: tuple[str, ...] = (), made: dict[str, Sheet] | None = None
) -> Files:
    """All that a sheet names in its `file` and `use` lines, and so on for the studies it uses, each
    once. `chain` are the titles of the studies on the way to it, `made` those that are done."""
    names, titles = files_named(text), set(studies_used(text).values())
    if not names and not titles:
        return {}
    chain, made = chain or (title_of(text),), {} if made is None else made
    data, studies = shelf(names, titles)
    found: Files = dict(data)
    for title, (other, others_shelf) in studies.items():
        if title in chain:
            circle = (*chain[chain.index(title) :], title)
            said = " → ".join(f"“{one}”" for one in circle)
            sheet = Sheet(title, refused=f"these studies use each other in a circle: {said}")
        elif len(chain) > _DEEPEST:
            sheet = Sheet(title, refused=f"more than {_DEEPEST} studies use each other in a row")
        elif title in made:
            sheet = made[title]
        else:
            reached = everything_named(other, others_shelf, (*chain, title), made)
            sheet = made[title] = Sheet(title, other, reached)
        found[study_key(title)] = sheet
    return found


def folder_shelf(folder: Path) -> Shelf:
    """The files and sheets of a folder; what lies outside it is not read."""

    def shelf(names: set[str], titles: set[str]) -> Any:
        paths = {name: folder / name for name in names}
        files = {
            name: path.read_bytes()
            for name, path in paths.items()
            if path.is_file() and path.resolve().is_relative_to(folder.resolve())
        }
        studies = _studies(folder) if titles else ()
        return files, {title: (text, shelf) for title, text in studies if title in titles}

    return shelf


def _studies(folder: Path) -> Iterator[tuple[str, str]]:
    """The sheets of a folder with their titles."""
    for path in sorted(folder.glob("*.ovo")):
        try:
            text = path.read_text(encoding="utf-8")
        except (OSError, UnicodeDecodeError):
            continue
        yield title_of(text), text


Read = Callable[[bytes, str], "Attached | Failure"]


def read_or_failure(data: bytes, name: str) -> Attached | Failure:
    """An attached file as a sheet takes it, or what stands against reading it."""
    try:
        return read_attached(data, name)
    except Failure as failure:
        return failure


def read_files(
    files: Mapping[str, bytes | Sheet],
    read: Read = read_or_failure,
    made: dict[int, OtherStudy] | None = None,
) -> Tables:
    """Each file and study that a sheet names, as it takes them; `made` are the studies that are
    done, by what they were made from."""
    made = {} if made is None else made
    found: dict[str, Attached | Failure] = {}
    for name, one in files.items():
        if isinstance(one, bytes):
            found[name] = read(one, name)
        elif one.refused:
            found[name] = Failure(one.refused, "one of them must not use the next")
        else:
            if id(one) not in made:
                reached = read_files(one.files, read, made)
                made[id(one)] = OtherStudy(one.title, one.text, reached)
            found[name] = made[id(one)]
    return found


class Look(Struct, frozen=True):
    """A file as a person looks at it: a table of its first rows, of how many, and what should be known of how it was read."""

    heads: list[str]
    rows: list[list[str]]
    count: int
    notes: list[str] = field(default_factory=list)


def look(read: Attached, count: int) -> Look:
    """A file as a person looks at it, with at most `count` rows."""
    if isinstance(read, Table):
        heads = [f"{c} [{read.units[c]}]" if c in read.units else c for c in read.columns]
        return Look(heads, list(shown_rows(read, count)), len(read))
    if isinstance(read, Underlay):
        size = [f"{read.width}", f"{read.height}"]
        return Look(["width [pixels]", "height [pixels]"], [size], 1)
    if isinstance(read, AttachedSolid):
        return _look_of_solid(read)
    assert isinstance(read, AttachedDrawing)
    rows = [
        [layer, read.titles[layer], str(len(curves)), f"{sum(c.length for c in curves):.6g}"]
        for layer, curves in read.layers.items()
    ]
    heads = ["layer", "in the file", "curves", "length [mm]"]
    return Look(heads, rows[:count], len(rows), [*_unit_taken(read.unit), *read.notes])


def _unit_taken(unit: str) -> list[str]:
    return [f"the file says no unit: read in {unit}"] if unit else []


def _look_of_solid(cast: AttachedSolid) -> Look:
    """The size of a solid, and what was mended in it."""
    low, high = cast.solid.bounds()
    size = " x ".join(f"{x:.6g}" for x in high - low)
    rows = [
        ["size [mm]", size],
        ["volume [mm³]", f"{cast.solid.volume:.6g}"],
        ["triangles", f"{cast.triangles:,}"],
        *(["mended", said] for said in cast.mended or ("nothing needed mending",)),
    ]
    return Look(["", ""], rows, len(rows), _unit_taken(cast.unit))
