"""Patients: found by what somebody remembers of them, added, changed, archived, and what a new restoration starts from."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterator, Mapping
from typing import Any

from django.db import models, transaction
from django.utils import timezone

from mallet.studies.starting import start_of
from mallet.terms.errors import InputError, Problem
from mallet.terms.mouth import Cause
from mallet.tooth import read_tooth
from practice.accounts.models import Practice, User, audit
from practice.accounts.owned import Refused
from practice.equipment.models import MASS, Item, Light
from practice.equipment.stock import is_usable
from practice.house.services import rules_of
from practice.restorations.models import ALLERGIES, FLAGS, Patient, Restoration, Visit, VisitPart, searched_as
from practice.restorations.services import newest_plan

FIRST_YEAR = 1900
# No permanent tooth has come through before; no primary tooth is looked for after.
FIRST_PERMANENT_YEARS, LAST_PRIMARY_YEARS = 5, 60
EXPECTED = (Visit.Status.BOOKED, Visit.Status.ARRIVED, Visit.Status.IN_THE_CHAIR)
DAY_FORMATS = ("%Y-%m-%d", "%d.%m.%Y", "%d/%m/%Y")


def found_by(practice: Practice, text: str, *, is_archived: bool = False) -> models.QuerySet[Patient]:
    """Return the patients that a text is about: words of the name in any order, a chart number, or a date of birth."""
    return about(practice, text).filter(archived_at__isnull=not is_archived)


def about(practice: Practice, text: str) -> models.QuerySet[Patient]:
    """Return the patients that a text is about, archived or not."""
    rows: models.QuerySet[Patient] = Patient.objects.owned_by(practice)
    if day := _day(text):
        return rows.filter(born_on=day)
    for word in searched_as(text).split():
        rows = rows.filter(models.Q(searched__contains=word) | models.Q(chart_number__istartswith=word))
    return rows


def _day(text: str) -> dt.date | None:
    for form in DAY_FORMATS:
        try:
            return dt.datetime.strptime(text.strip(), form).date()
        except ValueError:
            continue
    return None


def add_patient(practice: Practice, by: User, *, is_another: bool = False, **told: Any) -> Patient:
    """Return a new patient; raise InputError for what cannot be, and Refused for one of a name and birth date that there is
    already, unless it is said to be another."""
    _check(practice, None, told)
    same = Patient.objects.owned_by(practice).filter(
        searched=searched_as(told["full_name"]), born_on=told["born_on"]
    )
    if not is_another and (known := same.first()):
        number = f", chart {known.chart_number}" if known.chart_number else ""
        raise Refused(
            "patient.twice",
            f"{known.full_name}, born {known.born_on}{number} is here already: is this another person?",
        )
    with transaction.atomic():
        patient = Patient.objects.create(practice=practice, **_tidy(told))
        audit(by, "patients.added", f"patient {patient.pk}")
    return patient


def change_patient(patient: Patient, by: User, **told: Any) -> Patient:
    """Return a patient with other values; raise InputError for what cannot be. What it was before stands in the trail."""
    _check(patient.practice, patient, told)
    tidy = _tidy(told)
    before = {name: _plain(getattr(patient, name)) for name in tidy if getattr(patient, name) != tidy[name]}
    if not before:
        return patient
    with transaction.atomic():
        for name in before:
            setattr(patient, name, tidy[name])
        patient.save(update_fields=list(before))
        after = {name: _plain(tidy[name]) for name in before}
        audit(by, "patients.changed", f"patient {patient.pk}", before=before, after=after)
    return patient


def archive(patient: Patient, by: User, reason: str) -> Patient:
    """Return a patient taken out of the way; with no reason one that was is taken back."""
    reason = reason.strip()
    if not reason and not patient.archived_at:
        raise InputError.at("reason", "", "a reason, in a few words")
    expected = patient.visits.filter(status__in=EXPECTED, starts_at__gte=timezone.now())
    if reason and expected.exists():
        raise Refused("patient.expected", "a visit is booked: cancel it first")
    with transaction.atomic():
        patient.archived_at, patient.archived_for = (timezone.now(), reason) if reason else (None, "")
        patient.save(update_fields=["archived_at", "archived_for"])
        audit(by, "patients.archived", f"patient {patient.pk}", reason=reason or "taken back")
    return patient


def check_history(patient: Patient, by: User) -> Patient:
    """Return a patient whose history was gone through today."""
    with transaction.atomic():
        patient.history_checked_on, patient.history_checked_by = patient.practice.today(), by
        patient.save(update_fields=["history_checked_on", "history_checked_by"])
        audit(by, "patients.history_checked", f"patient {patient.pk}")
    return patient


def _tidy(told: dict[str, Any]) -> dict[str, Any]:
    return {name: value.strip() if isinstance(value, str) else value for name, value in told.items()}


def _plain(value: Any) -> Any:
    return value.isoformat() if isinstance(value, dt.date) else value


def _check(practice: Practice, patient: Patient | None, told: dict[str, Any]) -> None:
    """Raise InputError for each value that a patient cannot have."""
    problems = problems_of(practice, told)
    number = (told.get("chart_number") or "").strip()
    if number:
        others = Patient.objects.owned_by(practice).filter(chart_number=number)
        if taken := others.exclude(pk=patient.pk if patient else None).first():
            allowed = f"one that nobody has: it is {taken.full_name}'s"
            problems.append(Problem("chart_number", repr(number), allowed))
    if problems:
        raise InputError(*problems)


def problems_of(practice: Practice, told: Mapping[str, Any]) -> list[Problem]:
    """Return what no patient can be told as, whoever else there is."""
    return list(_problems(practice, told))


def _problems(practice: Practice, told: Mapping[str, Any]) -> Iterator[Problem]:
    name, born = told.get("full_name"), told.get("born_on")
    if name is not None and not 0 < len(name.strip()) <= 120:
        yield Problem("full_name", repr(name[:40]), "a name of 1 to 120 characters")
    today = practice.today()
    if born is not None and not dt.date(FIRST_YEAR, 1, 1) <= born <= today:
        yield Problem(
            "born_on", born.isoformat(), f"a day from {FIRST_YEAR}-01-01 to today, {today.isoformat()}"
        )
    weight = told.get("weight_kg")
    if weight is not None and not 3 <= weight <= 300:
        yield Problem("weight_kg", f"{weight:g}", "3 to 300")
    for i, one in enumerate(told.get("allergies") or []):
        if one.get("to") not in ALLERGIES:
            yield Problem(f"allergies[{i}].to", repr(one.get("to")), "one of " + ", ".join(ALLERGIES))


def begin(
    patient: Patient | None,
    by: User,
    *,
    tooth: str,
    surfaces: str,
    cause: Cause,
    reason: str = "",
    last: Restoration | None = None,
) -> Restoration:
    """Return a new restoration of a patient's tooth, or a trial of nobody's, sized by the handbook or as the last one there was,
    all of it estimated; what was found is left to be told.

    Raises InputError for a tooth that the patient cannot have, and surfaces that no one restoration has.
    """
    practice = by.practice
    assert practice
    if patient:
        _check_tooth(patient, tooth)
    start = start_of(tooth, surfaces, cause, rules_of(practice))
    light, composites = _usual_light(practice), _usual_composites(practice)
    # What is not lit can be planned from the handbook alone.
    material = start.material if light and composites else "glass_ionomer"
    parts, asked = start.parts, {"material": material, "surfaces": start.surfaces}
    provenance = start.provenance
    if last:
        known = _last_case(last)
        if read_tooth(known["tooth"]["code"]).iso != read_tooth(tooth).iso:
            raise InputError.at("last_id", last.pk, f"a restoration of {tooth}")
        parts, asked = known["preparation"]["parts"], {**asked, "surfaces": known["restoration"]["surfaces"]}
        provenance = {
            f"preparation.parts[{i}].{name}": "estimated"
            for i, part in enumerate(parts)
            for name in part
            if name.endswith("_mm") and part[name] is not None
        }
    with transaction.atomic():
        restoration = Restoration.objects.create(
            practice=practice,
            patient=patient,
            author=by,
            reason=reason.strip() or CAUSES[cause],
            light=light,
            draft={
                "format": "mallet-case/2",
                "tooth": {"code": read_tooth(tooth).iso},
                "restoration": asked,
                "preparation": {"parts": parts},
                # A fissure that is to be sealed is none that has broken in: the reason itself says so.
                "findings": {"cause": cause, **({"cavitated": False} if cause == "deep_fissures" else {})},
                "provenance": provenance,
            },
        )
        restoration.materials.set(composites)
        if patient and (visit := next_visit(patient)):
            VisitPart.objects.create(practice=practice, visit=visit, restoration=restoration)
        audit(by, "restorations.begun", f"restoration {restoration.pk}", tooth=tooth, surfaces=start.surfaces)
    return restoration


def attach(trial: Restoration, patient: Patient, by: User) -> Restoration:
    """Return a trial made a restoration of a patient's, whose visit it joins; raise Refused for what is somebody's already, and
    InputError for a tooth that the patient cannot have."""
    if trial.patient:
        raise Refused("trial.attached", f"it is {trial.patient.full_name}'s already")
    _check_tooth(patient, trial.told["tooth"]["code"])
    with transaction.atomic():
        trial.patient = patient
        trial.save(update_fields=["patient"])
        if visit := next_visit(patient):
            VisitPart.objects.create(practice=patient.practice, visit=visit, restoration=trial)
        audit(by, "restorations.attached", f"restoration {trial.pk}", patient=patient.pk)
    return trial


CAUSES: dict[str, str] = {
    "caries": "caries",
    "caries_adjacent": "caries adjacent to a restoration",
    "deep_fissures": "deep fissures, to be sealed",
    "lost_sealant": "lost sealant",
    "fracture": "fracture",
    "wear": "wear",
    "cracked_cusp": "cracked cusp",
    "core": "core before a crown",
    "patient_request": "patient request",
}


def _check_tooth(patient: Patient, code: str) -> None:
    """Raise InputError for a tooth that a patient of that age cannot have."""
    tooth, age = read_tooth(code), patient.age_on(patient.practice.today())
    if not tooth.is_deciduous and age < FIRST_PERMANENT_YEARS:
        raise InputError.at("tooth", code, f"a primary tooth: the patient is {age}")
    if tooth.is_deciduous and age > LAST_PRIMARY_YEARS:
        raise InputError.at("tooth", code, f"a permanent tooth: the patient is {age}")


def _last_case(last: Restoration) -> dict[str, Any]:
    plan = newest_plan(last)
    return plan.body.told if plan else last.told


def _usual_light(practice: Practice) -> Light | None:
    """Return the curing light that was measured last: what is planned with it is believed most."""
    rows = Light.objects.owned_by(practice).annotate(read=models.Max("readings__taken_on"))
    found: Light | None = rows.filter(read__isnull=False).order_by("-read", "id").first()
    return found


def _usual_composites(practice: Practice) -> list[Item]:
    """Return the composites in stock that may be used today, one of each shade role, pastes first."""
    today, chosen = practice.today(), {}
    rows = Item.objects.owned_by(practice).filter(kind=MASS).prefetch_related("lots").order_by("id")
    for item in sorted(rows, key=lambda one: one.properties.get("consistency", "paste") != "paste"):
        if is_usable(item, today):
            chosen.setdefault(item.properties["role"], item)
    return list(chosen.values())


def next_visit(patient: Patient) -> Visit | None:
    """Return the visit at which a patient is here or is expected next."""
    begins = patient.practice.day_starts(patient.practice.today())
    found: Visit | None = patient.visits.filter(status__in=EXPECTED, starts_at__gte=begins).first()
    return found


def flags_of(patient: Patient) -> dict[str, bool]:
    """Return what stands in a patient's history, by name."""
    return {flag: getattr(patient, flag) for flag in FLAGS}
