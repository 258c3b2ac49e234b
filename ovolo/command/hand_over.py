"""`ovolo hand-over`: files of a study by a rule, with a manifest."""

from __future__ import annotations

import argparse
import datetime
import json
from pathlib import Path
from typing import Any

from ovolo.command.sheets import HAND_OVER_LIMIT, outcome_said, pairs, sheet_command
from ovolo.command.telling import told
from ovolo.exploring.settings import read_settings
from ovolo.meaning.program import Program
from ovolo.problems import Failure


def add_commands(commands: Any) -> None:
    """Adds the command to those of the parser."""
    hand_over = sheet_command(commands, "hand-over", _hand_over, "write files of a sheet by a rule, with a manifest")  # fmt: skip
    hand_over.add_argument("--to", required=True, metavar="DIR")
    hand_over.add_argument("--format", action="append", default=[], metavar="ENDING[:each][:OPTION=CHOICE]", help="stl, step, dxf … `:each` a file for each part")  # fmt: skip
    hand_over.add_argument("--paper", action="append", default=[], metavar="ENDING[:view=…][:paper=…][:scale=…]", help="a drawing on paper: pdf, svg")  # fmt: skip
    hand_over.add_argument("--part", action="append", default=[], metavar="NAME")
    hand_over.add_argument("--at", action="append", default=[], metavar="PRESET", help="`all` for each preset of the sheet; without it, as it is")  # fmt: skip
    hand_over.add_argument("--trial", action="append", default=[], metavar="NAME:INPUT=VALUE,…", help="a setting that is no preset")  # fmt: skip
    hand_over.add_argument("--rule", default="", metavar="RULE", help="how files are named: {study} {part} {preset} {revision}")  # fmt: skip
    hand_over.add_argument(
        "--revision", default="", metavar="NAME", help="what is put for {revision}"
    )
    hand_over.add_argument("--date", type=datetime.date.fromisoformat, default=datetime.date.today(), metavar="YYYY-MM-DD", help="what drawings are dated; today, else")  # fmt: skip
    hand_over.add_argument("--text", action="store_true", help="the sheet itself, too")


def _hand_over(options: argparse.Namespace) -> int:
    from ovolo.exploring.presets import preset_titles
    from ovolo.hand_over.order import read_order
    from ovolo.hand_over.package import MANIFEST, Source, packed

    if options.preset or options.settings:
        raise Failure(
            "a hand-over is made at presets", 'say --at "Small", and not --set or --preset'
        )
    outcome = outcome_said(options)
    at = list(options.at)
    if at == ["all"]:
        at = preset_titles(outcome.program)
    said: dict[str, Any] = {
        "formats": [_wanted(one) for one in options.format],
        "papers": [_paper(one) for one in options.paper],
        "parts": options.part,
        "presets": at or ([] if options.trial else [""]),
        "trials": [_trial(outcome.program, one) for one in options.trial],
        "rule": options.rule,
        "text": options.text,
    }
    title = outcome.program.title or Path(options.sheet).stem
    source = Source(title, outcome.program.sheet.text, options.revision, outcome.program, options.date, HAND_OVER_LIMIT)  # fmt: skip
    package = packed(source, read_order(said))
    folder = Path(options.to)
    folder.mkdir(parents=True, exist_ok=True)
    for one in package.files:
        (folder / one.name).write_bytes(one.data)
    manifest = json.dumps(package.manifest(), ensure_ascii=False, indent=2) + "\n"
    (folder / MANIFEST).write_text(manifest, encoding="utf-8")
    wrote = f"wrote {len(package.files)} files and {MANIFEST} to {folder}"
    found = {"folder": str(folder), "warnings": package.warnings, **package.manifest()}
    told(options, found, [*(f"  mind: {one}" for one in package.warnings), wrote])
    return 0


def _trial(program: Program, said: str) -> dict[str, Any]:
    title, colon, values = said.partition(":")
    if not colon:
        raise Failure(f"`{said}` is no trial", 'for example --trial "Tall: width=3m, height=2m"')
    named = dict(pairs([one.strip() for one in values.split(",") if one.strip()], "trial width=3m"))
    return {"title": title, "set": read_settings(program, named)}


def _wanted(said: str) -> dict[str, Any]:
    ending, *more = said.split(":")
    named = [one for one in more if one != "each"]
    return {
        "ending": ending.removeprefix("."),
        "each": "each" in more,
        "options": dict(pairs(named, "format stl:each:unit=in")),
    }


def _paper(said: str) -> dict[str, Any]:
    # A scale has a colon of its own: 1:20.
    ending, _, more = said.partition(":")
    layout: dict[str, str] = {}
    for piece in more.split(":") if more else ():
        name, equals, value = piece.partition("=")
        if equals:
            layout[name] = value
        elif layout:
            last = next(reversed(layout))
            layout[last] += f":{piece}"
        else:
            raise Failure(f"`{said}` is no drawing", "for example --paper pdf:paper=A3:scale=1:20")
    return {"ending": ending.removeprefix("."), "layout": layout}
