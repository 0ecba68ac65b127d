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
from mallet.light.beam import Beam, fit_beam
from mallet.plan import work
from mallet.terms.canonical import quantised
from mallet.terms.case import read_case
from practice.accounts.models import User, audit
from practice.equipment.models import Light
from practice.equipment.services import Flag, flags_for_plan, has_fallen, lamp_named
from practice.restorations.models import PlanBody, PlanVersion, Restoration


def case_of(restoration: Restoration) -> dict[str, Any]:
    """Return the whole case as it stands: the last saved one, else the draft with lamp and masses."""
    last = restoration.plans.last()
    if last:
        return dict(last.body.case)
    light = restoration.light.case_part() if restoration.light else None
    masses = [m.case_part() for m in restoration.materials.all()]
    return {**restoration.draft, "light": light, "masses": masses}


def missing_for(restoration: Restoration, today: dt.date) -> list[Flag]:
    """Return what is missing before a restoration can start."""
    found = lamp_flags(restoration, today)
    if not restoration.materials.exists():
        found.append(Flag("masses.none", "No mass chosen from the shelf", "stop"))
    found += [
        Flag("mass.out", f"{m.name} is not in stock", "stop")
        for m in restoration.materials.filter(in_stock=False)
    ]
    if not restoration.plans.exists():
        found.append(Flag("plan.none", "No plan saved", "stop"))
    if restoration.patient.history_checked_on != today:
        found.append(Flag("history.old", "Medical history not checked today", "caution"))
    return found


def lamp_flags(restoration: Restoration, today: dt.date) -> list[Flag]:
    """Return what is to be said of the lamp that the last plan names, or of the one chosen before."""
    last = restoration.plans.last()
    planned = last.body.case["light"] if last else None
    lamp = lamp_named(restoration.practice, planned.get("name")) if planned else restoration.light
    if not lamp:
        return [] if planned else [Flag("lamp.none", "No lamp chosen", "stop")]
    return flags_for_plan(lamp, planned, today)


@dataclass(frozen=True)
class Outdated:
    """A plan still to be carried out that counts on more light than its lamp gives now."""

    restoration: Restoration
    plan: PlanVersion
    counted_mw_cm2: float


def outdated_by(light: Light, now: Beam | None) -> list[Outdated]:
    """Return the newest plans of open restorations that were made with an output the lamp has lost."""
    rows = Restoration.objects.owned_by(light.practice).exclude(status=Restoration.Status.DONE)
    found = []
    for row in rows.select_related("patient"):
        plan = row.plans.select_related("body").last()
        if not plan or not now or plan.body.case["light"].get("name") != light.name:
            continue
        case = read_case(plan.body.case)
        then = fit_beam(case.light.readings, case.light.tip_diameter_mm)
        if has_fallen(then, now):
            found.append(Outdated(row, plan, then.contact_mw_cm2))
    return found


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
