"""New studies: empty, from a starting point, from a file, or as a copy of another."""

from __future__ import annotations

from django.db import transaction
from django.db.models import Max

from ovolo.sheet.edits import with_title_followed
from ovolo.sheet.names import studies_used
from ovolo.sheet.reader import title_of
from studio.projects.models import Attachment, Project, Study
from studio.projects.quotas import check_room

EMPTY = 'study "{title}"\nunits mm, deg\n\n== Start ==\n'


def free_title(project: Project, wanted: str) -> str:
    """The title, or with a number behind it where another study of the project has it."""
    wanted = " ".join(wanted.split())[:180] or "New study"
    taken = set(project.studies.values_list("title", flat=True))
    number, title = 2, wanted
    while title in taken:
        title, number = f"{wanted} {number}", number + 1
    return title


def titled(text: str, title: str) -> str:
    """The text with this title in its `study` line, or with such a line above it."""
    quoted = title.replace("\\", "\\\\").replace('"', '\\"')
    old = title_of(text)
    if not old:
        return f'study "{quoted}"\n{text}'
    lines = text.split("\n")
    at = next(i for i, line in enumerate(lines) if line.lstrip().startswith("study"))
    lines[at] = f'study "{quoted}"'
    return "\n".join(lines)


@transaction.atomic
def new_study(project: Project, text: str, said: str, wanted: str = "") -> Study:
    """A study of this text at the end of its project, under a title that is free. Raises Failure where
    its owner has as many as may be."""
    check_room(project.owner, studies=1)
    title = free_title(project, wanted or title_of(text))
    last = project.studies.aggregate(last=Max("place"))["last"]
    study = Study.objects.create(
        project=project, title=title, place=0 if last is None else last + 1
    )
    study.by = project.by
    study.save_text(titled(text, title), None, said)
    return study


@transaction.atomic
def copied(study: Study, text: str, said: str) -> Study:
    """Another study of this text, with the files of the first."""
    study.project.by = study.by
    copy = new_study(study.project, text, said, f"{title_of(text) or study.title} (copy)")
    Attachment.objects.bulk_create(
        Attachment(study=copy, name=file.name, data=file.data) for file in study.attachments.all()
    )
    return copy


@transaction.atomic
def brought_back(study: Study) -> None:
    """Takes a study out of the bin, under another title where its own is taken by now."""
    title = free_title(study.project, study.title)
    renamed = title != study.title
    study.title, study.removed = title, None
    study.save(update_fields=["title", "removed"])
    if renamed:
        study.save_text(titled(study.text, title), study.head_id, f"now called “{title}”")


@transaction.atomic
def taken_along(study: Study, text: str, project: Project) -> Study:
    """A copy of a study, with this text, in another project, with copies of all that it uses; titles that are taken there
    get a number, and the sheets follow them."""
    copies: dict[int, Study] = {}
    begun: set[str] = set()

    def copy_of(one: Study, text: str) -> Study:
        begun.add(
            one.title
        )  # where studies use each other in a circle, the first is not copied again
        beside = one.project.studies.select_related("head", "project")
        for used in beside.filter(title__in=set(studies_used(text).values())):
            if used.pk in copies or used.title not in begun:
                copy = copies.get(used.pk) or copy_of(used, used.text)
                text = with_title_followed(text, used.title, copy.title)
        made = new_study(project, text, f"copied from {one.title}", one.title)
        made.attachments.bulk_create(
            Attachment(study=made, name=file.name, data=file.data) for file in one.attachments.all()
        )
        copies[one.pk] = made
        return made

    return copy_of(study, text)
