"""Variations over the web: trials in pieces, aims, proofs, comparisons, contact sheets; bad requests."""

from __future__ import annotations

import io
import zipfile
from typing import Any

import pytest
from distributed import LocalCluster
from django.test import Client
from django.urls import reverse

from ovolo.exploring.runs import plan_of
from ovolo.exploring.trials import check_names
from ovolo.formats.attached import everything_named, folder_shelf
from studio.engine import cluster
from studio.projects.demo import SHEETS, demo_contact_sheets, demo_sheets
from studio.projects.models import Study

TEXT = """study "Shelf"
input width = 900 mm from 300 mm to 1200 mm step 50 mm "Width"
input wood = "oak" of "oak", "ash"
input seed = 4 from 1 to 9 step 1
half = width / 2 "Half of it"
knots = floor(random(3, 0, 9))
check width <= 1000 mm "not too wide"
part board = box(width, 200 mm, 20 mm) "Board"
preset "Small": width = 400 mm
"""


@pytest.fixture
def shelf(study: Study) -> Study:
    study.save_text(TEXT, study.head_id)
    return study


def ask(client: Client, study: Study, name: str, status: int = 200, /, **body: Any) -> Any:
    response = client.post(reverse(name, args=[study.pk]), body, "application/json")
    assert response.status_code == status, response.content[:300]
    return response.json() if response["Content-Type"].startswith("application/json") else response


ROLL = {"kind": "roll", "number": 20, "roll": 3}


def test_the_page_knows_what_can_be_varied(signed_in: Client, shelf: Study) -> None:
    page = signed_in.get(reverse("variations", args=[shelf.pk]))
    assert page.status_code == 200
    state = page.context["state"]
    assert [axis["name"] for axis in state["axes"]] == ["width", "wood", "seed"]
    assert [axis["seed"] for axis in state["axes"]] == [False, False, True]
    assert {one["name"]: one["label"] for one in state["values"]} == {"half": "Half of it", "knots": "knots"}  # fmt: skip


def test_trials_come_in_pieces_and_are_the_same_again(signed_in: Client, shelf: Study) -> None:
    assert ask(signed_in, shelf, "plan", plan=ROLL)["count"] == 20
    first = ask(signed_in, shelf, "trials", plan=ROLL, first=0, last=12)["trials"]
    rest = ask(signed_in, shelf, "trials", plan=ROLL, first=12, last=30)["trials"]
    assert [one["number"] for one in first + rest] == list(range(20))
    again = ask(signed_in, shelf, "trials", plan=ROLL, first=0, last=20)["trials"]
    assert again == first + rest
    assert {bool(one["why"]) for one in again} == {True, False}
    with_parts = ask(signed_in, shelf, "trials", plan=ROLL, first=0, last=2, parts=True)["trials"]
    assert with_parts[0]["parts"]["board"]["pieces"] == 1


@pytest.mark.parametrize(
    ("body", "said"),
    [
        ({"plan": {"kind": "roll", "number": 10**9}}, "too many"),
        ({"plan": {"kind": "throw"}}, "no plan called"),
        ({"plan": {"hold": ["half"]}}, "is not an input"),
        ({"plan": {"ranges": {"width": [2000, 3000]}}}, "nothing is left"),
        ({"plan": {"kind": "rows", "rows": "width\n3 kg"}}, None),
        ({"plan": []}, "the request cannot be read"),
        ({"plan": ROLL, "first": 0, "last": 5_000}, "not given at once"),
        ({"plan": ROLL, "first": -4, "last": 1}, "not given at once"),
        ({"plan": ROLL, "set": {"width": "wide", "nothing": 3}}, None),
    ],
)
def test_a_bad_plan_is_refused_in_words(
    body: dict[str, Any], said: str | None, signed_in: Client, shelf: Study
) -> None:
    found = ask(signed_in, shelf, "trials", 200 if said is None else 400, **body)
    assert said is None or said in found["message"]


def test_a_study_that_cannot_be_read_is_told_on_its_page(signed_in: Client, study: Study) -> None:
    study.save_text("((((", study.head_id)
    page = signed_in.get(reverse("variations", args=[study.pk]))
    assert page.status_code == 200 and "no inputs to vary" in page.context["state"]["refused"]


def test_a_small_picture_is_a_scene(signed_in: Client, shelf: Study) -> None:
    response = ask(signed_in, shelf, "small-picture", set={"width": 400}, held=[])
    assert (
        response["Content-Type"] == "application/vnd.ovolo.scene" and b'"board"' in response.content
    )


def test_aim_and_reach(signed_in: Client, shelf: Study) -> None:
    found = ask(signed_in, shelf, "aim", name="half", goal="300 mm", by=["width"])
    assert found["found"][0]["settings"] == {"width": 600} and found["found"][0]["exact"]
    most = ask(signed_in, shelf, "aim", name="half", goal="most", by=["width"])
    assert most["found"][0]["settings"] == {"width": 1000} and most["binding"] == ["not too wide"]
    reach = ask(signed_in, shelf, "reach", name="half")
    assert [bar["name"] for bar in reach["bars"]] == ["width"] and "wood" in reach["still"]
    for goal, by, said in (
        ("3 kg", ["width"], "is a mass, but `half` is a length"),
        ("long", ["width"], "cannot be read as a length"),
        ("300 mm", [], "no input was named"),
        ("300 mm", ["seed"], "does not move"),
    ):
        refused = ask(signed_in, shelf, "aim", 400, name="half", goal=goal, by=by)
        assert said in refused["message"]


def test_proof_and_bands(signed_in: Client, shelf: Study) -> None:
    found = ask(signed_in, shelf, "proof")
    assert [one["verdict"] for one in found["verdicts"]] == ["fails"] and found["tried"] > 5
    assert {one["why"] for one in found["breakings"]} == {"not too wide"}
    bands = ask(signed_in, shelf, "bands", name="width")
    assert [(one["low"], one["high"]) for one in bands["failing"]] == [(1050, 1200)]
    assert ask(signed_in, shelf, "bands", name="wood")["failing"] == []
    assert "is not an input" in ask(signed_in, shelf, "bands", 400, name="half")["message"]


def test_what_is_taken_is_one_revision(signed_in: Client, shelf: Study) -> None:
    body = {"edit": "take", "revision": shelf.head_id, "values": {"width": 650.0, "wood": "ash"}, "said": "number 3"}  # fmt: skip
    ask(signed_in, shelf, "edit", **body)
    shelf.refresh_from_db()
    assert "input width = 650 mm from" in shelf.text and 'input wood = "ash" of' in shelf.text
    assert shelf.head is not None and shelf.head.said == "taken: number 3"
    refused = ask(signed_in, shelf, "edit", 400, edit="take", revision=shelf.head_id, values={"wood": 3})  # fmt: skip
    assert "`3` is no value for `wood`" in refused["message"]
    ask(signed_in, shelf, "undo", revision=shelf.head_id)
    shelf.refresh_from_db()
    assert shelf.text == TEXT


def test_a_trial_is_kept_as_a_preset_without_turning_to_it(signed_in: Client, shelf: Study) -> None:
    ask(signed_in, shelf, "edit", edit="keep_preset", revision=shelf.head_id, title="Seven", values={"width": 350.0, "wood": "ash"})  # fmt: skip
    shelf.refresh_from_db()
    assert 'preset "Seven": width = 350 mm, wood = "ash", seed = 4' in shelf.text
    assert "input width = 900 mm" in shelf.text


def test_settings_moments_and_studies_are_compared(signed_in: Client, shelf: Study) -> None:
    first = shelf.head_id
    shelf.save_text(TEXT.replace("900 mm", "500 mm"), first)
    other = Study.objects.create(project=shelf.project, title="Other")
    other.save_text(TEXT.replace('"oak" of', '"ash" of'), None)
    sides = [{"title": "now"}, {"title": "then", "moment": first}, {"title": "wide", "set": {"width": 1200.0}}, {"title": "other", "study": other.pk}]  # fmt: skip
    rows = {(row["what"], row["name"]): row for row in ask(signed_in, shelf, "compare", sides=sides)["rows"]}  # fmt: skip
    assert rows["input", "width"]["sides"] == ["500 mm", "900 mm", "1200 mm", "900 mm"]
    assert rows["check", "width <= 1000 mm"]["sides"] == ["holds", "holds", "fails", "holds"]
    assert rows["input", "wood"]["differs"] and not rows["pieces", "board"]["differs"]
    beside = signed_in.get(reverse("comparable", args=[shelf.pk])).json()["studies"]
    assert [one["title"] for one in beside] == ["Other"]
    assert "cannot be compared" in ask(signed_in, shelf, "compare", 400, sides=sides[:1])["message"]


def test_nobody_compares_with_the_study_of_another(
    signed_in: Client, shelf: Study, django_user_model: Any
) -> None:
    stranger = django_user_model.objects.create_user("stranger")
    theirs = stranger.projects.create(title="Theirs").studies.create(title="Secret")
    theirs.save_text(TEXT, None)
    body = {"sides": [{"title": "now"}, {"title": "theirs", "study": theirs.pk}]}
    assert signed_in.post(reverse("compare", args=[shelf.pk]), body, "application/json").status_code == 404  # fmt: skip


def test_trials_as_a_table_and_as_files(signed_in: Client, shelf: Study) -> None:
    trials = ask(signed_in, shelf, "trials", plan=ROLL, first=0, last=3)["trials"]
    table = ask(signed_in, shelf, "trial-table", trials=trials, values=["half"])
    assert table.content.decode().startswith("number,width,wood,seed,half,well,why not\n1,")
    files = ask(signed_in, shelf, "trial-files", plan=ROLL, numbers=[0, 2], file="parts.stl")
    names = zipfile.ZipFile(io.BytesIO(files.content)).namelist()
    assert names == ["001-parts.stl", "003-parts.stl"]
    for numbers, file, said in (
        ([], "parts.stl", "0 trials were chosen"),
        ([99], "parts.stl", "there is no trial 100"),
        ([0], "parts.abc", "no format"),
    ):
        refused = ask(signed_in, shelf, "trial-files", 400, plan=ROLL, numbers=numbers, file=file)
        assert said in refused["message"]


def test_of_a_row_that_was_refused_no_file_is_made(signed_in: Client, shelf: Study) -> None:
    rows = {"kind": "rows", "rows": "width [mm],wood\n300,oak\n400,gold\n"}
    made = ask(signed_in, shelf, "trial-files", plan=rows, numbers=[0, 1], file="parts.stl")
    folder = zipfile.ZipFile(io.BytesIO(made.content))
    assert folder.namelist() == ["001-parts.stl", "refused.txt"]
    assert folder.read("refused.txt").decode().startswith("2: row 3, wood:")
    refused = ask(signed_in, shelf, "trial-files", 400, plan=rows, numbers=[1], file="parts.stl")
    assert "none could be written" in refused["message"]


def test_a_contact_sheet_is_kept_and_says_when_its_sheet_has_changed(
    signed_in: Client, shelf: Study
) -> None:
    kept = ask(signed_in, shelf, "keep-contact-sheet", title=" Narrow  ones ", plan=ROLL, shown={"x": "half"})  # fmt: skip
    (sheet,) = kept["sheets"]
    assert (sheet["title"], sheet["stale"], sheet["plan"]) == ("Narrow ones", False, ROLL)
    again = ask(signed_in, shelf, "keep-contact-sheet", title="Narrow ones", plan={**ROLL, "roll": 9})["sheets"]  # fmt: skip
    assert len(again) == 1 and again[0]["plan"]["roll"] == 9
    shelf.refresh_from_db()
    shelf.save_text(TEXT + "more = 3\n", shelf.head_id)
    page = signed_in.get(reverse("variations", args=[shelf.pk]))
    assert [one["stale"] for one in page.context["state"]["sheets"]] == [True]
    assert "needs a name" in ask(signed_in, shelf, "keep-contact-sheet", 400, title=" ", plan=ROLL)["message"]  # fmt: skip
    assert ask(signed_in, shelf, "forget-contact-sheet", sheet=sheet["sheet"])["sheets"] == []


@pytest.mark.filterwarnings("default")
def test_trials_are_made_on_the_cluster_that_is_named(
    signed_in: Client, shelf: Study, monkeypatch: pytest.MonkeyPatch
) -> None:
    here = ask(signed_in, shelf, "trials", plan=ROLL, first=0, last=5)
    monkeypatch.setattr("studio.engine.cluster._cluster", None)
    with LocalCluster(
        n_workers=1,
        threads_per_worker=1,
        processes=False,
        protocol="tcp://",
        host="127.0.0.1",
        dashboard_address=None,
        silence_logs=50,
    ) as made:
        monkeypatch.setattr("studio.engine.cluster.ADDRESS", made.scheduler_address)
        assert ask(signed_in, shelf, "trials", plan=ROLL, first=0, last=5) == here
        cluster._cluster.stop()
    monkeypatch.setattr("studio.engine.cluster._cluster", None)
    monkeypatch.setattr("ovolo.exploring.carriers._SECONDS_TO_ANSWER", 1)
    monkeypatch.setattr("studio.engine.cluster.ADDRESS", "tcp://127.0.0.1:1")
    refused = ask(signed_in, shelf, "trials", 400, plan=ROLL, first=0, last=5)
    assert "no cluster answers at tcp://127.0.0.1:1" in refused["message"]
    assert ask(signed_in, shelf, "plan", plan=ROLL)["count"] == 20, "the page goes on"


@pytest.mark.filterwarnings("default")
def test_a_cluster_that_is_lost_is_told_and_found_again(
    signed_in: Client, shelf: Study, monkeypatch: pytest.MonkeyPatch
) -> None:
    here = ask(signed_in, shelf, "trials", plan=ROLL, first=0, last=5)
    monkeypatch.setattr("studio.engine.cluster._cluster", None)
    monkeypatch.setattr("ovolo.exploring.carriers._SECONDS_TO_ANSWER", 2)
    said = {"n_workers": 1, "threads_per_worker": 1, "processes": False, "protocol": "tcp://", "host": "127.0.0.1", "dashboard_address": None, "silence_logs": 50}  # fmt: skip
    with LocalCluster(**said) as made:
        address = made.scheduler_address
        monkeypatch.setattr("studio.engine.cluster.ADDRESS", address)
        assert ask(signed_in, shelf, "trials", plan=ROLL, first=0, last=5) == here
        made.scale(0)
        monkeypatch.setattr("studio.variations.views._SECONDS", 1.0)
        refused = ask(signed_in, shelf, "trials", 400, plan=ROLL, first=5, last=9)
        assert f"the cluster at {address} had no result after 1 s" in refused["message"]
    monkeypatch.setattr("studio.variations.views._SECONDS", 60.0)
    assert address in ask(signed_in, shelf, "trials", 400, plan=ROLL, first=0, last=5)["message"]
    with LocalCluster(**said, scheduler_port=int(address.rpartition(":")[2])):
        assert ask(signed_in, shelf, "trials", plan=ROLL, first=0, last=5) == here
        cluster._cluster.stop()


def test_the_contact_sheets_of_the_demonstration_can_be_opened() -> None:
    kept = {title: demo_contact_sheets(title) for title in demo_sheets()}
    assert sum(map(bool, kept.values())) == 3
    for title, sheets in kept.items():
        for one in sheets:
            text = demo_sheets()[title]
            program, plan = plan_of(
                text, everything_named(text, folder_shelf(SHEETS)), one["plan"], {}
            )
            assert len(plan.settings) >= 12
            check_names(program, one["shown"]["values"])
