"""What a command found, told to a person or, with `--json`, to a program."""

from __future__ import annotations

import argparse
import json
import sys
from collections.abc import Iterable
from typing import Any

from ovolo.problems import Failure


def told(options: argparse.Namespace, found: Any, lines: Iterable[str] = ()) -> None:
    """Prints what was found: as JSON where that is asked for, in lines of words else."""
    if options.json:
        print(json.dumps(found, ensure_ascii=False, indent=2, allow_nan=False))
        return
    for line in lines:
        print(line)


def told_failure(options: argparse.Namespace, failure: Failure) -> None:
    """Says what cannot be done; to a program on its standard output, as `error` and `hint`."""
    if getattr(options, "json", False):
        print(json.dumps({"error": failure.message, "hint": failure.hint}, ensure_ascii=False))
    else:
        print(f"ovolo: {failure.said}", file=sys.stderr)


def offer_json(commands: Any) -> None:
    """Lets every command that finds or writes something tell it as JSON."""
    for command in commands.choices.values():
        if command.get_default("tells"):
            command.add_argument(
                "--json", action="store_true", help="print what comes of it as JSON"
            )
