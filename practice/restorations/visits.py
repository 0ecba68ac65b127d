"""Visits: booked for restorations of one patient, moved, canceled, followed through the day."""

from __future__ import annotations

import datetime as dt
import zoneinfo
from collections.abc import Mapping, Sequence
from typing import Any

from django.db import models, transaction
from django.utils import timezone

from mallet.terms.errors import InputError, Problem
from practice.accounts.models import Practice, User, audit
from practice.accounts.owned import Refused
from practice.restorations.models import Patient, PlanVersion, Restoration, Visit, VisitPart

# How long a visit is taken to be where nothing is planned yet.
UNPLANNED_MIN = 30.0
EARLIEST, LATEST_DAYS = dt.date(2000, 1, 1), 3 * 366
# From which status to which a visit goes by hand; in the chair and done it gets by its runs.
NEXT: Mapping[str, tuple[str, ...]] = {
    Visit.Status.BOOKED: (Visit.Status.ARRIVED, Visit.Status.CANCELED, Visit.Status.DID_NOT_COME),
    Visit.Status.ARRIVED: (Visit.Status.BOOKED, Visit.Status.CANCELED),
    Visit.Status.CANCELED: (Visit.Status.BOOKED,),
    Visit.Status.DID_NOT_COME: (Visit.Status.BOOKED,),
}
# What is said why.
WITH_REASON = Visit.GONE


def visits_on(practice: Practice, day: dt.date) -> models.QuerySet[Visit]:
    """Return the visits of a day by the practice's own clock."""
    begins, ends = practice.day_starts(day), practice.day_starts(day + dt.timedelta(days=1))
    rows: models.QuerySet[Visit] = Visit.objects.filter(
        practice=practice, starts_at__gte=begins, starts_at__lt=ends
    )
    return rows


def chairs_ahead(practice: Practice) -> list[str]:
    """Return the chairs in which visits are still to come or go on."""
    rows = Visit.objects.filter(practice=practice, starts_at__gte=practice.day_starts(practice.today()))
    ahead = rows.exclude(status__in=(*Visit.GONE, Visit.Status.DONE))
    return sorted({*ahead.values_list("chair", flat=True)})


def minutes_of(visits: Sequence[Visit]) -> dict[int, float]:
    """Return how long visits take, by their ids: their restorations' newest plans one after the other."""
    newest = models.OuterRef("restoration_id")
    planned = (
        PlanVersion.objects.filter(restoration_id=newest).order_by("-number").values("chair_minutes")[:1]
    )
    parts = VisitPart.objects.filter(visit__in=visits, purpose=VisitPart.PLACE)
    found: dict[int, float] = {}
    for visit_id, minutes in parts.annotate(minutes=models.Subquery(planned)).values_list(
        "visit_id", "minutes"
    ):
        found[visit_id] = found.get(visit_id, 0.0) + (minutes or UNPLANNED_MIN)
    return {visit.pk: found.get(visit.pk, UNPLANNED_MIN) for visit in visits}


def book(
    patient: Patient,
    by: User,
    *,
    starts_at: dt.datetime,
    chair: str,
    dentist: User,
    restorations: Sequence[Restoration],
    reason: str = "",
) -> Visit:
    """Return a visit booked for restorations of a patient; a time without a zone is of the practice's own clock.

    Raises InputError for a time or chair that cannot be, and Refused where the chair is taken, unless a reason is given.
    """
    starts_at = _at(patient.practice, starts_at)
    if problems := [
        *_time(patient.practice, starts_at),
        *_chair(patient.practice, chair),
        *_dentist(dentist),
    ]:
        raise InputError(*problems)
    _check_unbooked(restorations)
    with transaction.atomic():
        visit = Visit(
            practice=patient.practice, patient=patient, dentist=dentist, starts_at=starts_at, chair=chair
        )
        minutes = sum(_minutes(one) for one in restorations) or UNPLANNED_MIN
        _check_free(visit, minutes, reason)
        visit.save()
        for one in restorations:
            VisitPart.objects.create(practice=patient.practice, visit=visit, restoration=one)
        told = {"at": starts_at.isoformat(), "chair": chair, **({"reason": reason} if reason else {})}
        audit(by, "visits.booked", f"visit {visit.pk}", **told)
    return visit


def change(visit: Visit, by: User, *, reason: str = "", **told: Any) -> Visit:
    """Return a visit at another time, in another chair, with another dentist, or in another status.

    Raises InputError for what cannot be, or where a reason is wanted, and Refused where the chair is taken, unless a reason is
    given, or a status does not follow.
    """
    practice, reason = visit.practice, reason.strip()
    problems: list[Problem] = []
    if "starts_at" in told:
        told["starts_at"] = _at(practice, told["starts_at"])
        problems += _time(practice, told["starts_at"])
    problems += _chair(practice, told["chair"]) if "chair" in told else []
    problems += _dentist(told["dentist"]) if "dentist" in told else []
    if told.get("status") in WITH_REASON and not reason:
        problems.append(Problem("reason", "nothing", "a reason, in a few words"))
    if problems:
        raise InputError(*problems)
    status = told.get("status", visit.status)
    if status != visit.status and status not in NEXT.get(visit.status, ()):
        raise Refused(
            "visit.status", f"a visit that is {_words(visit.status)} does not become {_words(status)}"
        )
    if visit.status in Visit.GONE and status == Visit.Status.BOOKED:
        _check_unbooked([part.restoration for part in visit.parts.filter(purpose=VisitPart.PLACE)])
    moves = {"starts_at", "chair", "dentist"} & set(told)
    if moves and visit.status not in (Visit.Status.BOOKED, Visit.Status.ARRIVED):
        raise Refused("visit.begun", f"this visit is {_words(visit.status)}: book another")
    with transaction.atomic():
        for name, value in told.items():
            setattr(visit, name, value)
        if moves or visit.status == Visit.Status.BOOKED:
            _check_free(visit, minutes_of([visit])[visit.pk], reason)
        visit.save(update_fields=list(told))
        plain = {name: _plain(value) for name, value in told.items()}
        audit(by, "visits.changed", f"visit {visit.pk}", **plain, **({"reason": reason} if reason else {}))
    return visit


def visit_now(restoration: Restoration, by: User) -> Visit:
    """Return a visit that begins now, for a restoration that is started without having been booked."""
    practice = restoration.practice
    dentist = (
        by if by.may_pass_holds else practice.people.filter(role=User.Role.DENTIST, is_active=True).first()
    )
    visit = Visit.objects.create(
        practice=practice,
        patient=restoration.patient,
        dentist=dentist or by,
        starts_at=timezone.now(),
        chair=practice.chairs[0],
    )
    VisitPart.objects.create(practice=practice, visit=visit, restoration=restoration)
    return visit


def _at(practice: Practice, moment: dt.datetime) -> dt.datetime:
    return moment if timezone.is_aware(moment) else moment.replace(tzinfo=zoneinfo.ZoneInfo(practice.zone))


def _time(practice: Practice, at: dt.datetime) -> list[Problem]:
    latest = practice.today() + dt.timedelta(days=LATEST_DAYS)
    if practice.day_starts(EARLIEST) <= at < practice.day_starts(latest):
        return []
    return [Problem("starts_at", at.date().isoformat(), f"a day from {EARLIEST} to {latest}")]


def _chair(practice: Practice, given: str) -> list[Problem]:
    return (
        []
        if given in practice.chairs
        else [Problem("chair", repr(given), "one of " + ", ".join(practice.chairs))]
    )


def _dentist(given: User) -> list[Problem]:
    is_fine = given.is_active and given.role != User.Role.ASSISTANT
    return [] if is_fine else [Problem("dentist", given.full_name, "somebody who treats here")]


def _check_unbooked(restorations: Sequence[Restoration]) -> None:
    """Raise Refused where a restoration has a visit already."""
    if booked := next((one for one in restorations if one.visit), None):
        raise Refused("visit.booked", f"Move that visit: {booked.told['tooth']['code']} is booked already.")


def _minutes(restoration: Restoration) -> float:
    plan = restoration.plans.last()
    return plan.chair_minutes if plan else UNPLANNED_MIN


def _check_free(visit: Visit, minutes: float, reason: str) -> None:
    """Raise Refused where another visit takes the chair meanwhile, unless a reason is given."""
    if reason:
        return
    ends = visit.starts_at + dt.timedelta(minutes=minutes)
    day = visit.starts_at.astimezone(zoneinfo.ZoneInfo(visit.practice.zone)).date()
    others = (
        visits_on(visit.practice, day)
        .filter(chair=visit.chair)
        .exclude(status__in=Visit.GONE)
        .exclude(pk=visit.pk)
    )
    beside = list(others.select_related("patient"))
    taken = minutes_of(beside)
    for other in beside:
        if other.starts_at < ends and visit.starts_at < other.starts_at + dt.timedelta(
            minutes=taken[other.pk]
        ):
            at = other.starts_at.astimezone(zoneinfo.ZoneInfo(visit.practice.zone)).strftime("%H:%M")
            raise Refused(
                "visit.taken",
                f"Take another time or chair, or say why both: {visit.chair} is taken at {at} "
                f"for {taken[other.pk]:.0f} min by {other.patient.full_name}.",
            )


def _plain(value: Any) -> Any:
    return (
        value.isoformat()
        if isinstance(value, dt.datetime)
        else value.full_name
        if isinstance(value, User)
        else value
    )


def _words(status: str) -> str:
    return status.replace("_", " ")
