"""Patients, their visits, the restorations that are planned for them, and every plan that was saved."""

from __future__ import annotations

import datetime as dt
import unicodedata
from collections.abc import Iterable
from typing import Any, ClassVar, Self, get_args

from django.db import models

from mallet.terms.mouth import Allergy
from mallet.terms.upgrade import upgrade_case
from mallet.terms.upgrade_plan import upgrade_drawing, upgrade_plan
from practice.accounts.models import User
from practice.accounts.owned import Fixed, FixedQuerySet, Owned, OwnedQuerySet, Refused
from practice.accounts.packed import PackedJSONField
from practice.equipment.models import Item, Light

ALLERGIES: tuple[str, ...] = get_args(Allergy)


# What a case takes as it stands in a patient's history.
FLAGS = (
    "pregnant", "planning_pregnancy", "breast_feeding", "anticoagulants", "pacemaker", "endocarditis_risk",
    "light_sensitizing", "heart_disease", "beta_blocker_or_tricyclic", "methemoglobinemia", "neurological_disease",
    "kidney_impairment",
)  # fmt: skip


# Letters that are no letter with an accent.
UNACCENTED = str.maketrans(
    {"ø": "o", "æ": "ae", "œ": "oe", "ł": "l", "đ": "d", "ð": "d", "þ": "th", "ı": "i"}
)


def searched_as(text: str) -> str:
    """Return a text as it is looked for: small letters without accents."""
    plain = unicodedata.normalize("NFKD", text.casefold().translate(UNACCENTED))
    return " ".join("".join(c for c in plain if not unicodedata.combining(c)).split())


def last_of(rows: Iterable[Any]) -> Any:
    """Return the row that was made last, if there is any; of rows that were looked up already without asking for them again."""
    return max(rows, key=lambda row: row.pk, default=None)


class Patient(Owned):
    """A patient with structured alerts: `allergies` are `{"to": one of ALLERGIES, "substance": text}`; `alert_text` is
    what else there is to know."""

    full_name = models.CharField(max_length=120)
    born_on = models.DateField()
    weight_kg = models.FloatField(null=True)
    allergies = models.JSONField(default=list)
    pregnant = models.BooleanField(default=False)
    planning_pregnancy = models.BooleanField(default=False)
    breast_feeding = models.BooleanField(default=False)
    anticoagulants = models.BooleanField(default=False)
    pacemaker = models.BooleanField(default=False)
    endocarditis_risk = models.BooleanField(default=False)
    light_sensitizing = models.BooleanField(default=False)
    heart_disease = models.BooleanField(default=False)
    beta_blocker_or_tricyclic = models.BooleanField(default=False)
    methemoglobinemia = models.BooleanField(default=False)
    neurological_disease = models.BooleanField(default=False)
    kidney_impairment = models.BooleanField(default=False)
    alert_text = models.TextField(blank=True)
    history_checked_on = models.DateField(null=True)
    history_checked_by = models.ForeignKey(User, on_delete=models.PROTECT, null=True, related_name="+")
    chart_number = models.CharField(max_length=30, blank=True)
    # The name as it is looked for: small letters without accents.
    searched = models.CharField(max_length=160, default="", editable=False)
    # Nobody is deleted: whoever is archived is out of the way, with a reason.
    archived_at = models.DateTimeField(null=True)
    archived_for = models.CharField(max_length=200, blank=True)

    class Meta:
        ordering: ClassVar[list[str]] = ["searched", "id"]
        indexes: ClassVar[list[models.Index]] = [
            # All that a search goes by.
            models.Index(
                fields=["practice", "archived_at", "searched", "chart_number"],
                name="patients_by_name",
            )
        ]
        constraints: ClassVar[list[models.BaseConstraint]] = [
            models.UniqueConstraint(
                fields=["practice", "chart_number"],
                condition=~models.Q(chart_number=""),
                name="one_patient_a_chart_number",
            )
        ]

    def save(self, *args: Any, **kwargs: Any) -> None:
        self.searched = searched_as(self.full_name)
        if fields := kwargs.get("update_fields"):
            kwargs["update_fields"] = {*fields, "searched"}
        if wrong := [one for one in self.allergies if one.get("to") not in ALLERGIES]:
            raise Refused("patient.allergy", f"{wrong[0].get('to')!r} is none of {', '.join(ALLERGIES)}")
        super().save(*args, **kwargs)

    @property
    def alerts(self) -> list[str]:
        """Return what is to be seen of the history at a glance."""
        allergies = [
            f"{one['to'].capitalize()} allergy" + (f": {one['substance']}" if one.get("substance") else "")
            for one in self.allergies
        ]
        flags = [flag.replace("_", " ").capitalize() for flag in FLAGS if getattr(self, flag)]
        return [*allergies, *flags, *([self.alert_text] if self.alert_text else [])]

    def age_on(self, day: dt.date) -> int:
        """Return the age in years on a day."""
        birthday = (self.born_on.month, self.born_on.day)
        return day.year - self.born_on.year - ((day.month, day.day) < birthday)

    def case_part(self, day: dt.date) -> dict[str, Any]:
        """Return what a case says of the patient on a day: the age, and what stands in the history."""
        return {
            "age_years": self.age_on(day),
            **({"weight_kg": self.weight_kg} if self.weight_kg else {}),
            **{flag: getattr(self, flag) for flag in FLAGS},
            "allergies": [one["to"] for one in self.allergies],
        }


class Visit(Owned):
    """A patient in a chair, for one restoration or several."""

    class Status(models.TextChoices):
        BOOKED = "booked"
        ARRIVED = "arrived"
        IN_THE_CHAIR = "in_the_chair"
        DONE = "done"
        CANCELED = "canceled"
        DID_NOT_COME = "did_not_come"

    # Called off: nothing is placed at it.
    GONE = (Status.CANCELED, Status.DID_NOT_COME)

    patient = models.ForeignKey(Patient, on_delete=models.PROTECT, related_name="visits")
    dentist = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    starts_at = models.DateTimeField()
    chair = models.CharField(max_length=20)
    status = models.CharField(max_length=20, choices=Status, default=Status.BOOKED)

    class Meta:
        ordering: ClassVar[list[str]] = ["starts_at", "id"]
        indexes: ClassVar[list[models.Index]] = [
            models.Index(fields=["practice", "starts_at"], name="visits_of_a_day")
        ]

    @property
    def is_done(self) -> bool:
        """Tell whether all that it is for has been done."""
        return all(part.is_done for part in self.parts.select_related("restoration"))

    def move_to(self, status: str) -> None:
        """Note down where the patient is now."""
        self.status = status
        self.save(update_fields=["status"])


class RestorationQuerySet(OwnedQuerySet):
    def seen_by(self, user: User) -> Self:
        """Return those that somebody may see: the practice's, and trials of their own."""
        return self.owned_by(user.practice).filter(models.Q(patient__isnull=False) | models.Q(author=user))

    def by_visit(self) -> Self:
        """Return them in the order in which they are placed, visit and dentist looked up."""
        placed_at = models.Min("parts__visit__starts_at", filter=models.Q(parts__purpose=VisitPart.PLACE))
        told = models.Prefetch("parts", VisitPart.objects.select_related("visit__dentist"))
        return self.annotate(placed_at=placed_at).order_by("placed_at", "id").prefetch_related(told)


class Restoration(Owned):
    """One restoration of one tooth; it may take more visits than one. `draft` is the case without curing light and composites.
    Without a patient it is a trial of its author, whom alone it concerns."""

    class Status(models.TextChoices):
        OPEN = "open"
        RUNNING = "running"
        DONE = "done"

    patient = models.ForeignKey(Patient, on_delete=models.PROTECT, null=True, related_name="restorations")
    author = models.ForeignKey(User, on_delete=models.PROTECT, null=True, related_name="+")
    reason = models.CharField(max_length=120)
    draft = models.JSONField()
    light = models.ForeignKey(Light, on_delete=models.PROTECT, null=True, related_name="+")
    materials = models.ManyToManyField(Item, related_name="+")
    status = models.CharField(max_length=20, choices=Status, default=Status.OPEN)

    objects = RestorationQuerySet.as_manager()

    class Meta:
        ordering: ClassVar[list[str]] = ["id"]

    @property
    def told(self) -> dict[str, Any]:
        """Return the draft as a case is told today."""
        return upgrade_case(self.draft)

    @property
    def visit(self) -> Visit | None:
        """Return the visit at which it is placed, once it is booked."""
        placing = self.placing
        return placing.visit if placing else None

    @property
    def placing(self) -> VisitPart | None:
        """Return the part of a visit at which it is placed: of several the last that was booked, none that was called off."""
        placed = [part for part in self.parts.all() if part.purpose == VisitPart.PLACE]
        parts = [part for part in placed if part.visit.status not in Visit.GONE]
        return last_of(parts)

    @property
    def placing_run(self) -> Any:
        """Return the last run at which it is placed, if there is one."""
        return last_of(run for run in self.runs.all() if run.part_id is None)


class VisitPart(Owned):
    """What is done at a visit for one restoration."""

    class Purpose(models.TextChoices):
        PLACE = "place"
        BAND_OFF = "band_off"
        POLISH = "polish"
        REVIEW = "review"

    PLACE = Purpose.PLACE

    visit = models.ForeignKey(Visit, on_delete=models.PROTECT, related_name="parts")
    restoration = models.ForeignKey(Restoration, on_delete=models.PROTECT, related_name="parts")
    purpose = models.CharField(max_length=20, choices=Purpose, default=PLACE)

    class Meta:
        ordering: ClassVar[list[str]] = ["id"]
        constraints: ClassVar[list[models.BaseConstraint]] = [
            models.UniqueConstraint(fields=["visit", "restoration", "purpose"], name="once_a_visit")
        ]

    @property
    def is_done(self) -> bool:
        if self.purpose == self.PLACE:
            return bool(self.restoration.status == Restoration.Status.DONE)
        return any(run.finished_at for run in self.runs.all())

    @property
    def last_run(self) -> Any:
        """Return the last run at which it was done, if there is one."""
        return last_of(self.runs.all())

    def save(self, *args: Any, **kwargs: Any) -> None:
        if self.visit.patient_id != self.restoration.patient_id:
            raise Refused("visit.patient", "a visit holds restorations of its own patient only")
        super().save(*args, **kwargs)


class PlanVersionQuerySet(FixedQuerySet):
    def newest(self) -> Self:
        """Return of each restoration the plan that was saved last."""
        others = PlanVersion.objects.filter(
            restoration=models.OuterRef("restoration"), number__gt=models.OuterRef("number")
        )
        return self.filter(~models.Exists(others))

    def with_cases(self) -> Self:
        """Return them with the cases that they are of; what is large is read when asked for."""
        return self.select_related("body").defer("body__plan", "body__drawing")


class PlanVersion(Fixed):
    """A saved plan's summary; case, plan and drawing stand beside it, since an old engine can't redraw. `wants` is what it
    takes from stock, none where its engine did not say so, `later` the visits that it asks for after placing."""

    restoration = models.ForeignKey(Restoration, on_delete=models.PROTECT, related_name="plans")
    number = models.PositiveIntegerField()
    saved_at = models.DateTimeField(auto_now_add=True)
    saved_by = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    engine = models.CharField(max_length=20)
    rulebook = models.CharField(max_length=20)
    case_sha256 = models.CharField(max_length=64)
    layering = models.CharField(max_length=20)
    increments = models.PositiveSmallIntegerField()
    light_seconds = models.FloatField()
    chair_minutes = models.FloatField()
    wants = models.JSONField(null=True)
    later = models.JSONField(default=list)

    objects = PlanVersionQuerySet.as_manager()

    class Meta(Fixed.Meta):
        ordering: ClassVar[list[str]] = ["number"]
        constraints: ClassVar[list[models.BaseConstraint]] = [
            models.UniqueConstraint(fields=["restoration", "number"], name="one_plan_a_number")
        ]


class PlanBody(Fixed):
    """What was planned, as it was kept; `told` and `planned` read it as it would be said today."""

    version = models.OneToOneField(PlanVersion, on_delete=models.PROTECT, related_name="body")
    case = PackedJSONField()
    plan = PackedJSONField()
    drawing = PackedJSONField()

    @property
    def told(self) -> dict[str, Any]:
        return upgrade_case(self.case)

    @property
    def planned(self) -> dict[str, Any]:
        return upgrade_plan(self.plan)

    @property
    def drawn(self) -> dict[str, Any]:
        return upgrade_drawing(self.drawing)
