"""Copies stay copies in the files: blocks in DXF, representation maps in IFC; and the schedule.

IFC is validated by ifcopenshell against the schema and its rules, and measured by its geometry
engine; DXF is read back by ezdxf, with its audit.
"""

from __future__ import annotations

import io
import json
import math
from pathlib import Path
from typing import Any

import ezdxf
import ifcopenshell
import ifcopenshell.geom
import ifcopenshell.guid as guid
import ifcopenshell.validate
import numpy as np
import pytest
from ezdxf.math import Vec3

from ovolo.formats.export import exported
from ovolo.formats.table_csv import read_table
from ovolo.outcome.outcome import Outcome
from ovolo.outcome.schedule import cut_list, schedule
from ovolo.problems import Failure
from tests.meaning.test_used import beside, using
from tests.outcome.test_placed_schedule import POST
from tests.sheets import demo_outcome, run

PEGS = (
    'study "Pegs"',
    "part pegs = row(cylinder(3 mm, 20 mm).turn(30°, about = x), 5, 40 mm) colour brass",
    "part hooks = ring(box(4 mm, 2 mm, 9 mm).move(x = 60 mm) - box(2 mm, 2 mm, 2 mm).move(x = 61 mm), 6, mirrored = yes)",
    "part shades = row(box(10 mm, 10 mm, 5 mm), 4, 12 mm).move(y = 90 mm) colour by [1, 2, 2, 3]",
    "part lone = box(9 mm, 9 mm, 9 mm).move(y = -90 mm) colour steel",
)


def opened(data: bytes, tmp_path: Path) -> Any:
    path = tmp_path / "a.ifc"
    path.write_bytes(data)
    return ifcopenshell.open(str(path))


def faults(model: Any, monkeypatch: pytest.MonkeyPatch) -> list[Any]:
    """By the schema and its rules; without the long words for a rule that is broken, which each time take four seconds."""
    monkeypatch.setattr("_pytest.assertion.rewrite.rewrite_asserts", lambda **_: None)
    log = ifcopenshell.validate.json_logger()
    ifcopenshell.validate.validate(model, log, express_rules=True)
    return list(log.statements)


def test_ifc_is_valid(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    model = opened(exported(run(*PEGS), "a.ifc"), tmp_path)
    assert faults(model, monkeypatch) == []


def test_copies_share_a_map_in_ifc_and_keep_their_volume(tmp_path: Path) -> None:
    outcome = run(*PEGS)
    model = opened(exported(outcome, "a.ifc"), tmp_path)
    assert len(model.by_type("IfcBuildingElementProxy")) == 5 + 6 + 4 + 1
    # one for the pegs, two for the hooks and their mirror images, one for each of three tints, one
    assert len(model.by_type("IfcRepresentationMap")) == 1 + 2 + 3 + 1
    assert {one.Name for one in model.by_type("IfcElementAssembly")} == {"pegs", "hooks", "shades"}
    total = 0.0
    for item in model.by_type("IfcBuildingElementProxy"):
        mesh = ifcopenshell.geom.create_shape(ifcopenshell.geom.settings(), item).geometry
        corners = np.array(mesh.verts).reshape(-1, 3)
        a, b, c = (corners[np.array(mesh.faces).reshape(-1, 3)[:, at]] for at in range(3))
        total += float(np.einsum("ij,ij->", a, np.cross(b, c))) / 6 * 1e9
    whole = sum(part.volume or 0 for part in outcome.parts.values())
    assert total == pytest.approx(whole, rel=1e-3)


@pytest.mark.parametrize(
    "label", ["O'Hara", "Größe", "Peg 🔩", "back\\\\slash", "a;b", "#1"], ids=range(6)
)
def test_ifc_keeps_every_letter(label: str, tmp_path: Path) -> None:
    """Read back by ifcopenshell: identities, figures and texts of any letters."""
    outcome = run(f'part p = box(1e-7 m, 12345678.9 mm, 10 mm) "{label}"')
    model = opened(exported(outcome, "a.ifc"), tmp_path)
    (proxy,) = model.by_type("IfcBuildingElementProxy")
    assert proxy.Name == label.replace("\\\\", "\\")
    for one in model.by_type("IfcRoot"):
        assert guid.compress(guid.expand(one.GlobalId)) == one.GlobalId
    (operator,) = model.by_type("IfcCartesianTransformationOperator3DnonUniform")
    assert (operator.Scale, operator.Scale2, operator.Scale3) == pytest.approx((1e-4, 12345678.9, 10.0), rel=1e-15)  # fmt: skip


PLACED = (
    "input lean = 30°",
    "part a = baluster().move(1 m, 2 m, 300 mm)",
    "part b = baluster().turn(lean, x).turn(45°).move(-1 m, 0 m)",
    "part c = baluster(height = 2 m).move(2 m, 0 m)",
    "part d = laid((3 m, 0 m), (3 m, 4 m), l -> baluster(height = l))",
    "part h = laid((5 m, 0 m), (5 m, 3 m), l -> baluster(height = l))",
    "part k = laid((0 m, 9 m), (4 m, 9 m), l -> baluster(height = l))",
    "part e = baluster().scale(2)",
    "part f = box(1 m, 1 m, 1 m)",
    "part g = row(baluster(), 3, 300 mm)",
)


def in_space(placement: Any) -> Any:
    """The matrix of an IfcLocalPlacement (ISO 16739-1: the axes, one on the other)."""
    axes = placement.RelativePlacement
    place = np.eye(4)
    if axes.Axis is not None:
        z, x = np.array(axes.Axis.DirectionRatios), np.array(axes.RefDirection.DirectionRatios)
        place[:3, :3] = np.column_stack([x, np.cross(z, x), z])
    place[:3, 3] = axes.Location.Coordinates
    above = placement.PlacementRelTo
    return place if above is None else in_space(above) @ place


def test_placed_studies_are_occurrences_of_types_in_their_places(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Read back by ifcopenshell: the placement of each to a millionth of a mm, by the rules of plane
    geometry; those that are set alike have one type, and their items have that of their shape."""
    outcome = using(*PLACED, studies=beside(POST))
    model = opened(exported(outcome, "a.ifc"), tmp_path)
    assert faults(model, monkeypatch) == []
    found = {one.Tag: one for one in model.by_type("IfcElementAssembly")}
    c, s = math.cos(math.radians(30)), math.sin(math.radians(30))
    h = math.sqrt(0.5)
    wanted = {
        "a": [[1, 0, 0, 1000], [0, 1, 0, 2000], [0, 0, 1, 300]],
        "b": [[h, -h * c, h * s, -1000], [h, h * c, -h * s, 0], [0, s, c, 0]],
        "c": [[1, 0, 0, 2000], [0, 1, 0, 0], [0, 0, 1, 0]],
        "d": [[0, -1, 0, 3000], [1, 0, 0, 0], [0, 0, 1, 0]],
    }
    for name, place in wanted.items():
        matrix = in_space(found[name].ObjectPlacement)
        assert np.abs(matrix[:3] - np.array(place)).max() < 1e-6, name
    types = {one.Tag: one.IsTypedBy[0].RelatingType if one.IsTypedBy else None for one in found.values()}  # fmt: skip
    assert types["a"] == types["b"] and types["a"].Name == "Turned baluster"
    assert types["c"].Description == "height = 2 m" and types["d"].Description == "height = l"
    assert types["d"] == types["k"] != types["h"], "of one length, and of another"
    assert types["e"] is None and types["g"] is None, "scaled, and an array: not a placed study"
    for proxy in model.by_type("IfcBuildingElementProxy"):
        kind = proxy.IsTypedBy[0].RelatingType
        (item,) = proxy.Representation.Representations[0].Items
        assert item.MappingSource in kind.RepresentationMaps


def test_placed_studies_are_blocks_of_their_study_in_dxf() -> None:
    """Those that are alike share one; each insert stands on the layer of its part, and draws the corners
    that the part has."""
    outcome = using(*PLACED, studies=beside(POST))
    document = read_dxf(exported(outcome, "a.dxf"))
    inserts = {one.dxf.layer: one for one in document.modelspace().query("INSERT")}
    assert (
        inserts["a"].dxf.name == inserts["b"].dxf.name == inserts["e"].dxf.name == "Turned baluster"
    )
    assert inserts["d"].dxf.name == inserts["k"].dxf.name != inserts["h"].dxf.name
    for name in "abcdehk":
        corners = [
            tuple(vertex)
            for inner in inserts[name].virtual_entities()
            for mesh in inner.virtual_entities()
            for vertex in mesh.vertices
        ]
        found = [np.min(corners, axis=0), np.max(corners, axis=0)]
        assert found == pytest.approx(np.array(outcome.parts[name].bounds), abs=1e-6), name


def test_the_nodes_of_placed_studies_tell_what_they_are_in_gltf() -> None:
    data = exported(using(*PLACED, studies=beside(POST)), "a.glb")
    size = int.from_bytes(data[12:16], "little")
    nodes = {one["name"]: one for one in json.loads(data[20 : 20 + size])["nodes"]}
    assert nodes["c"]["extras"] == {"study": "Turned baluster", "settings": "height = 2 m"}
    assert "extras" not in nodes["f"] and len(nodes["c"]["children"]) == 2


def test_solids_stand_where_they_stand_whatever_they_are_gathered_in(tmp_path: Path) -> None:
    """The corners of every item, by ifcopenshell's geometry engine in space, against the part's bounds."""
    outcome = using(*PLACED, studies=beside(POST))
    model = opened(exported(outcome, "a.ifc"), tmp_path)
    settings = ifcopenshell.geom.settings()
    settings.set("use-world-coords", True)
    boxes: dict[str, Any] = {}
    for item in model.by_type("IfcBuildingElementProxy"):
        mesh = ifcopenshell.geom.create_shape(settings, item).geometry
        corners = 1000 * np.array(mesh.verts).reshape(-1, 3)
        boxes.setdefault(item.Tag.split(".")[0], []).append(corners)
    for name, part in outcome.parts.items():
        corners = np.concatenate(boxes[name])
        assert [corners.min(axis=0), corners.max(axis=0)] == pytest.approx(np.array(part.bounds), abs=1e-3)  # fmt: skip


def test_ifc_is_the_same_each_time() -> None:
    assert exported(run(*PEGS), "a.ifc") == exported(run(*PEGS), "a.ifc")


def read_dxf(data: bytes) -> Any:
    document = ezdxf.read(io.StringIO(data.decode()))  # type: ignore[attr-defined]
    assert not document.audit().has_errors
    return document


def test_equal_regions_are_blocks_in_dxf() -> None:
    outcome = run(
        "hand = region([(0 mm, 0 mm), (10 mm, 0 mm), (0 mm, 5 mm)])",
        "part p = join(ring(hand.move(x = 40 mm), 6), [mirror(hand, x)]) colour by 0 .. 6",
        "part lone = disc(9 mm)",
    )
    document = read_dxf(exported(outcome, "a.dxf"))
    space = document.modelspace()
    inserts = space.query("INSERT")
    assert len(inserts) == 7 and len(document.blocks.get("p")) == 1
    assert len({insert.dxf.true_color for insert in inserts}) == 7
    for insert, region in zip(inserts, outcome.parts["p"].regions, strict=True):
        (line,) = insert.virtual_entities()
        drawn = {Vec3(*p).round(6) for p in line.vertices_in_wcs()}
        assert drawn == {Vec3(*curve.start).round(6) for c in region.curves() for curve in c.pieces}
    assert len(space.query("CIRCLE LWPOLYLINE")) == 1


def test_solids_are_blocks_with_meshes_in_dxf() -> None:
    outcome = run(*PEGS)
    document = read_dxf(exported(outcome, "a.dxf"))
    inserts = document.modelspace().query("INSERT")
    assert len(inserts) == 16
    low, high = np.full(3, np.inf), np.full(3, -np.inf)
    for insert in inserts:
        for mesh in insert.virtual_entities():
            corners = np.array([tuple(vertex) for vertex in mesh.vertices])
            low, high = np.minimum(low, corners.min(axis=0)), np.maximum(high, corners.max(axis=0))
    bounds = np.array([part.bounds for part in outcome.parts.values()])
    np.testing.assert_allclose(low, bounds[:, 0].min(axis=0), atol=1e-6)
    np.testing.assert_allclose(high, bounds[:, 1].max(axis=0), atol=1e-6)


def test_flat_parts_come_first_in_dxf() -> None:
    outcome = run("part flat = disc(5 mm)", "part full = box(9 mm, 9 mm, 9 mm)")
    assert len(read_dxf(exported(outcome, "a.dxf")).modelspace().query("MESH INSERT")) == 0
    assert len(read_dxf(exported(outcome, "a.dxf", ["full"])).modelspace().query("INSERT")) == 1
    with pytest.raises(Failure, match="solid, another is flat"):
        exported(outcome, "a.dxf", ["flat", "full"])


# --- the schedule ---


def quantities(outcome: Outcome) -> list[tuple[str, int, tuple[float, ...]]]:
    found = schedule(list(outcome.parts.values()))
    return [(one.part, one.quantity, tuple(round(s, 3) for s in one.sizes)) for one in found]


def test_equal_pieces_are_found_by_their_shape() -> None:
    """Turned, moved, cut out of something else: a piece of the same shape is the same piece."""
    outcome = run(
        "a = box(200 mm, 40 mm, 20 mm)",
        "b = box(400 mm, 40 mm, 20 mm) - box(200 mm, 90 mm, 90 mm).move(x = 100 mm)",
        "part p = [a, a.turn(33°).move(x = 1 m), b, a.turn(90°, about = x), box(40 mm, 200 mm, 20 mm), box(199 mm, 40 mm, 20 mm)]",
    )
    assert quantities(outcome) == [("p", 5, (200, 40, 20)), ("p", 1, (199, 40, 20))]


def test_a_mirror_image_is_another_piece_where_it_differs() -> None:
    hand = "extrude(region([(0 mm, 0 mm), (90 mm, 0 mm), (30 mm, 20 mm), (0 mm, 50 mm)]), 10 mm) - box(9 mm, 9 mm, 4 mm).move(x = 10 mm, y = 10 mm, z = 6 mm)"
    both = run(f"h = {hand}", "part p = [h, mirror(h, x), h.turn(20°)]")
    assert sorted(quantity for _, quantity, _ in quantities(both)) == [1, 2]
    even = run("h = cone(20 mm, 30 mm)", "part p = [h, mirror(h, x)]")
    assert [quantity for _, quantity, _ in quantities(even)] == [2]


def test_totals_of_the_schedule_are_those_of_the_parts() -> None:
    for name in ("boardwalk", "telescope-pier", "baffle-tube"):
        parts = demo_outcome(name).parts
        for part in parts.values():
            pieces = schedule([part])
            assert sum(piece.quantity for piece in pieces) == part.count
            if part.volume is not None:
                total = sum(piece.quantity * (piece.volume or 0) for piece in pieces)
                assert total == pytest.approx(part.volume, rel=1e-6)


def test_a_cut_list_gathers_lengths_by_section() -> None:
    outcome = run(
        'part p = [box(b.length, 95 mm, 28 mm).move(x = b.middle) for b in bays(3 m, 800 mm, gap = 5 mm, rest = "cut")] material 480 kg/m^3',
        "part posts = row(box(90 mm, 90 mm, 2400 mm), 4, 1 m)",
    )
    pieces = schedule(list(outcome.parts.values()))
    assert [(one.mark, one.quantity) for one in pieces] == [("A", 3), ("B", 1), ("C", 4)]
    assert pieces[0].mass == pytest.approx(0.8 * 0.095 * 0.028 * 480)
    stocks = cut_list(pieces)
    assert [stock.section for stock in stocks] == [(95, 28), (90, 90)]
    assert stocks[0].lengths == ((pytest.approx(800), 3), (pytest.approx(585), 1))
    assert stocks[1].total == pytest.approx(9600)


def test_the_schedule_is_read_back_as_a_table() -> None:
    outcome = run(
        "part p = row(box(200 mm, 40 mm, 20 mm), 3, 1 m)",
        'part c = row(circle(30 mm), 2, 1 m) "Rings, thin"',
        "part r = disc(20 mm)",
    )
    data = exported(outcome, "schedule.csv")
    table = read_table(data, "schedule.csv")
    assert list(table["part"]) == ["p", "c", "r"] and list(table["quantity"]) == [3, 2, 1]
    assert list(table["label"]) == ["p", "Rings, thin", "r"]
    assert b"188.495559" in data, "the length of a circle is exact"


def test_many_different_pieces_are_refused() -> None:
    outcome = run("part p = [box((i + 1) * 1 mm, 1 mm, 1 mm) for i in 0 .. 5000]")
    with pytest.raises(Failure, match="5,001 different pieces"):
        exported(outcome, "a.csv")
