"""Files of solids, read back by others: trimesh, lib3mf, Khronos' glTF validator, gmsh."""

import io
import json
import math
import subprocess
import zipfile
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import trimesh

from ovolo.formats.attached import look, read_files
from ovolo.formats.export import exported
from ovolo.formats.solid_in import read_solid
from ovolo.outcome.outcome import Outcome, outcome_of
from ovolo.problems import Failure
from tests.sheets import run
from tests.witness import in_child

ROOT = Path(__file__).parents[2]
SHEET = (
    'study "Pier"',
    'part plate = extrude(rect(60 mm, 40 mm) - disc(8 mm) - slot(10 mm, 3 mm).move(x = 20 mm), 10 mm) colour oak "Base plate"',
    "part pegs = [cylinder(3 mm, 20 mm).move(x = i * 20 mm, y = 50 mm) for i in 0 .. 2] colour brass",
    "part ball = sphere(10 mm).move(y = -50 mm)",
    "part left = mirror(cone(10 mm, 20 mm), x).move(x = 80 mm)",
    "part ring = round_edges(box(20 mm, 20 mm, 20 mm), 2 mm).move(x = -80 mm)",
)


@pytest.fixture(scope="module")
def outcome() -> Outcome:
    return run(*SHEET)


def volumes(outcome: Outcome) -> dict[str, float]:
    return {name: part.volume or 0.0 for name, part in outcome.parts.items()}


@pytest.mark.parametrize(("ending", "size"), [("stl", 1.0), ("obj", 1.0), ("glb", 1e-9)])
def test_volumes_as_trimesh_reads_them(outcome: Outcome, ending: str, size: float) -> None:
    data = exported(outcome, f"a.{ending}")
    scene: Any = trimesh.load(io.BytesIO(data), file_type=ending)
    mesh = scene.to_geometry() if isinstance(scene, trimesh.Scene) else scene
    assert mesh.volume == pytest.approx(sum(volumes(outcome).values()) * size, rel=1e-3)


def test_objects_of_an_obj_have_names_and_are_closed(outcome: Outcome) -> None:
    text = exported(outcome, "a.obj").decode()
    names = [line[2:] for line in text.split("\n") if line.startswith("o ")]
    assert names == ["plate", "pegs.0", "pegs.1", "pegs.2", "ball", "left", "ring"]


def test_glb_is_valid_and_shares_copies(outcome: Outcome, tmp_path: Path) -> None:
    data = exported(outcome, "a.glb")
    path = tmp_path / "a.glb"
    path.write_bytes(data)
    script = (
        "require('gltf-validator').validateBytes(new Uint8Array(require('fs').readFileSync(process.argv[1])))"
        ".then((found) => console.log(JSON.stringify(found.issues)))"
    )
    said = subprocess.run(
        ["node", "-e", script, str(path)], cwd=ROOT, capture_output=True, text=True, check=True
    )
    issues = json.loads(said.stdout)
    assert issues["numErrors"] == 0 and issues["numWarnings"] == 0, issues["messages"]
    length = int.from_bytes(data[12:16], "little")
    document = json.loads(data[20 : 20 + length])
    pegs = [node for node in document["nodes"] if node["name"].startswith("pegs.")]
    assert len(pegs) == 3 and len({node["mesh"] for node in pegs}) == 1
    assert [m["name"] for m in document["materials"]] == list(outcome.parts)


def test_3mf_is_read_by_lib3mf_without_a_warning(outcome: Outcome) -> None:
    import lib3mf

    model = lib3mf.get_wrapper().CreateModel()
    reader = model.QueryReader("3mf")
    reader.SetStrictModeActive(True)
    reader.ReadFromBuffer(exported(outcome, "a.3mf"))
    assert reader.GetWarningCount() == 0
    assert model.GetUnit() == lib3mf.ModelUnit.MilliMeter
    meshes = model.GetMeshObjects()
    names = []
    while meshes.MoveNext():
        mesh = meshes.GetCurrentMeshObject()
        assert mesh.IsManifoldAndOriented()
        names.append(mesh.GetName())
    assert set(names) == set(outcome.parts)
    items = model.GetBuildItems()
    assert items.Count() == 7, "three pegs are one object in three places"
    colours = model.GetBaseMaterialGroups()
    colours.MoveNext()
    group = colours.GetCurrentBaseMaterialGroup()
    said = {group.GetName(i): group.GetDisplayColor(i) for i in group.GetAllPropertyIDs()}
    assert set(said) >= {"Base plate", "pegs"}
    assert (said["Base plate"].Red, said["Base plate"].Green, said["Base plate"].Blue) == (0xE9, 0xD9, 0xBE)  # fmt: skip


@pytest.mark.parametrize("ending", ["stl", "3mf"])
def test_solids_are_read_back(outcome: Outcome, ending: str) -> None:
    cast = read_solid(exported(outcome, f"a.{ending}"), f"a.{ending}")
    assert cast.solid.shape.closed and cast.mended == ()
    assert cast.solid.volume == pytest.approx(sum(volumes(outcome).values()), rel=1e-3)


def step_solids(data: bytes, tmp_path: Path) -> list[tuple[float, int]]:
    """Volume and number of faces of each solid, as gmsh reads them."""
    path = tmp_path / "a.step"
    path.write_bytes(data)
    found: list[tuple[float, int]] = in_child(lambda: _measured(str(path)))
    return found


def _measured(path: str) -> list[tuple[float, int]]:
    import gmsh

    gmsh.initialize(interruptible=False)
    gmsh.option.setNumber("General.Terminal", 0)
    found = gmsh.model.occ.importShapes(path)
    gmsh.model.occ.synchronize()
    return [
        (gmsh.model.occ.getMass(d, t), len(gmsh.model.getBoundary([(d, t)], oriented=False)))
        for d, t in found
        if d == 3
    ]


def test_step_has_exact_planes_and_cylinders(outcome: Outcome, tmp_path: Path) -> None:
    solids = step_solids(exported(outcome, "a.step"), tmp_path)
    assert len(solids) == 7
    plate = (60 * 40 - math.pi * 64 - (10 * 6 + math.pi * 9)) * 10
    assert solids[0][0] == pytest.approx(plate, rel=1e-9)
    assert solids[0][1] == 2 + 4 + 2 + 4, "its holes are cylinders, not chords"
    for volume, faces in solids[1:4]:
        assert volume == pytest.approx(math.pi * 9 * 20, rel=1e-9) and faces == 4
    assert solids[4] == (pytest.approx(4000 * math.pi / 3, rel=1e-9), 2), "a sphere, of two halves"
    assert solids[5] == (pytest.approx(2000 * math.pi / 3, rel=1e-9), 4), "a cone, mirrored"
    assert solids[6][0] == pytest.approx(volumes(outcome)["ring"], rel=1e-6)


PROFILE = "rect(20 mm, 10 mm).move(x = 30 mm)"


@pytest.mark.parametrize(
    ("made", "volume", "faces"),
    [
        # Pappus: the area times the way of its centroid
        (f"revolve({PROFILE})", 200 * 2 * math.pi * 30, 8),
        (f"revolve({PROFILE}, 90°)", 200 * math.pi / 2 * 30, 6),
        (f"revolve({PROFILE}, -300°)", 200 * math.pi * 5 / 3 * 30, 10),
        (f"mirror(revolve({PROFILE}, 200°), x)", 200 * math.pi * 10 / 9 * 30, 10),
        ("revolve(disc(5 mm).move(x = 20 mm))", 2 * math.pi**2 * 20 * 25, 4),
        ('revolve(disc(5 mm).move(x = 20 mm).on("front"), 180°)', math.pi**2 * 20 * 25, 4),
        (f"revolve({PROFILE} - disc(3 mm).move(x = 30 mm))", (200 - 9 * math.pi) * 60 * math.pi, 12),
        ("cone(20 mm, 30 mm)", math.pi * 400 * 10, 4),
        ("cone(20 mm, 30 mm, top = 10 mm).turn(40°, about = x)", math.pi * 10 * 700, 6),
        ("cone(0 mm, 30 mm, top = 10 mm)", math.pi * 1000, 4),
        ("scale(sphere(10 mm), 2).move(x = 7 mm)", 4 / 3 * math.pi * 8000, 2),
        # a spherical cap: pi h² (3 r - h) / 3
        ("revolve(disc(10 mm) & rect(20 mm, 20 mm).move(x = 10 mm, y = 16 mm))", math.pi * 16 * 26 / 3, 4),
    ],
)  # fmt: skip
def test_step_has_exact_revolutions(made: str, volume: float, faces: int, tmp_path: Path) -> None:
    outcome = run(f"part p = {made}")
    assert not outcome.problems, outcome.problems
    assert step_solids(exported(outcome, "a.step"), tmp_path) == [
        (pytest.approx(volume, rel=1e-8), faces)
    ]


def test_step_has_an_extrusion_in_pieces_as_so_many_solids(tmp_path: Path) -> None:
    outcome = run("part p = extrude(disc(5 mm) + disc(5 mm).move(x = 20 mm), 10 mm)")
    solids = step_solids(exported(outcome, "a.step"), tmp_path)
    assert solids == [(pytest.approx(250 * math.pi, rel=1e-9), 4)] * 2


def test_step_joins_what_lies_in_one_plane(tmp_path: Path) -> None:
    outcome = run("part p = box(40 mm, 40 mm, 40 mm) - box(20 mm, 20 mm, 80 mm)")
    ((volume, faces),) = step_solids(exported(outcome, "a.step"), tmp_path)
    assert volume == pytest.approx(48_000) and faces == 10


def test_step_refuses_too_many_faces() -> None:
    outcome = run("part p = [sphere(50 mm) - box(10 mm, 10 mm, i * 1 mm + 9 mm) for i in 0 .. 20]")
    with pytest.raises(
        Failure, match=r"this would be [\d,]+ faces; a STEP file has at most 20,000"
    ):
        exported(outcome, "a.step")


def test_step_writes_a_body_once_that_stands_in_many_places(tmp_path: Path) -> None:
    outcome = run("part p = ring(sphere(50 mm) - box(10 mm, 10 mm, 10 mm), 40, r = 1 m)")
    written = exported(outcome, "a.step")
    assert written.count(b"MANIFOLD_SOLID_BREP") == 1 and written.count(b"MAPPED_ITEM") == 40
    few = run("part p = ring(box(9 mm, 5 mm, 3 mm) - cylinder(1 mm, 3 mm), 7, r = 1 m)")
    solids = step_solids(exported(few, "a.step"), tmp_path)
    assert [volume for volume, _ in solids] == [pytest.approx(135 - 3 * math.pi)] * 7


def test_one_file_for_each_part(outcome: Outcome) -> None:
    folder = zipfile.ZipFile(io.BytesIO(exported(outcome, "parts.stl.zip")))
    assert folder.namelist() == [f"{name}.stl" for name in outcome.parts]
    for name in outcome.parts:
        mesh: Any = trimesh.load(io.BytesIO(folder.read(f"{name}.stl")), file_type="stl")
        assert mesh.volume == pytest.approx(volumes(outcome)[name], rel=1e-3)
    with pytest.raises(Failure, match="does not say what is in it"):
        exported(outcome, "parts.zip")


# --- reading ---


def text_stl(triangles: list[list[tuple[float, float, float]]]) -> bytes:
    lines = ["solid test"]
    for corners in triangles:
        lines += ["facet normal 0 0 0", "outer loop"]
        lines += [f"vertex {x} {y} {z}" for x, y, z in corners]
        lines += ["endloop", "endfacet"]
    return "\n".join([*lines, "endsolid"]).encode()


BOX: Any = trimesh.creation.box((10, 20, 30))
FACES = [[tuple(map(float, BOX.vertices[k])) for k in face] for face in BOX.faces]


def test_the_text_form_of_stl() -> None:
    cast = read_solid(text_stl(FACES), "a.stl")  # type: ignore[arg-type]
    assert cast.solid.volume == pytest.approx(6000) and cast.triangles == 12


def test_what_can_be_mended_is_and_is_told() -> None:
    broken = [face if at % 5 else face[::-1] for at, face in enumerate(FACES)]
    broken += [FACES[1], [FACES[0][0], FACES[0][0], FACES[0][1]]]
    cast = read_solid(text_stl(broken), "a.stl")  # type: ignore[arg-type]
    assert cast.solid.volume == pytest.approx(6000)
    assert set(cast.mended) == {
        "1 triangles without area dropped", "1 doubled triangles dropped", "3 triangles turned round",
    }  # fmt: skip
    inside_out = read_solid(text_stl([face[::-1] for face in FACES]), "a.stl")  # type: ignore[arg-type]
    assert inside_out.mended == ("turned inside out",) and inside_out.solid.volume > 0
    assert ["mended", "turned inside out"] in look(inside_out, 9).rows
    assert look(inside_out, 9).notes == ["the file says no unit: read in mm"]


@pytest.mark.parametrize("share", [0.1, 0.45])
def test_whatever_triangles_of_several_bodies_are_turned_they_are_turned_back(share: float) -> None:
    """Three balls apart, by trimesh's own figure of their volume."""
    balls: list[Any] = [trimesh.creation.icosphere(3, 5 + at) for at in range(3)]
    for at, ball in enumerate(balls):
        ball.apply_translation((20 * at, 0, 0))
    whole: Any = trimesh.util.concatenate(balls)
    turned = np.random.default_rng(4).random(len(whole.faces)) < share
    volume = float(whole.volume)
    whole.faces[turned] = whole.faces[turned][:, ::-1]
    cast = read_solid(whole.export(file_type="stl"), "a.stl")
    assert cast.mended == (f"{turned.sum()} triangles turned round",)
    assert cast.solid.volume == pytest.approx(volume, rel=1e-5)


def cube(size: float, at: float = 0.0, out: bool = True) -> Any:
    made: Any = trimesh.creation.box((size, size, size))
    made.apply_translation((at, at, at))
    if not out:
        made.invert()
    return made


OVERLAP = "what lies in several closed surfaces counts once"
TURNED = "1 of 2 closed surfaces turned inside out"
SURFACES = [
    ([cube(2), cube(2, 1)], 15, (OVERLAP,)),
    ([cube(2), cube(1)], 8, (OVERLAP,)),
    ([cube(2), cube(1, out=False)], 7, ()),
    ([cube(2), cube(1, out=False), cube(0.5)], 7.125, ()),
    ([cube(2), cube(1, 9)], 9, ()),
    ([cube(2), cube(1, 9, out=False)], 9, (TURNED,)),
    ([cube(2, out=False), cube(1), cube(9, 30)], 736, ("2 of 3 closed surfaces turned inside out",)),
    # Their boxes meet, they do not: what would be a hollow lies beside the other.
    ([trimesh.creation.annulus(5, 6, 1), cube(1, out=False)], None, (TURNED,)),
]  # fmt: skip


@pytest.mark.parametrize(("surfaces", "volume", "told"), SURFACES)
@pytest.mark.parametrize("size", [1.0, 10.0])
def test_closed_surfaces_of_one_file_are_put_together(
    surfaces: list[Any], volume: float | None, told: tuple[str, ...], size: float
) -> None:
    """What is enclosed counts once, hollows are left out, and what is inside out is turned: moved, turned and larger, too."""
    whole: Any = trimesh.util.concatenate(surfaces)
    ring = surfaces[0].volume
    whole.apply_transform(trimesh.transformations.rotation_matrix(0.7, (1, 2, 3)))
    whole.apply_scale(size)
    whole.apply_translation((70, -30, 12))
    cast = read_solid(whole.export(file_type="stl"), "a.stl")
    assert cast.solid.volume == pytest.approx((volume or ring + 1) * size**3, rel=1e-5)
    assert cast.mended == told


def test_what_holds_a_print_up_is_no_part_of_a_model() -> None:
    """3MF core specification 1.3, 4.2: the types of objects."""
    import lib3mf

    model = lib3mf.get_wrapper().CreateModel()
    reader = model.QueryReader("3mf")
    reader.ReadFromBuffer(exported(run("part body = box(10 mm, 20 mm, 30 mm)", "part prop = box(5 mm, 5 mm, 50 mm)"), "a.3mf"))  # fmt: skip
    meshes = model.GetMeshObjects()
    while meshes.MoveNext():
        if meshes.GetCurrentMeshObject().GetName() == "prop":
            meshes.GetCurrentMeshObject().SetType(lib3mf.ObjectType.Support)
    written = bytes(model.QueryWriter("3mf").WriteToBuffer())
    assert read_solid(written, "a.3mf").solid.volume == pytest.approx(6000)


@pytest.mark.parametrize("turn", [0, math.pi / 2])
@pytest.mark.parametrize("shift", [(2, 0, 0), (2, 0.5, 0.5), (2, 2, 0), (2, 2, 2)])
def test_bodies_that_touch_are_one(turn: float, shift: tuple[float, float, float]) -> None:
    """At a face (alike or not divided alike), at part of one, along an edge, at a corner."""
    other = cube(2)
    other.apply_transform(trimesh.transformations.rotation_matrix(turn, (1, 0, 0)))
    other.apply_translation(shift)
    both: Any = trimesh.util.concatenate([cube(2), other])
    cast = read_solid(both.export(file_type="stl"), "a.stl")
    assert cast.solid.volume == pytest.approx(16, rel=1e-6)
    met = {(2, 0, 0): 4.0, (2, 0.5, 0.5): 1.5**2}.get(shift, 0.0)
    assert cast.solid.area == pytest.approx(48 - 2 * met, rel=1e-6), (
        "no walls are left between them"
    )
    inner = shift == (2, 0, 0) and bool(turn)
    said = "2 triangles between bodies that touch dropped" if inner else "bodies that touch joined"
    assert cast.mended == ((said,) if met else ())


def test_a_sheet_works_on_a_solid_from_a_file() -> None:
    files = read_files({"bracket.stl": text_stl(FACES)})  # type: ignore[arg-type]
    outcome = outcome_of(
        'file bracket = "bracket.stl"\npart p = bracket - cylinder(2 mm, 50 mm).move(z = -25 mm)\nv = volume(bracket)',
        tables=files,
    )
    assert not outcome.problems and outcome.parts["p"].closed
    assert outcome.as_json()["values"]["v"]["value"] == pytest.approx(6000)


@pytest.mark.parametrize(
    ("data", "name", "said"),
    [
        (text_stl(FACES[1:]), "a.stl", "is not closed: 3 of its edges lack a neighbour"),  # type: ignore[arg-type]
        (b"solid nothing\nendsolid", "a.stl", "no triangles"),
        (b"\0" * 200, "a.stl", "is no STL file"),
        (b"solid x\nvertex 1 2 z\nvertex 1 2 3\nvertex 3 4 5", "a.stl", "is no number"),
        (b"solid x\nvertex 1 2 nan\nvertex 1 2 3\nvertex 3 4 5", "a.stl", "is not finite"),
        (b"solid x\nvertex 1 2 3", "a.stl", "ends within a triangle"),
        (b"PK\x03\x04 nonsense", "a.3mf", "cannot be read as 3MF"),
        (b" " * 20_000_001, "a.stl", "at most 20,000,000 are read"),
    ],
)
def test_what_is_no_solid_is_refused(data: bytes, name: str, said: str) -> None:
    with pytest.raises(Failure, match=said):
        read_solid(data, name)
