"""Projects, the bin, and the pictures of studies."""

from __future__ import annotations

import struct
from typing import Any

import pytest
from django.db import connection
from django.test import Client
from django.test.utils import CaptureQueriesContext
from django.urls import reverse

from studio.projects.models import Picture, Project, Study
from studio.projects.pictures import state_shown


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
    assert "still has 1 study" in ask(signed_in, "remove-project", study.project.pk)
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
    assert "still has 1 study" in ask(signed_in, "remove-project", study.project.pk)
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
    assert f"Bring back {study.title}" not in page(stranger)


def test_studies_are_shown_in_the_order_that_is_asked_for(signed_in: Client, study: Study) -> None:
    other = Study.objects.create(project=study.project, title="A first one", place=9)
    other.save_text("a = 1", None)

    def order(order: str) -> bool:
        shown = page(signed_in, order=order)
        return shown.index('font-semibold">A first one</b>') < shown.index(
            f'font-semibold">{study.title}</b>'
        )

    assert order("title") and order("changed") and not order("place")
    assert not order("nonsense"), "which is none"


def keep(client: Client, study: Study, data: bytes, of: str) -> int:
    return client.post(f"{reverse('keep-picture', args=[study.pk])}?of={of}", data, "image/png").status_code  # fmt: skip


def seen(client: Client, study: Study) -> bool:
    """Whether the projects page shows a picture of the study, and it can be fetched."""
    address = f"{reverse('picture', args=[study.pk])}?of={state_shown(study)}"
    if address not in page(client):
        return False
    response = client.get(address)
    return response.status_code == 200 and response["Content-Type"] == "image/png"


def test_a_picture_is_kept_for_the_state_it_was_drawn_of(signed_in: Client, study: Study) -> None:
    assert not seen(signed_in, study)
    first = state_shown(study)
    assert keep(signed_in, study, png(800, 600), first) == 200 and seen(signed_in, study)
    assert keep(signed_in, study, png(900, 600), "4711") == 409
    study.save_text("a = 1", study.head_id)
    assert not seen(signed_in, study), "of another revision"
    assert keep(signed_in, study, png(900, 600), first) == 409
    assert keep(signed_in, study, png(900, 600), state_shown(study)) == 200
    assert seen(signed_in, study) and Picture.objects.filter(study=study).count() == 1
    assert signed_in.get(f"{reverse('picture', args=[study.pk])}?of={first}").status_code == 404


def test_a_page_of_many_studies_asks_the_database_as_often_as_one_of_few(
    signed_in: Client, study: Study, django_assert_num_queries: Any
) -> None:
    """Its states are those of each study asked for alone: of a row of studies that use each other, one with a file."""
    page(signed_in)  # what is remembered of who is signed in is there
    with CaptureQueriesContext(connection) as few:
        page(signed_in)
    study.attachments.create(name="a.csv", data=b"a\n1")
    rests_on = study
    for at in range(12):
        one = study.project.studies.create(title=f"Over it {at}")
        one.save_text(f'use a from "{rests_on.title}"\nuse b from "Nothing"', None)
        rests_on = study if at % 4 == 3 else one
    with django_assert_num_queries(len(few)):
        shown = page(signed_in)
    assert all(f'data-of="{state_shown(one)}"' in shown for one in study.project.studies.all())


def test_a_picture_is_drawn_anew_when_what_the_study_rests_on_changes(
    signed_in: Client, study: Study
) -> None:
    """A file of its own, a study it uses, and a file of that: each changes what it looks like."""
    project = study.project
    used = Study.objects.create(project=project, title="Used")
    used.save_text("input a = 1", None)
    study.save_text('use u from "Used"', study.head_id)
    file = used.attachments.create(name="bolts.csv", data=b"size\n3\n")

    def change_file() -> None:
        file.data = b"size\n4\n"
        file.save()

    for change in (
        lambda: study.attachments.create(name="own.csv", data=b"size\n3\n"),
        lambda: used.save_text("input a = 2", used.head_id),
        change_file,
    ):
        assert keep(signed_in, study, png(800, 600), state_shown(study)) == 200
        assert seen(signed_in, study)
        change()
        assert not seen(signed_in, study)


@pytest.mark.parametrize(
    "data",
    [b"", b"GIF89a" + b"0" * 60, png(800, 600, 0)[:20], png(0, 600), png(800, 60_000), png(8, 8, 1_000_001)],
    ids=["nothing", "no PNG", "cut off", "no width", "too high", "too large"],
)  # fmt: skip
def test_what_is_no_small_png_is_refused(data: bytes, signed_in: Client, study: Study) -> None:
    assert keep(signed_in, study, data, state_shown(study)) == 400
    assert not Picture.objects.exists()


def test_what_is_not_found_is_said_in_words(signed_in: Client) -> None:
    response = signed_in.get("/studies/4711/")
    assert response.status_code == 404
    assert "There is nothing at this address" in response.content.decode()


def test_a_card_says_what_is_wrong_with_its_study(signed_in: Client, study: Study) -> None:
    def said(problems: str, failing: str) -> bool:
        of = f"{state_shown(study)}&problems={problems}&failing={failing}"
        assert keep(signed_in, study, png(800, 600), of) == 200
        return "✕" in page(signed_in)

    assert not said("0", "0")
    assert said("1", "2") and "✕ 1 problem, 2 checks fail" in page(signed_in)
    assert not said("-1", "many"), "which are no numbers"


def test_examples_stand_after_ones_own_projects(signed_in: Client, study: Study) -> None:
    Project.objects.filter(pk=study.project.pk).update(examples=True, title="A demonstration")
    Project.objects.create(owner=study.project.owner, title="Zenith")
    shown = page(signed_in)
    assert shown.index("Zenith") < shown.index("A demonstration") < shown.index("examples: change")


def test_the_sun_is_told_by_place_day_and_hour(signed_in: Client) -> None:
    asked = {"latitude": "51.5", "day": "172", "hour": "12"}
    said = signed_in.get(reverse("sun"), asked).json()
    assert said["height"] == pytest.approx(90 - 51.5 + 23.45, abs=0.05)
    for name, wrong in (("latitude", "north"), ("hour", "25"), ("day", "nan"), ("day", "1e9")):
        refused = signed_in.get(reverse("sun"), asked | {name: wrong})
        assert refused.status_code == 400 and name in refused.json()["message"]
