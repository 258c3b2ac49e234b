"""Links and invitations: made, sent, shown, taken back; and copies taken by a link."""

from __future__ import annotations

from typing import Any

import pytest
from django.contrib.auth.models import User
from django.core import mail
from django.test import Client
from django.urls import reverse

from studio.projects.models import Picture, Project, Study
from studio.rights.models import Invitation, Link

pytestmark = pytest.mark.django_db


def made(client: Client, study: Study, **form: Any) -> Link:
    client.post(
        reverse("make-link", args=[study.project_id]), {"study": study.pk, "days": "7", **form}
    )
    return Link.objects.latest("pk")


def test_an_invitation_goes_by_mail(signed_in: Client, study: Study) -> None:
    form = {"mail": "joiner@example.org", "role": "viewer", "days": "7"}
    signed_in.post(reverse("invite", args=[study.project_id]), form)
    (letter,) = mail.outbox
    invitation = Invitation.objects.get()
    assert letter.to == ["joiner@example.org"]
    assert reverse("invitation", args=[invitation.token]) in letter.body
    assert invitation.until is not None and (invitation.until - invitation.created).days in (6, 7)


@pytest.mark.parametrize("form", [{"mail": "x"}, {"mail": "a@b.org\nBcc: c@d.org", "role": "viewer"}, {"role": "owner"}, {"role": "viewer", "days": "2"}])  # fmt: skip
def test_what_is_no_invitation_is_said(
    form: dict[str, str], signed_in: Client, study: Study
) -> None:
    answer = signed_in.post(reverse("invite", args=[study.project_id]), form, follow=True)
    assert "Nobody was invited" in answer.content.decode()
    assert not mail.outbox and not Invitation.objects.exists()


def test_what_is_no_link_is_said(signed_in: Client, study: Study) -> None:
    other = Project.objects.create(owner=User.objects.create_user("other"), title="O")
    theirs = Study.objects.create(project=other, title="Theirs")
    for form in ({"study": theirs.pk}, {"formats": ["exe"]}, {"study": "x"}, {"days": "-1"}):
        answer = signed_in.post(reverse("make-link", args=[study.project_id]), form, follow=True)
        assert "No link was made" in answer.content.decode(), form
    assert not Link.objects.exists()


def test_a_link_leads_to_a_page_that_is_only_looked_at(signed_in: Client, study: Study) -> None:
    link = made(signed_in, study, formats=["stl", "pdf"], said="the joiner")
    visitor = Client()
    answer = visitor.get(reverse("link", args=[link.token]), follow=True)
    page = answer.content.decode()
    assert 'data-may="' in page and "edit" not in page.partition('data-may="')[2].partition('"')[0]
    assert "parts.stl" in page and "parts.dxf" not in page and "A drawing on paper" in page
    assert '<meta name="robots" content="noindex">' in page
    assert answer.headers["Referrer-Policy"] == "no-referrer"
    assert answer.headers["X-Frame-Options"] == "DENY"


def test_a_page_elsewhere_may_show_it_where_the_link_says_so(
    signed_in: Client, study: Study
) -> None:
    link = made(signed_in, study, embeds="on")
    answer = Client().get(reverse("link-embed", args=[link.token, study.pk]))
    policy = answer.headers["Content-Security-Policy"]
    assert "frame-ancestors *" in policy and "X-Frame-Options" not in answer.headers
    assert "default-src 'self'" in policy
    signed_in.post(reverse("end-link", args=[study.project_id, link.pk]))
    assert Client().get(reverse("link-embed", args=[link.token, study.pk])).status_code == 404


def test_previews_have_a_picture(signed_in: Client, study: Study) -> None:
    Picture.objects.create(study=study, of="then", data=b"\x89PNG")
    link = made(signed_in, study)
    page = Client().get(reverse("link-workspace", args=[link.token, study.pk])).content.decode()
    address = page.partition('og:image" content="http://testserver')[2].partition('"')[0]
    assert Client().get(address).content == b"\x89PNG"


def test_a_copy_is_taken_with_what_it_uses(signed_in: Client, study: Study) -> None:
    beside = Study.objects.create(project=study.project, title="Bracket")
    beside.save_text('study "Bracket"\ninput reach = 40 mm\nuse again from "Wind vane"', None)
    study.attachments.create(name="a.csv", data=b"x\n1\n")
    study.save_text(f'study "Wind vane"\nuse bracket from "Bracket"\n{study.text}', study.head_id)
    link = made(signed_in, study, copies="on")
    mara = User.objects.create_user("mara")
    project = Project.objects.create(owner=mara, title="Hers")
    Study.objects.create(project=project, title="Bracket").save_text('study "Bracket"', None)
    visitor = Client()
    address = reverse("link-take-copy", args=[link.token, study.pk])
    assert visitor.post(address, {"project": project.pk}).status_code == 302
    assert project.studies.count() == 1, "nobody is signed in"
    visitor.force_login(mara)
    assert visitor.post(address, {"project": study.project_id}).status_code == 404
    visitor.post(address, {"project": project.pk})
    copy = project.studies.get(title="Wind vane")
    assert 'use bracket from "Bracket 2"' in copy.text and copy.attachments.get().name == "a.csv"
    assert "reach = 40 mm" in project.studies.get(title="Bracket 2").text
    assert copy.head is not None and copy.head.author == mara
    assert study.project.studies.count() == 2


def test_a_copy_is_of_what_was_turned(signed_in: Client, study: Study) -> None:
    """And by who may read the study of the revision that the window shows."""
    shown = study.head_id
    study.save_text(study.text.replace('"Width"', '"Its width"'), shown)
    turned = {"set": '{"w": 120}'}
    page = signed_in.get(reverse("choose-project", args=[study.pk]), {**turned, "revision": shown})
    assert "As you turned it: w." in page.content.decode()
    for address, of in (("take-copy", '"Width"'), ("copy", '"Width"'), ("link-take-copy", '"Its width"')):  # fmt: skip
        link = [made(signed_in, study, copies="on").token] if address.startswith("link") else []
        said = {"project": study.project_id, **turned, "revision": shown}
        signed_in.post(reverse(address, args=[*link, study.pk]), said)
        copy = study.project.studies.latest("pk")
        assert copy.pk != study.pk and "w = 120 mm" in copy.text and of in copy.text, address
        assert "w = 300 mm" in study.text
        copy.delete()


@pytest.mark.parametrize("turned", ['{"w": "red"}', '{"nothing": 3}', "[3]", "{", '{"w": 1e999}'])  # fmt: skip
def test_a_copy_of_what_cannot_be_is_refused(signed_in: Client, study: Study, turned: str) -> None:
    said = {"project": study.project_id, "set": turned}
    for address in ("take-copy", "copy"):
        answer = signed_in.post(reverse(address, args=[study.pk]), said, follow=True)
        assert answer.status_code == 200 and list(answer.context["messages"]), address
    assert signed_in.get(reverse("choose-project", args=[study.pk]), said).status_code in (200, 302)
    assert study.project.studies.count() == 1
