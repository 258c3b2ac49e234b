"""Commands that try a study at many settings: `vary`, `aim`, `proof`, `compare`."""

from __future__ import annotations

import argparse
import sys
from collections.abc import Iterable, Iterator
from pathlib import Path
from typing import TYPE_CHECKING, Any

from ovolo.command.sheets import outcome_said, pairs, read_sheet_file, sheet_command
from ovolo.command.telling import told
from ovolo.exploring.axes import axes_of
from ovolo.exploring.settings import read_setting, read_settings
from ovolo.fields import fields_told
from ovolo.formats.attached import Files, everything_named, folder_shelf
from ovolo.meaning.program import Program
from ovolo.problems import Failure

if TYPE_CHECKING:  # loaded by the command that needs them
    from ovolo.exploring.aim_readings import Aim
    from ovolo.exploring.comparing import Row
    from ovolo.exploring.proof import Breaking, Verdict

Json = dict[str, Any]


def add_commands(commands: Any) -> None:
    """Adds the commands to those of the parser."""
    _add_vary(commands)
    _add_aim(commands)
    proof = sheet_command(commands, "proof", _proof, "try and prove for which values a sheet fails")
    proof.add_argument("--cluster", default="", metavar="ADDRESS", help="try it on a dask cluster")
    compare = commands.add_parser("compare", help="print what differs between two sheets")
    compare.add_argument("sheets", nargs=2, metavar="SHEET.ovo")
    compare.add_argument("--all", action="store_true", help="print also what is the same")
    compare.set_defaults(run=_compare, tells=True)


def _add_vary(commands: Any) -> None:
    vary = sheet_command(commands, "vary", _vary, "try a sheet at many settings; the trials as CSV")
    plan = vary.add_mutually_exclusive_group(required=True)
    plan.add_argument("--roll", type=int, metavar="N", help="N random settings, evenly spread")
    plan.add_argument("--series", metavar="NAME=A..B:N", help="one input from A to B in N settings")
    plan.add_argument(
        "--field", metavar="NAME=A..B:M,NAME=A..B:N", help="two inputs against each other"
    )
    plan.add_argument("--presets", action="store_true", help="each preset of the sheet")
    plan.add_argument(
        "--rows", metavar="FILE.csv", help="each row a setting; the header names inputs"
    )
    plan.add_argument("--limits", action="store_true", help="the inputs at their limits")
    vary.add_argument("--number", type=int, default=1, metavar="K", help="which roll: another number, other settings")  # fmt: skip
    vary.add_argument("--hold", default="", metavar="A,B", help="inputs that stay as they are")
    vary.add_argument(
        "--range", action="append", default=[], metavar="NAME=A..B", dest="ranges",
        help="a narrower range for an input",
    )  # fmt: skip
    vary.add_argument("--values", default="", metavar="A,B", help="the values to print; all, else")
    vary.add_argument("--parts", action="store_true", help="make the parts too: pieces and masses")
    vary.add_argument("--to", metavar="FILE.csv", help="where to write; standard output, else")
    vary.add_argument("--pictures", metavar="DIR", help="a drawing of each trial, as SVG")
    vary.add_argument("--workers", type=int, metavar="N", help="processes; all cores, else")
    vary.add_argument("--cluster", default="", metavar="ADDRESS", help="a dask cluster: tcp://…")


def _add_aim(commands: Any) -> None:
    aim = sheet_command(commands, "aim", _aim, "find inputs for which a value is what is wanted")
    aim.add_argument("goal", metavar="NAME=VALUE", help="also NAME=least and NAME=most")
    aim.add_argument("--by", required=True, metavar="A,B", help="the inputs that may move")


# --- vary ---


def _vary(options: argparse.Namespace) -> int:
    from ovolo.exploring.carriers import carrier_at
    from ovolo.exploring.runs import plan_of, run
    from ovolo.exploring.trials import as_csv, check_names

    text, files, present = _study(options)
    program = _program(text, files)
    asked = _asked(options, program)
    names = _list(options.values)
    check_names(program, names)
    count = len(plan_of(text, files, asked, present)[1].settings)
    carrier = carrier_at(options.cluster, options.workers)
    try:
        found = list(_told(run(text, files, asked, carrier, options.parts, present), count))
    finally:
        carrier.stop()
    if not options.json or options.to:
        _write(options.to, as_csv(found, names))
    if options.pictures:
        _draw(text, files, asked, present, Path(options.pictures))
    failing = sum(bool(one["why"]) for one in found)
    if options.json:
        told(options, {"trials": [_picked(one, names) for one in found], "fail": failing})
    print(f"{len(found)} trials, {failing} fail", file=sys.stderr)
    return 0


def _picked(trial: Json, names: list[str]) -> Json:
    """A trial with the values that are wanted; all, where none is named."""
    values = {name: one for name, one in trial["values"].items() if not names or name in names}
    return {**trial, "values": values}


def _told(trials: Iterable[Json], count: int) -> Iterator[Json]:
    """The trials, told on the terminal as they come."""
    shown = sys.stderr.isatty()
    for number, one in enumerate(trials, start=1):
        if shown:
            print(f"\r{number} of {count}", end="", file=sys.stderr, flush=True)
        yield one
    if shown:
        print("\r", end="", file=sys.stderr)


def _write(target: str | None, text: str) -> None:
    if target is None:
        sys.stdout.write(text)
        return
    try:
        Path(target).write_text(text, encoding="utf-8")
    except OSError as error:
        raise Failure(f"{target} cannot be written: {error.strerror}") from None


def _draw(text: str, files: Files, asked: Json, present: Json, folder: Path) -> None:
    """A drawing on paper of each trial, in the view in which its parts lie."""
    from ovolo.drawing.paper import layout_said
    from ovolo.exploring.runs import plan_of
    from ovolo.exploring.trials import built
    from ovolo.formats.export import exported_sheet
    from ovolo.running.evaluate import Memo

    program, plan = plan_of(text, files, asked, present)
    folder.mkdir(parents=True, exist_ok=True)
    memo = Memo()
    for number, setting in enumerate(plan.settings, start=1):
        name = f"{number:0{len(str(len(plan.settings)))}}.svg"
        try:
            outcome = built(program, setting, memo)
            drawn = exported_sheet(outcome, name, layout_said(outcome, {}))
        except Failure as failure:
            print(f"{name}: {failure.said}", file=sys.stderr)
            continue
        (folder / name).write_bytes(drawn)


def _asked(options: argparse.Namespace, program: Program) -> Json:
    """The plan that the options say, as JSON has it."""
    asked: Json = {"hold": _list(options.hold), "roll": options.number}
    ranges = [_range(program, one) for one in options.ranges]
    if options.roll is not None:
        asked |= {"kind": "roll", "number": options.roll}
    elif options.series or options.field:
        kind = "series" if options.series else "field"
        said = [options.series] if options.series else options.field.split(",")
        along = [_along(program, one) for one in said]
        asked |= {"kind": kind, "inputs": [name for name, _, _ in along]}
        asked["counts"] = [count for _, _, count in along]
        ranges += [(name, ends) for name, ends, _ in along if ends is not None]
    elif options.rows:
        asked |= {"kind": "rows", "rows": read_sheet_file(options.rows)}
    else:
        asked |= {"kind": "presets" if options.presets else "limits"}
    asked["ranges"] = dict(ranges)
    return asked


def _along(program: Program, said: str) -> tuple[str, tuple[float, float] | None, int]:
    """NAME=A..B:N, NAME=A..B or NAME:N."""
    before, colon, count = said.rpartition(":")
    if colon and not count.strip().isdigit():
        raise Failure(f"`{count}` is no number of settings", "for example a=1m..3m:20")
    whole = before if colon else said
    number = int(count) if colon else 10
    if "=" in whole:
        name, ends = _range(program, whole)
        return name, ends, number
    return whole.strip(), None, number


def _range(program: Program, said: str) -> tuple[str, tuple[float, float]]:
    """NAME=A..B as run-time values. Raises Failure."""
    name, equals, ends = said.partition("=")
    low, dots, high = ends.partition("..")
    if not equals or not dots:
        raise Failure(f"`{said}` is no range", "for example a=1m..3m")
    found = [read_setting(program, name.strip(), one) for one in (low, high)]
    if not all(isinstance(one, float) for one in found):
        raise Failure(f"`{name.strip()}` has no range", "only figures have one")
    return name.strip(), (found[0], found[1])


# --- aim, proof, compare ---


def _aim(options: argparse.Namespace) -> int:
    from ovolo.exploring.aim import aimed, goal_said

    text, files, present = _study(options)
    program = _program(text, files)
    ((name, said),) = pairs([options.goal], "by spacing")
    goal = goal_said(program, name, said)
    found = aimed(program, name, goal, _list(options.by), _run_time(program, present))
    told(options, found.as_json(), _aim_lines(name, found))
    return 0 if any(one.exact and not one.failing for one in found.found) else 1


def _aim_lines(name: str, found: Aim) -> Iterator[str]:
    for one in found.found:
        said_so = ", ".join(f"{n} = {v}" for n, v in one.said.items())
        more = "".join(f"; {note}" for note in [one.note, *one.failing] if note)
        yield f"{name} = {one.reached_said}: {said_so}{more}"
    yield from (f"  {line}" for line in (found.reason, *found.binding) if line)


def _proof(options: argparse.Namespace) -> int:
    from ovolo.exploring.carriers import carrier_at
    from ovolo.exploring.proof import FAILS, breakings_of, proved
    from ovolo.exploring.runs import plan_of, run

    text, files, present = _study(options)
    program, plan = plan_of(text, files, {"kind": "limits"}, present)
    carrier = carrier_at(options.cluster)
    try:
        tried = list(_told(run(text, files, {"kind": "limits"}, carrier, True, present), len(plan.settings)))  # fmt: skip
    finally:
        carrier.stop()
    broken = breakings_of(plan.axes, tried)
    verdicts = proved(program, _run_time(program, present))
    found = {
        "tried": len(tried),
        "fails": [fields_told(one) for one in broken],
        "checks": [fields_told(one) for one in verdicts],
    }
    told(options, found, _proof_lines(len(tried), broken, verdicts))
    return 1 if broken or any(one.verdict == FAILS for one in verdicts) else 0


def _proof_lines(tried: int, broken: list[Breaking], verdicts: list[Verdict]) -> Iterator[str]:
    yield f"tried: {tried} settings at the limits"
    for breaking in broken:
        yield f"  fails {breaking.count} times: {breaking.why}  {_setting(breaking.said)}"
    for one in verdicts:
        share = f" on {one.share:.2g} of the range" if one.share else ""
        why = f": {one.why}" if one.why else ""
        yield f"line {one.line}: {one.text}: {one.verdict}{share}{why}  {_setting(one.said)}".rstrip()


def _setting(said: dict[str, str]) -> str:
    return ", ".join(f"{name} = {value}" for name, value in said.items())


def _compare(options: argparse.Namespace) -> int:
    from ovolo.exploring.comparing import compared

    sides = []
    for path in options.sheets:
        given = argparse.Namespace(sheet=path, settings=[], preset=None)
        outcome = outcome_said(given)
        sides.append((outcome.program.title or path, outcome))
    found = compared(sides)
    rows = found.rows if options.all else found.differing
    told(
        options,
        {"titles": [title for title, _ in sides], "rows": [fields_told(one) for one in rows]},
        _rows_said(rows),
    )
    return 1 if found.differing else 0


def _rows_said(rows: Iterable[Row]) -> Iterator[str]:
    alike = True
    for row in rows:
        alike = alike and not row.differs
        mark = "≠" if row.differs else "="
        yield f"{row.what} {row.name}: {f' {mark} '.join(one or '–' for one in row.sides)}"
    if alike:
        yield "nothing differs"


# --- what all of them need ---


def _study(options: argparse.Namespace) -> tuple[str, Files, Json]:
    """The text, its files, and the values that are said of inputs as JSON has them."""
    from ovolo.exploring.presets import preset_values

    text = read_sheet_file(options.sheet)
    files = everything_named(text, folder_shelf(Path(options.sheet).parent))
    program = _program(text, files)
    present = preset_values(program, options.preset) if options.preset else {}
    present |= read_settings(program, dict(pairs(options.settings, "set floor_height=3.1m")))
    axes = axes_of(program, present)
    return text, files, {name: present[name] for name in present if name in axes}


def _program(text: str, files: Files) -> Program:
    from ovolo.exploring.runs import program_of

    return program_of(text, files)


def _run_time(program: Program, present: Json) -> Json:
    from ovolo.exploring.settings import given_settings

    return given_settings(program, present)


def _list(said: str) -> list[str]:
    return [one.strip() for one in said.split(",") if one.strip()]
