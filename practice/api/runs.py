"""Chairside: start a run, add events, read its state."""

from __future__ import annotations

import datetime as dt
import uuid
from typing import Any, Literal

from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from django.utils import timezone
from ninja import Field, Router, Schema

from mallet.drawing import Drawing
from mallet.plan import RESTORATIVE_NAMES, stage_names
from mallet.terms.increments import Increment
from mallet.terms.plan import Step, Want
from mallet.tooth import read_tooth
from practice.accounts.models import User
from practice.api.access import user_of
from practice.api.errors import ErrorOut
from practice.api.rows import MissingOut, shown_tooth
from practice.restorations.later import later_for
from practice.restorations.models import Restoration, VisitPart
from practice.restorations.services import lamp_flags, newest_plan
from practice.runs.models import Run
from practice.runs.services import (
    MATRIX_REASONS,
    PAUSE_REASONS,
    Sent,
    add_event,
    asked_of,
    has_other_matrix,
    is_supervised,
    pass_hold,
    start_later,
    start_run,
    state_of,
)
from practice.runs.state import RunState

router = Router(tags=["runs"], by_alias=True)
MOST_AGE_MS = 24 * 3600 * 1000


class ScannedOut(Schema):
    """A package that was scanned during a run; without a name stock does not know it."""

    text: str
    name: str | None
    lot: str
    expires_on: dt.date | None
    is_over: bool
    step_id: str
    at: dt.datetime


class MeasuredOut(Schema):
    """The last figure that was typed to a target of a step."""

    step_id: str
    id: str
    value: float


class MixedOut(Schema):
    """When a mix was ready: its clock runs from then, unless it was discarded."""

    step_id: str
    at: dt.datetime
    is_discarded: bool


class StateOut(Schema):
    """Where a run stands. Times are the server's; `server_now` lets a device set its own clock."""

    revision: int
    step_id: str
    index: int
    count: int
    step_began: dt.datetime
    plan_number: int
    detour: list[str]
    detour_at: int
    paused_at: dt.datetime | None
    paused_why: str
    paused_s: float
    has_placed: bool
    dam_torn: bool
    lots: list[ScannedOut]
    measured: list[MeasuredOut]
    mixes: list[MixedOut]
    remedy: str
    finished: bool
    record_id: int | None
    server_now: dt.datetime


class TeacherOut(Schema):
    username: str
    full_name: str


class RunOut(Schema):
    id: int
    restoration_id: int
    patient: str
    visit: str
    tooth: str
    surfaces: str
    material: str
    chair: str
    started_at: dt.datetime
    sequence: list[str]
    steps: list[Step]
    stage_names: dict[str, str]
    increments: list[Increment]
    wants: list[Want]
    pause_reasons: list[str]
    # Why a matrix may be changed for another; nothing where there is no other.
    matrix_reasons: list[str]
    flags: list[MissingOut]
    # Who may pass the hold points, where whoever asks may not.
    teachers: list[TeacherOut]
    drawing: Drawing
    state: StateOut


class DetailIn(Schema):
    """The reason of a pause; which measurement of the preparation turned out other, and how; which target of the step was
    measured, and what it came to; which step's mix is ready; or the text of a package's code."""

    reason: str | None = Field(None, max_length=60)
    path: str | None = Field(None, max_length=120)
    id: str | None = Field(None, max_length=60)
    value: float | None = None
    text: str | None = Field(None, max_length=200)


class EventIn(Schema):
    """What a device says happened. Sending it again with the same `client_id` is harmless.

    `age_ms` is how long ago it happened, for what could not be sent at once.
    """

    client_id: uuid.UUID
    kind: Literal[
        "step_done", "step_back", "check_passed", "check_failed",
        "paused", "resumed", "got_wet", "mix_too_old", "dam_torn", "deeper", "other_matrix", "measured", "mixed", "lot_scanned", "finished",
    ]  # fmt: skip
    step_id: str = Field(max_length=120)
    expected_revision: int = Field(ge=0)
    device: str = Field(max_length=60)
    device_sequence: int = Field(ge=0)
    client_wall: dt.datetime
    client_monotonic_ms: int
    age_ms: int = Field(0, ge=0, le=MOST_AGE_MS)
    detail: DetailIn = DetailIn()


class HoldIn(EventIn):
    """That a hold point is passed, and by whom."""

    username: str = Field(max_length=150)
    password: str = Field(max_length=200)


class RunId(Schema):
    id: int


@router.post("restorations/{int:restoration_id}/runs", response={200: RunId, 404: ErrorOut, 409: ErrorOut})
def start(request: HttpRequest, restoration_id: int) -> RunId:
    user = user_of(request)
    rows = Restoration.objects.seen_by(user)
    return RunId(id=start_run(get_object_or_404(rows, pk=restoration_id), user).pk)


@router.post("parts/{int:part_id}/runs", response={200: RunId, 404: ErrorOut, 409: ErrorOut})
def start_part(request: HttpRequest, part_id: int) -> RunId:
    """Start what a visit is booked for, for one restoration."""
    user = user_of(request)
    part = get_object_or_404(VisitPart.objects.owned_by(user.practice), pk=part_id)
    return RunId(id=start_later(part, user).pk)


@router.get("runs/{int:run_id}", response={200: RunOut, 404: ErrorOut})
def run(request: HttpRequest, run_id: int) -> dict[str, Any]:
    found = _run(request, run_id)
    restoration, state = found.restoration, state_of(found)
    later = later_for(found.part, found.plan) if found.part else None
    if later:
        flags = later.flags(found.started_at)
    else:
        flags = lamp_flags(restoration, newest_plan(restoration), restoration.practice.today())
    body = restoration.plans.select_related("body").get(number=state.plan_number).body
    asked = asked_of(found, body.planned)
    return {
        "id": found.pk,
        "visit": later.name if later else "",
        "restoration_id": restoration.pk,
        "patient": restoration.patient.full_name,
        "tooth": shown_tooth(read_tooth(body.planned["tooth"]["code"]), user_of(request)),
        "surfaces": body.told["restoration"]["surfaces"],
        "material": RESTORATIVE_NAMES[body.told["restoration"]["material"]],
        "chair": found.visit.chair,
        "started_at": found.started_at,
        "sequence": [s["id"] for s in state.steps],
        "steps": asked["steps"],
        "stage_names": stage_names(body.told["restoration"]["material"]),
        "increments": asked["increments"],
        "wants": asked.get("wants", []),
        "pause_reasons": PAUSE_REASONS,
        "matrix_reasons": MATRIX_REASONS if has_other_matrix(asked) else [],
        "flags": [vars(f) for f in flags],
        "teachers": _teachers(found, user_of(request)),
        "drawing": body.drawing,
        "state": _shown(found, state),
    }


@router.post(
    "runs/{int:run_id}/events", response={200: StateOut, 404: ErrorOut, 409: ErrorOut, 422: ErrorOut}
)
def event(request: HttpRequest, run_id: int, body: EventIn) -> StateOut:
    found = _run(request, run_id)
    state = add_event(found, Sent(**body.model_dump()), user_of(request))
    return _shown(found, state)


@router.post(
    "runs/{int:run_id}/holds",
    response={200: StateOut, 403: ErrorOut, 404: ErrorOut, 409: ErrorOut, 422: ErrorOut},
)
def hold(request: HttpRequest, run_id: int, body: HoldIn) -> StateOut:
    found = _run(request, run_id)
    sent = Sent(**body.model_dump(exclude={"username", "password"}))
    return _shown(found, pass_hold(found, sent, body.username, body.password, user_of(request)))


def _teachers(found: Run, user: User) -> list[dict[str, str]]:
    if not is_supervised(found, user):
        return []
    answering = [User.Role.TEACHER, User.Role.DENTIST]
    people = User.objects.filter(practice=found.practice, role__in=answering, is_active=True)
    return list(people.order_by("-role", "full_name").values("username", "full_name"))


def _run(request: HttpRequest, run_id: int) -> Run:
    rows = Run.objects.owned_by(user_of(request).practice)
    found: Run = get_object_or_404(
        rows.select_related("plan", "part__visit", "restoration__patient"), pk=run_id
    )
    return found


def _shown(found: Run, state: RunState) -> StateOut:
    record = getattr(found, "record", None)
    return StateOut(
        revision=state.revision,
        step_id=state.step_id,
        index=state.index,
        count=len(state.steps),
        step_began=state.step_began,
        plan_number=state.plan_number,
        detour=list(state.detour),
        detour_at=state.detour_at,
        paused_at=state.paused_at,
        paused_why=state.paused_why,
        paused_s=state.paused_s,
        has_placed=state.has_placed,
        dam_torn=state.dam_torn,
        lots=[ScannedOut(**{name: lot[name] for name in ScannedOut.model_fields}) for lot in state.lots],
        measured=[
            MeasuredOut(step_id=step, id=id, value=value) for (step, id), value in state.measured.items()
        ],
        mixes=[MixedOut(**one) for one in state.mixes],
        remedy=state.remedy,
        finished=state.finished,
        record_id=record.pk if record else None,
        server_now=timezone.now(),
    )
