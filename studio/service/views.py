"""What whoever runs the service asks: whether it is well, and its figures."""

from __future__ import annotations

import secrets

from django.conf import settings
from django.db import DatabaseError, connection
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_GET

from studio.engine import pool
from studio.service import metrics


@never_cache
@require_GET
def health(request: HttpRequest) -> JsonResponse:
    """200 where the database answers and work is taken, 503 where not; what is amiss is said."""
    wrong = []
    try:
        with connection.cursor() as cursor:
            cursor.execute("SELECT 1 FROM projects_project LIMIT 1")
    except DatabaseError as error:
        wrong.append(f"database: {type(error).__name__}")
    if pool.is_full():
        wrong.append("workers: no more orders are taken")
    return JsonResponse({"well": not wrong, "wrong": wrong}, status=503 if wrong else 200)


@never_cache
@require_GET
def figures(request: HttpRequest) -> HttpResponse:
    """The metrics, for who knows the token of OVOLO_METRICS_TOKEN; not found for others, or without one."""
    said = request.headers.get("Authorization", "").removeprefix("Bearer ")
    token = settings.METRICS_TOKEN
    if not token or not secrets.compare_digest(said.encode(), token.encode()):
        raise Http404("There is nothing here.")
    data, kind = metrics.written()
    return HttpResponse(data, content_type=kind)
