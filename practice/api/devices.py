"""Devices at the chair: those that run a program, started and asked how far they are, and a color reader."""

from __future__ import annotations

from typing import Literal

from django.http import HttpRequest
from ninja import Field, Router, Schema

from mallet.color.dry import dried
from mallet.terms.shade import ShadeTarget, Zone
from mallet.tooth import read_tooth
from practice.accounts.models import Practice
from practice.accounts.owned import Refused
from practice.api.access import user_of
from practice.api.errors import ErrorOut
from practice.devices.color_reader import (
    CALIBRATED_FOR_H,
    MOST_APART_DE00,
    Calibration,
    Held,
    SimulatedColorReader,
    TileState,
    calibration_of,
    read_place,
    simulated,
)
from practice.devices.programs import KINDS, Device, DeviceError, DeviceKind, device_of
from practice.house.services import rules_of

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


class ColorReaderOut(Schema):
    """The practice's color reader, none without a name: how long ago it read its tile as it should (h), and whether that holds."""

    name: str
    calibrated_h: float | None
    calibrated_for_h: float
    is_calibrated: bool


class CalibrationIn(Schema):
    """How the tile before a simulated reader is."""

    tile: TileState = "clean"


class ColorReadIn(Schema):
    """Which third of which tooth is read, and how long it has been dry; how a simulated tip is held."""

    tooth: str = Field(max_length=8)
    zone: Zone
    minutes_dry: float = Field(0.0, ge=0, le=240)
    held: Held = "flat"


class ColorReadOut(Schema):
    """The middle one of three readings as a case takes it, its CIELAB, and how far they are apart (dE00)."""

    target: ShadeTarget
    lab: list[float]
    apart_de00: float
    most_apart_de00: float
    is_steady: bool


@router.get("color-reader", response=ColorReaderOut)
def color_reader(request: HttpRequest) -> ColorReaderOut:
    practice = user_of(request).practice
    if not practice.is_demo:
        return ColorReaderOut(
            name="", calibrated_h=None, calibrated_for_h=CALIBRATED_FOR_H, is_calibrated=False
        )
    kept = calibration_of(practice.pk)
    return ColorReaderOut(
        name=SimulatedColorReader.name,
        calibrated_h=kept.age_h,
        calibrated_for_h=CALIBRATED_FOR_H,
        is_calibrated=kept.holds,
    )


@router.post("color-reader/calibration", response={200: ColorReaderOut, 409: ErrorOut, 422: ErrorOut})
def calibrate(request: HttpRequest, body: CalibrationIn) -> ColorReaderOut:
    """Have the color reader read its white tile."""
    practice = user_of(request).practice
    kept = _calibration(practice)
    tooth, wet = read_tooth("11"), dried(0.0, rules_of(practice))
    try:
        kept.calibrate(simulated(tooth, "middle", "flat", wet, body.tile))
    except DeviceError as error:
        raise Refused("color_reader.tile", str(error)) from error
    return color_reader(request)


@router.post("color-reader/readings", response={200: ColorReadOut, 409: ErrorOut, 422: ErrorOut})
def read_color(request: HttpRequest, body: ColorReadIn) -> ColorReadOut:
    """Have the color reader read a tooth three times; nothing is kept."""
    practice = user_of(request).practice
    if not _calibration(practice).holds:
        raise Refused(
            "color_reader.not_calibrated",
            f"read the white tile first: it holds for {CALIBRATED_FOR_H:g} hours",
        )
    drier = dried(body.minutes_dry, rules_of(practice))
    reader = simulated(read_tooth(body.tooth), body.zone, body.held, drier)
    read = read_place(reader)
    return ColorReadOut(
        target=ShadeTarget(
            zone=body.zone,
            reflectance=[round(float(one), 4) for one in read.reflectance],
            minutes_dry=body.minutes_dry,
            reader=reader.name,
        ),
        lab=[round(float(one), 1) for one in read.lab],
        apart_de00=round(read.apart_de00, 2),
        most_apart_de00=MOST_APART_DE00,
        is_steady=read.is_steady,
    )


def _calibration(practice: Practice) -> Calibration:
    if not practice.is_demo:
        raise Refused("color_reader.none", "no color reader is connected")
    return calibration_of(practice.pk)


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
