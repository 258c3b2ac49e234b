"""The profiles of machines that a person may choose: those that are shipped, and one's own."""

from __future__ import annotations

from django.contrib.auth.decorators import login_required
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.views.decorators.http import require_GET, require_POST

from ovolo.benches.cutting.cutter import Cutter
from ovolo.benches.printing.printer import Printer
from ovolo.benches.profile import Profile, as_text, read_profile, shipped
from ovolo.problems import Failure
from studio.engine import answers, wire
from studio.engine.requests import body_of, failures_told
from studio.projects.models import MachineProfile

KINDS: dict[str, type[Profile]] = {kind.MACHINE: kind for kind in (Printer, Cutter)}

MOST = 60
"""So many profiles of its own a person keeps."""


def profiles_of(request: HttpRequest, machine: str) -> list[answers.ProfileTitleSaid]:
    """All profiles of a machine: the shipped ones, then one's own."""
    own = MachineProfile.objects.filter(owner_id=request.user.pk, machine=machine)
    return [
        *[answers.ProfileTitleSaid(title=one, own=False) for one in shipped(KINDS[machine])],
        *[answers.ProfileTitleSaid(title=one.title, own=True) for one in own],
    ]


def own_text(request: HttpRequest, machine: str, title: str) -> str:
    """The text of a person's own profile; empty where there is none of this title."""
    found = MachineProfile.objects.filter(owner_id=request.user.pk, machine=machine, title=title).first()  # fmt: skip
    return found.text if found else ""


def _kind(machine: str) -> type[Profile]:
    if machine not in KINDS:
        raise Failure(f"there is no machine `{machine}`", ", ".join(KINDS))
    return KINDS[machine]


@login_required
@require_GET
@failures_told
def text(request: HttpRequest, machine: str) -> HttpResponse:
    """The text of the profile with the `title`."""
    kind, title = _kind(machine), request.GET.get("title", "")
    known = shipped(kind)
    said = own_text(request, machine, title) or (as_text(known[title]) if title in known else "")
    if not said:
        raise Failure(f'there is no {machine} "{title}"')
    told: answers.ProfileSaid = {"text": said, "own": title not in known}
    return JsonResponse(told)


@login_required
@require_POST
@failures_told
def keep(request: HttpRequest, machine: str) -> HttpResponse:
    """Keeps a profile under the title that its text says, in place of the one that had it."""
    kind = _kind(machine)
    asked = wire.read(wire.ProfileKept, body_of(request))
    profile = read_profile(kind, asked.text)
    title = " ".join(profile.title.split())
    if not title or len(title) > 120:
        raise Failure("the title of a profile has from 1 to 120 characters", 'title = "…"')
    if title in shipped(kind):
        raise Failure(f'"{title}" is the title of one that is shipped', "give yours another title")
    own = MachineProfile.objects.filter(owner_id=request.user.pk)
    if own.count() >= MOST and not own.filter(machine=machine, title=title).exists():
        raise Failure(f"{MOST} profiles are kept already", "forget one of them")
    own.update_or_create(
        owner_id=request.user.pk, machine=machine, title=title, defaults={"text": asked.text}
    )
    told: answers.ProfilesSaid = {"title": title, "profiles": profiles_of(request, machine)}
    return JsonResponse(told)


@login_required
@require_POST
@failures_told
def forget(request: HttpRequest, machine: str) -> HttpResponse:
    """Forgets one's own profile with the `title`."""
    _kind(machine)
    asked = wire.read(wire.Titled, body_of(request))
    own = MachineProfile.objects.filter(owner_id=request.user.pk, machine=machine, title=asked.title)  # fmt: skip
    if not own.delete()[0]:
        raise Failure(f'you have no {machine} "{asked.title}"')
    told: answers.ProfilesSaid = {"profiles": profiles_of(request, machine)}
    return JsonResponse(told)
