"""Visits after the one at which a restoration is placed: what is to be booked, and booking it."""

from __future__ import annotations

import datetime as dt

from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Field, Router, Schema

from practice.api.access import user_of
from practice.api.errors import ErrorOut
from practice.api.planning import MissingOut
from practice.restorations.later import Later, book_later, later_of
from practice.restorations.models import Restoration

router = Router(tags=["visits"], by_alias=True)


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


@router.get("restorations/{int:restoration_id}/later", response={200: list[LaterOut], 404: ErrorOut})
def later(request: HttpRequest, restoration_id: int) -> list[LaterOut]:
    return [_shown(one) for one in later_of(_restoration(request, restoration_id))]


@router.post(
    "restorations/{int:restoration_id}/later",
    response={200: list[LaterOut], 404: ErrorOut, 409: ErrorOut, 422: ErrorOut},
)
def book(request: HttpRequest, restoration_id: int, body: BookIn) -> list[LaterOut]:
    """Book a visit that the last plan asks for, or move it."""
    found = _restoration(request, restoration_id)
    book_later(found, body.purpose, body.starts_at, body.chair, user_of(request))
    return [_shown(one) for one in later_of(found)]


def _restoration(request: HttpRequest, restoration_id: int) -> Restoration:
    rows = Restoration.objects.owned_by(user_of(request).practice).select_related("patient", "practice")
    found: Restoration = get_object_or_404(rows, pk=restoration_id)
    return found


def _shown(one: Later) -> LaterOut:
    visit = one.part.visit if one.part else None
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
        chair=visit.chair if visit else one.restoration.visit.chair,
        status=visit.status if visit else None,
        flags=[MissingOut(**vars(f)) for f in one.flags(visit.starts_at)] if visit else [],
        record_id=record.pk if record else None,
    )
