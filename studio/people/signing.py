"""Signing up, signing in, and another password for who has forgotten it."""

from __future__ import annotations

from django.conf import settings
from django.contrib.auth import login
from django.contrib.auth import views as auth
from django.http import HttpRequest, HttpResponse, HttpResponseBase
from django.shortcuts import redirect, render
from django.urls import reverse, reverse_lazy
from django.utils.http import url_has_allowed_host_and_scheme

from studio.accounts.throttle import throttled
from studio.people.account_forms import SignUpForm
from studio.projects.models import Project
from studio.rights.models import Invitation

OPEN, INVITED = "open", "invited"


@throttled("sign-up")
def sign_up(request: HttpRequest) -> HttpResponse:
    """A new account, where anybody may make one, or with an invitation to a project."""
    if request.user.is_authenticated:
        return redirect("projects")
    onward = _onward(request)
    if not _may_sign_up(onward):
        return render(request, "people/no_sign_up.html", status=403)
    form = SignUpForm(request.POST if request.method == "POST" else None)
    if request.method == "POST" and form.is_valid():
        person = form.save()
        Project.objects.create(owner=person, title=f"Studies of {person.username}")
        login(request, person, backend="django.contrib.auth.backends.ModelBackend")
        return redirect(onward or "projects")
    return render(request, "people/sign_up.html", {"form": form, "next": onward})


def _onward(request: HttpRequest) -> str:
    """Where somebody wanted to go, within this place; empty for nowhere."""
    said = request.POST.get("next", request.GET.get("next", ""))
    inside = url_has_allowed_host_and_scheme(said, {request.get_host()}, request.is_secure())
    return said if inside else ""


def _may_sign_up(onward: str) -> bool:
    if settings.SIGN_UP == INVITED:
        token = onward.rstrip("/").rpartition("/")[2]
        return onward == reverse("invitation", args=[token or "-"]) and Invitation.objects.filter(token=token).exists()  # fmt: skip
    return bool(settings.SIGN_UP == OPEN)


def _sign_in_page(request: HttpRequest) -> HttpResponseBase:
    view = auth.LoginView.as_view(
        template_name="people/sign_in.html",
        extra_context={"sign_up": _may_sign_up(_onward(request))},
    )
    return view(request)


sign_in = throttled("sign-in")(_sign_in_page)

forgotten = throttled("reset")(
    auth.PasswordResetView.as_view(
        template_name="people/forgotten.html",
        email_template_name="people/mail_reset.txt",
        subject_template_name="people/mail_reset_subject.txt",
        success_url=reverse_lazy("reset-sent"),
    )
)
sent = auth.PasswordResetDoneView.as_view(template_name="people/reset_sent.html")
reset = auth.PasswordResetConfirmView.as_view(
    template_name="people/reset.html", success_url=reverse_lazy("sign-in")
)
