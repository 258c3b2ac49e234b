"""Every address asks for its right, and a revision knows who made it."""

from __future__ import annotations

from typing import Any

import pytest
from django.test import Client
from django.urls import reverse

from studio.config.urls import urlpatterns
from studio.projects import access
from studio.projects.access import Right
from studio.projects.models import Study

NEEDED = {
    Right.VIEW: ("workspace", "state", "beside", "swaps", "history", "attached", "picture"),
    Right.TURN: (
        "evaluate",
        "moves",
        "item",
        "numbers",
        "outline",
        "schedule",
        "bars",
        "measure",
        "variations",
        "plan",
        "trials",
        "small-picture",
        "trial-table",
        "comparable",
        "compare",
        "aim",
        "reach",
        "bands",
        "proof",
        "print-bench",
        "print-lay",
        "print-layers",
        "print-layer",
        "print-run",
        "cut-bench",
        "cut-lay",
        "cut-run",
    ),
    Right.EDIT: (
        "edit",
        "keep-contact-sheet",
        "forget-contact-sheet",
        "keep-picture",
        "edit-copy",
        "undo",
        "redo",
        "restore",
        "name-moment",
        "attach",
        "detach",
        "keep-print",
        "keep-cut",
    ),
    Right.HAND_OVER: (
        "give-out",
        "hand-over",
        "hand-over-sheet",
        "trial-files",
        "print-code",
        "cut-file",
        "hand-over-page",
        "hand-over-look",
        "hand-over-take",
        "hand-over-again",
    ),
    Right.OWN: (
        "copy",
        "remove",
        "bring-back",
        "remove-for-good",
        "new-study",
        "take-in",
        "rename-project",
        "remove-project",
    ),
}
FREE = (
    "projects",
    "new-project",
    "sign-in",
    "sign-out",
    "stop-job",
    "sun",
    "vocabulary",
    "profile-text",
    "keep-profile",
    "forget-profile",
)
"""Addresses of nobody's study."""

KNOWN = {"name": "bolts.csv", "file_name": "a.stl", "ending": "dxf"}


def test_every_address_has_its_right() -> None:
    assert sorted([*FREE, *(one for names in NEEDED.values() for one in names)]) == sorted(
        one.name for one in urlpatterns
    )


@pytest.mark.parametrize("held", [*Right, None], ids=str)
def test_who_lacks_a_right_finds_nothing(
    held: Right | None, signed_in: Client, study: Study, monkeypatch: pytest.MonkeyPatch
) -> None:
    """With each right alone, the addresses of all others are not found, and change nothing."""
    rights = frozenset({held} if held else ())
    monkeypatch.setattr(access, "rights_to", lambda project, request: rights)
    study.attachments.create(name="bolts.csv", data=b"size\n3\n")
    known = {**KNOWN, "study_id": study.pk, "project_id": study.project_id}
    for right, names in NEEDED.items():
        for pattern in (one for one in urlpatterns if one.name in names and right is not held):
            address = reverse(pattern.name, kwargs={one: known[one] for one in pattern.pattern.converters})  # fmt: skip
            told = {
                signed_in.get(address).status_code,
                signed_in.post(address, {}, "application/json").status_code,
            }
            assert told <= {404, 405} and 404 in told, pattern.name
    assert study.revisions.count() == 1 and study.attachments.count() == 1


def test_a_revision_knows_its_author(
    signed_in: Client, study: Study, django_user_model: Any
) -> None:
    body = {"edit": "set", "name": "w", "typed": "400 mm", "revision": study.head_id}
    assert signed_in.post(reverse("edit", args=[study.pk]), body, "application/json").status_code == 200  # fmt: skip
    study.refresh_from_db()
    assert study.head is not None and study.head.author == study.project.owner
    moments = signed_in.get(reverse("history", args=[study.pk])).json()["moments"]
    assert [one["by"] for one in moments] == ["lark", ""], "the application made the first"
    signed_in.post(reverse("copy", args=[study.pk]))
    copy = Study.objects.exclude(pk=study.pk).get()
    assert copy.head is not None and copy.head.author == study.project.owner
