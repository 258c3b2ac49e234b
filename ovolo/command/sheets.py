"""The sheet that a command is about: read from a file, with the settings that are said."""

from __future__ import annotations

import argparse
import sys
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import Any

from ovolo.exploring.presets import preset_values
from ovolo.exploring.settings import is_formula, read_settings, with_formulas
from ovolo.formats.attached import everything_named, folder_shelf, read_files
from ovolo.meaning.attachments import Tables
from ovolo.meaning.checked_sheet import checked_program
from ovolo.outcome.outcome import Outcome, outcome_of
from ovolo.problems import Failure

STANDARD_INPUT = "-"

HAND_OVER_LIMIT = 120.0
"""Seconds a sheet may take on the command line."""


def sheet_command(commands: Any, name: str, run: object, said: str) -> argparse.ArgumentParser:
    command: argparse.ArgumentParser = commands.add_parser(name, help=said)
    command.add_argument("sheet", metavar="SHEET.ovo", help="`-` for the standard input")
    command.add_argument(
        "--set", action="append", default=[], metavar="NAME=VALUE", dest="settings",
        help="another value for an input, as a person types it: floor_height=3.1m",
    )  # fmt: skip
    command.add_argument("--preset", metavar="NAME", help="the values of a preset of the sheet")
    command.set_defaults(run=run, tells=True)
    return command


def outcome_said(options: argparse.Namespace) -> Outcome:
    """What the sheet yields for the settings that are said. Raises Failure."""
    text = read_sheet_file(options.sheet)
    tables = tables_of(text, Path(options.sheet).parent)
    given = dict(pairs(options.settings, "set floor_height=3.1m"))
    text = with_formulas(text, given)
    program = checked_program(text, tables)
    settings = preset_values(program, options.preset) if options.preset else {}
    settings |= read_settings(program, {n: v for n, v in given.items() if not is_formula(v)})
    return outcome_of(text, settings, time_limit=HAND_OVER_LIMIT, tables=tables)


def pairs(said: Sequence[str], example: str) -> Iterator[tuple[str, str]]:
    """What was said as NAME=VALUE."""
    for one in said:
        name, equals, value = one.partition("=")
        if not equals:
            raise Failure(f"`{one}` is not NAME=VALUE", f"for example --{example}")
        yield name.strip(), value


def tables_of(text: str, folder: Path) -> Tables:
    """The files and studies that a sheet names, from the folder it lies in; those outside it are
    not read."""
    return read_files(everything_named(text, folder_shelf(folder)))


def read_sheet_file(path: str) -> str:
    """The text of a sheet; `-` is what comes in by the standard input. Raises Failure."""
    try:
        given = sys.stdin.buffer.read() if path == STANDARD_INPUT else Path(path).read_bytes()
        return given.decode("utf-8")
    except UnicodeDecodeError as error:
        raise Failure(
            f"{path} is not UTF-8 text (byte {error.start})", "save it as UTF-8"
        ) from None
    except OSError as error:
        raise Failure(f"{path} cannot be read: {error.strerror}") from None
