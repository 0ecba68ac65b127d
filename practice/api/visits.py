"""Visits: booked, moved, canceled; and those after the one at which a restoration is placed."""

from __future__ import annotations

import datetime as dt

from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Field, Router, Schema, Status

from practice.accounts.models import User
from practice.api.access import user_of
from practice.api.errors import ErrorOut
from practice.api.rows import MissingOut
from practice.restorations.later import Later, book_later, later_of
from practice.restorations.models import Patient, Restoration, Visit
from practice.restorations.visits import book, change

router = Router(tags=["visits"], by_alias=True)


class BookVisitIn(Schema):
    """A visit of a patient for restorations of theirs, or none yet; `reason` says why a chair is taken twice."""

    patient_id: int
    starts_at: dt.datetime
    chair: str = Field(max_length=20)
    dentist_id: int
    restoration_ids: list[int] = Field(default=[], max_length=12)
    reason: str = Field(default="", max_length=200)


class ChangeVisitIn(Schema):
    """What of a visit changes, and why."""

    starts_at: dt.datetime | None = None
    chair: str | None = Field(default=None, max_length=20)
    dentist_id: int | None = None
    status: str | None = Field(default=None, max_length=20)
    reason: str = Field(default="", max_length=200)


class BookedOut(Schema):
    id: int
    patient_id: int
    starts_at: dt.datetime
    chair: str
    status: str


class ColleagueOut(Schema):
    """Somebody who treats here."""

    id: int
    full_name: str
    role: str


class LaterOut(Schema):
    """A visit that the last plan asks for: from when, best by when and why; where it is booked, when and in which chair."""

    purpose: str
    name: str
    reason: str
    from_h: float
    by_h: float | None
    earliest: dt.datetime
    best_by: dt.datetime | None
    minutes: float
    suggested: str
    is_placed: bool
    part_id: int | None
    starts_at: dt.datetime | None
    chair: str
    status: str | None
    flags: list[MissingOut]
    record_id: int | None


class BookIn(Schema):
    """When a visit is to be, and in which chair."""

    purpose: str = Field(max_length=20)
    starts_at: dt.datetime
    chair: str = Field(min_length=1, max_length=20)


@router.get("colleagues", response=list[ColleagueOut])
def colleagues(request: HttpRequest) -> list[ColleagueOut]:
    """Return who may treat at a visit."""
    rows = User.objects.filter(practice=user_of(request).practice, is_active=True)
    treats = rows.exclude(role=User.Role.ASSISTANT).order_by("full_name")
    return [ColleagueOut(id=one.pk, full_name=one.full_name, role=one.role) for one in treats]


@router.post("visits", response={201: BookedOut, 404: ErrorOut, 409: ErrorOut, 422: ErrorOut})
def book_visit(request: HttpRequest, body: BookVisitIn) -> Status[BookedOut]:
    user = user_of(request)
    patient = get_object_or_404(Patient.objects.owned_by(user.practice), pk=body.patient_id)
    made = book(
        patient,
        user,
        starts_at=body.starts_at,
        chair=body.chair,
        dentist=get_object_or_404(User, practice=user.practice, pk=body.dentist_id),
        restorations=[get_object_or_404(patient.restorations, pk=one) for one in body.restoration_ids],
        reason=body.reason.strip(),
    )
    return Status(201, _booked(made))


@router.patch("visits/{int:visit_id}", response={200: BookedOut, 404: ErrorOut, 409: ErrorOut, 422: ErrorOut})
def change_visit(request: HttpRequest, visit_id: int, body: ChangeVisitIn) -> BookedOut:
    """Move a visit, or say where the patient is."""
    user = user_of(request)
    visit = get_object_or_404(Visit.objects.owned_by(user.practice).select_related("practice"), pk=visit_id)
    told = {k: v for k, v in body.dict(exclude_unset=True).items() if v is not None and k != "reason"}
    if "dentist_id" in told:
        told["dentist"] = get_object_or_404(User, practice=user.practice, pk=told.pop("dentist_id"))
    return _booked(change(visit, user, reason=body.reason, **told))


def _booked(visit: Visit) -> BookedOut:
    return BookedOut(
        id=visit.pk,
        patient_id=visit.patient_id,
        starts_at=visit.starts_at,
        chair=visit.chair,
        status=visit.status,
    )


@router.get("restorations/{int:restoration_id}/later", response={200: list[LaterOut], 404: ErrorOut})
def later(request: HttpRequest, restoration_id: int) -> list[LaterOut]:
    return [_shown(one) for one in later_of(_restoration(request, restoration_id))]


@router.post(
    "restorations/{int:restoration_id}/later",
    response={200: list[LaterOut], 404: ErrorOut, 409: ErrorOut, 422: ErrorOut},
)
def book_after(request: HttpRequest, restoration_id: int, body: BookIn) -> list[LaterOut]:
    """Book a visit that the last plan asks for, or move it."""
    found = _restoration(request, restoration_id)
    book_later(found, body.purpose, body.starts_at, body.chair, user_of(request))
    return [_shown(one) for one in later_of(found)]


def _restoration(request: HttpRequest, restoration_id: int) -> Restoration:
    rows = Restoration.objects.seen_by(user_of(request)).select_related("patient", "practice")
    found: Restoration = get_object_or_404(rows, pk=restoration_id)
    return found


def _shown(one: Later) -> LaterOut:
    visit, placed = one.part.visit if one.part else None, one.restoration.visit
    run = one.part.runs.last() if one.part else None
    record = getattr(run, "record", None) if run else None
    return LaterOut(
        purpose=one.purpose,
        name=one.name,
        reason=one.asked["reason"]["text"],
        from_h=one.asked["from_h"],
        by_h=one.asked.get("by_h"),
        earliest=one.earliest,
        best_by=one.best_by,
        minutes=one.minutes,
        suggested=one.suggested.strftime("%Y-%m-%dT%H:%M"),
        is_placed=one.is_placed,
        part_id=one.part.pk if one.part else None,
        starts_at=visit.starts_at if visit else None,
        chair=visit.chair if visit else placed.chair if placed else "",
        status=visit.status if visit else None,
        flags=[MissingOut(**vars(f)) for f in one.flags(visit.starts_at)] if visit else [],
        record_id=record.pk if record else None,
    )
