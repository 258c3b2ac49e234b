"""What a window is told of a study and of what lies around it: where it stands, who else is there, what was
said of its lines, its moments. Declared once, for who answers and for the scripts that take it."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, NotRequired, TypedDict

from ovolo.exercises.exercise import SeenSaid
from ovolo.exploring.answers import PlanSaid


class FileSaid(TypedDict):
    """An attached file; `size` in bytes."""

    name: str
    size: int


class StandingSaid(TypedDict):
    """What tells the state of a study, and of what it rests on, from others."""

    shown: str


class StateSaid(TypedDict):
    """Where a study stands. `used`: the newest revisions of the studies on which it rests, by their titles;
    `shown`: of which text a picture of it would be, `pictured`: whether there is one."""

    title: str
    text: str
    revision: int | None
    can_undo: bool
    can_redo: bool
    undo_said: str
    redo_said: str
    used: Mapping[str, int | str | None]
    files: list[FileSaid]
    shown: str
    pictured: bool


class ClashSaid(TypedDict):
    """A line that two have changed; none where one of them took it out."""

    base: str
    mine: str | None
    theirs: str | None


class NotDoneSaid(TypedDict):
    """Why something was not done. `needed`: what is to be taken out is still needed; the others: where another
    was quicker."""

    message: str
    hint: str
    needed: NotRequired[bool]
    revision: NotRequired[int | None]
    clashes: NotRequired[list[ClashSaid]]


class TurnedSaid(TypedDict):
    """The values of the inputs that are turned, by their names."""

    set: dict[str, Any]


class StudyTitleSaid(TypedDict):
    """A study by its number."""

    study: int
    title: str


class StudiesSaid(TypedDict):
    studies: list[StudyTitleSaid]


# --- others ---


class PersonSaid(TypedDict):
    """Who has the study open in another window, and at which line; `me` where that is oneself."""

    name: str
    me: bool
    line: int | None


class NewsSaid(TypedDict):
    """What is new at a study; `remarks` is a stamp, `may` are the rights there are now."""

    revision: int | None
    undo_said: str
    by: str
    used: dict[str, int | None]
    people: list[PersonSaid]
    remarks: str
    may: list[str]


class RemarkSaid(TypedDict):
    """What somebody said; `at` is a moment (ISO 8601)."""

    remark: int
    said: str
    by: str
    at: str
    settled: bool
    settled_by: str
    mine: bool


class BeginningSaid(RemarkSaid):
    """A remark on a line with what was answered; no line where it is gone."""

    line: int | None
    text: str
    answers: list[RemarkSaid]


class RemarksSaid(TypedDict):
    remarks: list[BeginningSaid]
    stamp: str


# --- its moments ---


class MomentSaid(TypedDict):
    """A revision; `at` is a moment (ISO 8601), `here` whether it is the present one."""

    revision: int
    said: str
    name: str
    by: str
    at: str
    here: bool


class MomentsSaid(TypedDict):
    """The newest first; `count` of all there are."""

    moments: list[MomentSaid]
    count: int


# --- what lies beside it ---


class OtherStudySaid(StudyTitleSaid):
    """A study of the same project with the names of its inputs."""

    inputs: list[str]


class UserSaid(StudyTitleSaid):
    """A study that uses this one: at which line, under which name, which inputs it sets and what it reads."""

    line: int
    name: str
    inputs: list[str]
    read: list[str]


class BesideSaid(TypedDict):
    others: list[OtherStudySaid]
    users: list[UserSaid]


class FileSeenSaid(TypedDict):
    """A file as a table: its first rows, how many it has, and what should be known of how it was read."""

    heads: list[str]
    rows: list[list[str]]
    count: int
    notes: list[str]


# --- contact sheets ---


class PlanMadeSaid(PlanSaid):
    """The trials of a plan, and of which revision of the study they are."""

    revision: int | None


class ContactSheetSaid(TypedDict):
    """A plan that was kept, and what was looked at; `stale` where the study has changed since."""

    sheet: int
    title: str
    plan: dict[str, Any]
    set: dict[str, Any]
    shown: dict[str, Any]
    stale: bool


class ContactSheetsSaid(TypedDict):
    sheets: list[ContactSheetSaid]


# --- machines ---


class ProfileSaid(TypedDict):
    """The text of a profile; `own` where it is one's own and not shipped."""

    text: str
    own: bool


class ProfileTitleSaid(TypedDict):
    title: str
    own: bool


class ProfilesSaid(TypedDict):
    """All profiles; `title` of the one that was kept."""

    profiles: list[ProfileTitleSaid]
    title: NotRequired[str]


# --- learning ---


class NextSaid(TypedDict):
    key: str
    title: str


class GuideSaid(SeenSaid):
    """An exercise, and how far a study has come with it."""

    title: str
    goal: str
    number: int
    next: NextSaid | None


class FoundSaid(TypedDict):
    """Entries of the reference by their keys, the best first, and starting points."""

    found: list[str]
    points: list[str]


class SunSaid(TypedDict):
    """Where the sun stands: a direction, and its angles in degrees."""

    direction: list[float]
    height: float
    turn: float
