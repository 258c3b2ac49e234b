"""What helps to write: lines ready to fill, words with their arguments and pictures."""

import re

import pytest

from ovolo.calling.trying import SIZES
from ovolo.formats.attached import read_files
from ovolo.meaning.other_names import OTHER_NAMES
from ovolo.outcome.outcome import outcome_of
from ovolo.problems import Failure
from ovolo.quantities.units import UNIT_NAMES, UNITS
from ovolo.sheet.formulas import PRECEDENCE
from ovolo.sheet.keywords import RESERVED
from ovolo.words.all import WORDS
from ovolo.words.registry import Word
from ovolo.writing.constructs import CONSTRUCTS, TRADES_BY_NEED, Construct
from ovolo.writing.operators import OPERATORS, Operator
from ovolo.writing.pictures import HEIGHT, WIDTH, picture_of
from ovolo.writing.unknown import with_input_for
from ovolo.writing.vocabulary import arguments_of, vocabulary

TABLES = read_files({"sizes.csv": SIZES})
CALLED = [word for word in WORDS.values() if not word.constant]


@pytest.mark.parametrize("construct", CONSTRUCTS, ids=lambda one: one.title)
def test_every_line_ready_to_fill_works_as_it_stands(construct: Construct) -> None:
    outcome = outcome_of(construct.filled())
    assert outcome.well, [str(problem) for problem in outcome.problems]
    assert all(f"{{{blank.name}}}" in construct.pattern for blank in construct.blanks)


def test_an_empty_blank_takes_its_piece_of_the_line_with_it() -> None:
    (part,) = [one for one in CONSTRUCTS if one.need == "A part"]
    assert part.filled() == 'part new_part = box(200 mm, 100 mm, 40 mm) colour oak "New part"'


@pytest.mark.parametrize("word", CALLED, ids=lambda word: word.name)
def test_every_word_is_offered_with_arguments_that_work(word: Word) -> None:
    arguments = arguments_of(word)
    assert all(one.kind and one.meaning for one, _ in arguments), "each says what it takes"
    assert all(written for one, written in arguments if not one.optional)
    given = ", ".join(
        written if not one.optional or one.many else f"{one.name} = {written}"
        for one, written in arguments
        if written
    )
    outcome = outcome_of(
        "\n".join([word.above, f"new_value = {word.name}({given})"]), tables=TABLES
    )
    assert not outcome.problems, [str(problem) for problem in outcome.problems]


def test_every_trade_of_words_is_offered_for_some_need() -> None:
    offered = {trade for trades in TRADES_BY_NEED.values() for trade in trades}
    assert {word.trade for word in WORDS.values()} == offered


@pytest.mark.parametrize("operator", OPERATORS, ids=lambda one: one.written)
def test_the_example_of_an_operator_gives_what_is_said(operator: Operator) -> None:
    outcome = outcome_of(f"found = {operator.example}\nsaid = {operator.gives}")
    assert not outcome.problems
    found, said = (line.value for line in outcome.lines)
    assert found == pytest.approx(said) if isinstance(said, float) else found == said


def test_every_operator_of_the_reader_is_explained() -> None:
    written = {one.written for one in OPERATORS}
    known = {*PRECEDENCE, *RESERVED} - {"negative", "then", "else", "in", "by", "yes", "no"}
    assert {one for one in known if one not in written} <= {"within"}, "which goes with =="


def test_every_unit_has_a_name_and_other_names_lead_to_words() -> None:
    assert set(UNIT_NAMES) == set(UNITS)
    others = {word["name"]: word["others"] for word in vocabulary()["words"]}
    assert "translate" in others["move"] and "cuboid" in others["box"]
    assert others["x"] == []
    known = {name for name, hint in OTHER_NAMES.items() if re.search(r"[a-z_]{2,}\(", hint)}
    reached = {other for some in others.values() for other in some}
    assert known <= reached


def test_the_vocabulary_lists_each_word_once() -> None:
    names = [word["name"] for word in vocabulary()["words"]]
    assert names == list(WORDS)
    assert vocabulary()["units"]["mm"] == "length" and "oak" in vocabulary()["colours"]


@pytest.mark.parametrize("word", CALLED, ids=lambda word: word.name)
def test_pictures_stay_in_their_box(word: Word) -> None:
    picture = picture_of(word)
    if picture is None:
        given = {str(one.result) for one in word.signatures}
        said = "what is drawn or counted has a picture"
        assert word.trade in ("choosing", "lists") or any("edge" in one for one in given), said
        return
    points = [p for line in (*picture.lines, *picture.bars) for p in line] + picture.dots
    assert points
    assert all(0 <= x <= WIDTH and 0 <= y <= HEIGHT for x, y in points)


@pytest.mark.parametrize(
    ("line", "name", "becomes"),
    [
        ("rise = span + 3 mm", "span", "input span = 100 mm from 0 mm to 200 mm step 5 mm"),
        ("rise = 3 m * tan(pitch)", "pitch", "input pitch = 30° from 0° to 90° step 1°"),
        ("xs = [i for i in 0 .. n]", "n", "input n = 10 from 0 to 20 step 1"),
        ("a = if lid then 1 else 2", "lid", "input lid = yes"),
        ("a = distance(p, (0 m, 0 m))", "p", "input p = (100 mm, 0 mm)"),
        ("a = sum(sizes) + 1 mm", "sizes", "input sizes = [100 mm, 200 mm]"),
    ],
)
def test_an_unknown_name_becomes_an_input_of_a_kind_that_fits(
    line: str, name: str, becomes: str
) -> None:
    new = with_input_for(f"# above\n{line}\n", name, 2)
    assert new == f"# above\n{becomes}\n{line}\n"
    assert not outcome_of(new).problems


def test_two_unknown_names_become_inputs_one_after_the_other() -> None:
    new = with_input_for("rise = span * tan(pitch)", "span", 1)
    assert (
        with_input_for(new, "pitch", 2).splitlines()[1]
        == "input pitch = 30° from 0° to 90° step 1°"
    )


def test_names_that_cannot_become_inputs() -> None:
    with pytest.raises(Failure, match="already the name"):
        with_input_for("a = 1\nb = a", "a", 2)
    with pytest.raises(Failure, match="cannot be read yet"):
        with_input_for("b = (a", "a", 1)
    with pytest.raises(Failure, match="no kind of input"):
        with_input_for("b = area(a)", "a", 1)
