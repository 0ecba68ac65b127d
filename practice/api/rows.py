"""A restoration as a row of a list: what it is, at which visit, what is missing before it may start."""

from __future__ import annotations

import datetime as dt

from django.db import models
from django.utils import timezone
from ninja import Schema

from mallet.tooth import ToothName, read_tooth
from practice.accounts.models import User
from practice.records.models import Record
from practice.restorations.later import Later, later_of
from practice.restorations.models import PlanVersion, Restoration, RestorationQuerySet, VisitPart
from practice.restorations.services import missing_for, newest_plan
from practice.runs.models import Run


class MissingOut(Schema):
    code: str
    text: str
    level: str


class VisitOut(Schema):
    """One row of a day: what a visit is for, of one restoration. `visit` names what it is for besides placing it, `to_book`
    what is still to be booked."""

    visit_id: int | None
    patient_id: int | None
    part_id: int | None
    restoration_id: int
    visit: str
    to_book: list[str]
    starts_at: dt.datetime | None
    chair: str
    patient: str
    tooth: str
    surfaces: str
    reason: str
    dentist: str
    status: str
    missing: list[MissingOut]
    run_id: int | None
    record_id: int | None
    signed: bool
    light_seconds: float | None
    chair_minutes: float | None


def shown_tooth(tooth: ToothName, user: User) -> str:
    """Return a tooth in the notation that a user prefers."""
    return {"number": f"#{tooth.number}", "right_angle": tooth.right_angle}.get(user.notation, tooth.iso)


def looked_up(rows: RestorationQuerySet) -> RestorationQuerySet:
    """Return restorations with all that their rows tell, in as many queries whatever their number."""
    newest = PlanVersion.objects.newest().with_cases()
    records = models.Prefetch("record", Record.objects.defer("content", "free_text"))
    return (
        rows.by_visit()
        .select_related("patient", "light__practice", "practice")
        .prefetch_related(
            "materials",
            models.Prefetch("plans", newest, to_attr="newest_plans"),
            models.Prefetch("runs", Run.objects.prefetch_related(records)),
            models.Prefetch("parts__runs", Run.objects.prefetch_related(records)),
        )
    )


def row_of(r: Restoration, user: User) -> VisitOut:
    """Return the row of the visit at which a restoration is placed."""
    plan, placing = newest_plan(r), r.placing
    visit = placing.visit if placing else None
    run = r.placing_run
    record = getattr(run, "record", None) if run else None
    done = r.status == Restoration.Status.DONE
    missing = [] if done else missing_for(r, r.practice.today())
    return VisitOut(
        visit_id=visit.pk if visit else None,
        patient_id=r.patient_id,
        part_id=placing.pk if placing else None,
        restoration_id=r.pk,
        visit="",
        to_book=[],
        starts_at=visit.starts_at if visit else None,
        chair=visit.chair if visit else "",
        patient=r.patient.full_name if r.patient else "",
        tooth=shown_tooth(read_tooth(r.told["tooth"]["code"]), user),
        surfaces=r.told["restoration"]["surfaces"],
        reason=r.reason,
        dentist=visit.dentist.full_name if visit else "",
        status=r.status,
        missing=[MissingOut(code=m.code, text=m.text, level=m.level) for m in missing],
        run_id=run.pk if run else None,
        record_id=record.pk if record else None,
        signed=bool(record and record.signed_at),
        light_seconds=plan.light_seconds if plan else None,
        chair_minutes=plan.chair_minutes if plan else None,
    )


def rows_of(r: Restoration, user: User) -> list[VisitOut]:
    """Return the rows of a restoration: the visit at which it is placed, and those that are booked after it."""
    placed, later = row_of(r, user), later_of(r)
    open_ones = [one.name for one in later if one.part is None]
    if placed.status == Restoration.Status.DONE:
        placed = placed.model_copy(update={"to_book": open_ones})
    return [placed, *(_later_row(placed, one, part) for one in later if (part := one.part))]


def _later_row(placed: VisitOut, one: Later, part: VisitPart) -> VisitOut:
    run = part.last_run
    record = getattr(run, "record", None) if run else None
    done = part.is_done
    flags = [] if done else one.flags(timezone.now())
    return placed.model_copy(
        update={
            "visit_id": part.visit_id,
            "part_id": part.pk,
            "visit": one.name,
            "to_book": [],
            "starts_at": part.visit.starts_at,
            "chair": part.visit.chair,
            "dentist": part.visit.dentist.full_name,
            "status": "done" if done else "running" if run else "open",
            "missing": [MissingOut(**vars(flag)) for flag in flags],
            "run_id": run.pk if run else None,
            "record_id": record.pk if record else None,
            "signed": bool(record and record.signed_at),
            "light_seconds": 0.0,
            "chair_minutes": one.minutes,
        }
    )
