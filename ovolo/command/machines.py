"""The machine that a command is about: a profile, with what is set otherwise."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import Any

from ovolo.command.sheets import pairs
from ovolo.problems import Failure


def add_machine(command: argparse.ArgumentParser, example: str) -> None:
    command.add_argument("--machine", default="", metavar="TITLE", help="a profile that is shipped")
    command.add_argument("--profile", metavar="FILE.toml", help="a profile of your own")
    command.add_argument("--with", action="append", default=[], metavar="NAME=VALUE", dest="changes",
                         help=f"another setting: {example}")  # fmt: skip


def machine_said(kind: Any, options: argparse.Namespace) -> Any:
    """The profile that is said, with its changes. Raises Failure."""
    from ovolo.benches.profile import profile_said, read_profile, with_settings

    if options.profile:
        try:
            profile = read_profile(kind, Path(options.profile).read_text("utf-8"))
        except (OSError, UnicodeDecodeError) as error:
            raise Failure(f"{options.profile} cannot be read: {error}") from None
    else:
        profile = profile_said(kind, options.machine)
    return with_settings(profile, dict(pairs(options.changes, "with layer=0.3mm")))
