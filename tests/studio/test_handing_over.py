"""Hand-overs over the web: looked at, taken, kept in a list, and made again."""

from __future__ import annotations

import io
import json
import zipfile
from typing import Any

import pytest
from django.test import Client
from django.urls import reverse

from studio.projects.models import HandedOver, Study

STL = {"formats": [{"ending": "stl"}]}


def ask(client: Client, study: Study, name: str, status: int = 200, /, **body: Any) -> Any:
    response = client.post(reverse(name, args=[study.pk]), body, "application/json")
    assert response.status_code == status, response.content[:300]
    return response.json() if response["Content-Type"] == "application/json" else response


def test_looked_at_taken_and_made_again(signed_in: Client, study: Study) -> None:
    looked = ask(signed_in, study, "hand-over-look", order=STL)
    assert [one["name"] for one in looked["manifest"]["files"]] == ["Wind vane.stl"]
    assert looked["pictures"][0]["svg"].endswith("</svg>\n")
    taken = ask(signed_in, study, "hand-over-take", order=STL, with_manifest=True)
    assert "Wind%20vane.zip" in taken["Content-Disposition"] or "Wind vane.zip" in taken["Content-Disposition"]  # fmt: skip
    alone = ask(signed_in, study, "hand-over-take", order=STL)
    assert "Wind vane.stl" in alone["Content-Disposition"]
    study.save_text(study.text.replace("300 mm", "500 mm"), study.head_id)
    number = HandedOver.objects.last().pk  # type: ignore[union-attr]
    again = ask(signed_in, study, "hand-over-again", number=number)
    assert again.content == taken.content, "of its own revision, to the byte"
    page = signed_in.get(reverse("hand-over-page", args=[study.pk]))
    past = page.context["state"]["past"]
    assert [one["now"] for one in past] == [False, False] and past[0]["name"] == "Wind vane.stl"


def test_what_has_changed_since_is_said(signed_in: Client, study: Study) -> None:
    study.attachments.create(name="bolts.csv", data=b"size\n3\n")
    study.save_text('bolts = file "bolts.csv"\npart b = [box(s * 1 mm, 5 mm, 5 mm) for s in bolts.size]'.replace("bolts = file", "file bolts ="), study.head_id)  # fmt: skip
    ask(signed_in, study, "hand-over-take", order=STL)
    number = HandedOver.objects.get().pk
    assert ask(signed_in, study, "hand-over-again", number=number).status_code == 200
    study.attachments.update(data=b"size\n4\n")
    told = ask(signed_in, study, "hand-over-again", 400, number=number)
    assert "Wind vane.stl would not be the same" in told["message"]
    assert ask(signed_in, study, "hand-over-again", number=number, anyway=True).status_code == 200
    assert "no such hand-over" in ask(signed_in, study, "hand-over-again", 400, number=10**6)["message"]  # fmt: skip


@pytest.mark.parametrize(
    "order",
    [{}, {"formats": 3}, {"formats": [{}]}, {"formats": [{"ending": "stl"}], "rule": "{x}"}, {"formats": [{"ending": "stl"}], "presets": [3]}],
)  # fmt: skip
def test_a_bad_order_is_refused(signed_in: Client, study: Study, order: Any) -> None:
    for name in ("hand-over-look", "hand-over-take"):
        assert ask(signed_in, study, name, 400, order=order)["message"]
    assert ask(signed_in, study, "hand-over-look", 400, order=[])["message"]
    assert not HandedOver.objects.exists()


def test_a_manifest_goes_with_several_files(signed_in: Client, study: Study) -> None:
    taken = ask(signed_in, study, "hand-over-take", order={**STL, "text": True})
    with zipfile.ZipFile(io.BytesIO(taken.content)) as folder:
        said = json.loads(folder.read("manifest.json"))
    assert said["revision"] == f"r{study.head_id}" and len(said["files"]) == 2


def test_a_sheet_of_figures_with_its_named_moments(signed_in: Client, study: Study) -> None:
    study.revisions.update(name="First idea")
    address = reverse("hand-over-sheet", args=[study.pk, "vane.svg"])
    figures = {
        "figures": "plan; front; section x",
        "dashed": "yes",
        "schedule": "yes",
        "paper": "A3",
    }
    drawn = signed_in.get(address, {**figures, "moments": "yes"}).content.decode()
    assert "A–A" in drawn and "First idea" in drawn and ">Mark<" in drawn
    assert "First idea" not in signed_in.get(address, figures).content.decode()
    refused = signed_in.get(address, {"figures": "plan; inside"})
    assert refused.status_code == 400 and "is no figure" in refused.content.decode()


def test_pinned_trials_of_a_contact_sheet_can_leave(signed_in: Client, study: Study) -> None:
    """What the page offers is what the page of variations shows under that number."""
    plan = {"kind": "roll", "number": 20, "roll": 3}
    ask(
        signed_in,
        study,
        "keep-contact-sheet",
        title="Rolled",
        plan=plan,
        shown={"pinned": [4, 400, "x"]},
    )
    ask(
        signed_in,
        study,
        "keep-contact-sheet",
        title="Gone",
        plan={"kind": "series", "inputs": ["gone"], "counts": [3]},
        shown={"pinned": [0]},
    )
    ask(signed_in, study, "keep-contact-sheet", title="Odd", plan=plan, shown={"pinned": 5})
    state = signed_in.get(reverse("hand-over-page", args=[study.pk])).context["state"]
    (trial,) = state["trials"]
    assert trial["title"] == "Rolled, number 5"
    tried = ask(signed_in, study, "trials", plan=plan, first=4, last=5)
    assert trial["set"] == tried["trials"][0]["settings"]
    study.save_text(study.text.replace("to 900 mm", "to 400 mm"), study.head_id)
    state = signed_in.get(reverse("hand-over-page", args=[study.pk])).context["state"]
    assert state["trials"] == [trial], (
        "other limits roll otherwise; what was pinned stays as it was"
    )
    looked = ask(
        signed_in, study, "hand-over-look", order={**STL, "presets": [], "trials": [trial]}
    )
    assert [one["name"] for one in looked["manifest"]["files"]] == [
        "Wind vane Rolled, number 5.stl"
    ]
    assert looked["manifest"]["inputs"]["Rolled, number 5"]["w"]["value"] == trial["set"]["w"]
