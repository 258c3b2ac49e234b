"""Accounts: made, entered, forgotten, ended."""

from __future__ import annotations

import io
import json
import re
import zipfile
from typing import Any

import pytest
from django.contrib.auth.models import User
from django.core import mail
from django.core.cache import cache
from django.test import Client
from django.urls import reverse
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.django import TestCase

from studio.accounts.models import SignedIn
from studio.projects.models import Project, Revision, Study
from studio.rights.models import Invitation, Member
from tests.odd_texts import odd_texts

pytestmark = pytest.mark.django_db
SECRET = "a long secret"


@pytest.fixture(autouse=True)
def _nothing_counted() -> None:
    cache.clear()


def signed_up(client: Client, name: str, **more: str) -> Any:
    form = {"username": name, "password1": SECRET, "password2": SECRET, **more}
    return client.post(reverse("sign-up"), form)


def test_a_new_account_has_a_project_and_can_make_another(client: Client, settings: Any) -> None:
    settings.SIGN_UP = "open"
    assert signed_up(client, "mara", email="mara@example.org").headers["Location"] == "/"
    page = client.get("/").content.decode()
    assert "Studies of mara" in page
    client.post(reverse("new-project"), {"title": "Orangery"})
    project = Project.objects.get(title="Orangery")
    answer = client.post(reverse("new-study", args=[project.pk]), {"title": "Trellis"})
    assert client.get(answer.headers["Location"]).status_code == 200


@pytest.mark.parametrize("mode", ["invited", "closed"])
def test_without_an_invitation_nobody_signs_up(mode: str, client: Client, settings: Any) -> None:
    settings.SIGN_UP = mode
    assert client.get(reverse("sign-up")).status_code == 403
    assert signed_up(client, "mara").status_code == 403 and not User.objects.exists()


def test_who_is_invited_signs_up_and_works_on_the_project(
    client: Client, study: Study, settings: Any
) -> None:
    owner = study.project.owner
    invitation = Invitation.objects.create(project=study.project, role="editor", by=owner)
    address = reverse("invitation", args=[invitation.token])
    page = client.get(address).content.decode()
    assert "lark invites you" in page and f"{reverse('sign-up')}?next={address}" in page
    assert signed_up(client, "mara", next=address).headers["Location"] == address
    assert client.post(reverse("accept-invitation", args=[invitation.token])).status_code == 302
    assert client.get(reverse("workspace", args=[study.pk])).status_code == 200
    assert Member.objects.get().role == "editor"
    other = Client()
    assert other.get(address).status_code == 404, "an invitation is taken once"
    assert signed_up(other, "thief", next=address).status_code == 403


@pytest.mark.parametrize(
    ("name", "more", "said"),
    [
        ("mar\u202ea", {}, "valid username"),
        ("mara\u200b", {}, "valid username"),
        ("", {}, "required"),
        ("m" * 151, {}, "at most 150"),
        ("lark", {}, "already exists"),
        ("mara", {"email": "no mail"}, "valid email"),
        ("mara", {"password2": "another"}, "match"),
        ("mara", {"password1": "short", "password2": "short"}, "too short"),
        ("mara", {"password1": "password1", "password2": "password1"}, "too common"),
    ],
    ids=range(9),
)
def test_what_is_no_name_mail_or_password_is_said(
    name: str, more: dict[str, str], said: str, client: Client, study: Study, settings: Any
) -> None:
    settings.SIGN_UP = "open"
    answer = signed_up(client, name, **more)
    assert answer.status_code == 200 and said in answer.content.decode()
    assert User.objects.count() == 1


def test_a_password_is_reset_by_mail_once(client: Client) -> None:
    person = User.objects.create_user("mara", "mara@example.org", SECRET)
    client.post(reverse("forgotten"), {"email": "mara@example.org"})
    (letter,) = mail.outbox
    (path,) = re.findall(r"http://testserver(/reset/\S+)", letter.body)
    answer = client.get(path, follow=True)
    new = {"new_password1": "another secret", "new_password2": "another secret"}
    assert client.post(answer.redirect_chain[-1][0], new).status_code == 302
    person.refresh_from_db()
    assert person.check_password("another secret")
    assert "run out" in Client().get(path).content.decode()


def test_a_mail_address_that_nobody_has_is_not_told_apart(client: Client) -> None:
    answer = client.post(reverse("forgotten"), {"email": "nobody@example.org"})
    assert answer.headers["Location"] == reverse("reset-sent") and not mail.outbox


def test_whoever_tries_passwords_is_refused_for_a_while(client: Client) -> None:
    User.objects.create_user("mara", password=SECRET)
    address = reverse("sign-in")

    def tried(password: str, name: str = "mara") -> int:
        return client.post(address, {"username": name, "password": password}).status_code

    told = [tried(f"wrong {k}") for k in range(10)]
    assert told[:9] == [200] * 9 and told[9] == 429
    assert tried(SECRET) == 429, "also the right one, for now"
    User.objects.create_user("iven", password=SECRET)
    assert tried(SECRET, "iven") == 302, "others are not held up"


def test_letters_for_forgotten_passwords_are_counted(client: Client, one_minute: None) -> None:
    told = [client.post(reverse("forgotten"), {"email": "a@b.org"}).status_code for _ in range(12)]
    assert told == [302] * 10 + [429] * 2


def test_one_sees_where_one_is_signed_in_and_ends_it(client: Client, study: Study) -> None:
    there = Client(headers={"User-Agent": "Workshop browser"})
    client.force_login(study.project.owner)
    there.post(reverse("sign-in"), {})  # a visit that is no sign-in is none
    there.force_login(study.project.owner)
    SignedIn.objects.filter(session=there.session.session_key).update(browser="Workshop browser")
    page = client.get(reverse("account")).content.decode()
    assert page.count("Workshop browser") >= 1 and "here" in page
    theirs = SignedIn.objects.get(browser="Workshop browser")
    client.post(reverse("end-session", args=[theirs.pk]))
    assert there.get("/").status_code == 302 and client.get("/").status_code == 200


def test_another_password_signs_out_elsewhere(client: Client) -> None:
    person = User.objects.create_user("mara", password=SECRET)
    there = Client()
    for one in (client, there):
        one.force_login(person)
    new = {"new_password1": "another secret", "new_password2": "another secret"}
    client.post(reverse("change-password"), {"old_password": "wrong", **new})
    assert there.get("/").status_code == 200
    client.post(reverse("change-password"), {"old_password": SECRET, **new})
    assert there.get("/").status_code == 302 and client.get("/").status_code == 200


def test_a_deleted_account_takes_its_projects_and_leaves_the_work_on_others(
    client: Client, study: Study
) -> None:
    person = User.objects.create_user("mara", password=SECRET)
    Study.objects.create(project=Project.objects.create(owner=person, title="Own"), title="Own")
    Member.objects.create(project=study.project, person=person, role="editor")
    study.by = person
    study.save_text(study.text + "\nthird = w / 3", study.head_id)
    client.force_login(person)
    client.post(reverse("delete-account"), {"password": "wrong"})
    assert User.objects.filter(username="mara").exists()
    client.post(reverse("delete-account"), {"password": SECRET})
    assert not User.objects.filter(username="mara").exists() and client.get("/").status_code == 302
    assert not Project.objects.filter(title="Own").exists()
    newest = Revision.objects.filter(study=study).last()
    assert newest is not None and newest.author is None and "third" in newest.text


def test_all_that_is_ones_own_is_taken_along(client: Client, study: Study) -> None:
    client.force_login(study.project.owner)
    sent = b"".join(client.post(reverse("take-all")))
    with zipfile.ZipFile(io.BytesIO(sent)) as archive:
        told = json.loads(archive.read("account.json"))
        folder = f"projects/{study.project_id} P/"
        assert told["name"] == "lark"
        assert archive.read(f"{folder}studies/Wind vane.ovo").decode() == study.text


ANYTHING = odd_texts(300)


class TestForms(TestCase):
    """Whatever is sent: no error of the server, and no name that hides characters is kept."""

    @given(st.dictionaries(st.sampled_from(["first_name", "last_name", "email", "title", "role", "mail", "days", "study", "formats", "said", "copies", "before", "number"]), ANYTHING))  # fmt: skip
    def test_forms(self, form: dict[str, str]) -> None:
        cache.clear()
        person = User.objects.create_user("mara", password=SECRET)
        project = Project.objects.create(owner=person, title="P")
        client = Client(raise_request_exception=False)
        client.force_login(person)
        own = [project.pk]
        for name, arguments in (
            ("save-account", []), ("new-project", []), ("rename-project", own), ("new-study", own), ("invite", own),
            ("make-link", own), ("order-studies", own), ("change-password", []), ("unpack-project", []), ("sign-in", []),
        ):  # fmt: skip
            answer = client.post(reverse(name, args=arguments), form)
            assert answer.status_code < 500, (name, form)
        person.refresh_from_db()
        names = [person.get_full_name(), *Project.objects.values_list("title", flat=True)]
        assert not any(one in name for name in names for one in "\u202e\u2066\u200f\n\x07")
