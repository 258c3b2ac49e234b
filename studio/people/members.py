"""Who works on a project: its members and their roles, invitations, and the links that lead to it."""

from __future__ import annotations

from typing import Any

from django.conf import settings
from django.contrib import messages
from django.contrib.auth.decorators import login_required
from django.core.mail import send_mail
from django.db import transaction
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_POST

from studio.accounts.names import name_of
from studio.accounts.throttle import throttled
from studio.engine.requests import number_said
from studio.handover.menu import takeable
from studio.people.forms import LASTING, InvitationForm, said_wrong
from studio.projects.access import project_with
from studio.projects.models import Project
from studio.rights.models import Invitation, Link, Member
from studio.rights.right import Right, Role


@login_required
@require_GET
def page(request: HttpRequest, project_id: int) -> HttpResponse:
    """Who works on a project, who was invited, which links lead to it."""
    project = project_with(request, project_id, Right.OWN)
    asked = request.GET.get("study", "")
    context = {
        "project": project,
        "members": project.members.select_related("person"),
        "roles": Role.choices,
        "invitations": [
            {"it": one, "address": whole(request, "invitation", one.token)}
            for one in Invitation.objects.filter(project=project)
        ],
        "links": [
            {"it": one, "address": whole(request, "link", one.token), "formats": ", ".join(one.formats)}
            for one in Link.objects.filter(project=project).select_related("study")
        ],
        "studies": project.studies.only("pk", "title"),
        "chosen": number_said(asked),
        "lasting": LASTING.items(),
        "takeable": takeable(),
    }  # fmt: skip
    return render(request, "people/people.html", context)


def whole(request: HttpRequest, name: str, *arguments: Any) -> str:
    return request.build_absolute_uri(reverse(name, args=arguments))


def back(project: Project) -> HttpResponse:
    return redirect("people", project.pk)


@login_required
@require_POST
@throttled("invite")
def invite(request: HttpRequest, project_id: int) -> HttpResponse:
    """An invitation to work on the project, sent by mail where an address is given."""
    project = project_with(request, project_id, Right.OWN)
    form = InvitationForm(request.POST)
    if not form.is_valid():
        messages.error(request, f"Nobody was invited. {said_wrong(form)}")
        return back(project)
    role, mail = Role(form.cleaned_data["role"]), form.cleaned_data["mail"]
    made = Invitation.objects.create(
        project=project, role=role, mail=mail, by_id=int(request.user.pk or 0), until=form.until()
    )
    address = whole(request, "invitation", made.token)
    if mail:
        told = f"{name_of(request.user)} invites you to “{project.title}”. You {role.label}.\n\n{address}\n"
        send_mail(f"An invitation to “{project.title}”", told, settings.DEFAULT_FROM_EMAIL, [mail])
    messages.info(request, f"The invitation was sent to {mail}." if mail else f"Give this address to who is invited: {address}")  # fmt: skip
    return back(project)


@login_required
@require_POST
def end_invitation(request: HttpRequest, project_id: int, number: int) -> HttpResponse:
    project = project_with(request, project_id, Right.OWN)
    get_object_or_404(Invitation.objects.filter(project=project), pk=number).end()
    messages.info(request, "The invitation was taken back.")
    return back(project)


@login_required
@require_POST
def set_role(request: HttpRequest, project_id: int, number: int) -> HttpResponse:
    """Another role for a member; without one, the member is removed."""
    project = project_with(request, project_id, Right.OWN)
    member = get_object_or_404(Member, project=project, pk=number)
    role = request.POST.get("role", "")
    if role in Role.values:
        member.role = role
        member.save(update_fields=["role"])
    elif role == "":
        member.delete()
        messages.info(request, f"{name_of(member.person)} works on it no longer.")
    else:
        messages.error(request, f"There is no role “{role[:40]}”.")
    return back(project)


@login_required
@require_POST
def leave(request: HttpRequest, project_id: int) -> HttpResponse:
    """Whoever works on a project of another leaves it."""
    project = project_with(request, project_id, Right.VIEW)
    left, _ = Member.objects.filter(project=project, person_id=request.user.pk).delete()
    if left:
        messages.info(request, f"You have left “{project.title}”.")
    else:
        messages.error(request, "A project is not left by its owner.")
    return redirect("projects")


@require_GET
def invitation(request: HttpRequest, token: str) -> HttpResponse:
    """What somebody is invited to; who has not signed in may do so first, or sign up."""
    return render(request, "people/invitation.html", {"invitation": _invitation(token)})


def _invitation(token: str) -> Invitation:
    found = Invitation.objects.select_related("project", "by").filter(token=token).first()
    if found is None:
        raise Http404("This invitation has run out, was taken, or taken back.")
    return found


@login_required
@require_POST
@transaction.atomic
def accept(request: HttpRequest, token: str) -> HttpResponse:
    """Takes an invitation: whoever is signed in works on the project from now on."""
    found = _invitation(token)
    project = found.project
    if project.owner_id == request.user.pk:
        messages.error(request, f"“{project.title}” is yours already.")
        return redirect("projects")
    Member.objects.update_or_create(
        project=project, person_id=request.user.pk, defaults={"role": found.role}
    )
    found.end()
    messages.info(request, f"You work on “{project.title}” now: you {Role(found.role).label}.")
    return redirect("projects")
