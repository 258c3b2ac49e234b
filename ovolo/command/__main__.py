"""The command line: `ovolo eval`, `export`, `check`, `vary`, `aim`, `proof`, `compare`, `cut`, `nest`, `print`,
`hand-over`, `words`, `new`, `format`, `serve`, `completion`.

Exit status: 0 where all is well, 1 where the sheet has problems or failed checks, or what was asked
for does not hold, 2 where it cannot be read or the command makes no sense.
"""

from __future__ import annotations

import argparse
import sys
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import Any

from ovolo.command import cutting, exploring, hand_over, printing, writing
from ovolo.command.sheets import outcome_said, pairs, sheet_command
from ovolo.command.telling import offer_json, told, told_failure
from ovolo.drawing.standards import PAPERS
from ovolo.drawing.views import VIEWS
from ovolo.exploring.presets import preset_shown
from ovolo.outcome.outcome import Outcome, show_line
from ovolo.problems import Failure
from ovolo.remembering import keep_imports
from ovolo.words.all import WORDS
from ovolo.words.registry import Word


def main(arguments: Sequence[str] | None = None) -> int:
    options = _parser().parse_args(arguments)
    keep_imports()
    try:
        status: int = options.run(options)
    except Failure as failure:
        told_failure(options, failure)
        return 2
    except BrokenPipeError:
        return 0
    return status


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="ovolo", description="Evaluate sheets of formulas.")
    commands = parser.add_subparsers(required=True, metavar="COMMAND")
    run = sheet_command(commands, "eval", _eval, "print the values, checks and problems of a sheet")
    run.add_argument(
        "--watch",
        action="store_true",
        help="again whenever the sheet, or a file beside it, is saved",
    )
    sheet_command(commands, "check", _check, "print the problems and failed checks of a sheet")
    export = sheet_command(commands, "export", _export, "write parts to a file")
    export.add_argument("--to", required=True, metavar="FILE", help="its ending names the format")
    export.add_argument("--part", action="append", default=[], metavar="NAME")
    export.add_argument(
        "--option", action="append", default=[], metavar="NAME=CHOICE", dest="options",
        help="how the file is written, as its format allows: unit=in",
    )  # fmt: skip
    sheet = export.add_argument_group("a sheet of paper (.pdf, .svg)")
    sheet.add_argument(
        "--paper",
        choices=PAPERS,
        help="A4 where a scale, a view or a key is asked for; ANSI B in feet and inches",
    )
    sheet.add_argument("--upright", action="store_true", help="paper that stands upright")
    sheet.add_argument("--scale", metavar="1:20", help="the largest standard one that fits, else")
    sheet.add_argument("--view", choices=VIEWS, help="the one in which the parts lie, else")
    sheet.add_argument("--names", action="store_true", help="dims say what they state")
    sheet.add_argument("--key", action="store_true", help="numbers at placed studies, and a table")
    sheet.add_argument("--figures", default="", metavar="LIST", help='several: "plan; front; side; axonometric; section x 120 mm; detail front 40 mm 25 mm 15 mm"')  # fmt: skip
    sheet.add_argument("--dashed", action="store_true", help="hidden lines of figures dashed")
    sheet.add_argument("--schedule", action="store_true", help="the schedule beside figures, its marks in them")  # fmt: skip
    sheet.add_argument("--checks", action="store_true", help="the checks beside figures")
    sheet.add_argument("--author", default="", metavar="NAME")
    exploring.add_commands(commands)
    cutting.add_commands(commands)
    printing.add_commands(commands)
    hand_over.add_commands(commands)
    writing.add_commands(commands)
    words = commands.add_parser("words", help="print the words of the language")
    words.add_argument("word", nargs="?", help="one word, explained")
    words.set_defaults(run=_words, tells=True)
    offer_json(commands)
    return parser


def _eval(options: argparse.Namespace) -> int:
    return writing.watched(options, _evaluated) if options.watch else _evaluated(options)


def _evaluated(options: argparse.Namespace) -> int:
    outcome = outcome_said(options)
    told(options, outcome.as_json() if options.json else {}, (*_values(outcome), *_wrongs(outcome)))
    return 0 if outcome.well else 1


def _values(outcome: Outcome) -> Iterator[str]:
    if outcome.program.title:
        yield outcome.program.title
    for line in outcome.lines:
        name, kind = line.line.name, line.line.kind
        if name and kind and line.has_value:
            yield f"  {name} = {show_line(line, outcome.units)}"
    for note in outcome.notes:
        yield f"  note: {note}"
    for check in outcome.checks:
        if check.passed:
            yield f"  holds: {check.text}{f'  {check.measured}' if check.measured else ''}"


def _wrongs(outcome: Outcome) -> Iterator[str]:
    for check in outcome.failed_checks:
        message = f" “{check.message}”" if check.message else ""
        yield f"  fails: line {check.line}: {check.text}{message}  {check.measured}".rstrip()
    for problem in outcome.problems:
        yield f"  {'waits' if problem.waiting else 'problem'}: {problem}"


def _wrongs_found(outcome: Outcome) -> dict[str, Any]:
    return {
        "well": outcome.well,
        "checks": len(outcome.checks),
        "fails": [
            {"line": one.line, "text": one.text, "message": one.message, "measured": one.measured}
            for one in outcome.failed_checks
        ],
        "problems": [one.as_json() for one in outcome.problems],
    }


def _check(options: argparse.Namespace) -> int:
    outcome = outcome_said(options)
    count = len(outcome.checks)
    well = f"all well: {count} check{'' if count == 1 else 's'} hold{'s' if count == 1 else ''}"
    told(options, _wrongs_found(outcome), (*_wrongs(outcome), *([well] if outcome.well else [])))
    return 0 if outcome.well else 1


def _export(options: argparse.Namespace) -> int:
    outcome = outcome_said(options)
    data = _exported(outcome, options)
    try:
        Path(options.to).write_bytes(data)
    except OSError as error:
        raise Failure(f"{options.to} cannot be written: {error.strerror}") from None
    found = {"file": options.to, "bytes": len(data), **_wrongs_found(outcome)}
    told(options, found, (*_wrongs(outcome), f"{options.to}: {len(data):,} bytes"))
    return 0 if outcome.well else 1


def _exported(outcome: Outcome, options: argparse.Namespace) -> bytes:
    """The file that is asked for: a sheet of paper, or the parts themselves."""
    # What only a hand-over needs is not loaded for a look at some values.
    from ovolo.drawing.paper import layout_said
    from ovolo.formats.export import exported, exported_sheet

    on_paper = options.paper or options.scale or options.view or options.key or options.figures
    if not on_paper and not options.to.lower().endswith(".pdf"):
        return exported(
            outcome, options.to, options.part, dict(pairs(options.options, "option unit=in"))
        )
    layout = layout_said(outcome, {**vars(options), "preset": preset_shown(outcome)})
    return exported_sheet(outcome, options.to, layout, options.part)


def _words(options: argparse.Namespace) -> int:
    if options.word and options.word not in WORDS:
        raise Failure(f"there is no word `{options.word}`", "`ovolo words` prints all")
    words = [WORDS[options.word]] if options.word else list(WORDS.values())
    lines = (line for one in words for line in (_explained(one) if options.word else _briefly(one)))
    told(options, [_as_json(one) for one in words], lines)
    return 0


def _as_json(word: Word) -> dict[str, Any]:
    return {
        "name": word.name, "usage": word.usage, "meaning": _flowing(word.meaning), "trade": word.trade,
        "example": word.example, "gives": word.gives,
        "parameters": [
            {"name": one.name, "kind": one.kind, "default": one.default, "optional": one.optional, "meaning": _flowing(one.meaning)}
            for one in word.parameters
        ],
    }  # fmt: skip


def _briefly(word: Word) -> Iterator[str]:
    yield f"{word.usage}\n    {_flowing(word.meaning)}\n    {word.example}"


def _explained(word: Word) -> Iterator[str]:
    """A word with all that is known of its arguments."""
    yield word.usage
    yield f"    {_flowing(word.meaning)}"
    for one in word.parameters:
        default = f" = {one.default}" if one.default is not None else ""
        optional = ", optional" if one.optional and not default else ""
        yield f"    {one.name}{default}: {_flowing(one.meaning)} [{one.kind or 'a value'}{optional}]"
    result = f" gives {word.gives}" if word.gives else ""
    yield f"    {word.example}{result}"


def _flowing(text: str) -> str:
    return " ".join(text.split())


if __name__ == "__main__":
    sys.exit(main())
