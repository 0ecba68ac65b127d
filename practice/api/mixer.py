"""The capsule mixer at the chair: run its program, ask how far it is."""

from __future__ import annotations

from typing import Literal

from django.http import HttpRequest
from ninja import Field, Router, Schema

from practice.accounts.owned import Refused
from practice.api.access import user_of
from practice.api.errors import ErrorOut
from practice.devices.mixer import MOST_S, Mixer, MixerError, mixer_of

router = Router(tags=["devices"], by_alias=True)


class MixerOut(Schema):
    """What a mixer does; without a name there is none."""

    name: str
    phase: Literal["none", "idle", "running", "done", "error"]
    left_s: float
    program_s: float
    error: str


class ProgramIn(Schema):
    program_s: float = Field(gt=0, le=MOST_S)


@router.get("mixer", response=MixerOut)
def mixer(request: HttpRequest) -> MixerOut:
    return _shown(_mixer(request))


@router.post("mixer", response={200: MixerOut, 409: ErrorOut, 422: ErrorOut})
def run_program(request: HttpRequest, body: ProgramIn) -> MixerOut:
    """Run a program."""
    found = _mixer(request)
    if found is None:
        raise Refused("mixer.none", "no capsule mixer is connected")
    try:
        found.start(body.program_s)
    except MixerError as error:
        raise Refused("mixer.busy", str(error)) from error
    return _shown(found)


@router.delete("mixer", response={200: MixerOut})
def stop_program(request: HttpRequest) -> MixerOut:
    """Stop what runs, if anything does."""
    found = _mixer(request)
    if found:
        found.stop()
    return _shown(found)


def _mixer(request: HttpRequest) -> Mixer | None:
    practice = user_of(request).practice
    return mixer_of(practice.pk, is_demo=practice.is_demo) if practice else None


def _shown(found: Mixer | None) -> MixerOut:
    if found is None:
        return MixerOut(name="", phase="none", left_s=0.0, program_s=0.0, error="")
    return MixerOut(name=found.name, **vars(found.state()))
