"""The Bench's previews, and saved plans."""

from __future__ import annotations

import datetime as dt
import itertools
import time
from functools import partial
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
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
from mallet.terms.color_plan import ColorFace, MatchCost
from mallet.terms.errors import NotFeasible
from mallet.terms.plan import Design, HoldLesson, LightLine, NoPlan, Plan, Sway
from mallet.tooth import read_tooth
from practice.api.access import user_of
from practice.api.errors import ErrorOut
from practice.api.rows import MissingOut, looked_up, row_of
from practice.equipment.models import MASS, Item
from practice.equipment.stock import is_usable
from practice.planned import answered, while_latest, worked_of
from practice.restorations.models import PlanVersion, Restoration
from practice.restorations.services import (
    case_of,
    changes_between,
    in_practice,
    of_today,
    save_plan,
    with_restorative,
)

router = Router(tags=["planning"], by_alias=True)


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
    user = user_of(request)
    found = get_object_or_404(looked_up(Restoration.objects.seen_by(user)), pk=restoration_id)
    visit = row_of(found, user)
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
    text = answered("preview", case, partial(_previewed, case))
    response = HttpResponse(text, content_type="application/json")
    response["Server-Timing"] = f"plan;dur={(time.perf_counter() - began) * 1000:.1f}"
    return response


def _previewed(case: Case) -> str:
    plan = drawing = refusal = "null"
    try:
        worked = worked_of(case)
        plan = worked.plan.model_dump_json(by_alias=True)
        drawing = draw(worked).model_dump_json()
    except NotFeasible as refused:
        refusal = canonical_json(no_plan(case, refused).model_dump(mode="json"))
    return f'{{"plan":{plan},"drawing":{drawing},"refusal":{refusal}}}'


@router.post("measure-first", response={200: list[Sway], 409: ErrorOut, 422: ErrorOut})
def first_to_measure(request: HttpRequest, body: PreviewIn) -> list[Sway]:
    """Tell which unmeasured sizes would move the plan, and how far."""
    case, planned = _case(request, body), while_latest(user_of(request).pk)
    return answered("measure first", case, partial(measure_first, case, planned=planned))


@router.post("light-lines", response={200: list[LightLine], 409: ErrorOut, 422: ErrorOut})
def lines_of_light(request: HttpRequest, body: PreviewIn) -> list[LightLine]:
    """Tell where in the section how many times the required exposure arrives."""
    case = _case(request, body)
    return answered("light lines", case, lambda: light_lines(worked_of(case)))


@router.post("color-face", response={200: ColorFace | None, 409: ErrorOut, 422: ErrorOut})
def color_of_face(request: HttpRequest, body: PreviewIn) -> ColorFace | None:
    """Tell what a restoration looks like at each place of its face; nothing where that is not known."""
    case = _case(request, body)
    return answered("color face", case, lambda: worked_of(case).built.color_face())


@router.post("match-costs", response={200: list[MatchCost], 409: ErrorOut, 422: ErrorOut})
def costs_of_matches(request: HttpRequest, body: PreviewIn) -> list[MatchCost]:
    """Tell what each of the composites that come near in color asks for in increments and light, in the plan's order."""
    case = _case(request, body)
    return answered("match costs", case, lambda: worked_of(case).built.match_costs())


@router.post("designs", response={200: list[Design], 422: ErrorOut})
def designs(request: HttpRequest, body: PreviewIn) -> list[Design]:
    """Tell what could be cut besides to hold a restoration, the least invasive first."""
    case = _case(request, body)
    return answered("designs", case, partial(what_would_hold, case))


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
    case = _case(request, body)
    return answered("hold lessons", case, lambda: hold_lessons(worked_of(case)))


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


def _rows(restoration: Restoration) -> list[PlanRow]:
    versions = list(restoration.plans.with_cases().select_related("saved_by", "body"))
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
