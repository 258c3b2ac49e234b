"""Drawing files, read back by others: ezdxf with its audit, fontTools' reader of SVG paths."""

import io
import math
import re
from typing import Any
from xml.etree import ElementTree

import ezdxf
import pytest
from fontTools.pens.recordingPen import RecordingPen
from fontTools.svgLib.path import parse_path

from ovolo.formats.export import exported
from ovolo.outcome.outcome import Outcome
from ovolo.problems import Failure
from tests.sheets import demo, run

DRAWN = (
    'study "Plate"', "units mm",
    "part rim = circle(40 mm) colour slate",
    "part oval = ellipse(30 mm, 10 mm).turn(30°).move(100 mm)",
    "part edge = start((0 mm, 0 mm)).to((50 mm, 0 mm)).arc_to((50 mm, 30 mm), 15 mm).to((0 mm, 30 mm)).close()",
    "part wave = spline([(0 mm, -50 mm), (20 mm, -40 mm), (40 mm, -60 mm), (60 mm, -50 mm)])",
    "part half = arc((0 mm, 0 mm), 20 mm, 30°, 120°)",
    "part plate = rect(30 mm, 20 mm) - disc(4 mm)",
    "part solid = box(1 mm, 1 mm, 1 mm)",
    "dim 50 mm from (0 mm, 0 mm) to (50 mm, 0 mm) offset 10 mm",
)  # fmt: skip


def drawing(outcome: Outcome, name: str = "plate.dxf", *parts: str) -> Any:
    text = exported(outcome, name, parts).decode()
    document = ezdxf.read(io.StringIO(text))  # type: ignore[attr-defined]
    assert not document.audit().has_errors
    return document


def test_entities_stay_what_they_are_on_a_layer_each() -> None:
    document = drawing(run(*DRAWN))
    assert document.units == 4, "mm"
    kinds: dict[str, str] = {}
    for entity in document.modelspace():
        kinds.setdefault(entity.dxf.layer, entity.dxftype())
    del kinds["dims"]
    assert kinds == {
        "rim": "CIRCLE", "oval": "ELLIPSE", "edge": "LWPOLYLINE", "wave": "SPLINE", "half": "ARC",
        "plate": "LWPOLYLINE",
    }  # fmt: skip
    assert document.modelspace().query("CIRCLE")[0].dxf.radius == 40
    assert document.modelspace().query("DIMENSION")[0].get_measurement() == pytest.approx(50)
    assert document.layers.get("rim").rgb == (0xA9, 0xB4, 0xBA)


def test_measures_read_back_are_those_of_the_study() -> None:
    outcome = run(*DRAWN)
    space = drawing(outcome).modelspace()
    arc = space.query("ARC")[0]
    assert math.radians(
        (arc.dxf.end_angle - arc.dxf.start_angle) % 360
    ) * arc.dxf.radius == pytest.approx(outcome.parts["half"].length, rel=1e-12)
    ellipse = space.query("ELLIPSE")[0]
    assert ellipse.dxf.ratio == pytest.approx(1 / 3)
    assert ellipse.dxf.major_axis.magnitude == pytest.approx(30)
    assert math.degrees(ellipse.dxf.major_axis.angle) % 180 == pytest.approx(30)
    (edge,) = space.query('LWPOLYLINE[layer=="edge"]')
    assert edge.closed and sorted(round(p[4], 9) for p in edge.get_points())[-1] == pytest.approx(
        1.0
    )
    spline = space.query("SPLINE")[0].construction_tool()
    length = sum(
        (b - a).magnitude
        for a, b in zip(
            list(spline.approximate(4000))[:-1], list(spline.approximate(4000))[1:], strict=True
        )
    )
    assert length == pytest.approx(outcome.parts["wave"].length, rel=1e-6)


def test_the_window_is_exact_in_its_drawing() -> None:
    outcome = run(*demo("slit-window").split("\n"))
    space = drawing(outcome).modelspace()
    (outline,) = space.query('LWPOLYLINE[layer=="outline"]')
    bulges = [point[4] for point in outline.get_points()]
    sweep = 4 * math.atan(max(bulges))
    splay = math.radians(4)
    assert sweep == pytest.approx(math.pi + 2 * splay, rel=1e-9), "half a turn and both splays"


def test_dims_are_entities_of_their_kind() -> None:
    outcome = run(
        "part d = disc(40 mm) hatch 45°, 8 mm",
        "dim radius 40 mm about (0 mm, 0 mm) through polar(40 mm, 40°)",
        "dim diameter 80 mm about (0 mm, 0 mm) through polar(40 mm, 140°)",
        "dim angle 30° at (90 mm, 0 mm) from (150 mm, 0 mm) to (90 mm, 0 mm) + polar(60 mm, 30°)",
    )
    space = drawing(outcome).modelspace()
    measured = {dim.dimtype & 7: dim.get_measurement() for dim in space.query("DIMENSION")}
    assert measured[4] == pytest.approx(40) and measured[3] == pytest.approx(80)
    assert measured[5] == pytest.approx(30)
    assert len(space.query('LINE[layer=="d"]')) == len(outcome.parts["d"].hatching)


def svg_of(outcome: Outcome, *parts: str) -> Any:
    return ElementTree.fromstring(exported(outcome, "x.svg", parts))


def test_svg_paths_are_read_by_another_reader() -> None:
    outcome = run(*DRAWN)
    root = svg_of(outcome)
    assert re.fullmatch(r"[\d.]+mm", root.get("width"))
    groups = {g.get("id"): g for g in root if g.tag.endswith("}g")}
    assert set(groups) == {"rim", "oval", "edge", "wave", "half", "plate", "dims"}
    assert groups.pop("dims").findall(".//{*}text")[0].text == "50 mm"
    assert groups["plate"].findall("{*}path")[0].get("fill") == "#F3EFE6"
    assert groups["rim"].get("fill") == "none"
    for name, group in groups.items():
        pen = RecordingPen()
        (path,) = [child for child in group if child.tag.endswith("}path")]
        parse_path(path.get("d"), pen)
        points = [p for command, points in pen.value for p in points]
        assert points, name
        low, high = outcome.parts[name].bounds or [[0, 0], [0, 0]]
        xs = [p[0] for p in points]
        assert low[0] - 12 <= min(xs) and max(xs) <= high[0] + 12, "control points stay near"
        ends = [p[-1] for command, p in pen.value if p]
        assert (
            min(-y for _, y in ends) >= low[1] - 1e-6 and max(-y for _, y in ends) <= high[1] + 1e-6
        )


def places(pen: RecordingPen) -> list[tuple[float, float]]:
    """The middles of what another reader made of a path."""
    found, here = [], (0.0, 0.0)
    for command, points in pen.value:
        if command == "curveTo":
            weights = (1 / 8, 3 / 8, 3 / 8, 1 / 8)
            poles = (here, *points)
            found.append(
                tuple(sum(w * p[k] for w, p in zip(weights, poles, strict=True)) for k in (0, 1))
            )
        if points:
            here = points[-1]
            found.append(here)
    return found  # type: ignore[return-value]


@pytest.mark.parametrize(("a0", "a1"), [(30, 120), (120, 30), (0, 350), (10, -170), (-20, 20)])
def test_arcs_go_the_right_way_round(a0: float, a1: float) -> None:
    outcome = run(f"part a = arc((0 mm, 0 mm), 20 mm, {a0}°, {a1}°)")
    (path,) = [one for one in svg_of(outcome).iter() if one.tag.endswith("}path")]
    pen = RecordingPen()
    parse_path(path.get("d"), pen)
    middle = math.radians((a0 + a1) / 2)
    wanted = (20 * math.cos(middle), -20 * math.sin(middle))
    assert min(math.dist(place, wanted) for place in places(pen)) < 0.05


def test_titles_and_names_are_only_text() -> None:
    outcome = run('study "A <b> & c"', 'part p = circle(1 m) "<x>"')
    data = exported(outcome, "x.svg")
    assert b"<title>A &lt;b&gt; &amp; c</title>" in data and b"&lt;x&gt;" in data


def test_what_cannot_be_drawn_flat_is_refused_in_words() -> None:
    outcome = run("part h = helix(10 mm, 5 mm, 2)", "part b = box(1 m, 1 m, 1 m)")
    with pytest.raises(Failure, match="rises from 0 mm to 10 mm"):
        exported(outcome, "x.dxf", ["h"])
    with pytest.raises(Failure, match="`b` is not flat"):
        exported(outcome, "x.svg", ["b"])
    with pytest.raises(Failure, match="no flat parts"):
        exported(run("part b = box(1 m, 1 m, 1 m)"), "x.svg")
