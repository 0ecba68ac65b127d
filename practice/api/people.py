"""Setting up a practice, its people and their passwords, and the trail of what was done."""

from __future__ import annotations

import csv
import datetime as dt
import io
from typing import Any

from django.contrib.auth import login, update_session_auth_hash
from django.db import models
from django.http import HttpRequest, HttpResponse
from django.middleware.csrf import get_token
from django.shortcuts import get_object_or_404
from ninja import Query, Router, Schema, Status
from ninja.utils import check_csrf

from mallet.terms.errors import InputError
from practice.accounts.models import AuditEntry, Practice, User
from practice.accounts.owned import Refused
from practice.accounts.people import (
    add_person,
    change_password,
    change_person,
    change_practice,
    issue_link,
    person_of_link,
    set_up,
    use_link,
)
from practice.api.access import user_of
from practice.api.errors import ErrorOut
from practice.api.session import SessionOut, session_of
from practice.restorations.visits import chairs_ahead

router = Router(tags=["people"])
PAGE = 50
# What the trail is read by.
SHOWN = ("at", "who", "action", "subject", "details")


class SetUpIn(Schema):
    """A server's first practice and its owner."""

    name: str
    zone: str
    place: str
    chairs: list[str]
    full_name: str
    username: str
    password: str


class PracticeOut(Schema):
    name: str
    zone: str
    place: str
    chairs: list[str]


class PracticeChange(Schema):
    """What changes of a practice; its time zone stays, since its visits were booked by it."""

    name: str | None = None
    place: str | None = None
    chairs: list[str] | None = None


class PersonOut(Schema):
    id: int
    username: str
    full_name: str
    role: str
    is_owner: bool
    is_active: bool
    has_password: bool


class PersonIn(Schema):
    full_name: str
    username: str
    role: str
    is_owner: bool = False


class PersonChange(Schema):
    full_name: str | None = None
    role: str | None = None
    is_owner: bool | None = None
    is_active: bool | None = None


class LinkOut(Schema):
    """The path that sets a password, told this once."""

    path: str
    full_name: str
    hours: int


class LinkOwner(Schema):
    full_name: str
    username: str


class PasswordIn(Schema):
    password: str


class OwnPasswordIn(Schema):
    old: str
    password: str


class OwnIn(Schema):
    """What somebody sets for themselves."""

    notation: str | None = None
    hears: bool | None = None


class AuditRow(Schema):
    id: int
    at: dt.datetime
    who: str
    action: str
    subject: str
    details: dict[str, Any]


class AuditOut(Schema):
    """A page of the trail, the newest first; `actions` and `people` are what it can be narrowed to."""

    rows: list[AuditRow]
    count: int
    page: int
    pages: int
    actions: list[str]
    people: list[str]


class AuditQuery(Schema):
    """Whose entries, of which kind, between which days; the page counts from 1."""

    who: str = ""
    action: str = ""
    since: dt.date | None = None
    until: dt.date | None = None
    page: int = 1


@router.post("set-up", response={201: SessionOut, 403: ErrorOut, 409: ErrorOut, 422: ErrorOut}, auth=None)
def set_up_practice(request: HttpRequest, body: SetUpIn) -> Status[SessionOut]:
    _own_page(request)
    owner = set_up(**body.dict())
    login(request, owner, "django.contrib.auth.backends.ModelBackend")
    return Status(201, session_of(owner))


@router.get("practice", response=PracticeOut)
def practice(request: HttpRequest) -> PracticeOut:
    return _practice(user_of(request))


@router.patch("practice", response={200: PracticeOut, 422: ErrorOut})
def change_own_practice(request: HttpRequest, body: PracticeChange) -> PracticeOut:
    user = user_of(request)
    assert user.practice
    told = {name: value for name, value in body.dict(exclude_unset=True).items() if value is not None}
    change_practice(user.practice, user, chairs_ahead(user.practice), **told)
    return _practice(user)


def _practice(user: User) -> PracticeOut:
    assert user.practice
    one = user.practice
    return PracticeOut(name=one.name, zone=one.zone, place=one.place, chairs=one.chairs)


@router.get("people", response=list[PersonOut])
def people(request: HttpRequest) -> list[PersonOut]:
    return [_person(one) for one in _people(request).order_by("-is_active", "full_name")]


@router.post("people", response={201: PersonOut, 422: ErrorOut})
def add(request: HttpRequest, body: PersonIn) -> Status[PersonOut]:
    return Status(201, _person(add_person(**body.dict(), by=user_of(request))))


@router.patch(
    "people/{int:person_id}", response={200: PersonOut, 404: ErrorOut, 409: ErrorOut, 422: ErrorOut}
)
def change(request: HttpRequest, person_id: int, body: PersonChange) -> PersonOut:
    person = get_object_or_404(_people(request), pk=person_id)
    told = {name: value for name, value in body.dict(exclude_unset=True).items() if value is not None}
    return _person(change_person(person, user_of(request), **told))


@router.post("people/{int:person_id}/link", response={201: LinkOut, 404: ErrorOut, 409: ErrorOut})
def link(request: HttpRequest, person_id: int) -> Status[LinkOut]:
    person = get_object_or_404(_people(request), pk=person_id)
    secret = issue_link(person, user_of(request))
    return Status(201, LinkOut(path=f"/welcome/{secret}", full_name=person.full_name, hours=24))


@router.get("links/{secret}", response={200: LinkOwner, 409: ErrorOut}, auth=None)
def whose_link(request: HttpRequest, secret: str) -> LinkOwner:
    get_token(request)
    person = person_of_link(secret)
    return LinkOwner(full_name=person.full_name, username=person.username)


@router.post(
    "links/{secret}", response={200: SessionOut, 403: ErrorOut, 409: ErrorOut, 422: ErrorOut}, auth=None
)
def take_link(request: HttpRequest, secret: str, body: PasswordIn) -> SessionOut:
    _own_page(request)
    person = use_link(secret, body.password)
    login(request, person, "django.contrib.auth.backends.ModelBackend")
    return session_of(person)


@router.patch("own", response={200: SessionOut, 422: ErrorOut})
def set_own(request: HttpRequest, body: OwnIn) -> SessionOut:
    user = user_of(request)
    told = {name: value for name, value in body.dict(exclude_unset=True).items() if value is not None}
    if "notation" in told and told["notation"] not in User.Notation.values:
        raise InputError.at("notation", told["notation"], "one of " + ", ".join(User.Notation.values))
    for name, value in told.items():
        setattr(user, name, value)
    user.save(update_fields=list(told))
    return session_of(user)


@router.post("own/password", response={204: None, 403: ErrorOut, 422: ErrorOut})
def set_own_password(request: HttpRequest, body: OwnPasswordIn) -> Status[None]:
    user = user_of(request)
    change_password(user, body.old, body.password)
    update_session_auth_hash(request, user)
    return Status(204, None)


@router.get("audit", response=AuditOut)
def trail(request: HttpRequest, query: Query[AuditQuery]) -> AuditOut:
    practice = user_of(request).practice
    assert practice
    rows = _trail(practice, query)
    count = rows.count()
    pages = max(-(-count // PAGE), 1)
    page = min(max(query.page, 1), pages)
    every = AuditEntry.objects.owned_by(practice)
    return AuditOut(
        rows=[_entry(row) for row in rows[(page - 1) * PAGE : page * PAGE]],
        count=count,
        page=page,
        pages=pages,
        actions=sorted(set(every.order_by().values_list("action", flat=True))),
        people=sorted(set(practice.people.values_list("full_name", flat=True))),
    )


@router.get("audit-file", response={200: None})
def trail_as_file(request: HttpRequest, query: Query[AuditQuery]) -> HttpResponse:
    practice = user_of(request).practice
    assert practice
    text = io.StringIO()
    writer = csv.writer(text)
    writer.writerow(SHOWN)
    for row in _trail(practice, query).iterator(chunk_size=1000):
        entry = _entry(row)
        told = "; ".join(f"{name}: {value}" for name, value in entry.details.items())
        writer.writerow([entry.at.isoformat(), entry.who, entry.action, entry.subject, told])
    response = HttpResponse(text.getvalue(), content_type="text/csv; charset=utf-8")
    response["Content-Disposition"] = 'attachment; filename="audit-trail.csv"'
    return response


def _own_page(request: HttpRequest) -> None:
    if check_csrf(request):
        raise Refused("role", "the page is too old: load it again")


def _people(request: HttpRequest) -> models.QuerySet[User]:
    return User.objects.filter(practice=user_of(request).practice)


def _person(person: User) -> PersonOut:
    return PersonOut(
        id=person.pk,
        username=person.username,
        full_name=person.full_name,
        role=person.role,
        is_owner=person.is_owner,
        is_active=person.is_active,
        has_password=person.has_usable_password(),
    )


def _trail(practice: Practice, query: AuditQuery) -> models.QuerySet[AuditEntry]:
    rows = AuditEntry.objects.owned_by(practice).select_related("who").order_by("-id")
    if query.who:
        rows = rows.filter(who__full_name=query.who)
    if query.action:
        rows = rows.filter(action=query.action)
    if query.since:
        rows = rows.filter(at__gte=practice.day_starts(query.since))
    if query.until:
        rows = rows.filter(at__lt=practice.day_starts(query.until + dt.timedelta(days=1)))
    return rows


def _entry(row: AuditEntry) -> AuditRow:
    return AuditRow(
        id=row.pk,
        at=row.at,
        who=row.who.full_name,
        action=row.action,
        subject=row.subject,
        details=row.details,
    )
