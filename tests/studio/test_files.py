"""Attached files and the further edits, as requests."""

import io
from typing import Any

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client
from django.urls import reverse
from PIL import Image

from studio.projects.models import Study
from studio.workspace.files import MOST_FILES
from tests.outcome.test_scene import unpacked
from tests.studio.test_views import edit, post

pytestmark = pytest.mark.django_db
SIZES = b"size,hole [mm]\nM6,6.6\nM8,9\n"


def attach(client: Client, study: Study, data: bytes, name: str = "sizes.csv") -> Any:
    address = reverse("attach", args=[study.pk])
    return client.post(address, {"file": SimpleUploadedFile(name, data, "text/csv")})


def test_a_file_is_attached_seen_downloaded_and_removed(signed_in: Client, study: Study) -> None:
    assert attach(signed_in, study, SIZES).json()["files"] == [
        {"name": "sizes.csv", "size": len(SIZES)}
    ]
    address = reverse("attached", args=[study.pk, "sizes.csv"])
    seen = signed_in.get(address, {"see": ""}).json()
    assert seen == {
        "heads": ["size", "hole [mm]"],
        "rows": [["M6", "6.6"], ["M8", "9"]],
        "count": 2,
        "notes": [],
    }
    assert signed_in.get(address).content == SIZES
    gone = signed_in.post(reverse("detach", args=[study.pk, "sizes.csv"]))
    assert gone.json()["files"] == []
    assert signed_in.get(address).status_code == 404


def test_a_study_that_is_full_of_files_still_takes_a_newer_one_of_the_same_name(
    signed_in: Client, study: Study
) -> None:
    for at in range(MOST_FILES):
        study.attachments.create(name=f"sizes{at}.csv", data=SIZES)
    assert attach(signed_in, study, SIZES + b"M10,11\n", "sizes3.csv").status_code == 200
    refused = attach(signed_in, study, SIZES, "another.csv")
    assert refused.status_code == 400 and "at most 50 files" in refused.json()["message"]


def test_the_sheet_reads_the_file_and_follows_its_replacement(
    signed_in: Client, study: Study
) -> None:
    text = 'file sizes = "sizes.csv"\nhole = lookup(sizes, "hole", size = "M8")'
    edit(signed_in, study, edit="insert", after=0, text=text)

    def hole() -> str:
        header, _ = unpacked(post(signed_in, study, "evaluate").content)
        shown: str = header["outcomes"]["2"]["number"]
        return shown

    assert hole() == ""
    attach(signed_in, study, SIZES)
    assert hole() == "9"
    attach(signed_in, study, SIZES.replace(b"M8,9", b"M8,8.4"))
    assert hole() == "8.4" and study.attachments.count() == 1


@pytest.mark.parametrize(
    ("data", "message"),
    [(b"", "is empty"), (b"a\n\0", "is not a text file"), (b"a,b\n1\n", "row 2"), (b"a\n" + b"1" * 5_000_001, "at most")],
)  # fmt: skip
def test_a_bad_file_is_refused(signed_in: Client, study: Study, data: bytes, message: str) -> None:
    answer = attach(signed_in, study, data)
    assert answer.status_code == 400 and message in answer.json()["message"]
    assert study.attachments.count() == 0


def test_files_of_others_are_not_found(
    client: Client, study: Study, django_user_model: Any
) -> None:
    study.attachments.create(name="sizes.csv", data=SIZES)
    client.force_login(django_user_model.objects.create_user("other"))
    for name in ("attached", "detach"):
        address = reverse(name, args=[study.pk, "sizes.csv"])
        assert client.get(address).status_code in (404, 405)
        assert client.post(address).status_code in (404, 405)
    assert attach(client, study, SIZES).status_code == 404
    assert study.attachments.count() == 1


def test_deleting_what_is_needed_is_asked_for_twice(signed_in: Client, study: Study) -> None:
    answer = edit(signed_in, study, edit="delete", line=2)
    assert answer.status_code == 400 and answer.json()["needed"]
    assert answer.json()["message"] == "1 line needs `half`: plate (line 3)"
    assert edit(signed_in, study, edit="delete", line=2, all_the_same=True).status_code == 200


@pytest.mark.parametrize(
    ("body", "text"),
    [
        ({"edit": "rename", "name": "half", "new": "w2"}, "w2 = w / 2"),
        ({"edit": "to_formula", "name": "w"}, 'w = 300 mm "Width"'),
        ({"edit": "to_input", "name": "half"}, "input half = 150 mm"),
        ({"edit": "move", "line": 2, "before": 1}, "half = w / 2\ninput w"),
        ({"edit": "set", "name": "w", "typed": "= 2 * 100 mm"}, 'w = 2 * 100 mm "Width"'),
        ({"edit": "save_preset", "title": "P"}, 'preset "P": w = 300 mm'),
    ],
)
def test_edits_of_the_text(
    signed_in: Client, study: Study, body: dict[str, Any], text: str
) -> None:
    assert edit(signed_in, study, **body).status_code == 200
    study.refresh_from_db()
    assert text in study.text


@pytest.mark.parametrize(
    ("body", "message"),
    [
        ({"edit": "rename", "name": "half", "new": "w"}, "already the name of line 1"),
        ({"edit": "to_input", "name": "plate"}, "cannot become an input"),
        ({"edit": "to_input", "name": "nothing"}, "has no value to begin with"),
        ({"edit": "apply_preset", "title": "none"}, 'there is no preset "none"'),
        ({"edit": "save_preset", "title": " "}, "a preset needs a name"),
        ({"edit": "move", "line": 2, "before": 9}, "there is no line 9"),
        ({"edit": "set", "name": "w", "typed": "="}, "no formula after the ="),
    ],
)
def test_edits_that_cannot_be_made(
    signed_in: Client, study: Study, body: dict[str, Any], message: str
) -> None:
    answer = edit(signed_in, study, **body)
    assert answer.status_code == 400 and message in answer.json()["message"]


def test_a_picture_is_shown_as_what_it_is(signed_in: Client, study: Study) -> None:
    picture = io.BytesIO()
    Image.new("RGB", (8, 6)).save(picture, "PNG")
    assert attach(signed_in, study, picture.getvalue(), "plan.png").status_code == 200
    address = reverse("attached", args=[study.pk, "plan.png"])
    shown = signed_in.get(address, {"look": ""})
    assert shown["Content-Type"] == "image/png" and shown.content == picture.getvalue()
    assert shown["X-Content-Type-Options"] == "nosniff"
    attach(signed_in, study, SIZES)
    table = reverse("attached", args=[study.pk, "sizes.csv"])
    assert signed_in.get(table, {"look": ""}).status_code == 400
    refused = attach(signed_in, study, b"<script>alert(1)</script>", "page.png")
    assert refused.status_code == 400 and "cannot be read as a picture" in refused.json()["message"]


def test_a_long_name_keeps_its_ending(signed_in: Client, study: Study) -> None:
    attach(signed_in, study, SIZES, "sizes of everything " * 12 + ".csv")
    (kept,) = study.attachments.all()
    assert len(kept.name) == 120 and kept.name.endswith(".csv")


def test_a_body_that_is_too_large_is_refused_unread(signed_in: Client, study: Study) -> None:
    """By its length alone: none of it is there."""
    address = reverse("attach", args=[study.pk])
    answer = signed_in.generic(
        "POST", address, b"", "multipart/form-data", CONTENT_LENGTH="90000000"
    )
    assert answer.status_code == 413
    assert answer.json()["message"] == "this has 90,000,000 bytes; at most 20,000,000 are taken"
