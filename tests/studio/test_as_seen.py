"""What leaves is what was looked at: others, or another window, change the study in between."""

from __future__ import annotations

import io
import zipfile
from collections.abc import Callable
from typing import Any

import pytest
import trimesh
from django.http import HttpResponse
from django.test import Client
from django.urls import reverse

from ovolo.formats.attached import Sheet
from studio.projects.as_seen import tag_of
from studio.projects.models import HandedOver, MachineProfile, Study
from studio.rights.models import Link

STL = {"formats": [{"ending": "stl"}]}
PLATE = 'input w = 40 mm from 20 mm to 80 mm step 1 mm\nfile sizes = "s.csv"\nuse pin from "Pin"\npart plate = box(w, 20 mm, 2 mm)\npart pins = pin()'
PROFILE = 'title = "Mine"\n[layers]\nlayer = "0.25 mm"\n'


def post(client: Client, study: Study, name: str, seen: str = "", /, *path: str, **body: Any) -> HttpResponse:  # fmt: skip
    headers = {"X-As-Seen": seen} if seen else {}
    address = reverse(name, args=[study.pk, *path])
    return client.post(address, body, "application/json", headers=headers)  # type: ignore[return-value]


@pytest.fixture
def pin(study: Study) -> Study:
    made = Study.objects.create(project=study.project, title="Pin")
    made.save_text("part pin = box(3 mm, 3 mm, 9 mm)", None)
    return made


@pytest.fixture
def plate(study: Study, pin: Study) -> Study:
    study.attachments.create(name="s.csv", data=b"size\n3\n")
    MachineProfile.objects.create(owner=study.project.owner, machine="printer", title="Mine", text=PROFILE)  # fmt: skip
    study.save_text(PLATE, study.head_id)
    return study


def its_text(plate: Study) -> None:
    plate.save_text(plate.text.replace("40 mm", "50 mm"), plate.head_id)


def its_file(plate: Study) -> None:
    plate.attachments.update(data=b"size\n4\n")


def what_it_uses(plate: Study) -> None:
    pin = plate.project.studies.get(title="Pin")
    pin.save_text(pin.text.replace("9 mm", "8 mm"), pin.head_id)


def its_title(plate: Study) -> None:
    Study.objects.filter(pk=plate.pk).update(title="Other")


def the_machine(plate: Study) -> None:
    MachineProfile.objects.update(text=PROFILE.replace("0.25", "0.2"))


CHANGES = [its_text, its_file, what_it_uses, its_title]
PRINT = [("print-layers", {"first": 0, "last": 2}), ("print-layer", {"first": 1}), ("print-run", {"first": 0, "last": 2}), ("print-code", {})]  # fmt: skip


@pytest.mark.parametrize("change", [*CHANGES, the_machine])
def test_a_print_is_of_what_was_laid_out(
    change: Callable[[Study], None], signed_in: Client, plate: Study
) -> None:
    laid = post(signed_in, plate, "print-lay", machine="Mine")
    seen = laid["X-As-Seen"]
    for name, how in PRINT:
        assert post(signed_in, plate, name, seen, machine="Mine", **how).status_code == 200
    change(plate)
    for name, how in PRINT:
        told = post(signed_in, plate, name, seen, machine="Mine", **how)
        assert told.status_code == 412, name
        assert "has changed since" in told.json()["message"]  # type: ignore[attr-defined]
        assert post(signed_in, plate, name, machine="Mine", **how).status_code == 200, "none was seen"  # fmt: skip
    anew = post(signed_in, plate, "print-lay", seen, machine="Mine")
    assert anew.status_code == 200 and anew["X-As-Seen"] != seen
    assert post(signed_in, plate, "print-code", anew["X-As-Seen"], machine="Mine").status_code == 200  # fmt: skip


@pytest.mark.parametrize("change", CHANGES)
def test_cuts_are_of_what_was_nested(
    change: Callable[[Study], None], signed_in: Client, plate: Study
) -> None:
    seen = post(signed_in, plate, "cut-lay", roles={"pins": "left out"})["X-As-Seen"]
    asked = {"roles": {"pins": "left out"}}
    assert post(signed_in, plate, "cut-run", seen, **asked).status_code == 200
    assert post(signed_in, plate, "cut-file", seen, "dxf", **asked).status_code == 200
    change(plate)
    assert post(signed_in, plate, "cut-run", seen, **asked).status_code == 412
    assert post(signed_in, plate, "cut-file", seen, "dxf", **asked).status_code == 412


@pytest.mark.parametrize("change", CHANGES)
def test_what_is_handed_over_was_looked_at(
    change: Callable[[Study], None], signed_in: Client, plate: Study
) -> None:
    seen = post(signed_in, plate, "hand-over-look", order=STL)["X-As-Seen"]
    assert post(signed_in, plate, "hand-over-take", seen, order=STL).status_code == 200
    change(plate)
    assert post(signed_in, plate, "hand-over-take", seen, order=STL).status_code == 412
    assert HandedOver.objects.count() == 1, "what was refused has not left"
    anew = post(signed_in, plate, "hand-over-look", seen, order=STL)["X-As-Seen"]
    assert post(signed_in, plate, "hand-over-take", anew, order=STL).status_code == 200


def test_trials_of_a_plan_are_of_one_revision(signed_in: Client, plate: Study) -> None:
    """What comes later, the pictures, the files and what is kept: others turn the limits meanwhile."""
    plan = {"kind": "roll", "number": 6, "roll": 3}
    made = post(signed_in, plate, "plan", plan=plan).json()  # type: ignore[attr-defined]
    asked = {"plan": plan, "revision": made["revision"]}

    def trials(first: int, last: int) -> Any:
        told = post(signed_in, plate, "trials", first=first, last=last, **asked)
        return told.json()["trials"]  # type: ignore[attr-defined]

    def sizes() -> list[int]:
        numbers = [*range(6)]
        packed = post(signed_in, plate, "trial-files", numbers=numbers, file="parts.stl", **asked)
        with zipfile.ZipFile(io.BytesIO(packed.content)) as folder:
            return sorted(one.CRC for one in folder.infolist() if one.filename.endswith(".stl"))

    first, files = trials(0, 6), sizes()
    picture = {"set": {"w": 30}, "held": []}
    before = post(signed_in, plate, "small-picture", revision=made["revision"], **picture).content
    plate.save_text(plate.text.replace("to 80 mm", "to 300 mm").replace("2 mm)", "5 mm)"), plate.head_id)  # fmt: skip
    assert trials(0, 3) + trials(3, 6) == first and sizes() == files
    assert post(signed_in, plate, "small-picture", revision=made["revision"], **picture).content == before  # fmt: skip
    assert post(signed_in, plate, "small-picture", **picture).content != before
    post(signed_in, plate, "keep-contact-sheet", title="Six", **asked)
    assert plate.contact_sheets.get().text_of_id == made["revision"]  # type: ignore[attr-defined]
    anew = post(signed_in, plate, "plan", plan=plan).json()  # type: ignore[attr-defined]
    assert anew["revision"] == plate.head_id != made["revision"]
    asked["revision"] = plate.project.studies.get(title="Pin").head_id
    told = post(signed_in, plate, "trials", first=0, last=3, **asked)
    assert told.status_code == 400 and "no such revision" in told.content.decode()


def test_a_tag_is_of_all_that_a_study_rests_on(plate: Study) -> None:
    """Whatever order it comes in; nothing of one place is taken for something of another."""
    files = {"a": b"1", "b": Sheet("B", "x", {"c": b"2"})}
    tag = tag_of(plate, files)
    assert tag == tag_of(plate, dict(reversed(files.items())))
    others: list[dict[str, Any]] = [
        {}, {"a": b"1"}, {"a": b"1b"}, {"ab": b"1"}, {"a": b"1", "b": Sheet("B", "x", {"c": b"3"})},
        {"a": b"1", "b": Sheet("B", "xc", {"": b"2"})}, {"a": b"1", "b": Sheet("B", refused="x")},
    ]  # fmt: skip
    assert len({tag, *(tag_of(plate, one) for one in others), tag_of(plate, files, "more")}) == 9


def test_all_that_a_window_asks_for_is_of_what_it_shows(signed_in: Client, study: Study) -> None:
    """Files, drawings on paper, aims, reaches, bands and proofs, once another has changed the study."""
    study.save_text('input w = 30 mm from 10 mm to 90 mm\nhalf = w / 2\npart p = box(w, w, w)\ncheck w <= 50 mm', study.head_id)  # fmt: skip
    shown, home = study.head_id, f"/studies/{study.pk}/"
    asked: dict[str, dict[str, Any]] = {
        "aim": {"name": "half", "goal": "20 mm", "by": ["w"]}, "reach": {"name": "half"}, "bands": {"name": "w"}, "proof": {},
    }  # fmt: skip

    def told(revision: int | None) -> dict[str, bytes]:
        files = {
            "sheet.ovo": {},
            "hand-over/parts.stl": {},
            "hand-over/schedule.csv": {},
            "hand-over/sheet/p.svg": {"view": "front"},
        }
        answers = {one: signed_in.get(f"{home}{one}", {"revision": revision or "", **front}) for one, front in files.items()}  # fmt: skip
        answers |= {
            name: signed_in.post(reverse(name, args=[study.pk]), {**body, "revision": revision}, "application/json")
            for name, body in asked.items()
        }  # fmt: skip
        assert {one.status_code for one in answers.values()} == {200}, [
            one.content[:80] for one in answers.values()
        ]
        return {name: one.content for name, one in answers.items()}

    before = told(shown)
    assert told(None) == before
    study.save_text(study.text.replace("w / 2", "w / 4").replace("(w, w, w)", "(w, w, 2 * w)").replace("50 mm", "40 mm"), shown)  # fmt: skip
    assert told(shown) == before
    now = told(None)
    assert not [name for name in before if now[name] == before[name]]
    for gone in ("sheet.ovo", "hand-over/parts.stl"):
        assert signed_in.get(f"{home}{gone}", {"revision": "999999"}).status_code == 400


def test_who_may_only_look_sees_the_newest(client: Client, study: Study) -> None:
    """An older text could use what is beside it, which a link does not show."""
    link = Link.objects.create(project=study.project, study=study, by=study.project.owner, formats=["stl"])  # fmt: skip
    shown = study.head_id
    study.save_text(study.text.replace("10 mm)", "20 mm)"), shown)
    address = reverse("link-hand-over", args=[link.token, study.pk, "parts.stl"])
    newest = client.get(address)
    assert newest.status_code == 200
    assert client.get(address, {"revision": shown}).content == newest.content


def test_what_is_turned_for_oneself_is_what_leaves(client: Client, study: Study) -> None:
    """By a link, where nothing of the study can be changed: files, the schedule and drawings on paper."""
    link = Link.objects.create(project=study.project, study=study, by=study.project.owner, formats=["stl", "csv", "svg"])  # fmt: skip

    def taken(name: str, **said: str) -> HttpResponse:
        address = reverse("link-hand-over-sheet" if name == "p.svg" else "link-hand-over", args=[link.token, study.pk, name])  # fmt: skip
        return client.get(address, said)  # type: ignore[return-value]

    for name in ("parts.stl", "schedule.csv", "p.svg"):
        own, turned = taken(name), taken(name, set='{"w": 400.0}')
        assert (own.status_code, turned.status_code) == (200, 200)
        assert own.content != turned.content
    mesh = trimesh.load_mesh(io.BytesIO(taken("parts.stl", set='{"w": 400.0}').content), file_type="stl")  # fmt: skip
    assert mesh.extents == pytest.approx([400, 200, 10])
    assert "as turned" in taken("p.svg", set='{"w": 400.0}').content.decode()
    assert "as written" in taken("p.svg").content.decode()
    for bad in ("[", "3", '{"w": NaN}', '{"w": "\\ud800"}'):
        assert taken("parts.stl", set=bad).status_code == 400
    assert taken("parts.stl", set='{"w": "x", "gone": 3}').content == taken("parts.stl").content
