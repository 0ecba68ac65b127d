"""Patients: looked for, added, changed, archived; what was planned and placed on each tooth."""

from __future__ import annotations

import datetime as dt
from typing import Any

from django.db import models
from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Field, Router, Schema, Status

from mallet.plan import RESTORATIVE_NAMES
from mallet.tooth import read_tooth
from practice.accounts.models import User
from practice.api.access import user_of
from practice.api.errors import ErrorOut
from practice.api.paging import paged
from practice.api.rows import shown_tooth
from practice.records.models import Record
from practice.restorations.models import Patient, Restoration, Visit, VisitPart
from practice.restorations.patients import (
    EXPECTED,
    add_patient,
    archive,
    change_patient,
    check_history,
    flags_of,
    found_by,
)

router = Router(tags=["patients"])


class PatientRow(Schema):
    """A row of the list; `next_visit` is when the patient is expected next."""

    id: int
    full_name: str
    born_on: dt.date
    age_years: int
    chart_number: str
    alerts: list[str]
    next_visit: dt.datetime | None
    archived_for: str


class PatientsOut(Schema):
    rows: list[PatientRow]
    count: int
    page: int
    pages: int


class AllergyIn(Schema):
    to: str
    substance: str = Field(default="", max_length=80)


class PatientTold(Schema):
    """What is told of a patient; what is left out stays as it is."""

    full_name: str | None = None
    born_on: dt.date | None = None
    chart_number: str | None = Field(default=None, max_length=30)
    weight_kg: float | None = None
    allergies: list[AllergyIn] | None = Field(default=None, max_length=20)
    pregnant: bool | None = None
    planning_pregnancy: bool | None = None
    breast_feeding: bool | None = None
    anticoagulants: bool | None = None
    pacemaker: bool | None = None
    endocarditis_risk: bool | None = None
    light_sensitizing: bool | None = None
    heart_disease: bool | None = None
    beta_blocker_or_tricyclic: bool | None = None
    methemoglobinemia: bool | None = None
    neurological_disease: bool | None = None
    kidney_impairment: bool | None = None
    alert_text: str | None = Field(default=None, max_length=500)

    def told(self) -> dict[str, Any]:
        """Return what was told; of what may be unknown nothing stands for that it is."""
        given = self.dict(exclude_unset=True)
        return {name: value for name, value in given.items() if value is not None or name == "weight_kg"}


class NewPatient(PatientTold):
    full_name: str
    born_on: dt.date
    # That this is not the one of the same name and birth date.
    is_another: bool = False


class PlacedOut(Schema):
    """A restoration of a patient: what, on which tooth, how far it is, when it is or was."""

    id: int
    code: str
    tooth: str
    surfaces: str
    material: str
    reason: str
    status: str
    at: dt.datetime | None
    chair: str
    visit_id: int | None
    has_plan: bool
    run_id: int | None
    record_id: int | None
    is_signed: bool


class PatientVisit(Schema):
    id: int
    starts_at: dt.datetime
    chair: str
    dentist: str
    status: str
    restorations: list[str]


class PatientOut(Schema):
    """A patient with all that was planned and placed, the newest first."""

    id: int
    full_name: str
    born_on: dt.date
    age_years: int
    chart_number: str
    weight_kg: float | None
    allergies: list[AllergyIn]
    flags: dict[str, bool]
    alert_text: str
    alerts: list[str]
    history_checked_on: dt.date | None
    history_checked_by: str
    is_history_current: bool
    archived_for: str
    restorations: list[PlacedOut]
    visits: list[PatientVisit]


class ArchiveIn(Schema):
    """Why a patient is taken out of the way; nothing takes one back."""

    reason: str = Field(default="", max_length=200)


@router.get("patients", response=PatientsOut)
def patients(request: HttpRequest, q: str = "", page: int = 1, archived: bool = False) -> PatientsOut:
    """Return the patients that a text is about, by name."""
    practice = user_of(request).practice
    assert practice
    today = practice.today()
    expected = Visit.objects.filter(
        patient=models.OuterRef("pk"), status__in=EXPECTED, starts_at__gte=practice.day_starts(today)
    )
    next_visit = models.Subquery(expected.order_by("starts_at").values("starts_at")[:1])
    found = paged(found_by(practice, q, is_archived=archived), page)
    return PatientsOut(
        rows=[
            PatientRow(
                id=one.pk,
                full_name=one.full_name,
                born_on=one.born_on,
                age_years=one.age_on(today),
                chart_number=one.chart_number,
                alerts=one.alerts,
                next_visit=one.next_visit,
                archived_for=one.archived_for,
            )
            for one in found.rows.annotate(next_visit=next_visit)
        ],
        count=found.count,
        page=found.page,
        pages=found.pages,
    )


@router.post("patients", response={201: PatientOut, 409: ErrorOut, 422: ErrorOut})
def add(request: HttpRequest, body: NewPatient) -> Status[PatientOut]:
    user = user_of(request)
    assert user.practice
    told = body.told()
    return Status(201, _shown(add_patient(user.practice, user, **told), user))


@router.get("patients/{int:patient_id}", response={200: PatientOut, 404: ErrorOut})
def patient(request: HttpRequest, patient_id: int) -> PatientOut:
    return _shown(patient_of(request, patient_id), user_of(request))


@router.patch("patients/{int:patient_id}", response={200: PatientOut, 404: ErrorOut, 422: ErrorOut})
def change(request: HttpRequest, patient_id: int, body: PatientTold) -> PatientOut:
    user = user_of(request)
    return _shown(change_patient(patient_of(request, patient_id), user, **body.told()), user)


@router.post("patients/{int:patient_id}/history", response={200: PatientOut, 404: ErrorOut})
def history_checked(request: HttpRequest, patient_id: int) -> PatientOut:
    """Note down that the history was gone through today."""
    user = user_of(request)
    return _shown(check_history(patient_of(request, patient_id), user), user)


@router.post(
    "patients/{int:patient_id}/archive",
    response={200: PatientOut, 404: ErrorOut, 409: ErrorOut, 422: ErrorOut},
)
def take_away(request: HttpRequest, patient_id: int, body: ArchiveIn) -> PatientOut:
    user = user_of(request)
    return _shown(archive(patient_of(request, patient_id), user, body.reason), user)


def patient_of(request: HttpRequest, patient_id: int) -> Patient:
    rows = Patient.objects.owned_by(user_of(request).practice).select_related(
        "practice", "history_checked_by"
    )
    found: Patient = get_object_or_404(rows, pk=patient_id)
    return found


def _shown(found: Patient, user: User) -> PatientOut:
    today = found.practice.today()
    parts = models.Prefetch("parts", VisitPart.objects.select_related("visit"))
    records = models.Prefetch("runs__record", Record.objects.defer("content", "free_text"))
    made = found.restorations.order_by("-id").prefetch_related(parts, "plans", "runs", records)
    visits = (
        found.visits.select_related("dentist").order_by("-starts_at").prefetch_related("parts__restoration")
    )
    return PatientOut(
        id=found.pk,
        full_name=found.full_name,
        born_on=found.born_on,
        age_years=found.age_on(today),
        chart_number=found.chart_number,
        weight_kg=found.weight_kg,
        allergies=[AllergyIn(**one) for one in found.allergies],
        flags=flags_of(found),
        alert_text=found.alert_text,
        alerts=found.alerts,
        history_checked_on=found.history_checked_on,
        history_checked_by=found.history_checked_by.full_name if found.history_checked_by else "",
        is_history_current=found.history_checked_on == today,
        archived_for=found.archived_for,
        restorations=[_placed(one, user) for one in made],
        visits=[_visit(one, user) for one in visits],
    )


def _placed(one: Restoration, user: User) -> PlacedOut:
    told, visit = one.told, one.visit
    runs = [run for run in one.runs.all() if run.part_id is None]
    run = runs[-1] if runs else None
    record = getattr(run, "record", None) if run else None
    return PlacedOut(
        id=one.pk,
        code=told["tooth"]["code"],
        tooth=shown_tooth(read_tooth(told["tooth"]["code"]), user),
        surfaces=told["restoration"]["surfaces"],
        material=RESTORATIVE_NAMES[told["restoration"]["material"]],
        reason=one.reason,
        status=one.status,
        at=run.finished_at if run and run.finished_at else visit.starts_at if visit else None,
        chair=visit.chair if visit else "",
        visit_id=visit.pk if visit else None,
        has_plan=bool(one.plans.all()),
        run_id=run.pk if run else None,
        record_id=record.pk if record else None,
        is_signed=bool(record and record.signed_at),
    )


def _visit(one: Visit, user: User) -> PatientVisit:
    named = [
        f"{shown_tooth(read_tooth(told['tooth']['code']), user)} {told['restoration']['surfaces']}"
        for told in (part.restoration.told for part in one.parts.all())
    ]
    return PatientVisit(
        id=one.pk,
        starts_at=one.starts_at,
        chair=one.chair,
        dentist=one.dentist.full_name,
        status=one.status,
        restorations=named,
    )
