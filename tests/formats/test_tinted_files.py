"""Colours of single items in the files, read back by lib3mf, trimesh and ezdxf."""

from __future__ import annotations

import io
import json
from typing import Any

import ezdxf
import lib3mf
import pytest
import trimesh

from ovolo.formats.export import exported
from ovolo.outcome.outcome import Outcome
from ovolo.problems import Failure
from ovolo.sheet.colours import channels, tint
from tests.sheets import run

TINTS = ["#102030", "#506070", "#102030"]


@pytest.fixture
def pegs() -> Outcome:
    return run(
        "part pegs = row(box(4 mm, 4 mm, 9 mm), 3, 20 mm) colour #102030 to #506070 by [1, 2, 1]",
        "part base = box(90 mm, 9 mm, 2 mm).move(z = -2 mm) colour oak",
    )


def test_objects_of_3mf(pegs: Outcome) -> None:
    model: Any = lib3mf.get_wrapper().CreateModel()
    reader = model.QueryReader("3mf")
    reader.SetStrictModeActive(True)
    reader.ReadFromBuffer(exported(pegs, "a.3mf"))
    assert reader.GetWarningCount() == 0
    groups = model.GetBaseMaterialGroups()
    assert groups.MoveNext()
    materials = groups.GetCurrentBaseMaterialGroup()
    placed: dict[str, int] = {}
    items = model.GetBuildItems()
    while items.MoveNext():
        resource = items.GetCurrent().GetObjectResource()
        number = resource.GetObjectLevelProperty()[1]
        colour = materials.GetDisplayColor(number)
        said = f"#{colour.Red:02X}{colour.Green:02X}{colour.Blue:02X}"
        placed[said] = placed.get(said, 0) + 1
    assert placed == {"#102030": 2, "#506070": 1, "#E9D9BE": 1}


def test_materials_of_gltf(pegs: Outcome) -> None:
    data = exported(pegs, "a.glb")
    size = int.from_bytes(data[12:16], "little")
    document = json.loads(data[20 : 20 + size])
    assert len(document["materials"]) == 3 and len(document["meshes"]) == 3
    used = [document["meshes"][node["mesh"]]["primitives"][0]["material"] for node in document["nodes"] if "mesh" in node]  # fmt: skip
    assert sorted(used.count(material) for material in set(used)) == [1, 1, 2]
    scene: Any = trimesh.load(io.BytesIO(data), file_type="glb")
    assert scene.to_geometry().volume * 1e9 == pytest.approx(3 * 4 * 4 * 9 + 90 * 9 * 2, rel=1e-5)


def test_entities_of_dxf(pegs: Outcome) -> None:
    document = ezdxf.read(io.StringIO(exported(pegs, "a.dxf").decode()))  # type: ignore[attr-defined]
    inserts = document.modelspace().query('INSERT[layer=="pegs"]')
    assert [insert.dxf.true_color for insert in inserts] == [int(one[1:], 16) for one in TINTS]
    (base,) = document.modelspace().query('INSERT[layer=="base"]')
    assert not base.dxf.hasattr("true_color"), "it has the colour of its layer"
    assert document.layers.get("base").rgb == channels(tint("oak"))


def test_colours_as_figures() -> None:
    assert channels("#102030") == (16, 32, 48) and channels(tint("#abc")) == (170, 187, 204)
    with pytest.raises(Failure, match="not a colour"):
        tint("oat")
