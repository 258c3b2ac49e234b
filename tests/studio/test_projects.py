"""Projects, the bin, and the pictures of studies."""

from __future__ import annotations

import struct
from typing import Any

import pytest
from django.test import Client
from django.urls import reverse

from studio.projects.models import Picture, Project, Study


def page(client: Client, **asked: str) -> str:
    return client.get(reverse("projects"), asked).content.decode()


def ask(client: Client, name: str, number: int | None = None, **body: str) -> str:
    """What the page says after a form was sent."""
    address = reverse(name, args=[] if number is None else [number])
    response = client.post(address, body, follow=True)
    return response.content.decode()


def png(width: int, height: int, rest: int = 40) -> bytes:
    """The beginning of a PNG (ISO/IEC 15948, 5.2 and 11.2.2), and some more."""
    header = struct.pack(">I4sII", 13, b"IHDR", width, height)
    return b"\x89PNG\r\n\x1a\n" + header + b"\x00" * rest


def test_a_project_is_made_renamed_and_removed(signed_in: Client, study: Study) -> None:
    assert "A project needs a name" in ask(signed_in, "new-project", title="   ")
    assert "Roof" in ask(signed_in, "new-project", title=" Roof  of the lecture room ")
    made = Project.objects.get(title="Roof of the lecture room")
    assert made.owner == study.project.owner
    ask(signed_in, "rename-project", made.pk, title="Roof")
    made.refresh_from_db()
    assert made.title == "Roof"
    assert "keeps its name" in ask(signed_in, "rename-project", made.pk, title="")
    assert "still has 1 studies" in ask(signed_in, "remove-project", study.project.pk)
    assert "was removed" in ask(signed_in, "remove-project", made.pk)
    assert not Project.objects.filter(pk=made.pk).exists()


def test_what_is_in_the_bin_is_nowhere_else_and_comes_back_whole(
    signed_in: Client, study: Study
) -> None:
    title, text, revisions = study.title, study.text, study.revisions.count()
    ask(signed_in, "remove", study.pk)
    assert not study.project.studies.exists()
    for name in ("workspace", "state", "give-out", "history"):
        assert signed_in.get(reverse(name, args=[study.pk])).status_code == 404
    assert "still has 1 studies" in ask(signed_in, "remove-project", study.project.pk)
    assert "is back" in ask(signed_in, "bring-back", study.pk)
    back = Study.objects.get(pk=study.pk)
    assert (back.title, back.text, back.revisions.count()) == (title, text, revisions)
    assert signed_in.post(reverse("bring-back", args=[study.pk])).status_code == 404


def test_a_study_comes_back_under_another_title_where_its_own_is_taken(
    signed_in: Client, study: Study
) -> None:
    title = study.title
    ask(signed_in, "remove", study.pk)
    ask(signed_in, "new-study", study.project.pk, title=title)
    ask(signed_in, "bring-back", study.pk)
    back = Study.objects.get(pk=study.pk)
    assert back.title == f"{title} 2" and f'study "{title} 2"' in back.text


def test_nothing_is_removed_for_good_but_from_the_bin(signed_in: Client, study: Study) -> None:
    assert signed_in.post(reverse("remove-for-good", args=[study.pk])).status_code == 404
    ask(signed_in, "remove", study.pk)
    assert "removed for good" in ask(signed_in, "remove-for-good", study.pk)
    assert not Study.everything.filter(pk=study.pk).exists()


def test_nobody_reaches_into_the_bin_of_others(
    signed_in: Client, study: Study, django_user_model: Any
) -> None:
    ask(signed_in, "remove", study.pk)
    stranger = Client()
    stranger.force_login(django_user_model.objects.create_user("stranger"))
    for name in ("bring-back", "remove-for-good"):
        assert stranger.post(reverse(name, args=[study.pk])).status_code == 404
    assert study.title not in page(stranger)


def test_studies_are_shown_in_the_order_that_is_asked_for(signed_in: Client, study: Study) -> None:
    other = Study.objects.create(project=study.project, title="A first one", place=9)
    other.save_text("a = 1", None)

    def order(order: str) -> bool:
        shown = page(signed_in, order=order)
        return shown.index('semibold">A first one<') < shown.index(f'semibold">{study.title}<')

    assert order("title") and order("changed") and not order("place")
    assert not order("nonsense"), "which is none"


def test_a_picture_is_kept_for_the_revision_it_was_drawn_of(
    signed_in: Client, study: Study
) -> None:
    address = reverse("picture", args=[study.pk])

    def keep(data: bytes, revision: object) -> int:
        kept = reverse("keep-picture", args=[study.pk])
        return signed_in.post(f"{kept}?revision={revision}", data, "image/png").status_code

    assert signed_in.get(address).status_code == 404
    assert keep(png(800, 600), study.head_id) == 200
    response = signed_in.get(address)
    assert response.content == png(800, 600) and response["Content-Type"] == "image/png"
    assert f"{address}?{study.head_id}" in page(signed_in)
    assert keep(png(900, 600), "4711") == 409
    study.save_text("a = 1", study.head_id)
    assert address not in page(signed_in), "of another revision"
    assert keep(png(900, 600), study.head_id) == 200
    assert Picture.objects.get(study=study).revision == study.head_id


@pytest.mark.parametrize(
    "data",
    [b"", b"GIF89a" + b"0" * 60, png(800, 600, 0)[:20], png(0, 600), png(800, 60_000), png(8, 8, 1_000_001)],
    ids=["nothing", "no PNG", "cut off", "no width", "too high", "too large"],
)  # fmt: skip
def test_what_is_no_small_png_is_refused(data: bytes, signed_in: Client, study: Study) -> None:
    address = f"{reverse('keep-picture', args=[study.pk])}?revision={study.head_id}"
    assert signed_in.post(address, data, "image/png").status_code == 400
    assert not Picture.objects.exists()


def test_what_is_not_found_is_said_in_words(signed_in: Client) -> None:
    response = signed_in.get("/studies/4711/")
    assert response.status_code == 404
    assert "There is nothing at this address" in response.content.decode()
