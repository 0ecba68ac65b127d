"""A day of the practice: its visits by chair, and a row for each restoration."""

from __future__ import annotations

import datetime as dt

from django.http import HttpRequest
from django.utils import timezone
from ninja import Router, Schema

from practice.api.access import user_of
from practice.api.rows import VisitOut, looked_up, rows_of
from practice.restorations.models import Restoration, Visit, VisitPart
from practice.restorations.visits import minutes_of, visits_on

router = Router(tags=["planning"], by_alias=True)
# So far ahead today tells of visits after a restoration was placed.
AHEAD = dt.timedelta(days=8)


class BookedVisit(Schema):
    """A visit of a day, whatever it is for; `minutes` is how long it takes by what is planned."""

    id: int
    patient_id: int
    patient: str
    alerts: list[str]
    starts_at: dt.datetime
    minutes: float
    chair: str
    dentist: str
    dentist_id: int
    status: str


class TodayOut(Schema):
    """A day: its visits, and of each restoration a row; today also what is done later on those placed already."""

    now: dt.datetime
    day: dt.date
    is_today: bool
    chairs: list[str]
    booked: list[BookedVisit]
    visits: list[VisitOut]


@router.get("today", response=TodayOut)
def today(request: HttpRequest, day: dt.date | None = None) -> TodayOut:
    """Return a day of the practice, today's if none is given."""
    user = user_of(request)
    assert user.practice
    is_today = day is None or day == user.practice.today()
    day = day or user.practice.today()
    booked = list(visits_on(user.practice, day).select_related("patient", "dentist"))
    minutes = minutes_of(booked)
    to_come = VisitPart.objects.exclude(purpose=VisitPart.PLACE).filter(
        practice=user.practice,
        visit__starts_at__gte=user.practice.day_starts(day),
        visit__starts_at__lt=user.practice.day_starts(day + AHEAD),
    )
    parts = VisitPart.objects.filter(visit__in=[one for one in booked if one.status not in Visit.GONE])
    of = {*parts.values_list("restoration_id", flat=True)}
    if is_today:
        of |= {*to_come.exclude(visit__status__in=Visit.GONE).values_list("restoration_id", flat=True)}
    restorations = Restoration.objects.owned_by(user.practice).filter(pk__in=of)
    on_day = {one.pk for one in booked}
    shown = [
        row
        for r in looked_up(restorations)
        for row in rows_of(r, user)
        if row.visit_id in on_day or (is_today and row.visit)
    ]
    return TodayOut(
        now=timezone.now(),
        day=day,
        is_today=is_today,
        chairs=user.practice.chairs,
        booked=[_booked(one, minutes[one.pk]) for one in booked],
        visits=sorted(shown, key=lambda row: row.starts_at or timezone.now()),
    )


def _booked(visit: Visit, minutes: float) -> BookedVisit:
    return BookedVisit(
        id=visit.pk,
        patient_id=visit.patient_id,
        patient=visit.patient.full_name,
        alerts=visit.patient.alerts,
        starts_at=visit.starts_at,
        minutes=round(minutes, 1),
        chair=visit.chair,
        dentist=visit.dentist.full_name,
        dentist_id=visit.dentist_id,
        status=visit.status,
    )
