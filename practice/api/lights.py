"""The practice's curing lights: how each stands, its readings, and a radiometer to take them with."""

from __future__ import annotations

import datetime as dt
from random import SystemRandom
from typing import Annotated, Any, Literal

from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Field, Router, Schema, Status

from mallet.light.beam import Beam, parse_readings
from mallet.light.upkeep import outputs_by_day
from mallet.terms.restoration import PulsedOutput, RampOutput
from mallet.tooth import read_tooth
from practice.accounts.models import User
from practice.accounts.owned import Refused
from practice.api.access import user_of
from practice.api.beams import BeamOut, beam_out
from practice.api.errors import ErrorOut, ProblemOut
from practice.api.rows import MissingOut, shown_tooth
from practice.devices.radiometer import Condition, SimulatedRadiometer, read_steadily
from practice.equipment.models import Light
from practice.equipment.services import (
    Taken,
    add_event,
    add_light,
    add_readings,
    readings_of,
    standing_of,
)
from practice.house.services import rules_of
from practice.restorations.services import outdated_by

router = Router(tags=["lights"], by_alias=True)

OtherMode = Annotated[RampOutput | PulsedOutput, Field(discriminator="kind")]


class LightOut(Schema):
    id: int
    name: str
    last_read_on: dt.date | None
    contact_mw_cm2: float | None
    flags: list[MissingOut]
    output_modes: list[OtherMode]
    case_part: dict[str, Any]


class ReadingOut(Schema):
    distance_mm: float
    irradiance_mw_cm2: float
    taken_on: dt.date
    source: str
    taken_by: str


class DayOut(Schema):
    day: dt.date
    contact_mw_cm2: float


class TrendOut(Schema):
    since: dt.date
    days: int
    share_a_month: float
    falls_below_on: dt.date | None
    earliest_on: dt.date | None
    latest_on: dt.date | None


class EventOut(Schema):
    kind: str
    note: str
    happened_on: dt.date
    who: str


class OutdatedOut(Schema):
    """A plan that counts on light which the curing light has lost."""

    restoration_id: int
    patient: str
    tooth: str
    plan_number: int
    counted_mw_cm2: float


class LampOut(Schema):
    id: int
    name: str
    tip_diameter_mm: float
    time_steps_s: list[float]
    state: str
    last_read_on: dt.date | None
    check_days: int
    today: dt.date
    flags: list[MissingOut]
    beam: BeamOut | None
    days: list[DayOut]
    trend: TrendOut | None
    readings: list[ReadingOut]
    events: list[EventOut]
    outdated: list[OutdatedOut]
    peak_nm: float | None
    output_modes: list[OtherMode]
    radiometer: str | None


class LampIn(Schema):
    name: str = Field(min_length=1, max_length=80)
    tip_diameter_mm: float = Field(ge=3, le=20)
    time_steps_s: list[float] = Field(min_length=1, max_length=12)
    peak_nm: float | None = Field(None, ge=400, le=500)
    output_modes: list[OtherMode] = Field([], max_length=4)


class TakenIn(Schema):
    distance_mm: float = Field(ge=0, le=30)
    irradiance_mw_cm2: float = Field(gt=0, le=10000)
    taken_on: dt.date | None = None


class ReadingsIn(Schema):
    """Readings to keep; one without a day was taken today."""

    source: Literal["entered", "file", "radiometer"]
    readings: list[TakenIn] = Field(min_length=1, max_length=500)


class FileIn(Schema):
    text: str = Field(max_length=200_000)


class FileOut(Schema):
    """The good rows of a file, and what is wrong with each of the others."""

    readings: list[TakenIn]
    problems: list[ProblemOut]


class SampleIn(Schema):
    """Where the tip stands; the rest is how the curing light before a simulated sensor is."""

    distance_mm: float = Field(ge=0, le=30)
    battery_months: float = Field(0, ge=0, le=240)
    tip: Literal["clean", "dirty", "chipped"] = "clean"


class SampleOut(Schema):
    irradiance_mw_cm2: float
    spread_mw_cm2: float
    samples: int
    is_steady: bool
    radiometer: str | None


class LightEventIn(Schema):
    kind: Literal["cleaned", "repaired", "lent", "returned", "retired"]
    note: str = Field("", max_length=120)


@router.get("lights", response=list[LightOut])
def lights(request: HttpRequest) -> list[LightOut]:
    """Tell of every curing light that is not retired what it gives and what is to be said of it."""
    practice = user_of(request).practice
    today = practice.today()
    rows = [(r, standing_of(r, today)) for r in Light.objects.owned_by(practice)]
    return [
        LightOut(
            id=r.pk,
            name=r.name,
            last_read_on=standing.last_read_on,
            contact_mw_cm2=standing.beam and standing.beam.contact_mw_cm2,
            flags=[MissingOut(code=f.code, text=f.text, level=f.level) for f in standing.flags],
            output_modes=r.output_modes,
            case_part=r.case_part(),
        )
        for r, standing in rows
        if standing.state != "retired"
    ]


@router.get("lights/{int:light_id}", response={200: LampOut, 404: ErrorOut})
def curing_light(request: HttpRequest, light_id: int) -> LampOut:
    return _lamp(_light(request, light_id), user_of(request))


@router.post("lights", response={201: LampOut, 409: ErrorOut, 422: ErrorOut})
def new_curing_light(request: HttpRequest, body: LampIn) -> Status[LampOut]:
    user = user_of(request)
    return Status(201, _lamp(add_light(user.practice, body.model_dump(), user), user))


@router.post("lights/{int:light_id}/readings", response={200: LampOut, 404: ErrorOut, 422: ErrorOut})
def keep_readings(request: HttpRequest, light_id: int, body: ReadingsIn) -> LampOut:
    found, user = _light(request, light_id), user_of(request)
    today = found.practice.today()
    taken = [Taken(r.distance_mm, r.irradiance_mw_cm2, r.taken_on or today) for r in body.readings]
    add_readings(found, taken, body.source, user, today)
    return _lamp(found, user)


@router.post("readings-file", response={200: FileOut, 422: ErrorOut})
def readings_in_file(request: HttpRequest, body: FileIn) -> FileOut:
    """Read a CSV file of readings without keeping anything."""
    readings, problems = parse_readings(body.text)
    return FileOut(
        readings=[
            TakenIn(
                distance_mm=r.distance_mm,
                irradiance_mw_cm2=r.irradiance_mw_cm2,
                taken_on=dt.date.fromisoformat(r.taken_at[:10]) if r.taken_at else None,
            )
            for r in readings
        ],
        problems=[ProblemOut(path=p.path, got=p.got, allowed=p.allowed) for p in problems],
    )


@router.post("lights/{int:light_id}/samples", response={200: SampleOut, 404: ErrorOut, 409: ErrorOut})
def sample(request: HttpRequest, light_id: int, body: SampleIn) -> SampleOut:
    """Have the radiometer read the light at a distance; nothing is kept."""
    found = _light(request, light_id)
    if not found.practice.is_demo:
        raise Refused("no_radiometer", "no radiometer is plugged in")
    beam = standing_of(found, found.practice.today()).beam or Beam(found.tip_diameter_mm / 2, 1000.0, 2.0)
    radiometer = SimulatedRadiometer(beam, Condition(body.battery_months, body.tip), SystemRandom())
    steady = read_steadily(radiometer, body.distance_mm)
    return SampleOut(**vars(steady), radiometer=radiometer.name)


@router.post("lights/{int:light_id}/events", response={200: LampOut, 404: ErrorOut, 409: ErrorOut})
def event(request: HttpRequest, light_id: int, body: LightEventIn) -> LampOut:
    found, user = _light(request, light_id), user_of(request)
    add_event(found, body.kind, body.note, user, found.practice.today())
    return _lamp(found, user)


def _light(request: HttpRequest, light_id: int) -> Light:
    rows = Light.objects.owned_by(user_of(request).practice).select_related("practice")
    found: Light = get_object_or_404(rows, pk=light_id)
    return found


def _lamp(light: Light, user: User) -> LampOut:
    today = light.practice.today()
    standing = standing_of(light, today)
    rules = rules_of(light.practice)
    beam = standing.beam
    return LampOut(
        id=light.pk,
        name=light.name,
        tip_diameter_mm=light.tip_diameter_mm,
        time_steps_s=light.time_steps_s,
        output_modes=light.output_modes,
        state=standing.state,
        last_read_on=standing.last_read_on,
        check_days=light.practice.lamp_check_days,
        today=today,
        flags=[MissingOut(**vars(f)) for f in standing.flags],
        beam=beam_out(light, beam, standing.wanted, rules) if beam and standing.wanted else None,
        days=[DayOut(**vars(o)) for o in outputs_by_day(readings_of(light), light.tip_diameter_mm)],
        trend=TrendOut(**vars(standing.trend)) if standing.trend else None,
        readings=[
            ReadingOut(
                distance_mm=r.distance_mm,
                irradiance_mw_cm2=r.irradiance_mw_cm2,
                taken_on=r.taken_on,
                source=r.source,
                taken_by=r.taken_by.full_name if r.taken_by else "",
            )
            for r in light.readings.select_related("taken_by")
        ],
        events=[
            EventOut(kind=e.kind, note=e.note, happened_on=e.happened_on, who=e.who.full_name)
            for e in light.events.select_related("who")
        ],
        outdated=[
            OutdatedOut(
                restoration_id=o.restoration.pk,
                patient=o.restoration.patient.full_name,
                tooth=shown_tooth(read_tooth(o.restoration.told["tooth"]["code"]), user),
                plan_number=o.plan.number,
                counted_mw_cm2=o.counted_mw_cm2,
            )
            for o in outdated_by(light, beam)
        ],
        peak_nm=light.peak_nm,
        # No driver of a real one ships yet, and what a simulated one shows must never stand beside patients.
        radiometer=SimulatedRadiometer.name if light.practice.is_demo else None,
    )
