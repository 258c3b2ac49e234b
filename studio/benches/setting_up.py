"""What the pages of both benches have in common: how a study is set up there, and how work is asked for."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from django.http import HttpRequest, HttpResponse, JsonResponse
from django.utils.http import content_disposition_header

from ovolo.benches.profile import Profile
from ovolo.formats.attached import Files
from ovolo.problems import Failure
from studio.benches.profiles import own_text, profiles_of
from studio.engine import pool, wire
from studio.engine.cluster import on_cluster
from studio.engine.machines import machine_of
from studio.engine.requests import body_of, failures_told, job_of, worked
from studio.projects.access import files_of, study_with
from studio.projects.as_seen import files_as_seen, tagged
from studio.projects.models import Study
from studio.rights.right import Right

SECONDS = 60.0
MOST_LAYERS = 60
"""So many layers one request may ask for."""

MOST_ROLES = 1_000


def page_state(
    request: HttpRequest, study: Study, machine: type[Profile], kind: str
) -> dict[str, Any]:
    """What the page of a bench begins with: set up as it was left."""
    kept = study.benches.filter(machine=machine.MACHINE).first()
    return {
        "study": study.pk,
        "title": study.title,
        "kind": kind,
        "profiles": profiles_of(request, machine.MACHINE),
        "kept": kept.said if kept else {},
    }


def asked_of(request: HttpRequest, machine: type[Profile]) -> dict[str, Any]:
    """What is asked for, with the text of one's own profile. Raises Failure."""
    asked = wire.read(wire.BenchAsked, body_of(request))
    if asked.last - asked.first > MOST_LAYERS:
        raise Failure(f"so many layers are not given at once, but {MOST_LAYERS} at most")
    if asked.at is not None and len(asked.at) != 3:
        raise Failure("the request cannot be read", "`at` is wrong")
    return {**vars(asked), "profile": own_text(request, machine.MACHINE, asked.machine)}


def handed(
    request: HttpRequest, study: Study, task: Callable[..., Any], asked: dict[str, Any]
) -> Any:
    """What a worker makes of the study to be taken away, as the page has seen it. Raises Failure."""
    files = files_as_seen(request, study, asked["profile"])
    return _worked(request, study, files, task, asked, pool.HAND_OVER_KILL_AFTER)


@failures_told
def worked_out(
    request: HttpRequest,
    study_id: int,
    task: Callable[..., Any],
    machine: type[Profile],
    begins: bool = False,
    anywhere: bool = False,
    seconds: float = SECONDS,
) -> HttpResponse:
    """What a worker makes of the study, as the page has seen it; as it is now where the page `begins` with that.
    `anywhere` also one of the cluster, where there is one."""
    study = study_with(request, study_id, Right.TURN)
    asked = asked_of(request, machine)
    own = asked["profile"]
    files = files_of(study, study.text) if begins else files_as_seen(request, study, own)
    made = on_cluster(seconds, task, study.text, files, asked) if anywhere else None
    if made is None:
        made = _worked(request, study, files, task, asked, seconds)
    answer = JsonResponse(made)
    return tagged(answer, study, files, own) if begins else answer


def _worked(
    request: HttpRequest, study: Study, files: Files, task: Callable[..., Any], asked: dict[str, Any], seconds: float
) -> Any:  # fmt: skip
    return worked(request, task, study.text, files, asked, study=study.pk, job=job_of(request), seconds=seconds)  # fmt: skip


@failures_told
def kept(request: HttpRequest, study_id: int, machine: type[Profile]) -> HttpResponse:
    """Keeps how the study is set up on a bench."""
    study = study_with(request, study_id, Right.EDIT)
    said = wire.read(wire.BenchKept, body_of(request))
    machine_of(machine, {**vars(said), "profile": own_text(request, machine.MACHINE, said.machine)})
    if len(said.roles) > MOST_ROLES:
        raise Failure(f"{len(said.roles):,} parts have a role", f"at most {MOST_ROLES:,}")
    study.benches.update_or_create(machine=machine.MACHINE, defaults={"said": vars(said)})
    return JsonResponse({})


def handed_over(data: bytes, name: str, kind: str) -> HttpResponse:
    response = HttpResponse(data, content_type=kind)
    response["Content-Disposition"] = content_disposition_header(True, name) or "attachment"
    return response
