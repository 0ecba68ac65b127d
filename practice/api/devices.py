"""Devices at the chair that run a program: start it, ask how far it is."""

from __future__ import annotations

from typing import Literal

from django.http import HttpRequest
from ninja import Field, Router, Schema

from practice.accounts.owned import Refused
from practice.api.access import user_of
from practice.api.errors import ErrorOut
from practice.devices.programs import KINDS, Device, DeviceError, DeviceKind, device_of

router = Router(tags=["devices"], by_alias=True)
MOST_S = max(kind.most_s for kind in KINDS.values())


class DeviceOut(Schema):
    """What a device does; without a name there is none."""

    name: str
    phase: Literal["none", "idle", "running", "done", "error"]
    left_s: float
    program_s: float
    done_s: float
    error: str


class ProgramIn(Schema):
    program_s: float = Field(gt=0, le=MOST_S)


@router.get("devices/{kind}", response=DeviceOut)
def device(request: HttpRequest, kind: DeviceKind) -> DeviceOut:
    return _shown(_device(request, kind))


@router.post("devices/{kind}", response={200: DeviceOut, 409: ErrorOut, 422: ErrorOut})
def run_program(request: HttpRequest, kind: DeviceKind, body: ProgramIn) -> DeviceOut:
    """Run a program."""
    found = _device(request, kind)
    if found is None:
        raise Refused(f"{kind}.none", f"no {kind} is connected")
    try:
        found.start(body.program_s)
    except DeviceError as error:
        raise Refused(f"{kind}.busy", str(error)) from error
    return _shown(found)


@router.delete("devices/{kind}", response={200: DeviceOut})
def stop_program(request: HttpRequest, kind: DeviceKind) -> DeviceOut:
    """Stop what runs, if anything does."""
    found = _device(request, kind)
    if found:
        found.stop()
    return _shown(found)


def _device(request: HttpRequest, kind: DeviceKind) -> Device | None:
    practice = user_of(request).practice
    return device_of(practice.pk, kind, is_demo=practice.is_demo) if practice else None


def _shown(found: Device | None) -> DeviceOut:
    if found is None:
        return DeviceOut(name="", phase="none", left_s=0.0, program_s=0.0, done_s=0.0, error="")
    return DeviceOut(name=found.name, **vars(found.state()))
