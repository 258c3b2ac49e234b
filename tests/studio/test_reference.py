"""The reference: a page for each entry, found by need, every example tried; for everybody."""

from __future__ import annotations

import re

import pytest
from django.conf import settings
from django.core.cache import cache
from django.test import Client
from django.urls import reverse
from django.utils.html import escape

from ovolo.calling.trying import example_sheet, tried
from ovolo.words.all import WORDS
from ovolo.writing.constructs import TRADES_BY_NEED
from ovolo.writing.starting import starting_points
from studio.engine import tasks
from studio.projects.models import Project, Study
from studio.reference.rules import chapters

pytestmark = pytest.mark.django_db


@pytest.fixture(autouse=True)
def _nothing_counted() -> None:
    cache.clear()


def test_every_example_can_be_tried() -> None:
    """Each as its page gives it: without a problem, and with a value, or a drawing of what it makes."""
    for word in WORDS.values():
        if word.constant:
            continue
        told = tried(example_sheet(word))
        assert told["problems"] == [], (word.name, told["problems"])
        assert told["values"] or "<path" in told["picture"], word.name


def test_a_need_leads_to_the_page_of_a_word(client: Client) -> None:
    page = client.get(reverse("reference"), {"find": "round up"}).content.decode()
    first = page.partition('<li class="border-b')[2].partition("</li>")[0]
    address = reverse("reference-entry", args=["word", "ceil"])
    assert f'href="{address}"' in first
    page = client.get(address).content.decode()
    assert "at or above x" in page and "result = ceil(" in page and "Related:" in page
    assert client.get(reverse("find-words"), {"find": "round up"}).json()["found"][0] == "word ceil"


@pytest.mark.parametrize(("sort", "name"), [("line", "check"), ("operator", "+"), ("operator", "/"), ("unit", "mm"), ("value", "pi")])  # fmt: skip
def test_lines_operators_units_and_values_have_pages(sort: str, name: str, client: Client) -> None:
    assert client.get(reverse("reference-entry", args=[sort, name])).status_code == 200


def test_what_is_no_word_is_not_found(client: Client) -> None:
    for sort, name in (
        ("word", "nonsense"),
        ("x", "ceil"),
        ("word", "<script>"),
        ("word", "a" * 500),
    ):
        assert client.get(reverse("reference-entry", args=[sort, name])).status_code == 404


def test_an_example_is_changed_and_tried(client: Client) -> None:
    address = reverse("try-example")
    told = client.post(address, {"text": "a = 3 m / 2\ncheck a > 2 m"}, "application/json").json()
    assert told["values"] == [{"name": "a", "shown": "1500 mm"}]
    assert told["checks"] == [{"said": "a > 2 m", "holds": False}]
    told = client.post(address, {"text": "a = 3 m + 2 kg"}, "application/json").json()
    assert "mass" in told["problems"][0]
    for body in ({"text": "#" * 4_001}, {"text": 3}, {}):
        assert client.post(address, body, "application/json").status_code == 400
    secret = client.post(address, {"text": 'use other from "Wind vane"'}, "application/json").json()
    assert "no study" in secret["problems"][0], "nobody's study is reached from here"


def test_trying_has_a_measure(client: Client, one_minute: None) -> None:
    body = {"text": "#" * 4_001}
    told = [
        client.post(reverse("try-example"), body, "application/json").status_code
        for _ in range(125)
    ]
    assert told[0] == 400 and told[-1] == 429


def test_what_was_tried_becomes_a_study(signed_in: Client, study: Study) -> None:
    page = signed_in.get(reverse("reference-entry", args=["word", "rect"])).content.decode()
    assert reverse("new-study", args=[study.project_id]) in page
    other = Project.objects.create(owner=study.project.owner, title="Own")
    form = {"title": "rect", "text": "part result = rect(3 m, 2 m)\r\n"}
    signed_in.post(reverse("new-study", args=[other.pk]), form)
    made = other.studies.get()
    assert made.title == "rect" and made.text == 'study "rect"\npart result = rect(3 m, 2 m)\n'


def test_how_to_pages_are_there_and_found_beside_the_words(client: Client) -> None:
    for point in starting_points():
        page = client.get(reverse("how-to", args=[point.key])).content.decode()
        assert escape(point.passages[0].said) in page and page.count('class="mono passage') == len(
            point.passages
        )
        assert f"starting/{point.key}.png" in page
    for point in starting_points()[::7]:
        told = client.post(reverse("try-example"), {"text": point.sheet}, "application/json").json()
        assert told["problems"] == [] and all(one["holds"] for one in told["checks"])
        cache.clear()
    page = client.get(reverse("reference"), {"find": "bolt circle"}).content.decode()
    assert reverse("how-to", args=["holes-in-a-ring"]) in page.partition('aria-label="How to"')[2]
    assert client.get(reverse("how-to", args=["nothing"])).status_code == 404


def test_the_rules_of_the_language_are_pages(client: Client) -> None:
    """The chapters of the language's own page, whole, and no link that leads nowhere."""
    text = (settings.BASE / "docs" / "language.md").read_text()
    assert [one.title for one in chapters()] == re.findall(r"^## (.+)$", text, flags=re.MULTILINE)
    for one in chapters():
        page = client.get(reverse("rule", args=[one.key])).content.decode()
        main = page.partition('class="chapter"')[2].partition("</main>")[0]
        assert "href=" not in main and "<img" not in main and len(main) > 100
    page = client.get(reverse("rule", args=["rounding"])).content.decode()
    assert "<code>floor(0.3 m / 0.1 m)</code></td>\n<td>3</td>" in page
    assert client.get(reverse("rule", args=["nothing"])).status_code == 404


def test_messages_are_listed_and_found(client: Client) -> None:
    page = client.get(reverse("messages")).content.decode()
    assert (
        "the square root of a negative value (…) does not exist" in page
        and "Reading a line" in page
    )
    asked = {"find": "the square root of a negative value (-1) does not exist"}
    page = client.get(reverse("reference"), asked).content.decode()
    assert "the square root of a negative value (…)" in page and "message, Words" in page
    assert (
        "<script>alert"
        not in client.get(reverse("reference"), {"find": "`<script>alert(1)`"}).content.decode()
    )


def test_what_can_be_looked_up_stands_in_the_order_of_needs() -> None:
    """And not in that in which modules happen to be loaded."""
    trades = [one["trade"] for one in tasks.words_by_trade()]
    order = [trade for trades in TRADES_BY_NEED.values() for trade in trades]
    assert trades[: len(order)] == order
    assert {word.trade for word in WORDS.values()} <= set(trades)
