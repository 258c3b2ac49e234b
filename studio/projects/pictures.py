"""The picture of a study: drawn once by a browser for each state it is in, and kept with it."""

from __future__ import annotations

import hashlib
import struct
from datetime import datetime

from django.contrib.auth.decorators import login_required
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.views.decorators.http import require_GET, require_POST

from studio.engine.requests import number_said
from studio.projects.access import entered, studies_under, study_with
from studio.projects.models import Attachment, Picture, Study
from studio.rights.right import Right

MOST_BYTES = 1_000_000
MOST_PIXELS = 2000
_MOST_COUNTED = 999_999
_PNG = b"\x89PNG\r\n\x1a\n"


def state_shown(study: Study) -> str:
    """What tells the state that a picture shows: the newest revisions of the study and of all it
    uses, and the files of each."""
    rests_on = [study, *studies_under(study).values()]
    return _told(rests_on, _files_of(rests_on))


def states_shown(studies: list[Study]) -> dict[int, str]:
    """The states of all studies of a project, by their numbers; the database is asked once for all of them."""
    by_title = {one.title: one for one in studies}
    files = _files_of(studies)

    def called(titles: set[str]) -> list[Study]:
        return [by_title[title] for title in titles & by_title.keys()]

    return {one.pk: _told([one, *studies_under(one, called).values()], files) for one in studies}


_Files = dict[int, list[tuple[int, datetime]]]
"""Of each study, by its number, the files that are attached to it and when each was changed."""


def _files_of(studies: list[Study]) -> _Files:
    found: _Files = {}
    attached = Attachment.objects.filter(study__in=studies).order_by("pk")
    for study, number, changed in attached.values_list("study_id", "pk", "changed"):
        found.setdefault(study, []).append((number, changed))
    return found


def _told(rests_on: list[Study], files: _Files) -> str:
    told = sorted({(one.pk, one.head_id, *files.get(one.pk, ())) for one in rests_on}, key=repr)
    return hashlib.sha256(repr(told).encode()).hexdigest()


@entered
@require_GET
def picture(request: HttpRequest, study_id: int) -> HttpResponse:
    """The picture of a study in the state `?of=`, as its page names it."""
    study = study_with(request, study_id, Right.VIEW)
    found = Picture.objects.filter(study=study, of=request.GET.get("of", "")).first()
    if found is None:
        raise Http404("There is no such picture of this study.")
    response = HttpResponse(bytes(found.data), content_type="image/png")
    # Its address names the state: what it shows never changes.
    response["Cache-Control"] = "private, max-age=31536000, immutable"
    return response


@login_required
@require_POST
def keep(request: HttpRequest, study_id: int) -> HttpResponse:
    """Keeps a picture that a browser has drawn of the state the study is in."""
    study = study_with(request, study_id, Right.EDIT)
    state = state_shown(study)
    if request.GET.get("of", "") != state:
        return JsonResponse({"message": "the study has changed since this was drawn"}, status=409)
    if len(request.body) > MOST_BYTES or not _is_small_png(request.body):
        return JsonResponse(
            {"message": f"a picture is a PNG of at most {MOST_BYTES:,} bytes and {MOST_PIXELS} pixels each way"},
            status=400,
        )  # fmt: skip
    told = {"of": state, "data": request.body}
    counts = {name: _count(request.GET.get(name, "")) for name in ("problems", "failing")}
    Picture.objects.update_or_create(study=study, defaults=told | counts)
    return JsonResponse({})


def _count(said: str) -> int:
    """A number of things that were seen; 0 for what is no such number."""
    return min(number_said(said), _MOST_COUNTED)


def _is_small_png(data: bytes) -> bool:
    """By its signature and its header (PNG, ISO/IEC 15948, 5.2 and 11.2.2)."""
    if len(data) < 33 or not data.startswith(_PNG) or data[12:16] != b"IHDR":
        return False
    width: int
    height: int
    width, height = struct.unpack(">II", data[16:24])
    return 0 < width <= MOST_PIXELS and 0 < height <= MOST_PIXELS
