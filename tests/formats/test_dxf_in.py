"""Drawings read as curves: what ezdxf writes comes back exact, and what is hostile is refused."""

import io
import itertools
import math
from collections.abc import Callable
from typing import Any

import ezdxf
import numpy as np
import pint
import pytest
from ezdxf.math import ConstructionEllipse, rational_bspline_from_ellipse
from hypothesis import given
from hypothesis import strategies as st
from scipy.interpolate import BSpline

from ovolo.formats.attached import look, read_files
from ovolo.formats.dxf_in import read_dxf
from ovolo.formats.export import exported
from ovolo.geometry.curves.curve import Curve, closest
from ovolo.outcome.outcome import outcome_of
from ovolo.problems import Failure
from tests.formats.test_drawings import DRAWN
from tests.sheets import run


def written(document: Any) -> bytes:
    text = io.StringIO()
    document.write(text)
    return text.getvalue().encode()


def plot(*sheet: str) -> dict[str, Any]:
    """The curves of a study, written and read again, by layer."""
    return read_dxf(exported(run(*sheet), "x.dxf"), "x.dxf").layers


def test_a_round_trip_loses_nothing() -> None:
    outcome = run(*DRAWN)
    layers = read_dxf(exported(outcome, "x.dxf"), "x.dxf").layers
    for name in ("rim", "oval", "edge", "wave", "half"):
        (back,) = layers[name]
        (curve,) = outcome.parts[name].curves
        assert back.length == pytest.approx(curve.length, rel=1e-9), name
        assert back.bounds() == pytest.approx(curve.bounds(), abs=1e-6), name
        assert back.closed == curve.closed
    assert len(layers["plate"]) == 2, "its outline and its hole"


@given(st.floats(-350, 350), st.floats(1, 358), st.floats(0.5, 400))
def test_arcs_of_any_kind_come_back(begin: float, sweep: float, radius: float) -> None:
    (back,) = plot(f"part a = arc((3 mm, -7 mm), {radius} mm, {begin}°, {begin + sweep}°)")["a"]
    assert back.length == pytest.approx(radius * math.radians(sweep), rel=1e-9)
    wanted = math.radians(begin + sweep / 2)
    middle = back.point_at(back.length / 2)
    assert middle[:2] == pytest.approx(
        [3 + radius * math.cos(wanted), -7 + radius * math.sin(wanted)], abs=1e-6
    )


def test_units_of_the_header_and_blocks() -> None:
    document = ezdxf.new("R2010")  # type: ignore[attr-defined]
    document.header["$INSUNITS"] = 1  # inches
    block = document.blocks.new("post")
    block.add_circle((0, 0), 2)
    space = document.modelspace()
    space.add_blockref("post", (10, 0), dxfattribs={"xscale": 0.5, "yscale": 0.5, "layer": "posts"})
    space.add_line((0, 0), (1, 0), dxfattribs={"layer": "2nd layer"})
    space.add_text("not a curve")
    found = read_dxf(written(document), "x.dxf")
    assert found.layers["_2nd_layer"][0].length == pytest.approx(25.4)
    assert found.titles["_2nd_layer"] == "2nd layer" and found.notes == (
        "left out, for they are no curves: 1 x TEXT",
    )
    (circle,) = next(curves for layer, curves in found.layers.items() if layer != "_2nd_layer")
    assert circle.length == pytest.approx(2 * math.pi * 25.4)


def test_what_was_assumed_and_what_is_not_shown_is_told() -> None:
    document = ezdxf.new("R2010")  # type: ignore[attr-defined]
    document.header["$INSUNITS"] = 0
    document.layers.add("hidden").off()
    document.layers.add("cold").freeze()
    for layer in ("hidden", "cold", "seen"):
        document.modelspace().add_line((0, 0), (7, 0), dxfattribs={"layer": layer})
    read = read_dxf(written(document), "site.dxf")
    assert look(read, 9).notes == [
        "the file says no unit: read in mm",
        "off or frozen in the file, read all the same: hidden, cold",
    ]
    tables = read_files({"site.dxf": written(document)})
    outcome = outcome_of('file site = "site.dxf"\nfar = length(site.hidden[0])', tables=tables)
    assert outcome.lines[1].value == 7.0
    remarks = [note.message for note in outcome.lines[0].notes]
    assert remarks == ["site.dxf says no unit: it is read in mm"]
    document.header["$INSUNITS"] = 4
    (note,) = look(read_dxf(written(document), "site.dxf"), 9).notes
    assert note.startswith("off or frozen")


UNITS = {
    1: "inch", 2: "foot", 3: "mile", 4: "millimeter", 5: "centimeter", 6: "meter", 7: "kilometer", 9: "thou", 10: "yard", 11: "angstrom",
    12: "nanometer", 13: "micrometer", 14: "decimeter", 18: "astronomical_unit", 19: "light_year", 20: "parsec", 21: "survey_foot",
    24: "survey_mile",
}  # fmt: skip


def test_units_are_those_of_pint() -> None:
    """By the codes of $INSUNITS (DXF reference). A parsec is an arc of a second there, and its tangent in pint."""
    known = pint.UnitRegistry()
    for code, unit in UNITS.items():
        document = ezdxf.new("R2010", units=code)  # type: ignore[attr-defined]
        document.modelspace().add_line((0, 0), (1e6, 0))
        wanted = float(known.Quantity(1e6, unit).to("millimeter").magnitude)
        (line,) = read_dxf(written(document), "x.dxf").layers["_0"]
        assert line.length == pytest.approx(wanted, rel=1e-10 if unit == "parsec" else 1e-14), unit


def test_a_sheet_draws_on_a_plot() -> None:
    data = exported(
        run("part rim = circle(40 mm)", "part axis = line((0 mm, 0 mm), (90 mm, 0 mm))"), "x.dxf"
    )
    outcome = outcome_of(
        'file plan = "plan.dxf"\npart ring = region(offset(plan.rim[0], 10 mm)) - region(plan.rim[0])\n'
        "reach = length(plan.axis)\nn = len(plan.all)\nodd = plan.spam",
        tables=read_files({"plan.dxf": data}),
    )  # fmt: skip
    assert outcome.parts["ring"].area == pytest.approx(math.pi * (50**2 - 40**2), rel=2e-3)
    values = outcome.as_json()["values"]
    assert values["reach"]["value"] == pytest.approx(90) and values["n"]["value"] == 2
    (problem,) = outcome.problems
    assert "has no `.spam`" in problem.message


@pytest.mark.parametrize(
    ("data", "said"),
    [
        (b"", "is not a DXF file"),
        (b"\x89PNG\r\n\x1a\n" + bytes(500), "is not a DXF file"),
        (b"0\nSECTION\n2\nENTITIES\n0\nLINE\n10\nx\n", "x.dxf"),
        (b"0\nSECTION\n" * 1000, "x.dxf"),
        (bytes(5_000_001), "at most 5,000,000 are read"),
    ],
)
def test_what_is_no_drawing_is_refused(data: bytes, said: str) -> None:
    with pytest.raises(Failure, match=said):
        read_dxf(data, "x.dxf")


def test_a_drawing_without_curves_says_what_it_holds() -> None:
    document = ezdxf.new("R2010")  # type: ignore[attr-defined]
    document.modelspace().add_text("only words")
    with pytest.raises(Failure, match="no curves") as caught:
        read_dxf(written(document), "x.dxf")
    assert "1 x TEXT" in caught.value.hint


def test_an_ending_that_is_not_known() -> None:
    failure = read_files({"x.pdf": b"%PDF"})["x.pdf"]
    assert isinstance(failure, Failure) and "known: .3mf, .stl" in failure.hint


def test_a_block_stands_in_every_row_and_column() -> None:
    """Six copies, placed by hand: a row of two by three, turned by 30° about its first place."""
    document = ezdxf.new(units=ezdxf.units.MM)
    document.blocks.new("PEG").add_circle((0, 0), 2)
    document.modelspace().add_blockref(
        "PEG", (5, 5),
        dxfattribs={"row_count": 2, "column_count": 3, "row_spacing": 10, "column_spacing": 20, "rotation": 30},
    )  # fmt: skip
    found = [
        curve.bounds().mean(axis=0)[:2] for curve in read_dxf(written(document), "x.dxf")["all"]
    ]
    c, s = math.cos(math.radians(30)), math.sin(math.radians(30))
    places = [(20 * i, 10 * j) for j in range(2) for i in range(3)]
    wanted = [(5 + x * c - y * s, 5 + x * s + y * c) for x, y in places]
    for place in wanted:
        assert min(math.dist(place, one) for one in found) < 1e-9
    assert len(found) == 6


def test_a_decimal_comma_is_told_by_its_line() -> None:
    document = ezdxf.new()
    document.modelspace().add_line((0.25, 0), (1, 0))
    text = written(document).decode()
    line = text.split("\n").index("0.25") + 1
    with pytest.raises(Failure, match=f"line {line} of x.dxf has `0,25`: a decimal comma"):
        read_dxf(text.replace("\n0.25\n", "\n0,25\n").encode(), "x.dxf")


def drawn(draw: Callable[[Any, Any], object]) -> dict[str, list[Curve]]:
    """What is drawn in model space, read again, by layer."""
    document = ezdxf.new("R2010", units=4)  # type: ignore[attr-defined]
    draw(document, document.modelspace())
    return read_dxf(written(document), "x.dxf").layers


@pytest.mark.parametrize("end", [6.283185, 6.2831853, 6.28318531, 6.2831853072, 6.283185307179586])
def test_a_whole_ellipse_is_whole_however_its_end_was_rounded(end: float) -> None:
    (oval,) = drawn(lambda _, space: space.add_ellipse((0, 0), (10, 0), 0.5, 0, end))["_0"]
    assert oval.closed and oval.bounds()[1] == pytest.approx([10, 5, 0], abs=1e-6)
    (ring,) = drawn(lambda _, space: space.add_arc((0, 0), 5, 90, 90 + math.degrees(end)))["_0"]
    assert ring.length == pytest.approx(10 * math.pi, rel=1e-6)


def test_a_fitted_polyline_runs_on_its_curve_and_at_its_height() -> None:
    """DXF reference, POLYLINE and VERTEX: corners of the frame (70: 16) are none of the curve; 30 of the polyline is its
    height."""

    def draw(_: Any, space: Any) -> None:
        line = space.add_polyline2d([(0, 0), (5, 50), (10, 0), (10, 10)])
        line.dxf.elevation = (0, 0, 7)
        line.dxf.flags, line.vertices[1].dxf.flags = 4, 16

    (line,) = drawn(draw)["_0"]
    assert line.bounds() == pytest.approx(np.array([[0, 0, 7], [10, 10, 7]])) and line.length == 20


def test_blocks_have_layers_and_hide_things() -> None:
    """DXF reference: layer 0 within a block is that of the block; 60 hides an entity, as in blocks of several states."""

    def draw(document: Any, space: Any) -> None:
        inner, outer = document.blocks.new("inner"), document.blocks.new("outer")
        inner.add_line((0, 0), (1, 0))
        inner.add_line((0, 0), (2, 0), dxfattribs={"layer": "own"})
        inner.add_line((0, 0), (9, 0), dxfattribs={"invisible": 1})
        outer.add_blockref("inner", (0, 0))
        space.add_blockref("outer", (5, 5), dxfattribs={"layer": "walls"})
        space.add_blockref("inner", (5, 5), dxfattribs={"layer": "walls", "invisible": 1})

    found = {layer: [one.length for one in curves] for layer, curves in drawn(draw).items()}
    assert found == {"walls": [1.0], "own": [2.0]}


CLAMPED = [0, 0, 0, 0, 1, 2, 2, 2, 2]
LOOSE = [0, 1, 2, 3, 4, 5, 6, 7, 8]
EXACT = [
    (3, CLAMPED),
    (3, LOOSE),
    (2, [0, 0, 0, 1, 1, 2, 2, 2]),
    (1, [0, 0, 1, 2, 3, 4, 4]),
]
NEAR = [
    (4, [0, 0, 0, 0, 0, 1, 1, 1, 1, 1], [1, 1, 1, 1, 1]),
    (3, CLAMPED, [1, 2, 0.5, 3, 1]),
    (3, LOOSE, [1, 2, 0.5, 3, 1]),
]
POLES = np.array([[0, 0, 0], [10, 30, 5], [40, 20, 0], [50, -20, 8], [90, 0, 1]], dtype=float)


def spline(degree: int, knots: list[float], weights: list[float]) -> Curve:
    def draw(_: Any, space: Any) -> None:
        made = space.add_spline(degree=degree)
        made.control_points, made.knots, made.weights = POLES, knots, weights

    (curve,) = drawn(draw)["_0"]
    return curve


@pytest.mark.parametrize(("degree", "knots"), EXACT)
def test_splines_that_are_cubics_run_where_scipy_has_them(degree: int, knots: list[float]) -> None:
    """Span by span on their own domain, from knot `degree` to the last but as many."""
    curve = spline(degree, knots, [])
    ends = np.unique(knots[degree : len(POLES) + 1])
    assert len(curve.pieces) == len(ends) - 1
    shares = np.linspace(0, 1, 6)
    found = np.array([piece.at(t) for piece in curve.pieces for t in shares])
    at = np.concatenate([a + shares * (b - a) for a, b in itertools.pairwise(ends)])
    assert found == pytest.approx(
        BSpline(np.array(knots, dtype=float), POLES, degree)(at), abs=1e-9
    )


@pytest.mark.parametrize(("degree", "knots", "weights"), NEAR)
def test_other_splines_run_near_where_scipy_has_them(
    degree: int, knots: list[float], weights: list[float]
) -> None:
    """Nearer than a hundred-millionth of their size."""
    curve = spline(degree, knots, weights)
    share = np.array(weights)[:, None]
    whole = BSpline(np.array(knots, dtype=float), np.hstack([POLES * share, share]), degree)
    for at in np.linspace(knots[degree], knots[len(POLES)], 41)[:-1]:
        place = whole(at)[:3] / whole(at)[3]
        piece, t = closest(curve, place)
        assert np.linalg.norm(curve.pieces[piece].at(t) - place) < 90 * 1e-8 + 1e-6


def test_a_circle_of_weighted_parabolas_is_round() -> None:
    """Piegl and Tiller, The NURBS Book, 7.5: nine poles."""
    ring = ConstructionEllipse((0, 0, 0), (100, 0, 0), (0, 0, 1), 1.0)

    def draw(_: Any, space: Any) -> None:
        space.add_spline().apply_construction_tool(rational_bspline_from_ellipse(ring))

    (curve,) = drawn(draw)["_0"]
    assert curve.length == pytest.approx(200 * math.pi, rel=1e-8)
    places = np.array([curve.point_at(length) for length in np.linspace(0, 600, 61)])
    assert np.hypot(*places.T[:2]) == pytest.approx(100, abs=1e-5)


def test_a_spline_that_is_not_well_defined_is_passed_over() -> None:
    def draw(_: Any, space: Any) -> None:
        space.add_line((0, 0), (3, 0))
        made = space.add_spline(degree=3)
        made.control_points, made.knots = [(0, 0, 0), (1, 0, 0), (2, 0, 0)], [0, 1]

    assert [one.length for one in drawn(draw)["_0"]] == [3.0]
