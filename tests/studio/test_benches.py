"""The benches over the web: a print in pieces, profiles of one's own, what is kept; bad requests."""

from __future__ import annotations

from typing import Any

import pytest
from django.test import Client
from django.urls import reverse

from studio.benches import setting_up
from studio.projects.models import MachineProfile, Study

MINE = 'title = "Mine"\n[layers]\nlayer = "0.25 mm"\n'


def ask(client: Client, study: Study | None, name: str, status: int = 200, /, *path: str, **body: Any) -> Any:  # fmt: skip
    address = reverse(name, args=[*([study.pk] if study else []), *path])
    response = client.post(address, body, "application/json")
    assert response.status_code == status, response.content[:300]
    plain = response["Content-Type"] == "application/json"
    return response.json() if plain else response.content


@pytest.fixture
def small(study: Study) -> Study:
    study.save_text('part cube = box(20 mm, 20 mm, 6 mm) "Cube"\npart foot = rect(5 mm, 5 mm)', study.head_id)  # fmt: skip
    return study


def test_a_print_in_pieces(signed_in: Client, small: Study) -> None:
    laid = ask(signed_in, small, "print-lay")
    count = laid["print"]["plates"][0]["layers"]
    assert count == 29 and laid["print"]["plates"][0]["solid"] == pytest.approx(2400)
    assert [(one["name"], one["role"]) for one in laid["parts"]] == [("cube", "print"), ("foot", "left out")]  # fmt: skip
    pieces = [ask(signed_in, small, "print-layers", first=at, last=min(at + 20, count)) for at in (0, 20)]  # fmt: skip
    figures = [one for piece in pieces for one in piece["figures"]]
    assert len(figures) == count
    lines = ask(signed_in, small, "print-layer", first=3)["lines"]
    assert lines[0]["role"] == "inner walls"
    at, volume = None, 0.0
    for first in (0, 20):
        run = ask(signed_in, small, "print-run", first=first, last=min(first + 20, count), at=at)
        at, volume = run["at"], volume + run["volume"]
    assert volume == pytest.approx(sum(one["volume"] for one in figures), rel=1e-3)
    code = ask(signed_in, small, "print-code")
    assert code.startswith(b"(Wind vane)") and code.rstrip().endswith(b"M2")


def test_settings_and_roles_are_read_where_they_are_typed(signed_in: Client, small: Study) -> None:
    assert (
        ask(signed_in, small, "print-lay", settings={"layer": "0.4"})["print"]["plates"][0][
            "layers"
        ]
        == 15
    )
    told = ask(signed_in, small, "print-lay", 400, settings={"layer": "0.4 kg"})
    assert "Layer height is a length" in told["message"]
    assert "no `colour`" in ask(signed_in, small, "print-lay", 400, settings={"colour": "red"})["message"]  # fmt: skip
    nothing = ask(signed_in, small, "print-lay", roles={"cube": "left out"})
    assert nothing["failure"]["said"] == "there is nothing to print" and nothing["rail"]
    assert "cannot be" in ask(signed_in, small, "print-lay", 400, roles={"cube": "all"})["message"]


@pytest.mark.parametrize(
    "body",
    [
        {"first": 0, "last": 61}, {"first": 5, "last": 5}, {"first": -1, "last": 3}, {"plate": 9, "first": 0, "last": 1},
        {"first": 0, "last": 10**9}, {"first": "a"}, {"settings": []}, {"roles": {"cube": 3}}, {"at": [1, 2], "first": 0, "last": 1},
        {"at": ["a"]}, {"machine": "None such"}, {"settings": {"walls": 10**9}}, {"settings": {"layer": None}},
    ],
)  # fmt: skip
def test_what_makes_no_sense_is_refused(
    signed_in: Client, small: Study, body: dict[str, Any]
) -> None:
    for name in ("print-layers", "print-run"):
        assert ask(signed_in, small, name, 400, **body)["message"]


def test_a_profile_of_ones_own(signed_in: Client, small: Study, django_user_model: Any) -> None:
    shipped = signed_in.get(reverse("profile-text", args=["printer"]), {"title": "Bench printer, 220 × 220 × 250"})  # fmt: skip
    assert not shipped.json()["own"] and "[layers]" in shipped.json()["text"]
    told = ask(signed_in, None, "keep-profile", 400, "printer", text=shipped.json()["text"])
    assert "one that is shipped" in told["message"]
    kept = ask(signed_in, None, "keep-profile", 200, "printer", text=MINE)
    assert {"title": "Mine", "own": True} in kept["profiles"]
    assert ask(signed_in, small, "print-lay", machine="Mine")["print"]["plates"][0]["layers"] == 24
    assert ask(signed_in, None, "keep-profile", 400, "printer", text="layer = 3")["message"]
    assert "title" in ask(signed_in, None, "keep-profile", 400, "printer", text="")["message"]
    other = Client()
    other.force_login(django_user_model.objects.create_user("fathom"))
    assert (
        other.get(reverse("profile-text", args=["printer"]), {"title": "Mine"}).status_code == 400
    )
    assert ask(other, None, "forget-profile", 400, "printer", title="Mine")["message"]
    ask(signed_in, None, "forget-profile", 200, "printer", title="Mine")
    assert not MachineProfile.objects.exists()
    assert ask(signed_in, None, "keep-profile", 400, "oven", text=MINE)["message"]


def test_heavy_work_goes_to_the_cluster_where_there_is_one(
    signed_in: Client, small: Study, monkeypatch: pytest.MonkeyPatch
) -> None:
    sent = []

    def on_cluster(seconds: float, task: Any, *arguments: Any) -> Any:
        sent.append(task.__name__)
        return task(*arguments)

    plain = ask(signed_in, small, "print-layers", first=0, last=9)
    monkeypatch.setattr(setting_up, "on_cluster", on_cluster)
    assert ask(signed_in, small, "print-layers", first=0, last=9) == plain
    assert ask(signed_in, small, "cut-lay")["plan"]["sheets"]
    ask(signed_in, small, "print-layer", first=0)
    assert sent == ["layer_figures", "lay"]


def test_what_another_study_or_setting_did_before_changes_nothing(signed_in: Client, small: Study) -> None:  # fmt: skip
    """Laid out again after other settings, other parts and another text, in the same workers."""
    first = {name: ask(signed_in, small, name) for name in ("print-lay", "cut-lay")}
    for said in ({"settings": {"layer": "0.4"}}, {"roles": {"cube": "left out"}}):
        ask(signed_in, small, "print-lay", **said)
    small.save_text('part cube = box(25 mm, 20 mm, 6 mm) "Cube"\npart foot = rect(5 mm, 5 mm)', small.head_id)  # fmt: skip
    assert ask(signed_in, small, "print-lay") != first["print-lay"]
    small.save_text('part cube = box(20 mm, 20 mm, 6 mm) "Cube"\npart foot = rect(5 mm, 5 mm)', small.head_id)  # fmt: skip
    for name, laid in first.items():
        assert ask(signed_in, small, name) == laid


def test_how_it_is_set_up_is_kept(signed_in: Client, small: Study) -> None:
    ask(signed_in, small, "keep-print", settings={"layer": "0.3 mm"}, roles={"cube": "print"})
    ask(signed_in, small, "keep-print", settings={"layer": "0.25 mm"})
    assert ask(signed_in, small, "keep-print", 400, settings={"layer": "9 kg"})["message"]
    assert ask(signed_in, small, "keep-print", 400, roles={str(at): "print" for at in range(1001)})[
        "message"
    ]
    page = signed_in.get(reverse("print-bench", args=[small.pk]))
    assert page.context["state"]["kept"]["settings"] == {"layer": "0.25 mm"}


# --- the cutting bench ---


def test_sheets_bars_and_their_files(signed_in: Client, small: Study) -> None:
    small.save_text("units mm\npart p = [rect(90 mm, 40 mm) - disc(8 mm) for i in 0 .. 4] \"Plates\"\npart post = box(40 mm, 40 mm, 900 mm)\npart ball = sphere(20 mm)", small.head_id)  # fmt: skip
    laid = ask(signed_in, small, "cut-lay", roles={"post": "left out"})
    assert len(laid["plan"]["sheets"]) == 1 and len(laid["plan"]["sheets"][0]["pieces"]) == 5
    assert "no flat piece" in laid["refused"][0]["said"]
    sawn = ask(signed_in, small, "cut-lay", roles={"p": "left out", "ball": "left out"})
    assert "1 piece from 1 bar" in sawn["bars"]["sections"][0]["said"]
    run = ask(signed_in, small, "cut-run", roles={"post": "left out"})
    assert all(one["free"] and one["off"] <= 0.01 for one in run["pieces"])
    tabs = ask(signed_in, small, "cut-run", roles={"post": "left out"}, settings={"tabs": "3"})
    assert all(one["held"] and not one["free"] for one in tabs["pieces"])
    for ending, begins in (("dxf", b"  0"), ("svg", b"<svg"), ("gcode", b"(Wind vane)"), ("pdf", b"%PDF"), ("csv", b"sheet,")):  # fmt: skip
        assert ask(signed_in, small, "cut-file", 200, ending, roles={"post": "left out"}).startswith(begins)  # fmt: skip
    assert ask(signed_in, small, "cut-file", 400, "exe")["message"]


def test_nothing_to_cut_still_says_what_can_be_set(signed_in: Client, small: Study) -> None:
    small.save_text("part ball = sphere(20 mm)", small.head_id)
    laid = ask(signed_in, small, "cut-lay")
    assert "not of one thickness" in laid["failure"]["said"] and laid["rail"] and laid["bars"]
    assert ask(signed_in, small, "cut-run", 400)["message"]
    told = ask(signed_in, small, "cut-lay", 400, settings={"kerf": "9 mm"})
    assert "do not fit" in told["message"] or "off the sheet" in told["message"]
    gone = ask(signed_in, small, "cut-lay", roles={"gone": "cut"})
    assert "not of one thickness" in gone["failure"]["said"], "what has gone is not looked for"
    assert ask(signed_in, small, "cut-run", 400, plate=7)["message"]
