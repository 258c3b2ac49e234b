"""Carrying out a hand-over: its files, their manifest, and the package of both.

The same order, text and files give the same bytes: nothing in them tells the time.
"""

from __future__ import annotations

import datetime
import hashlib
import io
import json
import zipfile
from collections.abc import Iterator, Mapping, Sequence
from typing import Any

from msgspec import Struct, field
from msgspec.structs import replace

from ovolo.drawing.paper import layout_said
from ovolo.exploring.presets import preset_values
from ovolo.exploring.settings import given_settings
from ovolo.formats.export import exported, exported_sheet
from ovolo.formats.format import A_TABLE, writable
from ovolo.hand_over.order import AS_IT_IS, MOST_FILES, Order, Wanted, named
from ovolo.meaning.program import Program
from ovolo.outcome.outcome import Outcome, value_json
from ovolo.outcome.part import Part
from ovolo.problems import Failure
from ovolo.quantities.kinds import CURVE, REGION, SOLID, SURFACE, Kind, plural
from ovolo.running.evaluate import evaluate

MANIFEST = "manifest.json"
_DAY = (1980, 1, 1, 0, 0, 0)
_COARSE = 1e-3
"""A volume that may be wrong by more than this share is told of."""


class Source(Struct, frozen=True):
    """What is handed over: a title, its text, what its revision is called, and how to work it out."""

    title: str
    text: str
    revision: str
    program: Program
    date: datetime.date
    """What drawings are dated: that of the revision, so that they are the same another day."""

    seconds: float = 100.0


class Made(Struct, frozen=True):
    """A file that leaves: its name and bytes, and what it holds."""

    name: str
    data: bytes
    preset: str
    parts: tuple[str, ...]
    what: Mapping[str, Any] = field(default_factory=dict)

    @property
    def digest(self) -> str:
        return hashlib.sha256(self.data).hexdigest()


class Package(Struct, frozen=True):
    """All files of a hand-over, what was read to make them, and what to mind."""

    source: Source
    order: Order
    files: tuple[Made, ...]
    inputs: Mapping[str, Mapping[str, Any]]
    """By preset the inputs with their values."""

    warnings: tuple[str, ...]

    def manifest(self) -> dict[str, Any]:
        return {
            "study": self.source.title,
            "revision": self.source.revision,
            "text_sha256": hashlib.sha256(self.source.text.encode()).hexdigest(),
            "rule": self.order.rule,
            "inputs": self.inputs,
            "files": [
                {"name": one.name, "bytes": len(one.data), "sha256": one.digest, "preset": one.preset, "parts": list(one.parts), **one.what}
                for one in self.files
            ],
            "warnings": list(self.warnings),
        }  # fmt: skip

    def zipped(self) -> bytes:
        """The files with their manifest."""
        made = io.BytesIO()
        with zipfile.ZipFile(made, "w", zipfile.ZIP_DEFLATED) as folder:
            said = json.dumps(self.manifest(), ensure_ascii=False, indent=2) + "\n"
            for name, data in [
                (MANIFEST, said.encode()),
                *((one.name, one.data) for one in self.files),
            ]:
                folder.writestr(zipfile.ZipInfo(name, _DAY), data, zipfile.ZIP_DEFLATED)
        return made.getvalue()


def packed(source: Source, order: Order) -> Package:
    """The hand-over, carried out. Raises Failure where a file cannot be written, or where two would have
    one name."""
    files: list[Made] = []
    inputs: dict[str, Mapping[str, Any]] = {}
    warnings: dict[str, None] = {}
    for preset in order.titles:
        outcome = outcome_at(source, order, preset)
        inputs[preset] = _inputs(outcome)
        chosen = _chosen(outcome, order)
        for said in (*warnings_of(outcome, chosen), *left_out(chosen, order)):
            warnings.setdefault(f"{preset}: {said}" if preset else said)
        for made in _files(source, order, outcome, preset):
            files.append(made)
            if len(files) > MOST_FILES:
                raise Failure(
                    f"more than {MOST_FILES} files would leave",
                    "one file of all parts, fewer parts or fewer presets",
                )
    if order.text:
        values = {"study": source.title, "part": "", "preset": "", "revision": source.revision}
        name = named(order.rule, values, "ovo")
        files.append(Made(name, source.text.encode(), AS_IT_IS, (), {"format": "ovo"}))
    _refuse_same_names(files)
    return Package(source, order, tuple(files), inputs, tuple(warnings))


def outcome_at(source: Source, order: Order, title: str, seconds: float = 0.0) -> Outcome:
    """What the study yields at one of the settings of an order. Raises Failure for a preset that it lacks, and for a
    trial that sets what is no input of its kind."""
    trial = next((one for one in order.trials if one.title == title), None)
    settings = preset_values(source.program, title) if title and trial is None else {}
    if trial is not None:
        settings = given_settings(source.program, dict(trial.settings))
        lost = [name for name in trial.settings if name not in settings]
        if lost:
            raise Failure(f"“{title}” sets `{lost[0]}`, which is no such input any more", "pin the trial anew")  # fmt: skip
    limit = seconds or source.seconds
    return Outcome(source.program, evaluate(source.program, settings, time_limit=limit))


def _inputs(outcome: Outcome) -> dict[str, Any]:
    from ovolo.sheet import tree

    return {
        line.line.name: value_json(line, outcome.units)
        for line in outcome.lines
        if line.line.name and isinstance(line.line.content, tree.Input) and line.has_value
    }


def _chosen(outcome: Outcome, order: Order) -> list[Part]:
    names = order.parts or tuple(outcome.parts)
    return [outcome.parts[name] for name in names if name in outcome.parts]


def _files(source: Source, order: Order, outcome: Outcome, preset: str) -> Iterator[Made]:
    def name_for(part: str, ending: str) -> str:
        label = outcome.parts[part].label or part if part else ""
        values = {"study": source.title, "part": label, "preset": preset, "revision": source.revision}  # fmt: skip
        return named(order.rule, values, ending)

    for wanted in order.formats:
        for names in _shares(wanted, outcome, order):
            data = exported(outcome, f"parts.{wanted.ending}", names, wanted.options)
            part = names[0] if wanted.each else ""
            what = {"format": wanted.ending, "options": dict(wanted.options)}
            yield Made(name_for(part, wanted.ending), data, preset, tuple(names), what)
    for paper in order.papers:
        layout = replace(layout_said(outcome, {**paper.layout, "preset": preset}), date=source.date)
        data = exported_sheet(outcome, f"sheet.{paper.ending}", layout, order.parts)
        what = {"format": paper.ending, "paper": dict(paper.layout)}
        ending = f"{layout.view.name}.{paper.ending}"
        yield Made(name_for("", ending), data, preset, order.parts, what)


def _shares(wanted: Wanted, outcome: Outcome, order: Order) -> list[list[str]]:
    """The parts of each file: all that the format takes in one, or each in one of its own. Parts that were
    chosen by name go where they can go."""
    taken = writable()[wanted.ending].taken(_chosen(outcome, order))
    missing = [name for name in order.parts if name not in outcome.parts]
    if missing:
        exported(outcome, f"parts.{wanted.ending}", missing[:1])  # says why there is no such part
    if not taken:
        kinds = writable()[wanted.ending].said
        raise Failure(f"no {kinds} parts were chosen for .{wanted.ending}", "leave the format out")
    names = [part.name for part in taken]
    return [[name] for name in names] if wanted.each else [names]


def _refuse_same_names(files: Sequence[Made]) -> None:
    met: dict[str, Made] = {}
    for one in files:
        other = met.setdefault(one.name.casefold(), one)
        if other is not one:
            place = "{preset}" if other.preset != one.preset else "{part}"
            raise Failure(
                f"two files would be called “{one.name}”", f"say {place} in the rule for names"
            )


def left_out(parts: Sequence[Part], order: Order) -> list[str]:
    """What of the parts is in none of the files that hold shapes: parts differ in kind, and what a study
    that is used yields may be of several. A drawing shows everything; a table holds no shapes."""
    formats = [writable()[wanted.ending] for wanted in order.formats]
    formats = [one for one in formats if one.holds != A_TABLE]
    if order.papers or not formats:
        return []
    held: dict[str, set[Kind]] = {}
    for format in formats:
        for part in format.taken(list(parts)):
            held.setdefault(part.name, set()).update((*format.kinds, *format.otherwise))
    found = []
    for part in parts:
        label, kinds = part.label or part.name, held.get(part.name, set())
        counts = {
            SOLID: sum(len(group.items) for group in part.groups),
            REGION: len(part.regions), CURVE: len(part.curves), SURFACE: len(part.surfaces),
        }  # fmt: skip
        lost = [f"{count} {plural(kind) if count > 1 else kind.name}" for kind, count in counts.items() if count and kind not in kinds]  # fmt: skip
        if lost:
            found.append(f"{label}: no file holds {' and '.join(lost)}")
    return found


def warnings_of(outcome: Outcome, parts: Sequence[Part]) -> list[str]:
    """What to mind of parts that leave: not closed, coarse, of nothing."""
    found = []
    for part in parts:
        label = part.label or part.name
        if not part.count:
            found.append(f"{label} has no items")
            continue
        if part.kind == SOLID and not part.closed:
            found.append(f"{label} is not closed")
        within = float(part.as_json().get("within", 0.0))
        if within > _COARSE:
            found.append(
                f"{label} is known by chords: its volume may be wrong by {100 * within:.2g} %; a finer "
                "`tolerance` makes it closer"
            )
    for check in outcome.failed_checks:
        found.append(f"a check fails: {check.message or check.text}")
    for check in outcome.checks:
        if not check.sure:
            found.append(
                f"the figures of a check may be off by more than they are apart: {check.message or check.text}"
            )
    return found
