"""What can be done with a restoration: assemble its case, say what is missing, save a plan."""

from __future__ import annotations

import datetime as dt
import zoneinfo
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from django.db import transaction
from django.utils import timezone

from mallet.drawing import draw
from mallet.plan import work
from mallet.terms.canonical import quantised
from mallet.terms.case import read_case
from practice.accounts.models import User, audit
from practice.equipment.models import Light
from practice.restorations.models import PlanBody, PlanVersion, Restoration


def case_of(restoration: Restoration) -> dict[str, Any]:
    """Return the whole case as it stands: the last saved one, else the draft with lamp and masses."""
    last = restoration.plans.last()
    if last:
        return dict(last.body.case)
    light = restoration.light.case_part() if restoration.light else None
    masses = [m.case_part() for m in restoration.materials.all()]
    return {**restoration.draft, "light": light, "masses": masses}


@dataclass(frozen=True)
class Missing:
    """Something without which work can't start (`stop`) or had better not (`caution`)."""

    code: str
    text: str
    level: str


def missing_for(restoration: Restoration, today: dt.date) -> list[Missing]:
    """Return what is missing before a restoration can start."""
    found = []
    if not restoration.light:
        found.append(Missing("lamp.none", "No lamp chosen", "stop"))
    elif (age := lamp_age_days(restoration.light, today)) is None:
        found.append(Missing("lamp.unread", f"{restoration.light.name} was never read", "stop"))
    elif age > restoration.practice.lamp_check_days:
        found.append(Missing("lamp.old", f"{restoration.light.name} last read {age} days ago", "caution"))
    if not restoration.materials.exists():
        found.append(Missing("masses.none", "No mass chosen from the shelf", "stop"))
    found += [
        Missing("mass.out", f"{m.name} is not in stock", "stop")
        for m in restoration.materials.filter(in_stock=False)
    ]
    if not restoration.plans.exists():
        found.append(Missing("plan.none", "No plan saved", "stop"))
    if restoration.patient.history_checked_on != today:
        found.append(Missing("history.old", "Medical history not checked today", "caution"))
    return found


def lamp_age_days(light: Light, today: dt.date) -> int | None:
    """Return how long ago a lamp was last read; None where it never was."""
    last = light.readings.last()
    return (today - last.taken_on).days if last else None


def save_plan(restoration: Restoration, case: dict[str, Any], who: User) -> PlanVersion:
    """Compute a case anew and keep it as the next version.

    Raises InputError for a bad case and NotFeasible where there is no plan: nothing is kept then.
    """
    worked = work(read_case(case))
    drawing = draw(worked)
    plan = worked.plan
    with transaction.atomic():
        last = restoration.plans.last()
        version = PlanVersion.objects.create(
            practice=restoration.practice,
            restoration=restoration,
            number=last.number + 1 if last else 1,
            saved_by=who,
            engine=plan.engine,
            rulebook=plan.rulebook,
            case_sha256=plan.case_sha256,
            layering=worked.build.layering.school,
            increments=plan.totals.increments,
            light_seconds=plan.totals.light_seconds,
            chair_minutes=plan.totals.chair_minutes,
        )
        PlanBody.objects.create(
            practice=restoration.practice,
            version=version,
            case=case,
            plan=quantised(plan.model_dump(mode="json", by_alias=True)),
            drawing=drawing.model_dump(mode="json"),
        )
        audit(who, "restorations.plan.saved", f"restoration {restoration.pk}", number=version.number)
    return version


@dataclass(frozen=True)
class Change:
    """A value of the case that differs from the version before; None where there was, or is, none."""

    path: str
    before: Any
    after: Any


def changes_between(before: dict[str, Any], after: dict[str, Any]) -> list[Change]:
    """Return what differs between two cases, by path; lamps and masses are told by their names."""
    old, new = dict(_leaves(before)), dict(_leaves(after))
    paths = [*old, *(path for path in new if path not in old)]
    return [Change(p, old.get(p), new.get(p)) for p in paths if old.get(p) != new.get(p)]


def _leaves(value: object, path: str = "") -> Iterator[tuple[str, Any]]:
    if path == "light" and isinstance(value, dict):
        yield path, value.get("name")
    elif path == "masses" and isinstance(value, list):
        yield path, ", ".join(str(mass.get("name")) for mass in value)
    elif isinstance(value, dict):
        for key, inner in value.items():
            yield from _leaves(inner, f"{path}.{key}" if path else key)
    elif isinstance(value, list):
        for i, inner in enumerate(value):
            yield from _leaves(inner, f"{path}[{i}]")
    elif value is not None:
        yield path, value


def today_in(zone_name: str) -> dt.date:
    """Return the date of the practice's own clock."""
    return timezone.now().astimezone(zoneinfo.ZoneInfo(zone_name)).date()
