"""A project as a ZIP of plain files, and taken in again.

`project.json` says what there is; `studies/` holds the sheets, each an .ovo file that `ovolo` reads, with the
files they name beside them; `history/` the revisions of each, one JSON object a line, the oldest first.
"""

from __future__ import annotations

import hashlib
import io
import json
import zipfile
import zlib
from collections.abc import Callable, Iterator
from datetime import datetime
from tempfile import TemporaryFile
from typing import IO, Any

from django.db import transaction
from django.http import FileResponse
from django.utils.text import get_valid_filename

from ovolo.formats.attached import MOST_BYTES
from ovolo.problems import Failure
from ovolo.sheet.lines import with_line_feeds
from ovolo.sheet.reader import MOST_CHARACTERS
from studio.accounts.names import plain_name
from studio.projects.copies import free_title
from studio.projects.models import (
    Attachment,
    BenchSettings,
    ContactSheet,
    Project,
    Revision,
    Study,
)
from studio.projects.quotas import check_room

WRITTEN = 1
"""The edition of this arrangement; another is refused."""

MOST_UNPACKED = 400_000_000
"""So many bytes an archive may hold when it is unpacked."""

_MOST_FILES = 5_000


# --- packing ---


def pack_project(project: Project, into: IO[bytes]) -> None:
    """Writes a project as a ZIP, without what is in its bin. Of its files and its history only a little is
    held at a time, for a project may be larger than the memory of the one process that answers everybody."""
    with zipfile.ZipFile(into, "w", zipfile.ZIP_DEFLATED) as archive:
        _pack(archive, project, "")


def pack_account(person: Any, into: IO[bytes]) -> None:
    """Writes all that a person owns: every project in a folder of its own, profiles of machines, and who they are."""
    with zipfile.ZipFile(into, "w", zipfile.ZIP_DEFLATED) as archive:
        told = {
            "name": person.username, "first_name": person.first_name, "last_name": person.last_name,
            "mail": person.email, "since": person.date_joined.isoformat(),
            "works_on": [one.project.title for one in person.memberships.select_related("project")],
        }  # fmt: skip
        archive.writestr("account.json", _json(told))
        for profile in person.machine_profiles.all():
            name = get_valid_filename(f"{profile.machine} {profile.title}.toml")
            archive.writestr(f"machines/{name}", profile.text)
        for project in person.projects.all():
            _pack(archive, project, f"projects/{project.pk} {_file_name(project.title)}/")


def _file_name(title: str) -> str:
    """A title as the name of a file or folder on any system."""
    kept = "".join(one if one.isalnum() or one in " -_" else "_" for one in title)
    return kept.strip()[:80] or "untitled"


def _json(value: Any) -> str:
    return json.dumps(value, ensure_ascii=False, indent=1)


def zip_response(pack: Callable[[IO[bytes]], None], name: str) -> FileResponse:
    """What `pack` writes, sent from a file that is gone afterwards."""
    into = TemporaryFile()  # noqa: SIM115, closed with the response
    pack(into)
    into.seek(0)
    return FileResponse(into, as_attachment=True, filename=name, content_type="application/zip")


_Taken = dict[str, bytes]
"""The names that stand in the folder of all studies already, with the digests of those that are attached files."""


def _pack(archive: zipfile.ZipFile, project: Project, folder: str) -> None:
    taken: _Taken = {}
    said = [
        _pack_study(archive, study, folder, taken)
        for study in project.studies.select_related("head").iterator(chunk_size=1)
    ]
    told = {"edition": WRITTEN, "title": project.title, "studies": said}
    archive.writestr(f"{folder}project.json", _json(told))


def _pack_study(
    archive: zipfile.ZipFile, study: Study, folder: str, taken: _Taken
) -> dict[str, Any]:
    stem = _free_stem(_file_name(study.title), taken)
    taken[f"{stem}.ovo".casefold()] = b""
    archive.writestr(f"{folder}studies/{stem}.ovo", study.text)
    files = {}
    for one in study.attachments.iterator(chunk_size=1):
        data = bytes(one.data)
        digest = hashlib.sha256(data).digest()
        kept = taken.setdefault(one.name.casefold(), digest)
        # Where another study has another file of this name, each cannot stand beside its sheet.
        path = f"studies/{one.name}" if kept == digest else f"files/{stem}/{one.name}"
        if folder + path not in archive.NameToInfo:
            archive.writestr(folder + path, data)
        files[one.name] = path
    with archive.open(f"{folder}history/{stem}.jsonl", "w", force_zip64=True) as history:
        for told in _history(study):
            history.write(json.dumps(told, ensure_ascii=False).encode() + b"\n")
    return {
        "title": study.title,
        "sheet": f"studies/{stem}.ovo",
        "history": f"history/{stem}.jsonl",
        "head": study.head_id,
        "files": files,
        "contact_sheets": list(study.contact_sheets.values("title", "plan", "settings", "shown")),
        "benches": list(study.benches.values("machine", "said")),
    }


def _free_stem(stem: str, taken: _Taken) -> str:
    number, found = 2, stem
    while f"{found}.ovo".casefold() in taken:
        found, number = f"{stem} {number}", number + 1
    return found


def _history(study: Study) -> Iterator[dict[str, Any]]:
    for one in study.revisions.select_related("author").iterator(chunk_size=2):
        yield {
            "revision": one.pk, "parent": one.parent_id, "said": one.said, "name": one.name,
            "by": one.author.username if one.author else "", "at": one.created.isoformat(),
            "text": one.text,
        }  # fmt: skip


# --- taking in ---


@transaction.atomic
def unpacked(data: bytes, owner: Any) -> Project:
    """The project of a ZIP as a new one of this owner, with the history of its studies. Raises Failure for
    what is no such archive, or too large; nothing is kept of it then."""
    with _archive(data) as archive:
        told = _read_json(archive, "project.json")
        if not isinstance(told, dict) or told.get("edition") != WRITTEN:
            raise Failure("this is no project that was packed here", "a ZIP with a `project.json`")
        studies = told.get("studies")
        if not isinstance(studies, list):
            raise Failure("`project.json` names no studies")
        size = sum(info.file_size for info in archive.infolist())
        check_room(owner, len(studies), size)
        project = Project.objects.create(owner=owner, title=_title(told.get("title")))
        for place, said in enumerate(studies):
            _take_in(archive, project, place, said, owner)
    return project


def _archive(data: bytes) -> zipfile.ZipFile:
    try:
        archive = zipfile.ZipFile(io.BytesIO(data))
        infos = archive.infolist()
    except (zipfile.BadZipFile, ValueError, OSError, NotImplementedError):
        raise Failure("this is no ZIP archive") from None
    size = sum(info.file_size for info in infos)
    if len(infos) > _MOST_FILES or size > MOST_UNPACKED:
        raise Failure(
            f"this archive holds {len(infos):,} files with {size:,} bytes; at most {_MOST_FILES:,} with "
            f"{MOST_UNPACKED:,} are taken"
        )
    return archive


_UNREADABLE = (KeyError, zipfile.BadZipFile, zlib.error, OSError, RuntimeError, NotImplementedError, ValueError, EOFError)  # fmt: skip


def _read(archive: zipfile.ZipFile, name: Any, most: int) -> bytes:
    """A file of the archive. Raises Failure where it is not there, damaged, or larger than it says."""
    try:
        with archive.open(str(name)) as file:
            data = file.read(most + 1)
    except _UNREADABLE:
        raise Failure(f"`{str(name)[:80]}` of the archive cannot be read") from None
    if len(data) > most:
        raise Failure(f"`{str(name)[:80]}` has more than {most:,} bytes")
    return data


def _read_text(archive: zipfile.ZipFile, name: Any, most: int) -> str:
    try:
        text = _read(archive, name, most).decode()
    except UnicodeDecodeError:
        raise Failure(f"`{str(name)[:80]}` is not UTF-8 text") from None
    if "\0" in text:
        raise Failure(f"`{str(name)[:80]}` is not plain text")
    return text


def _lines(archive: zipfile.ZipFile, name: Any) -> Iterator[str]:
    """The lines of a file, one after another; only a line feed ends one, for what else ends lines may stand in a text."""
    try:
        with archive.open(str(name)) as file:
            yield from io.TextIOWrapper(file, "utf-8", newline="\n")
    except _UNREADABLE:
        raise Failure(f"`{str(name)[:80]}` of the archive cannot be read") from None


def _read_json(archive: zipfile.ZipFile, name: Any) -> Any:
    try:
        return json.loads(_read_text(archive, name, 20_000_000))
    except (ValueError, RecursionError):
        raise Failure(f"`{str(name)[:80]}` is not JSON") from None


def _title(said: Any) -> str:
    try:
        return plain_name(said if isinstance(said, str) else "")[:200] or "Untitled"
    except Exception:
        return "Untitled"


def _take_in(archive: zipfile.ZipFile, project: Project, place: int, said: Any, owner: Any) -> None:
    if not isinstance(said, dict):
        raise Failure(f"study {place + 1} of the archive cannot be read")
    title = free_title(project, _title(said.get("title")))
    text = with_line_feeds(_read_text(archive, said.get("sheet"), 4 * MOST_CHARACTERS))
    if len(text) > MOST_CHARACTERS:
        raise Failure(f"“{title}” has more than {MOST_CHARACTERS:,} characters")
    study = Study.objects.create(project=project, title=title, place=place)
    study.by = owner
    _take_history(archive, study, said, text, owner)
    files = said.get("files")
    for name, path in (files if isinstance(files, dict) else {}).items():
        data = _read(archive, path, MOST_BYTES)
        Attachment.objects.create(study=study, name=str(name)[:120], data=data)
    for one in _listed(said.get("contact_sheets")):
        if isinstance(one.get("plan"), dict):
            told = {key: one[key] for key in ("plan", "settings", "shown") if isinstance(one.get(key), dict)}  # fmt: skip
            ContactSheet.objects.update_or_create(
                study=study, title=_title(one.get("title"))[:120], defaults=told
            )
    for one in _listed(said.get("benches")):
        if isinstance(one.get("said"), dict):
            BenchSettings.objects.update_or_create(
                study=study, machine=str(one.get("machine"))[:20], defaults={"said": one["said"]}
            )


def _listed(said: Any) -> list[dict[str, Any]]:
    return [one for one in said if isinstance(one, dict)] if isinstance(said, list) else []


def _take_history(
    archive: zipfile.ZipFile, study: Study, said: dict[str, Any], text: str, owner: Any
) -> None:
    """The revisions, as they were; the head is the one that it was, its text that of the sheet."""
    made: dict[Any, int] = {}
    for line in _lines(archive, said.get("history")):
        try:
            one = json.loads(line)
            at = datetime.fromisoformat(one["at"])
            revision = Revision.objects.create(
                study=study,
                parent_id=made.get(one["parent"]),
                text=with_line_feeds(str(one["text"]))[:MOST_CHARACTERS],
                said=str(one["said"])[:200],
                name=str(one["name"])[:120],
                author=owner if one["by"] == owner.username else None,
            )
            made[one["revision"]] = revision.pk
        except (ValueError, KeyError, TypeError, RecursionError):
            raise Failure(f"the history of “{study.title}” cannot be read") from None
        Revision.objects.filter(pk=revision.pk).update(created=at)
    head = said.get("head")
    study.head_id = made.get(head) if isinstance(head, int) else None
    study.save(update_fields=["head"])
    if study.head_id is None or study.text != text:  # the sheet was changed by another program
        study.save_text(text, study.head_id, "taken in")
