"""What is kept: projects packed and taken in, history thinned, bins emptied, quotas."""

from __future__ import annotations

import io
import json
import tracemalloc
import zipfile
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

import pytest
from django.core.cache import cache
from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.management import CommandError, call_command
from django.test import Client
from django.urls import reverse
from django.utils import timezone

from ovolo.command.__main__ import main
from ovolo.problems import Failure
from studio.projects import packing
from studio.projects.models import Project, Revision, Study
from studio.projects.packing import pack_project, unpacked
from studio.projects.tidying import thin, thinned
from studio.rights.models import Invitation, Link

pytestmark = pytest.mark.django_db


@pytest.fixture
def project(study: Study) -> Project:
    """With two studies, one using the other, files of one name, a history that was stepped back in."""
    project, owner = study.project, study.project.owner
    study.by = owner
    study.save_text(f'study "Wind vane"\n{study.text}\nthird = w / 3', study.head_id, "third")
    study.save_text(study.text + "\nquarter = w / 4", study.head_id, "quarter")
    Revision.objects.filter(said="third").update(name="As agreed")
    study.undo(study.head_id or 0)
    study.attachments.create(name="bolts.csv", data=b"size\n3\n")
    study.contact_sheets.create(title="Widths", plan={"kind": "roll", "number": 3})
    study.benches.create(machine="printer", said={"layer": "0.2 mm"})
    mast = Study.objects.create(project=project, title="Mast: 2/3", place=1)
    mast.save_text(
        'study "Mast: 2/3"\nuse vane from "Wind vane"\nh = vane(w = 300 mm).half', None, "new"
    )
    mast.attachments.create(name="bolts.csv", data=b"size\n4\n")
    return project


def packed(project: Project) -> bytes:
    into = io.BytesIO()
    pack_project(project, into)
    return into.getvalue()


def test_a_project_comes_back_as_it_was(project: Project) -> None:
    back = unpacked(packed(project), project.owner)
    assert back.title == project.title and back.pk != project.pk
    for old, new in zip(project.studies.all(), back.studies.all(), strict=True):
        assert (new.title, new.text, new.place) == (old.title, old.text, old.place)
        for told in ("text", "said", "name", "created", "author"):
            rows = [list(one.revisions.values_list(told, flat=True)) for one in (old, new)]
            assert rows[0] == rows[1], told
        assert [bytes(one.data) for one in new.attachments.all()] == [
            bytes(one.data) for one in old.attachments.all()
        ]
        for kept in (old.contact_sheets, old.benches):
            told = [
                field
                for field in ("title", "plan", "machine", "said")
                if hasattr(kept.model, field)
            ]
            twin = getattr(new, kept.model._meta.get_field("study").related_query_name())
            assert list(kept.values(*told)) == list(twin.values(*told))
    vane = back.studies.get(title="Wind vane")
    assert vane.redo(vane.head_id or 0) is not None and "quarter" in vane.text


@pytest.mark.parametrize(
    "mark", ["\u2028", "\u2029", "\x85", "\x0b", "\x0c", "\x1c", "\r"], ids=ascii
)
def test_what_ends_lines_elsewhere_may_stand_in_a_sheet(mark: str, study: Study) -> None:
    """JSON lines are parted by line feeds alone; within strings of JSON other ends of lines may stand (RFC 8259, 7)."""
    study.save_text(f"# one{mark}two\n{study.text}", study.head_id, f"with{mark}it")
    back = unpacked(packed(study.project), study.project.owner)
    assert back.studies.get().text == study.text
    assert back.studies.get().revisions.count() == study.revisions.count()


def test_packing_holds_little_at_a_time(study: Study) -> None:
    """Of 12 MB of history, 12 MB of sheets and 12 MB of files a fifth at most (as tracemalloc counts what Python
    allots)."""
    large = "# all the same\n" * 66_000
    for at in range(12):
        study.save_text(f"# {at}\n{large}", study.head_id)
        study.project.studies.create(title=f"{at}").save_text(f"# {at}\n{large}", None)
        study.attachments.create(name=f"{at}.csv", data=large.encode())
    study = Study.objects.get(pk=study.pk)
    tracemalloc.start()
    try:
        packed(study.project)
        most = tracemalloc.get_traced_memory()[1]
    finally:
        tracemalloc.stop()
    assert most < 8_000_000


def test_a_packed_project_is_read_by_the_command(
    project: Project, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    with zipfile.ZipFile(io.BytesIO(packed(project))) as archive:
        archive.extractall(tmp_path)
    assert main(["eval", str(tmp_path / "studies" / "Mast_ 2_3.ovo")]) == 0
    assert "150 mm" in capsys.readouterr().out


def test_a_sheet_changed_elsewhere_is_a_new_revision(project: Project) -> None:
    data = rewritten(packed(project), {"studies/Wind vane.ovo": b'study "Wind vane"\nw = 1 mm'})
    vane = unpacked(data, project.owner).studies.get(title="Wind vane")
    assert vane.text.endswith("w = 1 mm") and vane.revisions.count() == 4
    assert vane.head is not None and vane.head.said == "taken in"


@pytest.mark.parametrize("head", ["[]", "{}", "null", '"3"', "99999"])
def test_a_head_that_is_none_of_the_history_is_replaced_by_the_sheet(
    head: str, project: Project
) -> None:
    data = packed(project)
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        told = json.loads(archive.read("project.json"))
    told["studies"][0]["head"] = json.loads(head)
    data = rewritten(data, {"project.json": json.dumps(told).encode()})
    vane = unpacked(data, project.owner).studies.get(title="Wind vane")
    assert vane.text == project.studies.get(title="Wind vane").text
    assert vane.revisions.count() == 4 and vane.head is not None and vane.head.said == "taken in"


def test_a_sheet_that_only_has_other_line_ends_is_no_other_sheet(project: Project) -> None:
    """As an editor of another system leaves it; nor does a history that was kept with them bring them back."""
    data = packed(project)
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        sheet, history = (archive.read(f"{one}/Wind vane.{end}") for one, end in (("studies", "ovo"), ("history", "jsonl")))  # fmt: skip
    changes = {
        "studies/Wind vane.ovo": sheet.replace(b"\n", b"\r\n"),
        "history/Wind vane.jsonl": history.replace(rb"\n", rb"\r\n"),
    }
    vane = unpacked(rewritten(data, dict(changes)), project.owner).studies.get(title="Wind vane")
    assert vane.text.encode() == sheet and vane.revisions.count() == 3
    assert not any("\r" in one.text for one in vane.revisions.all())


def rewritten(data: bytes, changes: dict[str, bytes | None]) -> bytes:
    written = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(data)) as old, zipfile.ZipFile(written, "w") as new:
        for name in old.namelist():
            told = changes.get(name, old.read(name))
            if told is not None:
                new.writestr(name, told)
    return written.getvalue()


BAD = {
    "no archive": lambda data: b"PK but not really",
    "nothing": lambda data: b"",
    "half of it": lambda data: data[: len(data) // 2],
    "no list": lambda data: rewritten(data, {"project.json": None}),
    "another edition": lambda data: rewritten(data, {"project.json": b'{"edition": 2}'}),
    "a list of what": lambda data: rewritten(data, {"project.json": b"[" * 100_000}),
    "no studies": lambda data: rewritten(data, {"project.json": b'{"edition": 1, "studies": 3}'}),
    "a study of what": lambda data: rewritten(data, {"project.json": b'{"edition": 1, "studies": [4]}'}),
    "no sheet": lambda data: rewritten(data, {"studies/Wind vane.ovo": None}),
    "no text": lambda data: rewritten(data, {"studies/Wind vane.ovo": b"\xff\xfe"}),
    "zeros": lambda data: rewritten(data, {"studies/Wind vane.ovo": b"a\0b"}),
    "too long": lambda data: rewritten(data, {"studies/Wind vane.ovo": b"#" * 1_000_001}),
    "history of what": lambda data: rewritten(data, {"history/Wind vane.jsonl": b'{"at": 5}'}),
    "a revision of what": lambda data: rewritten(data, {"history/Wind vane.jsonl": b'{"revision": [], "parent": null, "said": "", "name": "", "by": "", "at": "2026-01-01T00:00:00+00:00", "text": ""}'}),
    "outside": lambda data: rewritten(data, {"project.json": b'{"edition": 1, "studies": [{"sheet": "../../etc/passwd"}]}'}),
}  # fmt: skip


@pytest.mark.parametrize("what", BAD)
def test_what_is_no_packed_project_is_refused_whole(what: str, project: Project) -> None:
    with pytest.raises(Failure):
        unpacked(BAD[what](packed(project)), project.owner)
    assert Project.objects.count() == 1 and Study.objects.count() == 2


def test_an_archive_that_unfolds_without_end_is_refused(
    project: Project, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(packing, "MOST_UNPACKED", 10_000)
    with pytest.raises(Failure, match="at most"):
        unpacked(rewritten(packed(project), {"project.json": b" " * 20_000}), project.owner)


def test_giving_out_is_counted(signed_in: Client, study: Study, one_minute: None) -> None:
    """It costs the process that answers everybody: sixty an hour are given."""
    cache.clear()
    address = reverse("pack-project", args=[study.project_id])
    answers = [signed_in.get(address) for _ in range(61)]
    assert [one.status_code for one in answers] == [200] * 60 + [429]
    for one in answers[:-1]:
        one.getvalue()  # to its end, which closes the file
    cache.clear()


def test_packing_from_the_page_and_from_the_shell(
    signed_in: Client, project: Project, tmp_path: Path
) -> None:
    data = b"".join(signed_in.get(reverse("pack-project", args=[project.pk])))
    upload = SimpleUploadedFile("p.zip", data)
    page = signed_in.post(reverse("unpack-project"), {"packed": upload}, follow=True)
    assert "was taken in" in page.content.decode() and Project.objects.count() == 2
    page = signed_in.post(
        reverse("unpack-project"), {"packed": SimpleUploadedFile("p.zip", b"x")}, follow=True
    )
    assert "no ZIP archive" in page.content.decode()
    file = tmp_path / "p.zip"
    call_command("pack_project", project.pk, file, verbosity=0)
    call_command("take_in_project", file, "lark", verbosity=0)
    assert Project.objects.count() == 3
    with pytest.raises(CommandError, match="nobody"):
        call_command("take_in_project", file, "who")
    with pytest.raises(CommandError, match="no project"):
        call_command("pack_project", 999, file)


def test_studies_are_put_in_order(signed_in: Client, project: Project) -> None:
    def titles() -> list[str]:
        return list(project.studies.values_list("title", flat=True))

    vane, mast = project.studies.all()
    address = reverse("order-studies", args=[project.pk])
    signed_in.post(address, {"study": mast.pk, "before": vane.pk})
    assert titles() == ["Mast: 2/3", "Wind vane"]
    signed_in.post(address, {"study": mast.pk, "before": ""})
    assert titles() == ["Wind vane", "Mast: 2/3"]
    page = signed_in.post(address, {"study": 999, "before": vane.pk}, follow=True)
    assert "nothing was moved" in page.content.decode()


# --- history ---


def aged(study: Study, days: list[float], names: dict[int, str] | None = None) -> list[int]:
    """Revisions of these ages, the oldest first; their numbers."""
    study.revisions.exclude(pk=study.head_id).delete()
    base = datetime(2026, 11, 1, 12, tzinfo=UTC)
    numbers = [study.head_id or 0]
    Revision.objects.filter(pk=study.head_id).update(created=base - timedelta(days=400))
    for at, age in enumerate(days):
        made = study.save_text(f"a = {at}", study.head_id)
        Revision.objects.filter(pk=made.pk).update(
            created=base - timedelta(days=age), name=(names or {}).get(at, "")
        )
        numbers.append(made.pk)
    return numbers


def test_history_is_thinned_by_its_rule(study: Study, monkeypatch: pytest.MonkeyPatch) -> None:
    """Old days keep their last revision; what is named, rested on, young or the head stays."""
    monkeypatch.setattr(timezone, "now", lambda: datetime(2026, 11, 1, 12, tzinfo=UTC))
    ages = [200.3, 200.2, 200.1, 150.2, 150.1, 100.2, 100.1, 10.0, 9.9]
    first, *numbers = aged(study, ages, {0: "As agreed"})
    study.handed_over.create(revision_id=numbers[3], asked={}, manifest={"files": []})
    gone = thinned(study)
    assert gone == [numbers[1], numbers[5]]
    texts = dict(study.revisions.values_list("pk", "text"))
    thin(study, gone)
    assert dict(study.revisions.values_list("pk", "text")) == {
        number: text for number, text in texts.items() if number not in gone
    }
    chain = [study.head_id or 0]
    while study.undo(chain[-1]) is not None:
        chain.append(study.head_id or 0)
    assert chain == [number for number in reversed([first, *numbers]) if number not in gone]
    assert thinned(study) == []


def test_a_thinned_history_loses_no_branch(study: Study) -> None:
    """Where one went back and on another way, both ways stay reachable."""
    aged(study, [200.2, 200.1])
    study.undo(study.head_id or 0)
    branch = study.save_text("a = another", study.head_id)
    gone = thinned(study)
    thin(study, gone)
    branch.refresh_from_db()
    assert branch.parent_id in set(study.revisions.values_list("pk", flat=True))


def test_tidying_removes_what_is_kept_no_longer(study: Study, capsys: Any) -> None:
    now = timezone.now()
    told = {"project": study.project, "by": study.project.owner}
    old = Link.objects.create(**told, until=now - timedelta(days=100))
    open_link = Link.objects.create(**told)
    Invitation.objects.create(**told, role="viewer", ended=now - timedelta(days=100))
    for title, days in (("Old", 31), ("New", 29)):
        Study.objects.create(project=study.project, title=title, removed=now - timedelta(days=days))
    call_command("tidy", "--dry-run")
    assert (
        "would be removed: 1 studies from bins, 0 revisions, 2 invitations and links"
        in capsys.readouterr().out
    )
    assert Study.everything.count() == 3 and Link.everything.filter(pk=old.pk).exists()
    call_command("tidy")
    assert set(Study.everything.values_list("title", flat=True)) == {"Wind vane", "New"}
    assert list(Link.everything.all()) == [open_link] and not Invitation.everything.exists()


# --- quotas ---


def test_nobody_keeps_more_than_there_is_room_for(
    signed_in: Client, project: Project, settings: Any
) -> None:
    vane = project.studies.first()
    assert vane is not None
    settings.MOST_STUDIES = 2
    for name, arguments in (("new-study", [project.pk]), ("copy", [vane.pk])):
        page = signed_in.post(reverse(name, args=arguments), follow=True).content.decode()
        assert "at most 2 are kept" in page, name
    with pytest.raises(Failure, match="at most 2"):
        unpacked(packed(project), project.owner)
    settings.MOST_STUDIES, settings.MOST_BYTES = 100, 2_000
    upload = SimpleUploadedFile("a.csv", b"x\n" + b"1\n" * 1_500)
    answer = signed_in.post(reverse("attach", args=[vane.pk]), {"file": upload})
    assert answer.status_code == 400 and "MB are kept" in answer.json()["message"]
    assert Study.objects.count() == 2 and json.loads(answer.content)["hint"]
