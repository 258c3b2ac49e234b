"""Reading SVG: against svgpathtools, an independent reader, and back what we wrote."""

import math

import numpy as np
import pytest
import svgpathtools
from hypothesis import given, settings
from hypothesis import strategies as st

from ovolo.formats.attached import look, read_files
from ovolo.formats.export import exported
from ovolo.formats.svg_in import read_svg, transform
from ovolo.geometry.curves.curve import Curve
from ovolo.geometry.curves.pieces import Arc
from ovolo.outcome.outcome import outcome_of
from ovolo.problems import Failure
from tests.formats.test_drawings import DRAWN
from tests.sheets import run

HEAD = '<svg xmlns="http://www.w3.org/2000/svg" width="100mm" height="80mm" viewBox="0 0 100 80">'


def curves(body: str, head: str = HEAD) -> list[Curve]:
    return read_svg(f"{head}{body}</svg>".encode(), "a.svg")["all"]


def one(body: str, head: str = HEAD) -> Curve:
    (curve,) = curves(body, head)
    return curve


_NUMBER = st.floats(-40, 40).map(lambda x: round(x, 3))
_RADIUS = st.floats(1, 60).map(lambda x: round(x, 3))
_COMMAND = st.one_of(
    st.tuples(st.sampled_from("LlTt"), _NUMBER, _NUMBER),
    st.tuples(st.sampled_from("HhVv"), _NUMBER),
    st.tuples(st.sampled_from("QqSs"), *[_NUMBER] * 4),
    st.tuples(st.sampled_from("Cc"), *[_NUMBER] * 6),
    st.tuples(st.sampled_from("Aa"), _RADIUS, _RADIUS, _NUMBER, st.sampled_from([0, 1]), st.sampled_from([0, 1]), _NUMBER, _NUMBER),
)  # fmt: skip


@given(st.lists(_COMMAND, min_size=1, max_size=8))
@settings(max_examples=50, deadline=None)
def test_paths_are_those_of_another_reader(commands: list[tuple[object, ...]]) -> None:
    data = "M 1 2 " + " ".join(" ".join(map(str, command)) for command in commands)
    try:
        wanted = svgpathtools.parse_path(data)
        length = wanted.length(error=1e-9)
    except (ZeroDivisionError, ValueError, AssertionError, RuntimeWarning):
        return
    if length < 1e-3 or not math.isfinite(length):
        return
    found = one(f'<path d="{data}"/>')
    assert found.length == pytest.approx(length, rel=1e-5, abs=1e-5)
    end = wanted.end
    assert found.end[:2] == pytest.approx([end.real, 80 - end.imag], abs=1e-6)


@pytest.mark.parametrize(
    ("page", "told"),
    [
        ("width='80' height='40'", "the file says no unit: read in pixels, 96 to an inch"),
        ("viewBox='0 0 80 40'", "the file says no unit: read in pixels, 96 to an inch"),
        ("width='80mm' height='40mm' viewBox='0 0 80 40'", ""),
        ("width='2 in' viewBox='0 0 80 40'", ""),
    ],
)
def test_the_unit_that_was_assumed_is_told(page: str, told: str) -> None:
    data = f"<svg xmlns='http://www.w3.org/2000/svg' {page}><circle r='3'/></svg>".encode()
    assert look(read_svg(data, "x.svg"), 9).notes == ([told] if told else [])
    line = outcome_of('file x = "x.svg"', tables=read_files({"x.svg": data})).lines[0]
    hint = "x.svg says no unit: it is read in pixels, 96 to an inch"
    assert [note.message for note in line.notes] == ([hint] if told else [])


def test_basic_shapes() -> None:
    assert one('<line x1="10" y1="10" x2="40" y2="50"/>').length == pytest.approx(50)
    assert one('<rect x="5" y="5" width="30" height="20"/>').length == pytest.approx(100)
    rounded = one('<rect width="30" height="20" rx="5"/>')
    assert rounded.closed and rounded.length == pytest.approx(60 + 10 * math.pi)
    circle = one('<circle cx="50" cy="40" r="10"/>')
    assert isinstance(circle.pieces[0], Arc) and circle.pieces[0].is_circle
    assert circle.bounds()[:, :2] == pytest.approx(np.array([[40, 30], [60, 50]]))
    assert one('<ellipse cx="9" cy="9" rx="4" ry="4"/>').length == pytest.approx(8 * math.pi)
    assert one('<polygon points="0,0 30,0 30,40"/>').length == pytest.approx(120)
    assert not one('<polyline points="0,0 30,0 30,40"/>').closed


@pytest.mark.parametrize(
    ("head", "mm"),
    [
        ('<svg xmlns="http://www.w3.org/2000/svg" width="4in" height="2in" viewBox="0 0 400 200">', 0.254),
        ('<svg xmlns="http://www.w3.org/2000/svg" width="96" height="96">', 25.4 / 96),
        ('<svg xmlns="http://www.w3.org/2000/svg" width="21cm" height="29.7cm" viewBox="0 0 2100 2970">', 0.1),
        ('<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 96 96">', 25.4 / 96),
        ('<svg xmlns="http://www.w3.org/2000/svg" width="72pt" height="144pt" viewBox="0 0 1 2">', 25.4),
    ],
)  # fmt: skip
def test_units_of_the_page_are_those_of_css(head: str, mm: float) -> None:
    """CSS Values and Units: an inch is 96 px, 72 pt and 25.4 mm."""
    assert one('<line x2="1"/>', head).length == pytest.approx(mm)


def test_a_page_that_is_not_of_the_viewboxs_shape_is_filled_in_the_middle() -> None:
    head = '<svg xmlns="http://www.w3.org/2000/svg" width="200mm" height="100mm" viewBox="0 0 10 10">'  # fmt: skip
    assert one('<line x2="10"/>', head).bounds()[:, 0].tolist() == pytest.approx([50, 150])
    stretched = head.replace("viewBox", 'preserveAspectRatio="none" viewBox')
    assert one('<line x2="10"/>', stretched).length == pytest.approx(200)


def test_the_lower_left_corner_of_the_page_is_the_origin() -> None:
    line = one('<line x1="10" y1="70" x2="20" y2="60"/>')
    assert line.start[:2].tolist() == pytest.approx([10, 10])
    assert line.end[:2].tolist() == pytest.approx([20, 20])


def test_transforms_follow_each_other() -> None:
    """Rotation by 90° about (10, 10), as in the example of SVG 1.1, 7.6, is a move there and back."""
    assert transform("rotate(90 10 10)") == pytest.approx(
        transform("translate(10,10) rotate(90) translate(-10 -10)")
    )
    assert transform("scale(2)") == pytest.approx(transform("matrix(2 0 0 2 0 0)"))
    skewed = transform("skewX(45)") @ np.array([0, 1, 0, 1])
    assert skewed[:2] == pytest.approx([1, 1])
    nested = one(
        '<g transform="translate(10 0)"><g transform="scale(2)"><line x2="5"/></g></g>'
    ).bounds()
    assert nested[:, 0].tolist() == pytest.approx([10, 20])


def test_layers_are_outermost_groups() -> None:
    plot = read_svg(
        f'{HEAD}<g id="walls"><g id="inner"><line x2="5"/></g></g><g id="2nd layer"><line x2="7"/></g>'
        '<line x2="9"/><text>words</text></svg>'.encode(),
        "a.svg",
    )  # fmt: skip
    lengths = {name: [round(c.length, 9) for c in cs] for name, cs in plot.layers.items()}
    assert lengths == {"walls": [5], "_2nd_layer": [7], "drawing": [9]}
    assert plot.titles["_2nd_layer"] == "2nd layer" and plot.notes == (
        "left out, for they are no curves: 1 x text",
    )


def test_what_is_used_is_unfolded_and_what_is_hidden_is_not() -> None:
    body = (
        '<defs><circle id="hole" r="2"/></defs><use href="#hole" x="10" y="10"/>'
        '<symbol id="peg"><line x2="3"/></symbol><use href="#peg"/>'
        '<line x2="50" display="none"/><line x2="60" style="display: none"/>'
    )
    assert sorted(c.length for c in curves(body)) == pytest.approx([3, 4 * math.pi])


def test_what_we_write_is_read_back_in_its_place() -> None:
    outcome = run(*DRAWN)
    plot = read_svg(exported(outcome, "plate.svg"), "plate.svg")
    for name in ("rim", "oval", "edge", "wave", "half"):
        (read,) = plot[name]
        (drawn,) = outcome.parts[name].curves
        assert read.length == pytest.approx(drawn.length, rel=1e-7)
        assert read.bounds() == pytest.approx(drawn.bounds(), abs=1e-6)
    plate = plot["plate"]
    assert sum(c.length for c in plate) == pytest.approx(100 + 8 * math.pi)


def test_a_sheet_draws_by_a_file() -> None:
    files = read_files({"plot.svg": f'{HEAD}<g id="rim"><circle r="10"/></g></svg>'.encode()})
    outcome = outcome_of(
        'file plot = "plot.svg"\npart rim = region(plot.rim[0])\na = area(rim)', tables=files
    )
    assert not outcome.problems
    assert outcome.parts["rim"].area == pytest.approx(100 * math.pi)


BOMB = b"""<?xml version="1.0"?><!DOCTYPE svg [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;&a;&a;&a;">]>
<svg xmlns="http://www.w3.org/2000/svg"><text>&b;</text></svg>"""


@pytest.mark.parametrize(
    ("data", "said"),
    [
        (BOMB, "defines entities of its own"),
        (b'<!DOCTYPE svg [<!ENTITY x SYSTEM "file:///etc/passwd">]><svg>&x;</svg>', "entities"),
        (b"<svg", "cannot be read as SVG"),
        (b"\xff\xfe\x00", "cannot be read as SVG"),
        (b"<html></html>", "is not an SVG file"),
        (f"{HEAD}</svg>".encode(), "there are no curves"),
        (f'{HEAD}<path d="M 0 0 L 5"/></svg>'.encode(), "a <path> of a.svg cannot be read"),
        (f'{HEAD}<path d="L 5 5"/></svg>'.encode(), "a <path> of a.svg cannot be read"),
        (f'{HEAD}<path d="M 0 0 L 1e999 5"/></svg>'.encode(), "is not finite"),
        (f'{HEAD}<line x2="5 parsecs"/></svg>'.encode(), "the unit `parsecs` is not known|is no length"),
        (f'{HEAD}<use href="#nothing"/></svg>'.encode(), "which it does not hold"),
        (f'{HEAD}<g id="a"><use href="#a"/></g></svg>'.encode(), "nested more than 60 deep"),
        (f'{HEAD}<line x2="5" transform="spin(3)"/></svg>'.encode(), "is no transform"),
        (HEAD.replace("0 0 100 80", "0 0 0 80").encode() + b"</svg>", "a viewBox of a.svg is 0 x 80"),
        ((HEAD + '<line x2="5"/>' * 20_001 + "</svg>").encode(), "more than 20,000 curves"),
        (b" " * 5_000_001, "at most 5,000,000 are read"),
    ],
)  # fmt: skip
def test_malformed_and_hostile_files_are_refused_in_words(data: bytes, said: str) -> None:
    with pytest.raises(Failure, match=said):
        read_svg(data, "a.svg")


def test_a_tree_of_uses_that_grows_without_end_is_refused(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("ovolo.formats.svg_in.MOST_CURVES", 2_000)
    body = '<g id="l0"><line x2="5"/></g>' + "".join(
        f'<g id="l{n}"><use href="#l{n - 1}"/><use href="#l{n - 1}"/></g>' for n in range(1, 30)
    )
    with pytest.raises(Failure, match="more than 2,000 curves"):
        curves(body)


SHARES = '<rect x="10%" y="10%" width="50%" height="50%"/>'
BOX = '<rect width="10" height="10"/>'


@pytest.mark.parametrize(
    ("body", "low", "high"),
    [
        # SVG 1.1, 7.8: as large as fits, in the middle; then as large as covers, at the start.
        (f'<svg x="10" y="20" width="40" height="20" viewBox="0 0 10 10">{BOX}</svg>', (20, 40), (40, 60)),
        (f'<svg x="10" y="20" width="40" height="20" viewBox="0 0 10 10" preserveAspectRatio="xMinYMin slice">{BOX}</svg>', (10, 20), (50, 60)),
        (f'<svg x="10" y="20" width="40" height="20" viewBox="0 0 10 10" preserveAspectRatio="none">{BOX}</svg>', (10, 40), (50, 60)),
        (f'<symbol id="s" viewBox="0 0 10 10">{BOX}</symbol><use href="#s" x="5" y="5" width="20" height="10"/>', (10, 65), (20, 75)),
        # CSS Transforms 1: a sheet, a class, an id and the attribute, in that order of weight.
        (f'<style>.a {{transform: translate(10px, 5px) rotate(90deg)}}</style><g class="a">{BOX}</g>', (0, 65), (10, 75)),
        (f'<style>rect {{transform: scale(3)}} #b {{transform: scale(2)}}</style>{BOX.replace("<rect", "<rect id=&quot;b&quot;".replace("&quot;", chr(34)))}', (0, 60), (20, 80)),
        ('<rect width="10" height="4" style="transform: rotate(90deg); transform-origin: 10px 0"/>', (6, 80), (10, 90)),
        ('<rect width="10" height="4" style="transform: translate(1cm, 0.25in)"/>', (37.795275591, 52.0), (47.795275591, 56.0)),
        ('<style>.gone {display: none; fill: red}</style><rect class="gone" width="90" height="9"/><rect width="2" height="2"/>', (0, 78), (2, 80)),
        ('<style>circle {r: 5px; fill: none} g > a {fill: red}</style><circle cx="5" cy="5" r="1"/>', (0, 70), (10, 80)),
        # SVG 2, 8.9: of the width, of the height, and of the root of the mean square of both.
        (SHARES, (10, 32), (60, 72)),
        ('<circle cx="50%" cy="50%" r="10%"/>', (50 - math.hypot(10, 8) / 2**0.5, 40 - math.hypot(10, 8) / 2**0.5), (50 + math.hypot(10, 8) / 2**0.5, 40 + math.hypot(10, 8) / 2**0.5)),
        # Within a drawing they are shares of that; a drawing that says no size is as large as what is around it.
        (f'<svg x="20" y="10" width="40" height="20">{SHARES}</svg>', (24, 58), (44, 68)),
        (f'<svg x="20" y="10" width="40" height="20" viewBox="0 0 400 200">{SHARES}</svg>', (24, 58), (44, 68)),
        (f'<svg x="25%" y="25%" width="50%" height="50%">{SHARES}</svg>', (30, 36), (55, 56)),
        (f'<svg viewBox="0 0 10 10">{BOX}</svg>', (10, 0), (90, 80)),
        (f'<symbol id="s" viewBox="0 0 10 10">{BOX}</symbol><use href="#s" height="50%"/>', (30, 40), (70, 80)),
        # SVG 1.1, 5.8: the first of a switch that suits; and 11.5: what is hidden is not drawn, unless it says it is.
        (f'<switch><g systemLanguage="de"><rect width="99" height="9"/></g>{BOX}<circle r="50"/></switch>', (0, 70), (10, 80)),
        (f'<switch><g systemLanguage="fr, en-GB">{BOX}</g><circle r="50"/></switch>', (0, 70), (10, 80)),
        (f'<switch><g requiredExtensions="http://example.org/x"><circle r="9"/></g>{BOX}</switch>', (0, 70), (10, 80)),
        (f'<g visibility="hidden"><circle r="9"/>{BOX.replace("<rect", "<rect visibility=&quot;visible&quot;".replace("&quot;", chr(34)))}</g>', (0, 70), (10, 80)),
        # SVG 2, 7.2: of an ellipse that says one radius the other is the same.
        ('<ellipse cx="10" cy="10" rx="5" ry="auto"/>', (5, 65), (15, 75)),
        # What editors keep beside a drawing is of another vocabulary (Namespaces in XML).
        (f'<e:rect xmlns:e="urn:example:editor" width="99" height="9"/>{BOX}', (0, 70), (10, 80)),
    ],
)  # fmt: skip
def test_what_is_drawn_lies_where_the_standards_have_it(
    body: str, low: tuple[float, float], high: tuple[float, float]
) -> None:
    (curve,) = curves(body)
    found = curve.bounds()[:, :2]
    assert found == pytest.approx(np.array([low, high]), abs=1e-6)


def test_a_page_that_is_cut_is_as_large_as_it_covers() -> None:
    head = (
        '<svg xmlns="http://www.w3.org/2000/svg" width="100mm" height="50mm" '
        'viewBox="0 0 100 100" preserveAspectRatio="xMidYMid slice">'
    )
    assert one(BOX, head).bounds()[:, 1] == pytest.approx([65, 75])


@pytest.mark.parametrize(
    ("body", "message"),
    [
        (f"<style>g .a {{transform: scale(2)}}</style>{BOX}", "sets `transform` for `g .a`"),
        (f"<style>@media print {{rect {{display: none}}}}</style>{BOX}", "@media or the like"),
        (f'<g style="rotate: 30deg">{BOX}</g>', "sets `rotate` by CSS, which is not read"),
        (f'<g style="transform: translate(50%, 0)">{BOX}</g>', "is no transform that can be read"),
    ],
)
def test_css_that_is_not_read_is_refused_by_name(body: str, message: str) -> None:
    with pytest.raises(Failure) as caught:
        curves(body)
    assert message in caught.value.message


def test_shares_of_a_page_without_a_size_are_refused() -> None:
    with pytest.raises(Failure, match="says `50%` of a page that has no size"):
        curves('<rect width="50%" height="9"/>', '<svg xmlns="http://www.w3.org/2000/svg">')
