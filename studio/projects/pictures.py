"""The picture of a study: drawn once by a browser for a revision, and kept with it."""

from __future__ import annotations

import struct

from django.contrib.auth.decorators import login_required
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.views.decorators.http import require_GET, require_POST

from studio.projects.access import Right, study_with
from studio.projects.models import Picture

MOST_BYTES = 1_000_000
MOST_PIXELS = 2000
_PNG = b"\x89PNG\r\n\x1a\n"


@login_required
@require_GET
def picture(request: HttpRequest, study_id: int) -> HttpResponse:
    """The picture of a study, as it was drawn last."""
    study = study_with(request, study_id, Right.VIEW)
    found = Picture.objects.filter(study=study).first()
    if found is None:
        raise Http404("There is no picture of this study yet.")
    response = HttpResponse(bytes(found.data), content_type="image/png")
    # Its address names the revision: what it shows never changes.
    response["Cache-Control"] = "private, max-age=31536000, immutable"
    return response


@login_required
@require_POST
def keep(request: HttpRequest, study_id: int) -> HttpResponse:
    """Keeps a picture that a browser has drawn of the newest revision."""
    study = study_with(request, study_id, Right.EDIT)
    revision = study.head_id
    if revision is None or request.GET.get("revision", "") != str(revision):
        return JsonResponse({"message": "the study has changed since this was drawn"}, status=409)
    if int(request.headers.get("Content-Length") or 0) > MOST_BYTES or not _is_small_png(
        request.body
    ):
        return JsonResponse(
            {"message": f"a picture is a PNG of at most {MOST_BYTES:,} bytes and {MOST_PIXELS} pixels each way"},
            status=400,
        )  # fmt: skip
    Picture.objects.update_or_create(
        study=study, defaults={"revision": revision, "data": request.body}
    )
    return JsonResponse({})


def _is_small_png(data: bytes) -> bool:
    """By its signature and its header (PNG, ISO/IEC 15948, 5.2 and 11.2.2)."""
    if len(data) < 33 or not data.startswith(_PNG) or data[12:16] != b"IHDR":
        return False
    width: int
    height: int
    width, height = struct.unpack(">II", data[16:24])
    return 0 < width <= MOST_PIXELS and 0 < height <= MOST_PIXELS
