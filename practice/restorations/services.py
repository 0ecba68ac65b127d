"""What can be done with a restoration: assemble its case, say what is missing, save a plan."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any

from django.db import transaction

from mallet.drawing import draw
from mallet.light.beam import Beam, fit_beam
from mallet.light.upkeep import has_fallen
from mallet.plan import not_confirmed, refusal_of, title_of
from mallet.rulebook import load_rulebook
from mallet.studies.starting import opened
from mallet.terms.canonical import quantised
from mallet.terms.case import Case, as_told, read_case
from mallet.terms.errors import InputError
from mallet.terms.restoration import PLANNED_AS, RESTORATIONS
from practice.accounts.models import Practice, User, audit
from practice.devices.color_reader import SimulatedColorReader
from practice.equipment.models import MASS, Light
from practice.equipment.services import Flag, flags_for_plan, lamp_named
from practice.equipment.stock import planned_stock, want_flags
from practice.house.services import rules_of, with_house
from practice.planned import worked_of
from practice.restorations.models import PlanBody, PlanVersion, Restoration, RestorationQuerySet


def newest_plan(restoration: Restoration) -> PlanVersion | None:
    """Return the last plan with its case; itself and its drawing, which are large, are read when asked for."""
    looked_up: list[PlanVersion] | None = getattr(restoration, "newest_plans", None)
    if looked_up is not None:
        return looked_up[0] if looked_up else None
    found: PlanVersion | None = restoration.plans.with_cases().last()
    return found


def case_of(restoration: Restoration) -> dict[str, Any]:
    """Return the whole case as it stands: the last saved one, else the draft with curing light and composites; with the
    patient, the rules and stock of today."""
    last = newest_plan(restoration)
    if last:
        return of_today(last.body.told, restoration)
    draft = restoration.told
    return of_today({**draft, "restoration": _completed(restoration, draft["restoration"])}, restoration)


def with_restorative(restoration: Restoration, case: Mapping[str, Any], material: str) -> dict[str, Any]:
    """Return a case that asks for another restorative, with what the practice has for it: fissures with caries below are
    opened. Raises InputError for a restorative that there is not."""
    material = PLANNED_AS.get(material, material)
    if material not in RESTORATIONS:
        raise InputError.at("material", material, ", ".join(RESTORATIONS))
    if case.get("findings", {}).get("caries_found") and is_sealed(case) and material != "sealant":
        case = opened(case)
    surfaces, cut = case["restoration"]["surfaces"], case["preparation"]
    shaped = [RESTORATIONS[material].shaped(part) for part in cut["parts"]]
    return {
        **case,
        "preparation": {**cut, "parts": shaped},
        "restoration": _completed(restoration, {"material": material, "surfaces": surfaces}),
    }


def is_sealed(case: Mapping[str, Any]) -> bool:
    """Tell whether nothing but fissures is to be filled."""
    return {part["kind"] for part in case["preparation"]["parts"]} == {"sealant_groove"}


def _completed(restoration: Restoration, asked: Mapping[str, Any]) -> dict[str, Any]:
    """Return what a restorative is told, with the curing light and the composites chosen for a restoration where it cannot
    do without."""
    takes, told = RESTORATIONS[asked["material"]].model_fields, dict(asked)
    if "light" in takes and takes["light"].is_required():
        told["light"] = restoration.light.case_part() if restoration.light else None
    if "composites" in takes:
        today = restoration.practice.today()
        told["composites"] = [m.case_part(today) for m in restoration.materials.prefetch_related("lots")]
    return told


def of_today(case: Mapping[str, Any], restoration: Restoration) -> dict[str, Any]:
    """Return a case with what the practice knows today of the patient, and with its rules, stock and place."""
    person = restoration.patient
    known = person.case_part(restoration.practice.today()) if person else {}
    patient = {**case.get("patient", {}), **known}
    return in_practice({**case, "patient": patient}, restoration.practice)


def in_practice(case: Mapping[str, Any], practice: Practice) -> dict[str, Any]:
    """Return a case with the rules, stock and the place of a house today, whatever it says itself."""
    stock = planned_stock(practice, practice.today())
    own = {key: value for key, value in with_house(case, practice).items() if key != "stock"}
    return {**own, "place": practice.place, **({"stock": stock} if stock else {})}


def missing_for(restoration: Restoration, today: dt.date) -> list[Flag]:
    """Return what is missing before a restoration can start by its last plan."""
    plan = newest_plan(restoration)
    found = lamp_flags(restoration, plan, today)
    asked = plan.body.told if plan else restoration.told
    takes = RESTORATIONS[asked["restoration"]["material"]].model_fields
    if "composites" in takes and not restoration.materials.all():
        found.append(Flag("masses.none", "No composite chosen from stock", "stop"))
    found += want_flags(restoration.practice, _wants(restoration, plan), today)
    if not plan:
        found.append(Flag("plan.none", "No plan saved", "stop"))
    else:
        found += _forbidden(restoration, plan)
        found += house_flags(restoration, plan)
    if not restoration.patient:
        found.append(Flag("patient.none", "Attach this trial to a patient first", "stop"))
    elif restoration.patient.history_checked_on != today:
        found.append(Flag("history.old", "Medical history not checked today", "caution"))
    return found


def _wants(restoration: Restoration, plan: PlanVersion | None) -> list[dict[str, Any]]:
    """Return what a restoration wants from stock: by its plan, else the composites chosen for it. A plan of an
    engine that did not say so wants its composites."""
    if plan and plan.wants is not None:
        return list(plan.wants)
    names = [one["name"] for one in plan.body.told["restoration"].get("composites", [])] if plan else None
    chosen = names if names is not None else [item.name for item in restoration.materials.all()]
    return [{"kind": MASS, "name": name, "text": name} for name in chosen]


def lamp_flags(restoration: Restoration, plan: PlanVersion | None, today: dt.date) -> list[Flag]:
    """Return what is to be said of the curing light that the last plan names, or of the one chosen before."""
    planned = plan.body.told["restoration"].get("light") if plan else None
    if plan and not planned:
        return []
    lamp = lamp_named(restoration.practice, planned.get("name")) if planned else restoration.light
    if not lamp:
        return [] if planned else [Flag("lamp.none", "No curing light chosen", "stop")]
    return flags_for_plan(lamp, planned, today)


def _forbidden(restoration: Restoration, plan: PlanVersion) -> list[Flag]:
    """Return why what is planned must not be placed, by what is known of the patient and the law today, and what has
    to be confirmed first: an allergy may have been noted since the plan was saved."""
    case = read_case(of_today(plan.body.told, restoration))
    if refusal := refusal_of(case):
        return [Flag(refusal.code, refusal.text, "stop")]
    return [Flag(reason.code, reason.text, "stop") for reason in not_confirmed(case)]


def house_flags(restoration: Restoration, last: PlanVersion) -> list[Flag]:
    """Return what the house has set otherwise since the last plan was saved."""
    then, book = last.body.told.get("practice_settings", {}), load_rulebook()
    now = rules_of(restoration.practice)
    told = [
        f"{rule.title} {then.get(rule_id, rule.value):g} \u2192 {now.value(rule_id):g} {rule.unit}"
        for rule_id, rule in book.rules.items()
        if then.get(rule_id) != now.house.get(rule_id)
    ]
    if not told:
        return []
    text = f"Practice settings changed since plan {last.number}: {'; '.join(told)}. Plan again"
    return [Flag("house.changed", text, "caution")]


def _open(practice: Practice) -> RestorationQuerySet:
    """Return the restorations of patients that are still to be placed."""
    rows = Restoration.objects.owned_by(practice).filter(patient__isnull=False)
    return rows.exclude(status=Restoration.Status.DONE)


def plans_citing(practice: Practice) -> dict[str, list[PlanVersion]]:
    """Return, for each rule, the newest plans of open restorations that cite it."""
    found: dict[str, list[PlanVersion]] = {}
    rows = _open(practice)
    for row in rows.select_related("patient").by_visit():
        plans = row.plans.select_related("body", "restoration__patient")
        plan = plans.defer("body__case", "body__drawing").last()
        for rule_id in sorted(_cited(plan.body.plan)) if plan else ():
            found.setdefault(rule_id, []).append(plan)
    return found


def _cited(piece: object) -> set[str]:
    """Return the rules that a plan cites anywhere."""
    if isinstance(piece, list):
        return {rule for inner in piece for rule in _cited(inner)}
    if not isinstance(piece, dict):
        return set()
    own = {piece["rule"]} if "rule" in piece and "citation" in piece else set()
    return own | {rule for inner in piece.values() for rule in _cited(inner)}


@dataclass(frozen=True)
class Outdated:
    """A plan still to be carried out that counts on more light than its curing light gives now."""

    restoration: Restoration
    plan: PlanVersion
    counted_mw_cm2: float


def outdated_by(light: Light, now: Beam | None) -> list[Outdated]:
    """Return the newest plans of open restorations that were made with an output the curing light has lost."""
    rows = _open(light.practice)
    found, rules = [], rules_of(light.practice)
    for row in rows.select_related("patient").by_visit():
        plan = newest_plan(row)
        if (
            not plan
            or not now
            or (plan.body.told["restoration"].get("light") or {}).get("name") != light.name
        ):
            continue
        case = read_case(plan.body.told)
        then = fit_beam(case.light.readings, case.light.tip_diameter_mm, rules=rules)
        if has_fallen(then, now, rules):
            found.append(Outdated(row, plan, then.contact_mw_cm2))
    return found


def save_plan(restoration: Restoration, case: dict[str, Any], who: User) -> PlanVersion:
    """Compute a case again and keep it as the next version.

    Raises InputError for a bad case and NotFeasible where there is no plan: nothing is kept then.
    """
    with as_told(case) as told:
        case = of_today(told, restoration)
        read = read_case(case)
        _refuse_simulated(read, restoration.practice)
        worked = worked_of(read)
    drawing = draw(worked)
    plan = worked.plan
    kept = quantised(plan.model_dump(mode="json", by_alias=True))
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
            layering=worked.built.technique,
            increments=plan.totals.increments,
            light_seconds=plan.totals.light_seconds,
            chair_minutes=plan.totals.chair_minutes,
            wants=kept["wants"],
            later=kept["later"],
        )
        PlanBody.objects.create(
            practice=restoration.practice,
            version=version,
            case=case,
            plan=kept,
            drawing=drawing.model_dump(mode="json"),
        )
        audit(who, "restorations.plan.saved", f"restoration {restoration.pk}", number=version.number)
    return version


def _refuse_simulated(case: Case, practice: Practice) -> None:
    """Raise InputError for a color that nobody has read of a tooth, beside a patient."""
    for i, one in enumerate(case.shade.target):
        if one.reader == SimulatedColorReader.name and not practice.is_demo:
            allowed = "a reading of this tooth: simulated ones are for the demo practice only"
            raise InputError.at(f"shade.target[{i}].reader", one.reader, allowed)


@dataclass(frozen=True)
class Change:
    """A value of the case that differs from the version before; None where there was, or is, none."""

    path: str
    title: str
    before: Any
    after: Any


def changes_between(before: dict[str, Any], after: dict[str, Any]) -> list[Change]:
    """Return what differs between two cases, by path; curing lights, composites and rules are told by their names. What
    stands in stock is none of the case's own."""
    old, new = dict(_leaves(before)), dict(_leaves(after))
    paths = [*old, *(path for path in new if path not in old)]
    changed = [path for path in paths if old.get(path) != new.get(path)]
    case = read_case(after)
    return [Change(path, title_of(case, path), old.get(path), new.get(path)) for path in changed]


def _leaves(value: object, path: str = "") -> Iterator[tuple[str, Any]]:
    if path == "stock":
        return
    if path == "restoration.light" and isinstance(value, dict):
        yield path, value.get("name")
    elif path == "practice_settings" and isinstance(value, dict):
        rules = load_rulebook().rules
        for rule_id, inner in value.items():
            title = rules[rule_id].title if rule_id in rules else rule_id
            yield f"practice setting: {title}", inner
    elif path == "restoration.composites" and isinstance(value, list):
        yield path, ", ".join(str(mass.get("name")) for mass in value)
    elif isinstance(value, dict):
        for key, inner in value.items():
            yield from _leaves(inner, f"{path}.{key}" if path else key)
    elif isinstance(value, list):
        for i, inner in enumerate(value):
            yield from _leaves(inner, f"{path}[{i}]")
    elif value is not None:
        yield path, value
