"""Edits of a sheet's text. Each gives a new text; character for character, all else stays."""

from __future__ import annotations

import re
from collections.abc import Iterable

from ovolo.problems import Failure, Span
from ovolo.quantities.dimension import NUMBER, Dimension
from ovolo.quantities.show import DisplayUnits
from ovolo.sheet import tree
from ovolo.sheet.keywords import RESERVED
from ovolo.sheet.lines import comment_start, lines_of
from ovolo.sheet.literals import literal_for
from ovolo.sheet.names import local_names, references, studies_used
from ovolo.sheet.reader import read_sheet


def statement_at(text: str, line: int) -> tree.Statement:
    """The statement that begins at a line (from 1). Raises Failure where none does."""
    for statement in read_sheet(text).statements:
        if statement.line == line:
            return statement
    raise Failure(f"no line of this sheet begins at {line}")


def replaced(text: str, line: int, new: str) -> str:
    """The statement that begins at `line` replaced by `new`, as typed."""
    old = statement_at(text, line)
    lines = text.split("\n")
    lines[line - 1 : old.last_line] = new.split("\n")
    return "\n".join(lines)


def rewritten(text: str, statement: tree.Statement, span: Span, new: str) -> str:
    """A piece of a statement written anew."""
    start, end = span
    return replaced(text, statement.line, statement.text[:start] + new + statement.text[end:])


def with_its_comma(written: str, span: Span) -> Span:
    """An argument with the comma before it; the first one with the comma behind it, if any."""
    start, end = span
    before = written[:start].rstrip()
    if before.endswith(","):
        return len(before) - 1, end
    behind = re.match(r"\s*,\s*", written[end:])
    return start, end + (behind.end() if behind else 0)


def quoted(said: str) -> str:
    """A text as a sheet writes it."""
    return literal_for(said, NUMBER, "", DisplayUnits())


def inserted(text: str, after: int, new: str) -> str:
    """`new` as further lines below line `after` (0: at the top)."""
    lines = text.split("\n")
    if not 0 <= after <= len(lines):
        raise Failure(f"this sheet has {len(lines)} lines; there is no line {after}")
    if after == len(lines) and lines[-1] == "":
        after -= 1
    lines[after:after] = new.split("\n")
    return "\n".join(lines)


def deleted(text: str, line: int, last: int | None = None) -> str:
    """The text without the statement that begins at `line`, or those from there to the one that
    begins at `last`."""
    end = statement_at(text, line if last is None else last).last_line
    lines = text.split("\n")
    del lines[line - 1 : end]
    return "\n".join(lines)


def commented(text: str, line: int, last: int | None = None) -> str:
    """The statements from `line` to the one that begins at `last` as comments; where all of them are
    comments, as lines again."""
    end = statement_at(text, line if last is None else last).last_line
    lines = text.split("\n")
    piece = lines[line - 1 : end]
    written = [one for one in piece if one.strip()]
    if written and all(one.startswith("#") for one in written):
        piece = [one.removeprefix("#").removeprefix(" ") for one in piece]
    else:
        piece = [f"# {one}" if one.strip() else one for one in piece]
    return "\n".join([*lines[: line - 1], *piece, *lines[end:]])


def input_statement(text: str, name: str) -> tree.Statement:
    for statement in read_sheet(text).statements:
        if isinstance(statement.content, tree.Input) and statement.name == name:
            return statement
    raise Failure(f"there is no input `{name}`")


def with_input(text: str, name: str, literal: str) -> str:
    """The input's value written anew; its limits, label and comment stay."""
    statement = input_statement(text, name)
    assert isinstance(statement.content, tree.Input)
    return rewritten(text, statement, statement.content.value.span, literal)


def setting_text(
    text: str, name: str, value: object, dimension: Dimension, units: DisplayUnits
) -> str:
    """The sheet with an input turned to a run-time value (mm, radians, kg, s); `value` is a list
    for the items of a list and for the coordinates of a point."""
    statement = input_statement(text, name)
    assert isinstance(statement.content, tree.Input)
    start, end = statement.content.value.span
    if not isinstance(value, list):
        literal = literal_for(value, dimension, statement.text[start:end], units)
        return with_input(text, name, literal)
    nodes = _figure_nodes(statement)
    if not nodes:
        raise Failure(f"`{name}` has no figures to turn")
    written = [statement.text[slice(*node.span)] for node in nodes]
    literals = [
        literal_for(figure, dimension, before, units)
        for figure, before in zip(value, [*written, *[written[-1]] * len(value)], strict=False)
    ]
    if len(literals) == len(nodes):
        spelled = list(zip([node.span for node in nodes], literals, strict=True))
        return replaced(text, statement.line, _spelled_anew(statement.text, spelled))
    return with_input(text, name, _listed(literals, statement.content.value))


def _listed(literals: list[str], old: tree.Node) -> str:
    """A point, a list or a list of points of these figures, as the old value is one."""
    if isinstance(old, tree.Point):
        return f"({', '.join(literals)})"
    first = next(iter(tree.children(old)), None)
    if isinstance(first, tree.Point):
        width = len(tree.children(first))
        literals = [
            f"({', '.join(literals[at : at + width])})" for at in range(0, len(literals), width)
        ]
    return f"[{', '.join(literals)}]"


def _spelled_anew(text: str, places: Iterable[tuple[Span, str]]) -> str:
    """The text with something else in each of the places."""
    for (start, end), new in sorted(places, reverse=True):
        text = text[:start] + new + text[end:]
    return text


def _figure_nodes(statement: tree.Statement) -> list[tree.Node]:
    """The figures of an input that is a list, a point or a list of points, in their order."""
    content = statement.content
    assert isinstance(content, tree.Input)
    found = [content.value]
    while any(isinstance(node, tree.ListOfItems | tree.Point) for node in found):
        found = [
            inner
            for node in found
            for inner in (
                tree.children(node) if isinstance(node, tree.ListOfItems | tree.Point) else (node,)
            )
        ]
    return [] if found == [content.value] else found


def figure_written(text: str, name: str, at: int) -> str:
    """One figure of a list or a point as it is written; nothing where there is none."""
    statement = input_statement(text, name)
    nodes = _figure_nodes(statement)
    return statement.text[slice(*nodes[at].span)] if 0 <= at < len(nodes) else ""


def with_figure(text: str, name: str, at: int, literal: str) -> str:
    """One figure of a list or a point written anew (`at` from 0)."""
    statement = input_statement(text, name)
    assert isinstance(statement.content, tree.Input)
    nodes = _figure_nodes(statement)
    if not 0 <= at < len(nodes):
        raise Failure(f"`{name}` has no figure {at}", f"it has {len(nodes)}, counted from 0")
    return rewritten(text, statement, nodes[at].span, literal)


def with_limits(text: str, name: str, low: str, high: str) -> str:
    """The limits of an input written anew, or given to it after its value."""
    statement = input_statement(text, name)
    content = statement.content
    assert isinstance(content, tree.Input)
    if content.low is None or content.high is None:
        return _clause_added(text, statement, f"from {low} to {high}")
    new = statement.text
    for node, written in sorted(
        ((content.low, low), (content.high, high)), key=lambda pair: -pair[0].span[0]
    ):
        new = new[: node.span[0]] + written + new[node.span[1] :]
    return replaced(text, statement.line, new)


def with_step(text: str, name: str, step: str) -> str:
    """The step of an input written anew, or given to it."""
    statement = input_statement(text, name)
    content = statement.content
    assert isinstance(content, tree.Input)
    if content.step is None:
        return _clause_added(text, statement, f"step {step}", after=content.high)
    return rewritten(text, statement, content.step.span, step)


def with_internal(text: str, name: str, internal: bool) -> str:
    """An input left off the faceplate, or put on it again."""
    statement = input_statement(text, name)
    content = statement.content
    assert isinstance(content, tree.Input)
    if content.internal == internal:
        return text
    if internal:
        clauses = [content.value, content.low, content.high, content.step, *content.choices]
        last = max((node for node in clauses if node), key=lambda node: node.span[1])
        return _clause_added(text, statement, "internal", after=last)
    last_line = lines_of(statement.text)[-1]
    code_end = len(statement.text) - len(last_line) + comment_start(last_line)
    found = [
        one
        for one in re.finditer(r'"(?:\\.|[^"\\])*"|\s+internal\b', statement.text[:code_end])
        if not one[0].startswith('"')
    ]
    return rewritten(text, statement, found[-1].span(), "")


def _clause_added(
    text: str, statement: tree.Statement, clause: str, after: tree.Node | None = None
) -> str:
    """A clause put behind the value of an input, or behind another of its clauses."""
    assert isinstance(statement.content, tree.Input)
    at = (after or statement.content.value).span[1]
    return rewritten(text, statement, (at, at), f" {clause}")


def _respelled(text: str, places: Iterable[Span], new: str) -> str:
    """The text with each of the places written as `new`."""
    return _spelled_anew(text, ((place, new) for place in set(places)))


def renamed(text: str, old: str, new: str) -> str:
    """The name of a line changed wherever it is used: in formulas, checks, presets, blocks and
    the braces of texts; not in texts or comments, nor where a local name hides it."""
    if not re.fullmatch(r"[^\W\d]\w*", new) or new in RESERVED:
        raise Failure(f"`{new}` cannot be a name", "a letter or _, then letters, figures and _")
    sheet = read_sheet(text)
    names = {statement.name: statement.line for statement in sheet.statements if statement.name}
    if old not in names:
        raise Failure(f"no line is called `{old}`")
    if new in names:
        raise Failure(f"`{new}` is already the name of line {names[new]}", "choose another name")
    changed = []
    for statement in sheet.statements:
        places = [span for name, span in references(statement.content) if name == old]
        if places and new in local_names(statement.content):
            raise Failure(
                f"line {statement.line} uses `{old}` and has a local name `{new}`",
                "choose another name",
            )
        if any(name == new for name, _ in references(statement.content)):
            raise Failure(
                f"line {statement.line} already uses something called `{new}`",
                "choose another name",
            )
        if statement.name == old and isinstance(statement.content, tree.Named):
            places.append(statement.content.name_span)
        changed.append(_respelled(statement.text, places, new))
    return "\n".join(changed)


def with_used_name(text: str, title: str, old: str, new: str) -> str:
    """The sheet with a name of a study that it uses changed: where it sets the input of that name, and
    where it reads that value right behind a use, or behind the name of a line that is one."""
    statements = read_sheet(text).statements
    names = {
        one.name
        for one in statements
        if isinstance(one.content, tree.Use) and one.content.study == title
    }
    yields = {
        one.name
        for one in statements
        if isinstance(one.content, tree.Formula | tree.Part)
        and _calls_one(one.content.value, names)
    }
    changed = []
    for statement in statements:
        places: list[Span] = []
        for node in tree.descendants(statement.content):
            if _calls_one(node, names):
                assert isinstance(node, tree.Call)
                starts = [one.span[0] for one in node.arguments if one.name == old]
                places += [(start, start + len(old)) for start in starts]
            elif isinstance(node, tree.Member) and node.name == old:
                owner = node.owner
                if _calls_one(owner, names) or (
                    isinstance(owner, tree.Name) and owner.name in yields
                ):
                    end = _end_of_member(statement.text, node)
                    places.append((end - len(old), end))
        changed.append(_respelled(statement.text, places, new))
    return "\n".join(changed)


def _calls_one(node: tree.Node | tree.Content, names: set[str | None]) -> bool:
    return isinstance(node, tree.Call) and node.function in names


def _end_of_member(text: str, node: tree.Member) -> int:
    """Where the name behind the point ends, before brackets around the whole."""
    start, end = node.span
    return start + text[start:end].rindex(node.name) + len(node.name)


def with_used_study(text: str, name: str, title: str) -> str:
    """The `use` line of a name pointed at another study."""
    statement = statement_named(text, name)
    if not isinstance(statement.content, tree.Use):
        raise Failure(f"`{name}` is not a study that is used here")
    return replaced(text, statement.line, _pointed_at(statement.text, title))


def with_title_followed(text: str, old: str, new: str) -> str:
    """Every `use` of a study of the old title pointed at the new one."""
    if old not in studies_used(text).values():
        return text
    return "\n".join(
        _pointed_at(line, new) if old in studies_used(line).values() else line
        for line in text.split("\n")
    )


def _pointed_at(statement: str, title: str) -> str:
    return re.sub(
        r'(from\s*)"(?:[^"\\]|\\.)*"', lambda found: found[1] + quoted(title), statement, count=1
    )


def needed_by(text: str, name: str) -> list[tree.Statement]:
    """The statements that use a name."""
    return [
        statement
        for statement in read_sheet(text).statements
        if any(used == name for used, _ in references(statement.content))
    ]


def names_between(text: str, line: int, last: int | None = None) -> list[str]:
    """The names of the lines from the one that begins at `line` to the one that begins at `last`."""
    end = line if last is None else last
    return [s.name for s in read_sheet(text).statements if s.name and line <= s.line <= end]


def _label_of(statement: tree.Statement) -> str:
    label = getattr(statement.content, "label", "")
    return f" {quoted(label)}" if label else ""


def _comment_of(statement: tree.Statement) -> str:
    """The comment at the end of a statement with the space before it, as written."""
    line = lines_of(statement.text)[-1]
    at = len(line[: comment_start(line)].rstrip())
    return line[at:]


def statement_named(text: str, name: str) -> tree.Statement:
    """The statement that gives a name its value. Raises Failure where there is none."""
    for statement in read_sheet(text).statements:
        if statement.name == name and isinstance(statement.content, tree.Named):
            return statement
    raise Failure(f"no line is called `{name}`")


def to_formula(text: str, name: str, formula: str = "") -> str:
    """An input turned into a formula: of its present value, or the one given. Its label and
    comment stay; its limits, step and choices go."""
    statement = input_statement(text, name)
    assert isinstance(statement.content, tree.Input)
    start, end = statement.content.value.span
    written = formula.strip() or statement.text[start:end]
    line = f"{name} = {written}{_label_of(statement)}{_comment_of(statement)}"
    return replaced(text, statement.line, line)


def to_input(text: str, name: str, literal: str) -> str:
    """A formula turned into an input of the value given; its label and comment stay."""
    statement = statement_named(text, name)
    content = statement.content
    if not isinstance(content, tree.Formula) or content.parameters is not None:
        raise Failure(f"`{name}` is not a formula", "only a formula can become an input")
    line = f"input {name} = {literal}{_label_of(statement)}{_comment_of(statement)}"
    return replaced(text, statement.line, line)


def to_part(text: str, name: str) -> str:
    """A formula made a part: the word goes before it, everything else stays."""
    statement = statement_named(text, name)
    content = statement.content
    if not isinstance(content, tree.Formula) or content.parameters is not None:
        raise Failure(f"`{name}` is not a formula", "only a formula can become a part")
    return replaced(text, statement.line, f"part {statement.text}")


def moved(text: str, line: int, before: int, last: int | None = None) -> str:
    """The statement that begins at `line`, moved to stand before the line `before` (one more
    than the last line: to the end). A section moves with all that stands in it; of several lines,
    to the one that begins at `last`, only they do."""
    if last is None:
        first, last = _extent(text, line)
    else:
        first, last = statement_at(text, line).line, statement_at(text, last).last_line
    lines = text.split("\n")
    if not 1 <= before <= len(lines) + 1:
        raise Failure(f"this sheet has {len(lines)} lines; there is no line {before}")
    starts = {statement.line for statement in read_sheet(text).statements} | {len(lines) + 1}
    if before not in starts:
        raise Failure(f"no line of this sheet begins at {before}")
    if first <= before <= last + 1:
        return text
    piece = lines[first - 1 : last]
    rest = lines[: first - 1] + lines[last:]
    at = before - 1 if before < first else before - 1 - len(piece)
    return "\n".join(rest[:at] + piece + rest[at:])


def _extent(text: str, line: int) -> tuple[int, int]:
    """First and last line of a statement, or of a section with what stands in it."""
    statement = statement_at(text, line)
    if not isinstance(statement.content, tree.Section):
        return statement.line, statement.last_line
    later = [
        other.line
        for other in read_sheet(text).statements
        if other.line > line and isinstance(other.content, tree.Section)
    ]
    return line, (later[0] - 1 if later else len(text.split("\n")))


def preset_settings(text: str, title: str) -> dict[str, str]:
    """The values of a preset as written, by the name of their input."""
    for statement in read_sheet(text).statements:
        content = statement.content
        if isinstance(content, tree.Preset) and content.title == title:
            return {
                setting.name: statement.text[setting.value.span[0] : setting.value.span[1]]
                for setting in content.settings
            }
    raise Failure(f'there is no preset "{title}"')


def with_preset(text: str, title: str) -> str:
    """The sheet with the values of a preset put into its inputs."""
    inputs = {s.name for s in read_sheet(text).statements if isinstance(s.content, tree.Input)}
    for name, literal in preset_settings(text, title).items():
        if name in inputs:  # what has become a formula follows its formula
            text = with_input(text, name, literal)
    return text


def without_settings(text: str, name: str) -> str:
    """The sheet with a name taken out of all its presets; one that sets nothing else goes."""
    lines = []
    for statement in read_sheet(text).statements:
        content = statement.content
        if not isinstance(content, tree.Preset):
            lines.append(statement.text)
            continue
        kept = [statement.text[slice(*one.span)] for one in content.settings if one.name != name]
        if len(kept) == len(content.settings):
            lines.append(statement.text)
        elif kept:
            start, end = content.settings[0].span[0], content.settings[-1].span[1]
            lines.append(statement.text[:start] + ", ".join(kept) + statement.text[end:])
    return "\n".join(lines)


def with_saved_preset(text: str, title: str, turned: str = "") -> str:
    """The present values of all inputs, or those they have in the same text `turned`, as a preset: in
    place of the one of that title, or below the last preset, or at the end."""
    if not title.strip():
        raise Failure("a preset needs a name")
    statements = read_sheet(text).statements
    settings = [
        f"{s.content.name} = {s.text[s.content.value.span[0] : s.content.value.span[1]]}"
        for s in (read_sheet(turned).statements if turned else statements)
        if isinstance(s.content, tree.Input)
    ]
    if not settings:
        raise Failure("this study has no inputs to save")
    line = f"preset {quoted(title.strip())}: {', '.join(settings)}"
    presets = [s for s in statements if isinstance(s.content, tree.Preset)]
    for statement in presets:
        if isinstance(statement.content, tree.Preset) and statement.content.title == title.strip():
            return replaced(text, statement.line, line + _comment_of(statement))
    last = presets[-1].last_line if presets else len(text.rstrip("\n").split("\n"))
    return inserted(text, last, line)
