"""History, conflicts, and studies made, copied, taken in, given out and removed."""

from typing import Any

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client
from django.urls import reverse

from studio.projects.demo import demo_sheets
from studio.projects.models import Study
from tests.outcome.test_scene import unpacked
from tests.studio.test_views import edit, post

pytestmark = pytest.mark.django_db


def history(client: Client, study: Study) -> list[dict[str, Any]]:
    found: list[dict[str, Any]] = client.get(reverse("history", args=[study.pk])).json()["moments"]
    return found


def test_the_history_says_what_changed(signed_in: Client, study: Study) -> None:
    edit(signed_in, study, edit="set", name="w", value=420.0)
    edit(signed_in, study, edit="rename", name="half", new="middle")
    edit(signed_in, study, edit="insert", after=2, text="third = w / 3")
    edit(signed_in, study, edit="replace", line=2, text="middle = w / 4")
    assert [moment["said"] for moment in history(signed_in, study)] == [
        "middle rewritten: middle = w / 4", "added: third = w / 3", "renamed half to middle",
        "Width: 300 mm to 420 mm", "first",
    ]  # fmt: skip
    assert [moment["here"] for moment in history(signed_in, study)] == [True] + [False] * 4


def test_any_moment_is_restored_and_named_and_nothing_between_is_lost(
    signed_in: Client, study: Study
) -> None:
    first, text = study.head_id, study.text
    edit(signed_in, study, edit="delete", line=2, all_the_same=True)
    assert (
        post(signed_in, study, "name-moment", moment=first, name=" As agreed ").status_code == 200
    )
    study.refresh_from_db()
    post(signed_in, study, "restore", moment=first, revision=study.head_id)
    study.refresh_from_db()
    assert study.text == text and study.head is not None
    assert study.head.said == "restored: As agreed" and study.revisions.count() == 3
    assert [moment["name"] for moment in history(signed_in, study)] == ["", "", "As agreed"]
    assert (
        post(signed_in, study, "restore", moment=99999, revision=study.head_id).status_code == 400
    )
    assert post(signed_in, study, "name-moment", moment="x").status_code == 400


def test_changes_of_different_lines_go_together(signed_in: Client, study: Study) -> None:
    mine = study.head_id
    edit(signed_in, study, edit="set", name="w", value=420.0)
    answer = post(
        signed_in, study, "edit", revision=mine, edit="replace", line=2, text="half = w / 3"
    )
    assert answer.status_code == 200 and answer.json()["text"].count("\n") == 2
    study.refresh_from_db()
    assert "w = 420 mm" in study.text and "half = w / 3" in study.text
    assert study.head is not None and study.head.said.startswith("half rewritten")


def test_a_change_of_the_same_line_goes_over_another(signed_in: Client, study: Study) -> None:
    mine = study.head_id
    edit(signed_in, study, edit="replace", line=2, text="half = w / 4")
    edit(signed_in, study, edit="set", name="w", value=420.0)
    study.refresh_from_db()
    theirs = study.head_id
    told = {"edit": "replace", "line": 2, "text": "half = w / 3"}
    assert post(signed_in, study, "edit", revision=mine, **told).status_code == 409
    assert post(signed_in, study, "edit", revision=theirs, mine=mine, **told).status_code == 200
    study.refresh_from_db()
    assert "w = 420 mm" in study.text, "what is not of that line stays"
    assert "half = w / 3" in study.text
    assert study.head is not None and study.head.parent_id == theirs, "theirs stays in the history"
    assert study.head.said.startswith("taken over: half rewritten")


def test_or_saved_as_a_copy(signed_in: Client, study: Study) -> None:
    mine = study.head_id
    study.attachments.create(name="a.csv", data=b"x\n1\n")
    edit(signed_in, study, edit="set", name="w", value=420.0)
    answer = post(signed_in, study, "edit-copy", mine=mine, edit="set", name="w", value=150.0)
    copy = Study.objects.get(pk=answer.json()["study"])
    assert copy.title == "Wind vane (copy)" and "input w = 150 mm" in copy.text
    assert copy.attachments.count() == 1
    study.refresh_from_db()
    assert "input w = 420 mm" in study.text
    refused = post(signed_in, study, "edit-copy", mine=mine, edit="set", name="v", value=1.0)
    assert refused.status_code == 400


def test_a_window_can_ask_where_the_study_stands(signed_in: Client, study: Study) -> None:
    address = reverse("state", args=[study.pk])
    before = signed_in.get(address).json()["revision"]
    edit(signed_in, study, edit="set", name="w", value=420.0)
    after = signed_in.get(address).json()
    assert after["revision"] != before and after["undo_said"] == "Width: 300 mm to 420 mm"


def test_the_whole_sheet_is_rewritten_as_text(signed_in: Client, study: Study) -> None:
    edit(signed_in, study, edit="rewrite", text=study.text + "\nthird = w / 3")
    study.refresh_from_db()
    assert study.text.endswith("third = w / 3") and study.head is not None
    assert study.head.said == "as text: third = w / 3"


def test_an_unknown_name_becomes_an_input_even_while_the_line_is_typed(
    signed_in: Client, study: Study
) -> None:
    body = {"edit": "unknown_to_input", "name": "span"}
    edit(signed_in, study, **body, after=2, text="rise = span + w")
    study.refresh_from_db()
    assert study.text.split("\n")[2:4] == [
        "input span = 100 mm from 0 mm to 200 mm step 5 mm", "rise = span + w",
    ]  # fmt: skip
    edit(
        signed_in, study, **{**body, "name": "lid"}, line=2, text="half = if lid then w else w / 2"
    )
    study.refresh_from_db()
    assert "input lid = yes\nhalf = if lid then w else w / 2" in study.text
    again = edit(signed_in, study, **body, line=1)
    assert again.status_code == 400 and "already the name" in again.json()["message"]


def test_one_figure_of_a_list_is_typed(signed_in: Client, study: Study) -> None:
    study.save_text("input w = [10 mm, 20 mm]\ninput p = (1 m, 2 m)", study.head_id)
    edit(signed_in, study, edit="set", name="w", at=1, typed="1 in")
    edit(signed_in, study, edit="set", name="p", at=0, typed="1.5m")
    study.refresh_from_db()
    assert study.text == "input w = [10 mm, 1 in]\ninput p = (1.5 m, 2 m)"
    assert edit(signed_in, study, edit="set", name="w", at=5, typed="1 in").status_code == 400
    assert edit(signed_in, study, edit="set", name="w", at=0, typed="1 kg").status_code == 400


def test_what_is_worked_out_for_the_screen(signed_in: Client, study: Study) -> None:
    moved = post(signed_in, study, "moves", name="w").json()["moves"]
    assert [(m["name"], m["after"]) for m in moved] == [("half", "155 mm"), ("plate", "")]
    found = post(
        signed_in, study, "measure", picks=[{"part": "plate", "item": 0, "edge": 0}]
    ).json()
    assert found["found"][0]["name"] == "length"
    assert post(signed_in, study, "measure", picks=[{"part": "x", "edge": 0}]).status_code == 400
    assert post(signed_in, study, "measure", picks="x").status_code == 400
    assert post(signed_in, study, "item", name="plate", index=0).json() == {
        "values": [],
        "place": None,
        "hole": None,
        "piece": None,
    }
    assert post(signed_in, study, "moves", name="half").status_code == 400


def test_a_text_that_is_being_typed_is_evaluated_and_not_kept(
    signed_in: Client, study: Study
) -> None:
    before = study.text
    answer = post(signed_in, study, "evaluate", text="a = 2 * spam", working=1)
    header, _ = unpacked(answer.content)
    (problem,) = header["problems"]
    assert problem["unknown"] == "spam" and (problem["column"], problem["end_column"]) == (9, 13)
    study.refresh_from_db()
    assert study.text == before
    assert post(signed_in, study, "evaluate", text="x" * 1_000_001).status_code == 400


def test_construction_and_working_come_with_the_scene(signed_in: Client, study: Study) -> None:
    answer = post(
        signed_in, study, "evaluate", text="p = (1 m, 2 m)\nr = rect(1 m, 1 m)\na = 2",
        construction=["p", "r", "a"], working=1,
    )  # fmt: skip
    header, _ = unpacked(answer.content)
    assert [one["name"] for one in header["construction"]] == ["p", "r"]
    assert header["construction"][0]["points"] == [[1000, 2000, 0]]
    assert header["working"][0]["name"] == r"\textit{p}"


def test_the_vocabulary_is_for_all(signed_in: Client) -> None:
    found = signed_in.get(reverse("vocabulary")).json()
    assert {"words", "constructs", "needs", "units", "colours"} <= set(found)
    assert Client().get(reverse("vocabulary")).json() == found


def test_the_vocabulary_is_sent_once_to_each_browser(signed_in: Client) -> None:
    """RFC 9110, 13.1.2: a browser that names what it has is told that it is still so."""
    first = signed_in.get(reverse("vocabulary"))
    again = signed_in.get(reverse("vocabulary"), headers={"If-None-Match": first.headers["ETag"]})
    assert (again.status_code, again.content) == (304, b"")


def test_a_new_study_is_empty_or_begins_like_one_of_the_demonstration(
    signed_in: Client, study: Study
) -> None:
    address = reverse("new-study", args=[study.project_id])
    signed_in.post(address, {"title": "Wind vane"})
    made = Study.objects.get(title="Wind vane 2")
    assert made.text.startswith('study "Wind vane 2"\nunits mm, deg\n')
    signed_in.post(address, {"start": "Boardwalk", "title": ""})
    started = Study.objects.get(title="Boardwalk")
    assert started.text == demo_sheets()["Boardwalk"]
    signed_in.post(address, {"start": "Boardwalk", "title": 'The "long" one'})
    assert 'study "The \\"long\\" one"' in Study.objects.get(title='The "long" one').text


def test_a_study_is_copied_given_out_taken_in_and_removed(signed_in: Client, study: Study) -> None:
    signed_in.post(reverse("copy", args=[study.pk]))
    copy = Study.objects.get(title="Wind vane (copy)")
    assert copy.text == 'study "Wind vane (copy)"\n' + study.text
    given = signed_in.get(reverse("give-out", args=[copy.pk]))
    assert given.content.decode() == copy.text
    assert 'filename="wind-vane-copy.ovo"' in given.headers["Content-Disposition"]
    signed_in.post(reverse("remove", args=[copy.pk]))
    assert not Study.objects.filter(pk=copy.pk).exists()
    upload = SimpleUploadedFile("vane.ovo", given.content)
    signed_in.post(reverse("take-in", args=[study.project_id]), {"sheet": upload})
    assert Study.objects.get(title="Wind vane (copy)").text == given.content.decode()


@pytest.mark.parametrize("ends", ["\r\n", "\r"])
def test_a_sheet_of_another_system_has_the_line_ends_of_this_one(
    signed_in: Client, study: Study, ends: str
) -> None:
    """Else each line would differ from what the editor sends back, and the last kind would be one line."""
    upload = SimpleUploadedFile("a.ovo", f"a = 1 mm{ends}b = 2 * a{ends}".encode())
    signed_in.post(reverse("take-in", args=[study.project_id]), {"sheet": upload})
    taken = Study.objects.exclude(pk=study.pk).get()
    assert taken.text.endswith("a = 1 mm\nb = 2 * a\n") and "\r" not in taken.text


@pytest.mark.parametrize("data", [b"\xff\xfe\x00", b"a = 1\x00"])
def test_what_is_no_sheet_is_refused_in_words(signed_in: Client, study: Study, data: bytes) -> None:
    address = reverse("take-in", args=[study.project_id])
    page = signed_in.post(address, {"sheet": SimpleUploadedFile("x.ovo", data)}, follow=True)
    assert "x.ovo is not" in page.content.decode() and Study.objects.count() == 1
    page = signed_in.post(address, {}, follow=True)
    assert "no file was chosen" in page.content.decode()


def test_the_studies_of_others_are_out_of_reach(
    client: Client, study: Study, django_user_model: Any
) -> None:
    client.force_login(django_user_model.objects.create_user("other"))
    for name in (
        "copy",
        "remove",
        "edit-copy",
        "restore",
        "name-moment",
        "moves",
        "item",
        "measure",
    ):
        assert post(client, study, name).status_code == 404, name
    for name in ("history", "state", "give-out"):
        assert client.get(reverse(name, args=[study.pk])).status_code == 404, name
    for name in ("new-study", "take-in"):
        assert client.post(reverse(name, args=[study.project_id])).status_code == 404, name
    assert Study.objects.filter(pk=study.pk).exists()


def test_a_comma_that_parts_thousands_is_told(signed_in: Client, study: Study) -> None:
    study.save_text("input run = 10 ft", study.head_id)
    edit(signed_in, study, edit="set", name="run", typed="1,250 m")
    study.refresh_from_db()
    assert study.text == "input run = 1250 m"
    assert study.head is not None and study.head.said.endswith("10 ft to 1250 m (typed as 1,250 m)")
