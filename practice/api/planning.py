"""Today, the Bench's previews, and saved plans."""

from __future__ import annotations

import datetime as dt
import itertools
import time
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from django.utils import timezone
from ninja import Field, Router, Schema, Status

from mallet.drawing import Drawing, draw
from mallet.plan import no_plan
from mallet.studies.designs import what_would_hold
from mallet.studies.hold_lessons import hold_lessons
from mallet.studies.light_lines import light_lines
from mallet.studies.measure_first import measure_first
from mallet.studies.shapes import shape_file, solids_of
from mallet.terms.canonical import canonical_json
from mallet.terms.case import Case, as_told, read_case
from mallet.terms.errors import NotFeasible
from mallet.terms.plan import Design, HoldLesson, LightLine, NoPlan, Plan, Sway
from mallet.tooth import ToothName, read_tooth
from practice.accounts.models import User
from practice.api.access import user_of
from practice.api.errors import ErrorOut
from practice.equipment.models import MASS, Item
from practice.equipment.stock import is_usable
from practice.planned import while_latest, worked_of
from practice.restorations.later import Later, later_of
from practice.restorations.models import PlanVersion, Restoration, Visit, VisitPart
from practice.restorations.services import (
    case_of,
    changes_between,
    in_practice,
    missing_for,
    of_today,
    save_plan,
    with_restorative,
)
from practice.restorations.visits import minutes_of, visits_on

router = Router(tags=["planning"], by_alias=True)
# So far ahead today tells of visits after a restoration was placed.
AHEAD = dt.timedelta(days=8)


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


class MaterialOut(Schema):
    id: int
    name: str
    role: str
    in_stock: bool
    case_part: dict[str, Any]


class ChangeOut(Schema):
    path: str
    title: str
    before: Any
    after: Any


class PlanRow(Schema):
    """A saved plan: who, when, with which engine, and what differs from the version before."""

    number: int
    engine: str
    changes: list[ChangeOut]
    saved_at: dt.datetime
    saved_by: str
    layering: str
    increments: int
    light_seconds: float
    chair_minutes: float


class RestorationOut(Schema):
    id: int
    patient: str
    alerts: list[str]
    tooth: str
    tooth_name: str
    reason: str
    status: str
    patient_id: int | None
    starts_at: dt.datetime | None
    chair: str
    dentist: str
    case: Case
    plans: list[PlanRow]
    missing: list[MissingOut]
    run_id: int | None
    record_id: int | None


class PreviewIn(Schema):
    """A case in the published format, as typed so far."""

    case: dict[str, Any]


class PreviewOut(Schema):
    """The plan and its drawing, or why there is none."""

    plan: Plan | None
    drawing: Drawing | None
    refusal: NoPlan | None


class SavedOut(Schema):
    number: int
    case: Case
    plan: Plan
    drawing: Drawing


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
        for r in restorations.select_related("patient", "light", "practice").by_visit()
        for row in _rows_of(r, user)
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


@router.get("materials", response=list[MaterialOut])
def materials(request: HttpRequest) -> list[MaterialOut]:
    """Return what in stock a restoration may be built of, chosen for it one by one."""
    practice = user_of(request).practice
    today = practice.today()
    rows = Item.objects.owned_by(practice).filter(kind=MASS).prefetch_related("lots")
    return [
        MaterialOut(
            id=r.pk,
            name=r.name,
            role=r.properties["role"],
            in_stock=is_usable(r, today),
            case_part=r.case_part(today),
        )
        for r in rows
    ]


@router.get(
    "restorations/{int:restoration_id}", response={200: RestorationOut, 404: ErrorOut}, exclude_unset=True
)
def restoration(request: HttpRequest, restoration_id: int) -> RestorationOut:
    found = _restoration(request, restoration_id)
    user = user_of(request)
    visit = _visit(found, user)
    tooth = read_tooth(found.told["tooth"]["code"])
    return RestorationOut(
        id=found.pk,
        patient=found.patient.full_name if found.patient else "",
        patient_id=found.patient_id,
        alerts=found.patient.alerts if found.patient else [],
        tooth=visit.tooth,
        tooth_name=tooth.name,
        reason=found.reason,
        status=found.status,
        starts_at=visit.starts_at,
        chair=visit.chair,
        dentist=visit.dentist,
        case=read_case(case_of(found)),
        plans=_rows(found),
        missing=visit.missing,
        run_id=visit.run_id,
        record_id=visit.record_id,
    )


class RestorativeIn(PreviewIn):
    material: str = Field(max_length=40)


@router.post(
    "restorations/{int:restoration_id}/restorative",
    response={200: Case, 404: ErrorOut, 422: ErrorOut},
    exclude_unset=True,
)
def another_restorative(request: HttpRequest, restoration_id: int, body: RestorativeIn) -> Case:
    """Return a case as it would ask for another restorative, with what the practice has for it."""
    found = _restoration(request, restoration_id)
    with as_told(body.case) as told:
        return read_case(of_today(with_restorative(found, told, body.material), found))


@router.post("preview", response={200: PreviewOut, 422: ErrorOut})
def preview(request: HttpRequest, body: PreviewIn) -> HttpResponse:
    """Plan a case without keeping anything."""
    began = time.perf_counter()
    case = _case(request, body)
    plan = drawing = refusal = "null"
    try:
        worked = worked_of(case)
        plan = worked.plan.model_dump_json(by_alias=True)
        drawing = draw(worked).model_dump_json()
    except NotFeasible as refused:
        refusal = canonical_json(no_plan(case, refused).model_dump(mode="json"))
    text = f'{{"plan":{plan},"drawing":{drawing},"refusal":{refusal}}}'
    response = HttpResponse(text, content_type="application/json")
    response["Server-Timing"] = f"plan;dur={(time.perf_counter() - began) * 1000:.1f}"
    return response


@router.post("measure-first", response={200: list[Sway], 409: ErrorOut, 422: ErrorOut})
def first_to_measure(request: HttpRequest, body: PreviewIn) -> list[Sway]:
    """Tell which unmeasured sizes would move the plan, and how far."""
    return measure_first(_case(request, body), planned=while_latest(user_of(request).pk))


@router.post("light-lines", response={200: list[LightLine], 409: ErrorOut, 422: ErrorOut})
def lines_of_light(request: HttpRequest, body: PreviewIn) -> list[LightLine]:
    """Tell where in the section how many times the required exposure arrives."""
    return light_lines(worked_of(_case(request, body)))


@router.post("designs", response={200: list[Design], 422: ErrorOut})
def designs(request: HttpRequest, body: PreviewIn) -> list[Design]:
    """Tell what could be cut besides to hold a restoration, the least invasive first."""
    return what_would_hold(_case(request, body))


@router.post("shapes", response={200: list[str], 409: ErrorOut, 422: ErrorOut})
def names_of_shapes(request: HttpRequest, body: PreviewIn) -> list[str]:
    """Tell which solids of a plan can be had as files."""
    return list(solids_of(worked_of(_case(request, body))))


@router.post("shapes/{shape}.{format}", response={200: None, 409: ErrorOut, 422: ErrorOut})
def shape_as_file(request: HttpRequest, shape: str, format: str, body: PreviewIn) -> HttpResponse:
    """Give a solid of a plan as an STL or PLY file."""
    made = shape_file(worked_of(_case(request, body)), shape, format)
    response = HttpResponse(made, content_type="application/octet-stream")
    response["Content-Disposition"] = f'attachment; filename="{shape}.{format}"'
    return response


@router.post("hold-lessons", response={200: list[HoldLesson], 409: ErrorOut, 422: ErrorOut})
def lessons_of_hold(request: HttpRequest, body: PreviewIn) -> list[HoldLesson]:
    """Tell what the increment with the lowest radiant exposure would want with the tip tilted or held away."""
    return hold_lessons(worked_of(_case(request, body)))


@router.post(
    "restorations/{int:restoration_id}/plans",
    response={201: PlanRow, 404: ErrorOut, 409: ErrorOut, 422: ErrorOut},
)
def save(request: HttpRequest, restoration_id: int, body: PreviewIn) -> Status[PlanRow]:
    found = _restoration(request, restoration_id)
    save_plan(found, body.case, user_of(request))
    return Status(201, _rows(found)[-1])


@router.get("restorations/{int:restoration_id}/plans/{int:number}", response={200: SavedOut, 404: ErrorOut})
def saved(request: HttpRequest, restoration_id: int, number: int) -> HttpResponse:
    found = _restoration(request, restoration_id)
    version = get_object_or_404(found.plans.select_related("body"), number=number)
    body = version.body
    out = {"number": number, "case": body.told, "plan": body.planned, "drawing": body.drawn}
    return HttpResponse(canonical_json(out), content_type="application/json")


def _case(request: HttpRequest, body: PreviewIn) -> Case:
    """Return a case as typed, with the rules and stock of the user's house."""
    with as_told(body.case) as told:
        return read_case(in_practice(told, user_of(request).practice))


def _restoration(request: HttpRequest, restoration_id: int) -> Restoration:
    rows = Restoration.objects.seen_by(user_of(request))
    found: Restoration = get_object_or_404(rows, pk=restoration_id)
    return found


def shown_tooth(tooth: ToothName, user: User) -> str:
    """Return a tooth in the notation that a user prefers."""
    return {"number": f"#{tooth.number}", "right_angle": tooth.right_angle}.get(user.notation, tooth.iso)


def _visit(r: Restoration, user: User) -> VisitOut:
    plan, placing = r.plans.last(), r.placing
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


def _rows_of(r: Restoration, user: User) -> list[VisitOut]:
    """Return the rows of a restoration: the visit at which it is placed, and those that are booked after it."""
    placed, later = _visit(r, user), later_of(r)
    open_ones = [one.name for one in later if one.part is None]
    if placed.status == Restoration.Status.DONE:
        placed = placed.model_copy(update={"to_book": open_ones})
    return [placed, *(_later_row(placed, one, part) for one in later if (part := one.part))]


def _later_row(placed: VisitOut, one: Later, part: VisitPart) -> VisitOut:
    run = part.runs.last()
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


def _rows(restoration: Restoration) -> list[PlanRow]:
    rows = restoration.plans.select_related("saved_by", "body")
    versions = list(rows.defer("body__plan", "body__drawing"))
    return [_row(version, earlier) for earlier, version in itertools.pairwise([None, *versions]) if version]


def _row(version: PlanVersion, earlier: PlanVersion | None) -> PlanRow:
    changes = changes_between(earlier.body.told, version.body.told) if earlier else []
    return PlanRow(
        number=version.number,
        engine=version.engine,
        changes=[ChangeOut(path=c.path, title=c.title, before=c.before, after=c.after) for c in changes],
        saved_at=version.saved_at,
        saved_by=version.saved_by.full_name,
        layering=version.layering,
        increments=version.increments,
        light_seconds=version.light_seconds,
        chair_minutes=version.chair_minutes,
    )
