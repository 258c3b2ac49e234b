"""The outcome: values, parts, checks, dims, and their JSON."""

import json

import pytest

from tests.sheets import demo_outcome, run


def test_json_has_the_promised_form() -> None:
    result = demo_outcome("spiral-stair").as_json()
    assert json.loads(json.dumps(result, allow_nan=False)) == result
    assert set(result) == {"study", "values", "parts", "checks", "problems"}
    assert result["study"] == "Spiral stair to the dome"
    assert result["values"]["rise"] == {
        "kind": "length", "value": 180, "unit": "mm", "text": "180 mm", "line": 9, "label": "Rise",
    }  # fmt: skip
    treads = result["parts"]["treads"]
    assert set(treads) == {
        "label",
        "items",
        "volume",
        "area",
        "length",
        "bounds",
        "closed",
        "triangles",
        "exact",
    }
    assert treads["exact"] is True
    assert treads["items"] == 17 and treads["closed"] is True and treads["length"] is None
    assert result["checks"][0] == {
        "text": "550 mm <= 2*rise + going <= 700 mm", "message": "2R + G is comfortable",
        "passed": True, "line": 11,
    }  # fmt: skip


def test_values_are_in_mm_degrees_and_lists() -> None:
    values = run(
        "a = 90°", "l = 1 in", "p = (1 cm, 2 cm)", "q = (1 cm, 2 cm, 3 cm)", "xs = [1 m, 2 m]",
        "v = 1 m^3", "s = box(1 m, 1 m, 1 m)", "t = \"x\"", "y = yes", "w = 2 rad/s", "c = 12 %",
    ).as_json()["values"]  # fmt: skip
    assert values["a"]["value"] == pytest.approx(90) and values["a"]["unit"] == "deg"
    assert values["l"]["value"] == 25.4
    assert values["p"]["value"] == [10, 20] and values["q"]["value"] == [10, 20, 30]
    assert values["xs"] | {"line": 0} == {
        "kind": "list", "value": [1000, 2000], "unit": "mm", "text": "1000, 2000 mm", "line": 0,
        "label": "",
    }  # fmt: skip
    assert values["v"]["value"] == 10**9
    assert values["s"]["value"] is None and values["s"]["kind"] == "solid"
    assert (values["t"]["value"], values["y"]["value"]) == ("x", True)
    assert values["w"]["kind"] == "other"
    assert values["w"]["value"] == pytest.approx(114.59155902616465)
    assert values["w"]["unit"] == "deg/s"
    assert values["c"]["value"] == 0.12


def test_a_problem_in_json() -> None:
    (problem,) = run("a = 1", "b = [1 / (i - 2) for i in 0 .. 3]").as_json()["problems"]
    assert problem | {"message": "", "hint": ""} == {
        "line": 2, "column": 8, "name": "b", "item": 2, "message": "", "hint": "", "items": [2],
    }  # fmt: skip


def test_checks_show_their_numbers() -> None:
    holds, fails, untried = run(
        "a = 3 mm", "check 1 mm <= a + 1 mm <= 3 mm", "check a >= 2 mm \"m\"", "check b > 1", "b = 1 / 0",
    ).checks  # fmt: skip
    assert (holds.passed, holds.measured) == (False, "1 mm <= 4 mm <= 3 mm")
    assert (fails.passed, fails.message) == (True, "m")
    assert untried.passed is None


def test_a_dim_disagrees_aloud() -> None:
    outcome = run("a = 100 mm", "dim a from (0 mm, 0 mm) to (99.9 mm, 0 mm)")
    (problem,) = outcome.problems
    assert "this dim says 100 mm, but the drawing measures 99.9 mm" in problem.message
    assert outcome.dims[0].wrong


def test_a_dim_within_a_hundredth_agrees() -> None:
    outcome = run("a = 100 mm", "dim a from (0 mm, 0 mm) to (60 mm, 80.005 mm)")
    assert outcome.well


def test_part_measures() -> None:
    parts = run(
        "part s = [box(1 m, 1 m, (i + 1) * 1 m).move(i * 2 m) for i in 0 .. 2] colour #abc",
        "part r = [rect(10 mm, 20 mm), rect(10 mm, 10 mm)]",
    ).parts
    assert parts["s"].volume == pytest.approx(6e9)
    assert parts["s"].area == pytest.approx(30e6)
    assert parts["s"].bounds == [[-500, -500, 0], [4500, 500, 3000]]
    assert parts["s"].colour == "#AABBCC" and parts["s"].triangles == 36
    assert parts["r"].area == pytest.approx(300) and parts["r"].volume is None
    assert not parts["r"].closed


def test_nested_lists_count_their_items() -> None:
    (part,) = run(
        "row_(j) = [box(1 mm, 1 mm, 1 mm).move(i * 2 mm, j * 2 mm) for i in 0 .. 3]",
        "part p = [row_(j) for j in 0 .. 2]",
    ).parts.values()
    assert part.count == 12
    assert [item for group in part.groups for item in group.items] == list(range(12))


def test_the_mass_of_a_part_is_that_of_its_material() -> None:
    outcome = run(
        "steel = 7850 kg/m^3", "part p = [box(10 cm, 10 cm, 10 cm) for i in 0 .. 2] material steel"
    )
    assert outcome.parts["p"].mass == pytest.approx(3 * 7.85)
    assert outcome.as_json()["parts"]["p"]["mass"] == pytest.approx(23.55)
    assert run("part p = box(1 m, 1 m, 1 m)").parts["p"].mass is None
    (problem,) = run("part p = box(1 m, 1 m, 1 m) material 7850").problems
    assert "a material must be" in problem.message
    (problem,) = run("part p = rect(1 m, 1 m) material 7850 kg/m^3").problems
    assert "only solids have a material" in problem.message
