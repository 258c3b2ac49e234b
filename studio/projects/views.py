"""The projects page."""

from __future__ import annotations

from django.contrib.auth.decorators import login_required
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.csrf import ensure_csrf_cookie

from studio.projects.models import Project


@login_required
@ensure_csrf_cookie
def overview(request: HttpRequest) -> HttpResponse:
    """All projects of the person signed in, with their studies."""
    projects = Project.objects.filter(owner_id=request.user.pk).prefetch_related("studies__head")
    return render(request, "projects/overview.html", {"projects": projects})
