"""A new restoration of a patient, or one of nobody's that somebody tries."""

from __future__ import annotations

from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Field, Router, Schema, Status

from mallet.plan import RESTORATIVE_NAMES
from mallet.terms.mouth import Cause
from mallet.tooth import read_tooth
from practice.accounts.models import User
from practice.api.access import user_of
from practice.api.errors import ErrorOut
from practice.api.paging import PAGE
from practice.api.patients import patient_of
from practice.api.rows import shown_tooth
from practice.restorations.models import Restoration
from practice.restorations.patients import attach, begin

router = Router(tags=["patients"])


class BeginIn(Schema):
    """A new restoration: which tooth, which surfaces, why. `last_id` is one to start from as it was."""

    tooth: str = Field(max_length=4)
    surfaces: str = Field(max_length=5)
    cause: Cause = "caries"
    reason: str = Field(default="", max_length=120)
    last_id: int | None = None


class TrialOut(Schema):
    """A cavity that somebody tries without a patient."""

    id: int
    tooth: str
    tooth_name: str
    surfaces: str
    reason: str
    material: str


class AttachIn(Schema):
    patient_id: int


class BegunOut(Schema):
    id: int


@router.post(
    "patients/{int:patient_id}/restorations",
    response={201: BegunOut, 404: ErrorOut, 409: ErrorOut, 422: ErrorOut},
)
def new_restoration(request: HttpRequest, patient_id: int, body: BeginIn) -> Status[BegunOut]:
    found = patient_of(request, patient_id)
    last = get_object_or_404(found.restorations, pk=body.last_id) if body.last_id else None
    made = begin(
        found,
        user_of(request),
        tooth=body.tooth,
        surfaces=body.surfaces,
        cause=body.cause,
        reason=body.reason,
        last=last,
    )
    return Status(201, BegunOut(id=made.pk))


@router.get("trials", response=list[TrialOut])
def trials(request: HttpRequest) -> list[TrialOut]:
    """Return the trials of whoever asks, the newest first."""
    user = user_of(request)
    rows = Restoration.objects.owned_by(user.practice).filter(patient=None, author=user).order_by("-id")
    return [_trial(one, user) for one in rows[:PAGE]]


@router.post("trials", response={201: BegunOut, 422: ErrorOut})
def new_trial(request: HttpRequest, body: BeginIn) -> Status[BegunOut]:
    """Begin a restoration of nobody's, to learn from or to ask."""
    told = {"tooth": body.tooth, "surfaces": body.surfaces, "cause": body.cause, "reason": body.reason}
    return Status(201, BegunOut(id=begin(None, user_of(request), **told).pk))


@router.post(
    "trials/{int:restoration_id}/attach",
    response={200: BegunOut, 404: ErrorOut, 409: ErrorOut, 422: ErrorOut},
)
def attach_trial(request: HttpRequest, restoration_id: int, body: AttachIn) -> BegunOut:
    user = user_of(request)
    trial = get_object_or_404(Restoration.objects.seen_by(user).filter(author=user), pk=restoration_id)
    return BegunOut(id=attach(trial, patient_of(request, body.patient_id), user).pk)


def _trial(one: Restoration, user: User) -> TrialOut:
    told = one.told
    tooth = read_tooth(told["tooth"]["code"])
    return TrialOut(
        id=one.pk,
        tooth=shown_tooth(tooth, user),
        tooth_name=tooth.name,
        surfaces=told["restoration"]["surfaces"],
        reason=one.reason,
        material=RESTORATIVE_NAMES[told["restoration"]["material"]],
    )
