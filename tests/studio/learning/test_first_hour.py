"""The first hour on the server: begun, looked at, left, gone on with, kept for its person alone."""

from __future__ import annotations

from typing import Any

import pytest
from django.test import Client
from django.urls import reverse
from django.utils import timezone

from ovolo.exercises.first_hour import FIRST_HOUR
from studio.learning.models import Progress
from studio.projects.models import Project, Study

pytestmark = pytest.mark.django_db


def begun(client: Client, key: str, **more: str) -> Study:
    answer = client.post(reverse("begin-exercise", args=[key]), more)
    return Study.objects.get(pk=int(answer.headers["Location"].strip("/").split("/")[-1]))


def looked_at(client: Client, study: Study) -> dict[str, Any]:
    answer = client.post(reverse("exercise", args=[study.pk]), {}, "application/json")
    assert answer.status_code == 200, answer.content
    return dict(answer.json())


def test_every_exercise_begins_in_a_study_without_problems_and_undone(signed_in: Client) -> None:
    for number, one in enumerate(FIRST_HOUR, start=1):
        guide = looked_at(signed_in, begun(signed_in, one.key))
        assert guide["title"] == one.title and guide["number"] == number and guide["problems"] == []
        assert all(step["missing"] for step in guide["steps"]) and not guide["done"]
    assert guide["next"] is None
    page = signed_in.get(reverse("first-hour")).content.decode()
    assert page.count("Begin again") == 6 and "0 of 6 done" in page


def test_it_is_gone_on_with_where_it_was_left_and_kept_when_done(signed_in: Client) -> None:
    study = begun(signed_in, "triangle")
    study.save_text(
        study.text + FIRST_HOUR[0].ready.replace("3.5 m", "1.5 m"), study.head_id, "done"
    )
    guide = looked_at(signed_in, study)
    assert guide["done"] and guide["next"]["key"] == "count"
    assert Progress.objects.get(exercise="triangle").done is not None
    page = signed_in.get(reverse("workspace", args=[study.pk])).content.decode()
    assert '"guided": true' in page and 'aria-label="Exercise"' in page
    signed_in.post(reverse("leave-exercise", args=[study.pk]), {}, "application/json")
    assert (
        '"guided": false' in signed_in.get(reverse("workspace", args=[study.pk])).content.decode()
    )
    assert begun(signed_in, "triangle") == study
    assert '"guided": true' in signed_in.get(reverse("workspace", args=[study.pk])).content.decode()
    anew = begun(signed_in, "triangle", again="yes")
    assert anew != study and anew.title == f"{study.title} 2"
    assert Progress.objects.get(exercise="triangle").done is None


def test_a_study_that_is_used_is_ones_own_or_one_that_is_ready(signed_in: Client) -> None:
    ready = begun(signed_in, "use")
    assert "use gable from" not in ready.text
    beside = list(ready.project.studies.values_list("title", flat=True))
    assert "A triangle and its height, ready" in beside
    used = '\nuse gable from "A triangle and its height, ready"\npart porch = [gable(base = 3 m).move(y = i * 1 m) for i in 0 .. 2]'
    ready.save_text(ready.text + used, ready.head_id, "done")
    assert looked_at(signed_in, ready)["done"]


def test_what_is_kept_and_handed_over_counts(signed_in: Client) -> None:
    study = begun(signed_in, "vary")
    study.contact_sheets.create(title="Rolled", plan={})
    assert [bool(step["missing"]) for step in looked_at(signed_in, study)["steps"]] == [
        True,
        False,
        True,
    ]


def test_it_is_nobody_elses(
    signed_in: Client, client: Client, study: Study, django_user_model: Any
) -> None:
    mine = begun(signed_in, "count")
    answer = signed_in.post(reverse("exercise", args=[study.pk]), {}, "application/json")
    assert "no exercise of yours" in answer.json()["message"]
    assert signed_in.post(reverse("begin-exercise", args=["nothing"])).status_code == 404
    other = Client()
    other.force_login(django_user_model.objects.create_user("heron"))
    assert (
        other.post(reverse("exercise", args=[mine.pk]), {}, "application/json").status_code == 404
    )
    assert "0 of 6 done" in other.get(reverse("first-hour")).content.decode()
    assert begun(other, "count") != mine


def test_a_study_in_the_bin_is_begun_anew(signed_in: Client) -> None:
    first = begun(signed_in, "array")
    signed_in.post(reverse("remove", args=[first.pk]))
    assert "Begin again" not in signed_in.get(reverse("first-hour")).content.decode()
    assert begun(signed_in, "array").pk != first.pk


def test_where_there_is_no_room_nothing_is_begun(signed_in: Client, settings: Any) -> None:
    settings.MOST_STUDIES = 1
    page = signed_in.post(reverse("begin-exercise", args=["count"]), follow=True).content.decode()
    assert "studies" in page and "Begin again" not in page and not Progress.objects.exists()


def test_projects_of_one_name_and_a_study_in_the_bin_stand_in_nobodys_way(
    signed_in: Client, study: Study
) -> None:
    for _ in range(2):
        Project.objects.create(owner=study.project.owner, title="First hour")
    own = begun(signed_in, "triangle")
    own.save_text(own.text + FIRST_HOUR[0].ready, own.head_id, "done")
    Progress.objects.filter(exercise="triangle").update(done=timezone.now())
    used = begun(signed_in, "use")
    assert not used.project.studies.filter(title__endswith=", ready").exists(), "one's own is used"
    signed_in.post(reverse("remove", args=[own.pk]))
    again = begun(signed_in, "use", again="yes")
    assert again.project.studies.filter(title__endswith=", ready").exists(), (
        "what is in the bin is not"
    )
