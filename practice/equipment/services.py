"""What can be done with the practice's curing lights, and how they stand."""

from __future__ import annotations

import datetime as dt
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from django.db import transaction

from mallet.light.beam import Beam, check_readings, fit_beam
from mallet.light.upkeep import Trend, Wanted, has_fallen, outputs_by_day, trend_of, wanted_of
from mallet.light.working_curve import complete
from mallet.rulebook import Rulebook
from mallet.terms.errors import InputError, Problem
from mallet.terms.restoration import Composite
from mallet.terms.restoration import Light as CaseLight
from mallet.terms.restoration import Reading as CaseReading
from practice.accounts.models import Practice, User, audit
from practice.accounts.owned import Refused
from practice.equipment.models import MASS, Item, Light, LightEvent, Reading
from practice.house.services import rules_of
from practice.once import once

Kind = LightEvent.Kind
STATES = {Kind.LENT: "lent", Kind.RETIRED: "retired", Kind.RETURNED: "in_use"}


@dataclass(frozen=True)
class Flag:
    """Something about a curing light without which work can't start (`stop`) or had better not (`caution`)."""

    code: str
    text: str
    level: str


@dataclass(frozen=True)
class Standing:
    """How a curing light stands today; without a beam nothing is known of its light."""

    state: str
    beam: Beam | None
    wanted: Wanted | None
    trend: Trend | None
    last_read_on: dt.date | None
    flags: tuple[Flag, ...]


@once
def standing_of(light: Light, today: dt.date) -> Standing:
    """Return how a curing light stands: its newest fit, its trend since it was last cleaned, what it must give."""
    readings = readings_of(light)
    events = list(light.events.all())
    states = [STATES[e.kind] for e in events if e.kind in STATES]
    state = states[-1] if states else "in_use"
    rules = rules_of(light.practice)
    beam = _beam(readings, light.tip_diameter_mm, rules)
    wanted = wanted_of(beam, masses_of(light.practice), rules) if beam else None
    renewed = [e.happened_on for e in events if e.kind in LightEvent.RENEWING]
    outputs = outputs_by_day(readings, light.tip_diameter_mm)
    trend = trend_of(outputs, wanted.contact_mw_cm2, renewed[-1] if renewed else None) if wanted else None
    last = light.readings.last()
    read_on = last.taken_on if last else None
    flags = (
        *_fit_for_use(light, state, events),
        *_read(light, read_on, today),
        *_strong(light, beam, wanted, rules),
    )
    return Standing(state, beam, wanted, trend, read_on, flags)


def _fit_for_use(light: Light, state: str, events: Sequence[LightEvent]) -> list[Flag]:
    if state == "retired":
        return [Flag("lamp.retired", f"{light.name} is retired", "stop")]
    if state == "lent":
        note = next(e.note for e in reversed(events) if e.kind == Kind.LENT)
        return [Flag("lamp.lent", f"{light.name} is lent{f' to {note}' if note else ''}", "stop")]
    return []


def _read(light: Light, read_on: dt.date | None, today: dt.date) -> list[Flag]:
    if read_on is None:
        return [Flag("lamp.unread", f"{light.name} was never read", "stop")]
    age = (today - read_on).days
    if age <= light.practice.lamp_check_days:
        return []
    return [Flag("lamp.old", f"{light.name} last read {age} days ago", "caution")]


def _strong(light: Light, beam: Beam | None, wanted: Wanted | None, rules: Rulebook) -> list[Flag]:
    if not beam or not wanted:
        return []
    given, least = beam.contact_mw_cm2, rules.value("light.minimum_output_mw_cm2")
    if given < least:
        text = f"{light.name} gives {given:.0f} mW/cm\u00b2, under the least of {least:.0f}"
        return [Flag("lamp.too_weak", text, "stop")]
    if given < wanted.contact_mw_cm2:
        text = (
            f"{light.name} gives {given:.0f} mW/cm\u00b2; {wanted.mass} requires {wanted.contact_mw_cm2:.0f}"
        )
        return [Flag("lamp.weak", text, "caution")]
    return []


def flags_for_plan(light: Light, planned: dict[str, Any] | None, today: dt.date) -> list[Flag]:
    """Return what is to be said of a curing light where a plan was made with it as it was then."""
    standing, rules = standing_of(light, today), rules_of(light.practice)
    then = planned and _beam(CaseLight.model_validate(planned).readings, planned["tip_diameter_mm"], rules)
    flags = list(standing.flags)
    if then and standing.beam and has_fallen(then, standing.beam, rules):
        given, counted = standing.beam.contact_mw_cm2, then.contact_mw_cm2
        text = f"{light.name} gives {given:.0f} mW/cm\u00b2 now, the plan counts on {counted:.0f}: plan again"
        flags.append(Flag("lamp.fallen", text, "caution"))
    return flags


@once
def lamp_named(practice: Practice, name: str | None) -> Light | None:
    """Return the practice's curing light that a case names."""
    found: Light | None = (
        Light.objects.owned_by(practice).filter(name=name).select_related("practice").first()
    )
    return found


@once
def masses_of(practice: Practice) -> list[Composite]:
    """Return the composites in stock that may be used, with their whole working curves."""
    rules, today = rules_of(practice), practice.today()
    rows = Item.objects.owned_by(practice).filter(kind=MASS).prefetch_related("lots")
    usable = [row for row in rows if any(not lot.is_over(today) for lot in row.lots_left())]
    return [complete(Composite.model_validate(row.case_part(today)), rules).mass for row in usable]


def readings_of(light: Light) -> list[CaseReading]:
    """Return the readings that count, of all days."""
    return [CaseReading.model_validate(r.case_part()) for r in light.counting_readings()]


def _beam(readings: Sequence[CaseReading], tip_diameter_mm: float, rules: Rulebook) -> Beam | None:
    """Return the newest beam; None where the newest day tells none, as the planner would refuse it."""
    try:
        return fit_beam(readings, tip_diameter_mm, rules=rules)
    except InputError:
        return None


@dataclass(frozen=True)
class Taken:
    """A reading to be kept."""

    distance_mm: float
    irradiance_mw_cm2: float
    taken_on: dt.date


def add_readings(light: Light, readings: Sequence[Taken], source: str, who: User, today: dt.date) -> None:
    """Keep readings; raise InputError where one lies in the future or a day of them tells no beam."""
    problems = [
        Problem(f"readings[{i}].taken_on", r.taken_on.isoformat(), f"a day up to {today.isoformat()}")
        for i, r in enumerate(readings)
        if r.taken_on > today
    ]
    if problems:
        raise InputError(*problems)
    rules = rules_of(light.practice)
    for day in sorted({r.taken_on for r in readings}):
        there = [r for r in readings_of(light) if r.taken_at == day.isoformat()]
        new = [
            CaseReading(distance_mm=r.distance_mm, irradiance_mw_cm2=r.irradiance_mw_cm2)
            for r in readings
            if r.taken_on == day
        ]
        check_readings([*there, *new], "readings", rules)
    with transaction.atomic():
        for r in readings:
            Reading.objects.create(
                practice=light.practice, light=light, source=source, taken_by=who,
                distance_mm=r.distance_mm, irradiance_mw_cm2=r.irradiance_mw_cm2, taken_on=r.taken_on,
            )  # fmt: skip
        audit(who, "equipment.light.read", f"light {light.pk}", readings=len(readings), source=source)


def add_event(light: Light, kind: str, note: str, who: User, today: dt.date) -> None:
    """Write down what was done with a curing light; raise Refused where it cannot be."""
    state = standing_of(light, today).state
    if kind == Kind.RETURNED and state == "in_use":
        raise Refused("not_away", f"{light.name} is in use")
    if kind != Kind.RETURNED and state == "retired":
        raise Refused("retired", f"{light.name} is retired")
    with transaction.atomic():
        LightEvent.objects.create(
            practice=light.practice, light=light, kind=kind, note=note, happened_on=today, who=who
        )
        audit(who, "equipment.light.event", f"light {light.pk}", kind=kind)


def add_light(practice: Practice, part: dict[str, Any], who: User) -> Light:
    """Keep a new curing light; raise Refused where another has its name."""
    with transaction.atomic():
        if lamp_named(practice, part["name"]):
            raise Refused("taken", f"another curing light is named {part['name']}")
        light: Light = Light.objects.create(practice=practice, **part)
        audit(who, "equipment.light.added", f"light {light.pk}", name=light.name)
    return light
