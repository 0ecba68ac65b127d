"""Records: read, put into words, sign, amend, export."""

from __future__ import annotations

import datetime as dt
from typing import Any
from zoneinfo import ZoneInfo

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import Field, Router, Schema

from mallet.drawing import Drawing
from mallet.terms.canonical import canonical_json
from practice.api.access import user_of
from practice.api.errors import ErrorOut
from practice.api.paging import paged
from practice.records.models import Record, Seal
from practice.records.services import amend_record, set_free_text, sign_record, waste_log
from practice.records.upgrade import upgrade_record
from practice.restorations.patients import about

router = Router(tags=["records"])
FEW = 500
ERRORS = {403: ErrorOut, 404: ErrorOut, 409: ErrorOut, 422: ErrorOut}


class SealOut(Schema):
    sequence: int
    kind: str
    text: str
    signed_by: str
    signed_at: dt.datetime
    hash: str


class StepRow(Schema):
    id: str
    title: str
    stage: str
    light: bool
    planned_s: float
    actual_s: float
    visits: int
    began: dt.datetime | None
    ended: dt.datetime | None


class DeviationRow(Schema):
    kind: str
    step_id: str
    text: str
    at: dt.datetime | None


class LotRow(Schema):
    """A package that was scanned at the chair."""

    name: str | None
    text: str
    lot: str
    expires_on: dt.date | None
    is_over: bool
    at: dt.datetime


class MeasureRow(Schema):
    id: str
    title: str
    value: float
    unit: str


class PlacedRow(Schema):
    """An increment as it was planned; how long it was made to set, as planned and as recorded."""

    order: int
    name: str
    product: str
    lot: str | None = None
    mass_g: float
    measures: list[MeasureRow]
    planned_s: float
    recorded_s: float | None = None


class AssumedRow(Schema):
    """What nobody told, and what was taken for it."""

    path: str
    value: Any
    unit: str
    why: str


class FigureRow(Schema):
    id: str
    title: str
    value: float
    unit: str
    detail: str


class HoldRow(Schema):
    """A hold point, and who passed it in what role."""

    title: str
    by: str
    role: str
    at: dt.datetime


class ScrapRow(Schema):
    """What was opened of a material whose scrap is kept apart (mg)."""

    names: list[str]
    lots: list[str]
    capsules: int
    discarded: int
    opened_mg: float
    scrap_mg: float


class MixedRow(Schema):
    """When a mix was ready."""

    title: str
    at: dt.datetime


class MeasuredRow(Schema):
    """A figure that a step wanted: before, as planned, and as it was typed; `text` is what it then asked for."""

    step: str
    title: str
    detail: str
    unit: str
    is_height: bool = True
    before: float | None
    planned: float
    measured: float | None
    text: str


class OtherRow(Schema):
    """The record of another visit for the same restoration."""

    id: int
    visit: str
    finished_at: dt.datetime
    signed: bool


class RecordOut(Schema):
    id: int
    restoration_id: int
    # What the visit was for besides placing, and the records of the other visits.
    visit: str
    others: list[OtherRow]
    patient: str
    practice: str
    tooth: str
    tooth_name: str
    surfaces: str
    material: str
    reason: str
    dentist: str
    started_at: dt.datetime
    finished_at: dt.datetime
    plan_number: int
    engine: str
    figures: list[FigureRow]
    decisions: list[dict[str, str]]
    assumptions: list[AssumedRow]
    placed: list[PlacedRow]
    measured: list[MeasuredRow]
    mixes: list[MixedRow]
    scrap: ScrapRow | None = None
    lots: list[LotRow]
    steps: list[StepRow]
    deviations: list[DeviationRow]
    holds: list[HoldRow]
    drawing: Drawing
    free_text: str
    signed_by: str | None
    signed_at: dt.datetime | None
    seals: list[SealOut]


class RecordRow(Schema):
    id: int
    patient: str
    tooth: str
    surfaces: str
    visit: str
    finished_at: dt.datetime
    signed_at: dt.datetime | None
    deviations: int


class RecordsOut(Schema):
    rows: list[RecordRow]
    count: int
    page: int
    pages: int


class FreeText(Schema):
    free_text: str = Field(max_length=20000)


class SignRecord(FreeText):
    password: str


class AmendIn(Schema):
    text: str = Field(max_length=20000)
    password: str


@router.get("records", response=RecordsOut)
def records(request: HttpRequest, q: str = "", page: int = 1, unsigned: bool = False) -> RecordsOut:
    """Return the records of the patients that a text is about, the newest first."""
    practice = user_of(request).practice
    assert practice
    rows = Record.objects.owned_by(practice).defer("free_text").order_by("-pk")
    if q.strip():
        asked = about(practice, q)
        # By few patients their records are found at once; of very many the records are gone through.
        few = list(asked.values_list("pk", flat=True)[: FEW + 1])
        rows = rows.filter(run__restoration__patient__in=few if len(few) <= FEW else asked)
    if unsigned:
        rows = rows.filter(signed_at=None)
    found = paged(rows, page)
    shown = [
        RecordRow(
            id=r.pk,
            patient=r.content["patient"],
            tooth=r.content["tooth"]["code"],
            surfaces=r.content["surfaces"],
            visit=upgrade_record(r.content)["visit"]["name"],
            finished_at=r.content["finished_at"],
            signed_at=r.signed_at,
            deviations=len(r.content["deviations"]),
        )
        for r in found.rows
    ]
    return RecordsOut(rows=shown, count=found.count, page=found.page, pages=found.pages)


@router.get("waste-log", response=str)
def waste(request: HttpRequest) -> HttpResponse:
    """Return what the practice's restorations left of scrap that is kept apart, with its sum, as a table."""
    practice = user_of(request).practice
    response = HttpResponse(waste_log(practice), content_type="text/csv; charset=utf-8")
    day = practice.today().isoformat()
    response["Content-Disposition"] = f'attachment; filename="waste-{day}.csv"'
    return response


@router.get("records/{int:record_id}", response={200: RecordOut, **ERRORS})
def record(request: HttpRequest, record_id: int) -> dict[str, Any]:
    return _shown(_record(request, record_id))


@router.patch("records/{int:record_id}", response={200: RecordOut, **ERRORS})
def put_into_words(request: HttpRequest, record_id: int, body: FreeText) -> dict[str, Any]:
    return _shown(set_free_text(_record(request, record_id), body.free_text))


@router.post("records/{int:record_id}/sign", response={200: RecordOut, **ERRORS})
def sign(request: HttpRequest, record_id: int, body: SignRecord) -> dict[str, Any]:
    found = _record(request, record_id)
    return _shown(sign_record(found, body.free_text, user_of(request), body.password))


@router.post("records/{int:record_id}/amendments", response={200: RecordOut, **ERRORS})
def amend(request: HttpRequest, record_id: int, body: AmendIn) -> dict[str, Any]:
    found = _record(request, record_id)
    amend_record(found, body.text, user_of(request), body.password)
    return _shown(found)


@router.get("records/{int:record_id}/export", response={200: dict[str, Any], **ERRORS})
def export(request: HttpRequest, record_id: int) -> HttpResponse:
    """Return the whole record as canonical JSON, to keep."""
    found = _record(request, record_id)
    out = {
        **found.content,
        "id": found.pk,
        "free_text": found.free_text,
        "signed_by": found.signed_by.full_name if found.signed_by else None,
        "signed_at": found.signed_at.isoformat() if found.signed_at else None,
        "seals": [
            {**_seal(s).model_dump(mode="json"), "previous_hash": s.previous_hash} for s in found.seals.all()
        ],
    }
    response = HttpResponse(canonical_json(out), content_type="application/json")
    response["Content-Disposition"] = f'attachment; filename="record-{found.pk}.json"'
    return response


@router.get("records/{int:record_id}/pdf", response={200: None, **ERRORS})
def pages(request: HttpRequest, record_id: int) -> HttpResponse:
    """Return the record as pages to print and keep."""
    found = _record(request, record_id)
    zone = ZoneInfo(user_of(request).practice.zone)
    from practice.records.pdf import record_pdf  # slow to load: not before it is needed

    response = HttpResponse(record_pdf(_shown(found), zone), content_type="application/pdf")
    response["Content-Disposition"] = f'attachment; filename="record-{found.pk}.pdf"'
    return response


def _record(request: HttpRequest, record_id: int) -> Record:
    rows = Record.objects.owned_by(user_of(request).practice).select_related("run__restoration", "signed_by")
    found: Record = get_object_or_404(rows, pk=record_id)
    return found


def _seal(seal: Seal) -> SealOut:
    return SealOut(
        sequence=seal.sequence,
        kind=seal.kind,
        text=seal.text,
        signed_by=seal.signed_by.full_name,
        signed_at=seal.signed_at,
        hash=seal.hash,
    )


def _others(found: Record) -> list[dict[str, Any]]:
    """Return the records of the other visits for a restoration, in their order."""
    rows = (
        Record.objects.filter(run__restoration=found.run.restoration_id).exclude(pk=found.pk).order_by("pk")
    )
    contents = [(row, upgrade_record(row.content)) for row in rows]
    return [
        {
            "id": row.pk,
            "visit": told["visit"]["name"],
            "finished_at": told["finished_at"],
            "signed": row.signed_at is not None,
        }
        for row, told in contents
    ]


def _shown(found: Record) -> dict[str, Any]:
    content = upgrade_record(found.content)
    same = ("patient", "practice", "surfaces", "material", "reason", "dentist", "started_at", "finished_at",
            "placed", "measured", "mixes", "scrap", "lots", "holds", "steps", "deviations")  # fmt: skip
    return {
        **{key: content[key] for key in same},
        "id": found.pk,
        "restoration_id": found.run.restoration_id,
        "visit": content["visit"]["name"],
        "others": _others(found),
        "tooth": content["tooth"]["code"],
        "tooth_name": content["tooth"]["name"],
        "plan_number": content["plan"]["version"],
        "engine": content["plan"]["engine"],
        "figures": content["plan"]["figures"],
        "decisions": content["plan"]["decisions"],
        "assumptions": content["plan"]["assumptions"],
        "drawing": found.drawn_plan.body.drawn,
        "free_text": found.free_text,
        "signed_by": found.signed_by.full_name if found.signed_by else None,
        "signed_at": found.signed_at,
        "seals": [_seal(s) for s in found.seals.select_related("signed_by")],
    }
