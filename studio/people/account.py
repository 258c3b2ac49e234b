"""One's own account: name, password, where one is signed in, taking all away."""

from __future__ import annotations

from typing import Any, cast

from django.contrib import messages
from django.contrib.auth import logout, update_session_auth_hash
from django.contrib.auth.decorators import login_required
from django.contrib.auth.forms import PasswordChangeForm
from django.contrib.auth.models import User
from django.core.exceptions import ValidationError
from django.http import FileResponse, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_POST

from studio.accounts.demo_user import DEMO_USER
from studio.accounts.models import SignedIn, Token
from studio.accounts.names import plain_name
from studio.accounts.sessions import end_sessions, sessions_of
from studio.accounts.throttle import throttled
from studio.accounts.tokens import MOST_TOKENS
from studio.accounts.tokens import made_token as new_token
from studio.people.account_forms import LeavingForm, PersonForm
from studio.people.forms import said_wrong
from studio.projects.packing import pack_account, zip_response
from studio.projects.quotas import room_of


@login_required
@require_GET
def page(request: HttpRequest) -> HttpResponse:
    """One's account."""
    person = _person(request)
    context = {
        "sessions": sessions_of(person),
        "here": request.session.session_key,
        "room": room_of(person),
        "tokens": person.tokens.all(),
        "is_demo": person.username == DEMO_USER,
    }
    return render(request, "people/account.html", context)


def _person(request: HttpRequest) -> User:
    return cast(User, request.user)


def _told(request: HttpRequest, form: Any, done: str) -> HttpResponse:
    """Back to the account, with what was done, or why it was not."""
    if form.errors:
        messages.error(request, f"Nothing was changed. {said_wrong(form)}")
    else:
        messages.info(request, done)
    return redirect("account")


@login_required
@require_POST
def save(request: HttpRequest) -> HttpResponse:
    form = PersonForm(request.POST, instance=_person(request))
    if form.is_valid():
        form.save()
    return _told(request, form, "Saved.")


@login_required
@require_POST
@throttled("leave")
def change_password(request: HttpRequest) -> HttpResponse:
    """Another password; whoever is signed in elsewhere is signed out there."""
    form = PasswordChangeForm(_person(request), request.POST)
    if form.is_valid():
        form.save()
        update_session_auth_hash(request, form.user)
    return _told(request, form, "The password is changed; elsewhere you are signed out.")


@login_required
@require_POST
def end_session(request: HttpRequest, number: int) -> HttpResponse:
    """Signs oneself out in one browser."""
    end_sessions([get_object_or_404(SignedIn, person_id=request.user.pk, pk=number)])
    return redirect("account")


@login_required
@require_POST
def end_others(request: HttpRequest) -> HttpResponse:
    """Signs oneself out everywhere but here."""
    here = request.session.session_key
    end_sessions([one for one in sessions_of(request.user) if one.session != here])
    messages.info(request, "You are signed out everywhere else.")
    return redirect("account")


@login_required
@require_POST
@throttled("token")
def make_token(request: HttpRequest) -> HttpResponse:
    """A token for a program, shown this once."""
    try:
        said = plain_name(request.POST.get("said", ""))[:120]
    except ValidationError as wrong:
        said = ""
        messages.error(request, " ".join(wrong.messages))
    if not said:
        messages.error(request, "Say what the token is for.")
    elif _person(request).tokens.count() >= MOST_TOKENS:
        messages.error(request, f"There are {MOST_TOKENS} tokens already; end one first.")
    else:
        token = new_token(_person(request), said)
        messages.info(request, f"The token for {said}, shown only now: {token}")
    return redirect("account")


@login_required
@require_POST
def end_token(request: HttpRequest, number: int) -> HttpResponse:
    """A token opens nothing any more."""
    get_object_or_404(Token, person_id=request.user.pk, pk=number).delete()
    return redirect("account")


@login_required
@require_POST
@throttled("export")
def take_all(request: HttpRequest) -> FileResponse:
    """All that is one's own, as a ZIP."""
    return zip_response(lambda into: pack_account(_person(request), into), "ovolo-account.zip")


@login_required
@require_POST
@throttled("leave")
def delete(request: HttpRequest) -> HttpResponse:
    """Deletes the account with its projects. What was done in projects of others stays, without a name."""
    person = _person(request)
    form = LeavingForm(person, request.POST)
    if person.username == DEMO_USER:
        messages.error(request, "The account of the demonstration stays.")
        return redirect("account")
    if not form.is_valid():
        messages.error(request, f"Nothing was deleted. {said_wrong(form)}")
        return redirect("account")
    sessions = sessions_of(person)
    logout(request)
    end_sessions(sessions)
    person.delete()
    messages.info(request, "The account is deleted, with all its projects.")
    return redirect("sign-in")
