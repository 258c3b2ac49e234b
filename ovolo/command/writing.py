"""Commands for who writes sheets in an editor of their own: `new`, `format`, `serve`, `completion`, and watching."""

from __future__ import annotations

import argparse
import os
import subprocess
import sys
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

from ovolo.command.sheets import read_sheet_file
from ovolo.command.telling import told, told_failure
from ovolo.problems import Failure
from ovolo.sheet.spacing import spaced
from ovolo.writing.starting import starting_point, starting_points

_START = """study "{title}"
units mm, deg

== Start ==
input width = 300 mm from 100 mm to 900 mm step 10 mm "Width"
half = width / 2
part plate = box(width, half, 10 mm) colour oak "Plate"
check width <= 800 mm "fits the bench"
"""
CHECKOUT = Path(__file__).parents[2]
"""Where the application lies, if this is no wheel of the core alone."""
_LOOK_EVERY = 0.3
"""Seconds between two looks at a file that is watched."""


def add_commands(commands: Any) -> None:
    """Adds the commands to those of the parser."""
    new = commands.add_parser("new", help="write a sheet to begin with")
    new.add_argument("sheet", metavar="SHEET.ovo")
    new.add_argument("--title", help="its title; the name of the file, else")
    new.add_argument(
        "--like", metavar="KEY", help="begin with a starting point: roof-triangle (`ovolo starts`)"
    )
    new.set_defaults(run=_new, tells=True)
    starts = commands.add_parser(
        "starts", help="print the starting points: what `new --like` begins with"
    )
    starts.set_defaults(run=_starts, tells=True)
    form = commands.add_parser("format", help="space a sheet by one rule")
    form.add_argument("sheets", nargs="+", metavar="SHEET.ovo")
    form.add_argument(
        "--check", action="store_true", help="write nothing; exit with 1 where one would change"
    )
    form.set_defaults(run=_format, tells=True)
    serve = commands.add_parser("serve", help="serve the application with its demonstration here")
    serve.add_argument("--port", type=int, default=8000)
    serve.set_defaults(run=_serve)
    completion = commands.add_parser("completion", help="print what completes `ovolo` in a shell")
    completion.add_argument("shell", choices=list(_SHELLS))
    completion.set_defaults(run=_completion)


def _new(options: argparse.Namespace) -> int:
    path = Path(options.sheet)
    if path.suffix != ".ovo":
        raise Failure(f"`{options.sheet}` is no name of a sheet", "for example stair.ovo")
    if path.exists():
        raise Failure(f"{path} is there already", "choose another name")
    title = (options.title or path.stem).replace("\\", "").replace('"', "")
    sheet = _started_like(options.like, title) if options.like else _START.format(title=title)
    try:
        path.write_text(sheet, encoding="utf-8")
    except OSError as error:
        raise Failure(f"{path} cannot be written: {error.strerror}") from None
    told(options, {"file": str(path)}, [f"{path}: try `ovolo eval {path} --watch`"])
    return 0


def _started_like(key: str, title: str) -> str:
    point = starting_point(key)
    return point.sheet.replace(f'study "{point.title}"', f'study "{title}"', 1)


def _starts(options: argparse.Namespace) -> int:
    found = [
        {"key": one.key, "title": one.title, "needs": list(one.needs), "said": one.said}
        for one in starting_points()
    ]
    lines = (f"{one.key}\n    {one.said}" for one in starting_points())
    told(options, found, lines)
    return 0


def _format(options: argparse.Namespace) -> int:
    changed: list[str] = []
    for name in options.sheets:
        text = read_sheet_file(name)
        new = spaced(text)
        if new == text:
            continue
        changed.append(name)
        if not options.check:
            Path(name).write_text(new, encoding="utf-8")
    done = "would change" if options.check else "changed"
    told(options, {done.replace(" ", "_"): changed}, [f"{done}: {name}" for name in changed])
    return 1 if changed and options.check else 0


def _serve(options: argparse.Namespace) -> int:
    if not (CHECKOUT / "manage.py").exists():
        raise Failure(
            "the application is not installed here", "it runs from a checkout: docs/running.md"
        )
    environment = {**os.environ, "OVOLO_DEMO": "1", "PORT": str(options.port)}
    for command in ("migrate", "load_demo"):
        subprocess.run(
            [sys.executable, "manage.py", command, "-v", "0"],
            cwd=CHECKOUT,
            env=environment,
            check=True,
        )
    server = [
        sys.executable,
        "-m",
        "gunicorn",
        "-c",
        "studio/config/gunicorn.py",
        "studio.config.wsgi",
    ]
    return subprocess.run(server, cwd=CHECKOUT, env=environment).returncode


def watched(options: argparse.Namespace, run: Callable[[argparse.Namespace], int]) -> int:
    """Runs a command again whenever its sheet, or a file beside it, was saved, until Ctrl+C."""
    folder = Path(options.sheet).parent
    seen, status = None, 0
    try:
        while True:
            now = _saved(folder)
            if now != seen:
                seen = now
                print("\033[2J\033[H" if sys.stdout.isatty() else "", end="")
                try:
                    status = run(options)
                except Failure as failure:
                    told_failure(options, failure)
                    status = 2
                sys.stdout.flush()
            time.sleep(_LOOK_EVERY)
    except KeyboardInterrupt:
        return status


def _saved(folder: Path) -> dict[str, int]:
    """When the files of a folder were saved last."""
    return {one.name: one.stat().st_mtime_ns for one in folder.iterdir() if one.is_file()}


def _completion(options: argparse.Namespace) -> int:
    from ovolo.command.__main__ import _parser

    parser = _parser()
    commands = next(one for one in parser._actions if isinstance(one, argparse._SubParsersAction))
    cases = "\n".join(
        f'    {name}) words="{" ".join(_options_of(one))}";;'
        for name, one in commands.choices.items()
    )
    script = _BASH.replace("COMMANDS", " ".join(commands.choices)).replace("CASES", cases)
    print(_SHELLS[options.shell] + script)
    return 0


def _options_of(command: argparse.ArgumentParser) -> list[str]:
    return [
        said
        for action in command._actions
        for said in action.option_strings
        if said.startswith("--")
    ]


_SHELLS = {
    "bash": '# put into ~/.bashrc:  eval "$(ovolo completion bash)"\n',
    "zsh": '# put into ~/.zshrc:  eval "$(ovolo completion zsh)"\nautoload -Uz compinit bashcompinit && compinit -u && bashcompinit\n',
}
"""What stands above the script in each shell; zsh takes that of bash."""

_BASH = r"""_ovolo() {
  local word="${COMP_WORDS[COMP_CWORD]}" words="COMMANDS"
  if [ "$COMP_CWORD" -gt 1 ]; then
    case "${COMP_WORDS[1]}" in
CASES
    *) words="";;
    esac
    COMPREPLY=($(compgen -W "$words" -- "$word") $(compgen -f -- "$word"))
  else
    COMPREPLY=($(compgen -W "$words" -- "$word"))
  fi
}
complete -o filenames -F _ovolo ovolo"""
