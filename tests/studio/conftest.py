"""A person with a project and studies."""

from __future__ import annotations

from collections.abc import Iterator
from types import SimpleNamespace
from typing import Any

import pytest
from django.test import Client

from studio.engine import pool
from studio.projects.models import Project, Study

TEXT = "\n".join(
    [
        'input w = 300 mm from 100 mm to 900 mm step 10 mm "Width"',
        "half = w / 2",
        'part plate = box(w, half, 10 mm) colour oak "Plate"',
    ]
)


@pytest.fixture(scope="session", autouse=True)
def _workers_end() -> Iterator[None]:
    yield
    pool.stop_workers()


@pytest.fixture
def one_minute(monkeypatch: pytest.MonkeyPatch) -> None:
    """All that is counted falls into one window of time, however long the test takes."""
    monkeypatch.setattr("django_ratelimit.core.time", SimpleNamespace(time=lambda: 1_800_000_000.0))


@pytest.fixture
def study(django_user_model: Any, db: None) -> Study:
    owner = django_user_model.objects.create_user("lark")
    made = Study.objects.create(
        project=Project.objects.create(owner=owner, title="P"), title="Wind vane"
    )
    made.save_text(TEXT, None, "first")
    return made


@pytest.fixture
def signed_in(client: Client, study: Study) -> Client:
    client.force_login(study.project.owner)
    return client
