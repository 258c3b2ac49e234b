"""What a page goes on from: a study as it was when something was worked out of it there.

Such an answer has a tag in its header; what is asked for on the strength of it says that tag, and is refused where the
study, or a file or another study that it rests on, is another by then: what leaves is what was looked at, whoever has
changed it meanwhile. (The header is none of HTTP's own tags: servers in between may weaken those.)
"""

from __future__ import annotations

import hashlib

from django.http import HttpRequest, HttpResponse, QueryDict

from ovolo.formats.attached import Files
from ovolo.problems import Failure
from studio.engine import tasks
from studio.engine.requests import Changed, json_object, number_said, worked
from studio.projects.access import files_of
from studio.projects.models import Revision, Study
from studio.rights.right import Right

_HEADER = "X-As-Seen"


def revision_of(study: Study, revision: int) -> Revision:
    """A revision of this study. Raises Failure where there is none of that number."""
    found = Revision.objects.filter(study=study, pk=revision).first()
    if found is None:
        raise Failure("this study has no such revision")
    return found


def text_as_seen(study: Study, revision: int | None) -> str:
    """The text of the revision that a window shows, whoever has changed the study meanwhile; the newest where it names
    none, and for who may not read the study: another text could use what is beside it. Raises Failure."""
    if revision is None or revision == study.head_id or Right.READ not in study.rights:
        return study.text
    return revision_of(study, revision).text


def text_as_turned(request: HttpRequest, study: Study, said: QueryDict) -> str:
    """The text of the revision that a window shows (`revision`), with the inputs that are turned in that window alone at
    their values there (`set`). Raises Failure."""
    text = text_as_seen(study, number_said(said.get("revision", "")) or None)
    values = json_object(said.get("set", ""))
    if not values:
        return text
    edit, files = {"edit": "take", "values": values}, files_of(study, text)
    new: str = worked(request, tasks.edited, text, edit, files, study=study.pk)[0]
    return new


def files_as_seen(request: HttpRequest, study: Study, *more: str) -> Files:
    """What the study rests on, where all of it, and what else (`more`) was worked with, is as the page saw it; or
    where the page has seen nothing yet. Raises Changed."""
    files = files_of(study, study.text)
    seen = request.headers.get(_HEADER, "")
    if seen and seen != tag_of(study, files, *more):
        raise Changed("the study has changed since this was worked out", "work it out anew")
    return files


def tagged(response: HttpResponse, study: Study, files: Files, *more: str) -> HttpResponse:
    """An answer that a page goes on from."""
    response[_HEADER] = tag_of(study, files, *more)
    return response


def tag_of(study: Study, files: Files, *more: str) -> str:
    """One for one state of a study and of all that it rests on, whoever asks and wherever it is worked out."""
    collected = hashlib.blake2b(digest_size=16)

    def take(data: bytes) -> None:
        collected.update(len(data).to_bytes(8, "big"))
        collected.update(data)

    def take_files(some: Files) -> None:
        for name, one in sorted(some.items()):
            take(name.encode())
            if isinstance(one, bytes):
                take(one)
            else:
                take(one.text.encode())
                take(one.refused.encode())
                take_files(one.files)

    for said in (study.title, study.text, *more):
        take(said.encode())
    take_files(files)
    return collected.hexdigest()
