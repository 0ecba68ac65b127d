"""Visits after the one at which a restoration is placed: what for, from when, booked or moved."""

from __future__ import annotations

import datetime as dt
import math
import zoneinfo
from dataclasses import dataclass
from typing import Any

from django.db import transaction
from django.utils import timezone

from mallet.terms.errors import InputError
from practice.accounts.models import User, audit
from practice.accounts.owned import Refused
from practice.equipment.services import Flag
from practice.restorations.models import PlanVersion, Restoration, Visit, VisitPart
from practice.restorations.services import newest_plan

QUARTER = dt.timedelta(minutes=15)


@dataclass(frozen=True)
class Later:
    """A visit that the last plan asks for once a restoration is placed: from when, best by when, and as it is booked."""

    restoration: Restoration
    asked: dict[str, Any]
    placed_at: dt.datetime
    is_placed: bool
    part: VisitPart | None

    @property
    def purpose(self) -> str:
        return str(self.asked["purpose"])

    @property
    def name(self) -> str:
        return str(self.asked["name"])

    @property
    def earliest(self) -> dt.datetime:
        return self.placed_at + dt.timedelta(hours=self.asked["from_h"])

    @property
    def best_by(self) -> dt.datetime | None:
        by_h = self.asked.get("by_h")
        return self.placed_at + dt.timedelta(hours=by_h) if by_h else None

    @property
    def minutes(self) -> float:
        return round(max(step["end_s"] for step in self.asked["steps"]) / 60, 1)

    @property
    def suggested(self) -> dt.datetime:
        """Return the first full quarter of an hour from which it may be, by the practice's own clock."""
        at = self.earliest.astimezone(zoneinfo.ZoneInfo(self.restoration.practice.zone))
        full = at.replace(minute=0, second=0, microsecond=0)
        quarters = math.ceil((at - full) / QUARTER)
        return full + quarters * QUARTER

    def flags(self, at: dt.datetime) -> list[Flag]:
        """Return what is to be said where it is done at a time."""
        if not self.is_placed:
            return [Flag("later.not_placed", "Not placed yet", "stop")]
        if at < self.earliest:
            when = local(self.restoration, self.earliest)
            return [
                Flag(
                    "later.early", f"Too early, not before {when}. {self.asked['reason']['text']}", "caution"
                )
            ]
        if self.best_by and at > self.best_by:
            return [Flag("later.late", f"Best by {local(self.restoration, self.best_by)}", "caution")]
        return []


def local(restoration: Restoration, at: dt.datetime) -> str:
    """Return a time by the practice's own clock."""
    return at.astimezone(zoneinfo.ZoneInfo(restoration.practice.zone)).strftime("%a %d %b, %H:%M")


def later_of(restoration: Restoration, plan: PlanVersion | None = None) -> list[Later]:
    """Return the visits that a plan of a restoration asks for after it is placed; of none given, the last."""
    plan = plan or newest_plan(restoration)
    asked = plan.later if plan else []
    if not plan or not asked:
        return []
    run = restoration.placing_run
    ended = run.finished_at if run else None
    visit = restoration.visit
    begins = visit.starts_at if visit else timezone.now()
    placed_at = ended or begins + dt.timedelta(minutes=plan.chair_minutes)
    parts = {part.purpose: part for part in restoration.parts.all() if part.visit.status not in Visit.GONE}
    return [Later(restoration, one, placed_at, ended is not None, parts.get(one["purpose"])) for one in asked]


def later_for(part: VisitPart, plan: PlanVersion | None = None) -> Later:
    """Return what a part of a visit is for, by a plan or by the last; raise Refused where that asks for no such thing."""
    found = next((one for one in later_of(part.restoration, plan) if one.purpose == part.purpose), None)
    if found is None:
        raise Refused("visit.not_planned", "the last plan asks for no such visit: cancel it, or plan again")
    return found


def book_later(
    restoration: Restoration, purpose: str, starts_at: dt.datetime, chair: str, who: User
) -> VisitPart:
    """Book a visit that the last plan asks for, or move it; a time without a zone is of the practice's own clock.

    Raises InputError for one that is too early.
    """
    if timezone.is_naive(starts_at):
        starts_at = starts_at.replace(tzinfo=zoneinfo.ZoneInfo(restoration.practice.zone))
    later = {one.purpose: one for one in later_of(restoration)}
    if purpose not in later:
        raise InputError.at("purpose", purpose, ", ".join(later) or "none: this plan needs no other visit")
    one = later[purpose]
    if starts_at < one.earliest:
        allowed = f"{local(restoration, one.earliest)} or later. {one.asked['reason']['text']}"
        raise InputError.at("starts_at", local(restoration, starts_at), allowed)
    with transaction.atomic():
        if one.part:
            if one.part.visit.status != Visit.Status.BOOKED:
                raise Refused(
                    "visit.begun", f"this visit is {one.part.visit.status.replace('_', ' ')} already"
                )
            visit, part = one.part.visit, one.part
            visit.starts_at, visit.chair = starts_at, chair
            visit.save(update_fields=["starts_at", "chair"])
        else:
            visit = Visit.objects.create(
                practice=restoration.practice,
                patient=restoration.patient,
                dentist=restoration.visit.dentist if restoration.visit else who,
                starts_at=starts_at,
                chair=chair,
            )
            part = VisitPart.objects.create(
                practice=restoration.practice, visit=visit, restoration=restoration, purpose=purpose
            )
        audit(
            who, "visits.booked", f"restoration {restoration.pk}", purpose=purpose, at=starts_at.isoformat()
        )
    return part
