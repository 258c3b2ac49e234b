"""Who may do what: every study and project is reached through a right to it."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from functools import wraps
from typing import Any

from django.conf import settings
from django.contrib.auth.views import redirect_to_login
from django.db.models import Q, QuerySet
from django.http import Http404, HttpRequest, HttpResponse
from django.utils.cache import add_never_cache_headers
from django.views.decorators.csrf import csrf_exempt

from ovolo.formats.attached import Files, Shelf, everything_named
from ovolo.sheet.names import studies_used
from studio.projects.models import Project, Study
from studio.rights.models import Link, Member
from studio.rights.right import ALL, Right, Role

View = Callable[..., HttpResponse]


def entered(view: View) -> View:
    """A view for who has signed in, or came by a link; others are asked to sign in."""

    @wraps(view)
    def asked(request: HttpRequest, *given: Any, **named: Any) -> HttpResponse:
        if link_of(request) is None and not request.user.is_authenticated:
            return redirect_to_login(request.get_full_path(), settings.LOGIN_URL)
        return view(request, *given, **named)

    return asked


def by_link(view: View) -> View:
    """A view reached by the token of a link alone: whoever is signed in has no more rights there, so
    nothing can be done in somebody's name, and no token against forged requests is needed."""

    @csrf_exempt
    @wraps(view)
    def looked_at(request: HttpRequest, token: str, **named: Any) -> HttpResponse:
        found = Link.objects.filter(token=token).select_related("project").first()
        if found is None:
            raise Http404("This link leads nowhere: it has run out, or was taken back.")
        request.link = found  # type: ignore[attr-defined]
        response = view(request, **named)
        add_never_cache_headers(response)
        response["Referrer-Policy"] = "no-referrer"
        return response

    return looked_at


def link_of(request: HttpRequest) -> Link | None:
    """The link by which a request came, where it did."""
    return getattr(request, "link", None)


def rights_to(project: Project, request: HttpRequest, study: int | None = None) -> frozenset[Right]:
    """The rights of who asks, to a study or to the whole of a project: of a visitor those of the link, of an
    owner all, of others those of their role."""
    link = link_of(request)
    if link is not None:
        return link.rights if link.covers(project.pk, study) else frozenset()
    if not request.user.is_authenticated:
        return frozenset()
    if project.owner_id == request.user.pk:
        return ALL
    member = Member.objects.filter(project=project, person_id=request.user.pk).first()
    return Role(member.role).rights if member is not None else frozenset()


def _reached(request: HttpRequest, project: str = "project__") -> Q:
    """What anything of is seen by who asks. What is not reached takes as long to be not found as what is not
    there: one look, of which nothing comes."""
    link = link_of(request)
    if link is not None:
        only = {} if link.study_id is None else {"pk": link.study_id}
        return Q(**{f"{project}pk": link.project_id}, **only)
    person = request.user.pk or 0
    return Q(**{f"{project}owner_id": person}) | Q(**{f"{project}members__person_id": person})


def study_with(request: HttpRequest, study_id: int, right: Right) -> Study:
    """The study, where who asks has this right to it; otherwise it is not found. What is saved of it is
    theirs."""
    studies = Study.objects.select_related("project", "head")
    found = studies.filter(_reached(request), pk=study_id).first()
    rights = rights_to(found.project, request, study_id) if found is not None else frozenset()
    if found is None or right not in rights:
        raise Http404("There is no such study among yours.")
    found.by = request.user if link_of(request) is None else None
    found.rights = rights
    return found


def study_in_bin(request: HttpRequest, study_id: int, right: Right) -> Study:
    """The study in the bin of a project, where who asks has this right to it; else it is not found."""
    binned = Study.everything.exclude(removed=None).select_related("project", "head")
    found = binned.filter(_reached(request), pk=study_id).first()
    if found is None or right not in rights_to(found.project, request):
        raise Http404("There is no such study in your bin.")
    found.by = request.user
    return found


def project_with(request: HttpRequest, project_id: int, right: Right) -> Project:
    """The project, where who asks has this right to the whole of it; otherwise it is not found."""
    found = Project.objects.filter(_reached(request, ""), pk=project_id).first()
    if found is None or right not in rights_to(found, request):
        raise Http404("There is no such project among yours.")
    found.by = request.user
    return found


def projects_of(request: HttpRequest) -> QuerySet[Project]:
    """The projects of which the person signed in may see anything."""
    return Project.objects.filter(_reached(request, "")).distinct().select_related("owner")


def files_of(study: Study, text: str) -> Files:
    """The attached files that a sheet names, and the other studies of the project that it uses."""
    return everything_named(text, shelf_of(study), (study.title,))


def heads_used(study: Study) -> dict[str, int | None]:
    """The newest revisions of all studies on which this one rests, by their titles."""
    return {title: one.head_id for title, one in sorted(studies_under(study).items())}


def studies_under(
    study: Study, called: Callable[[set[str]], Iterable[Study]] | None = None
) -> dict[str, Study]:
    """All studies on which this one rests, by their titles. `called` finds those of its project with some titles,
    where they are at hand; else the database is asked."""
    beside = study.project.studies.select_related("head")
    find = called or (lambda titles: beside.filter(title__in=titles))
    found: dict[str, Study] = {}
    waiting = [study.text]
    while waiting:
        new = set(studies_used(waiting.pop()).values()) - found.keys()
        for one in find(new) if new else ():
            found[one.title] = one
            waiting.append(one.text)
    return found


def shelf_of(study: Study) -> Shelf:
    """The files of a study and the studies beside it, by their names."""

    def shelf(names: set[str], titles: set[str]) -> Any:
        files = study.attachments.filter(name__in=names) if names else ()
        beside = study.project.studies.select_related("head", "project").filter(title__in=titles)
        studies = {one.title: (one.text, shelf_of(one)) for one in (beside if titles else ())}
        return {file.name: bytes(file.data) for file in files}, studies

    return shelf
