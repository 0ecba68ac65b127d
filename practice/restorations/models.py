"""Patients, the restorations that are planned for them, and every plan that was saved."""

from __future__ import annotations

import datetime as dt
import re
from typing import Any, ClassVar, get_args

from django.db import models

from mallet.terms.mouth import Allergy
from practice.accounts.models import User
from practice.accounts.owned import Fixed, Owned
from practice.equipment.models import Item, Light

ALLERGIES: tuple[str, ...] = get_args(Allergy)


class Patient(Owned):
    full_name = models.CharField(max_length=120)
    born_on = models.DateField()
    alerts = models.JSONField(default=list)
    history_checked_on = models.DateField(null=True)

    def case_part(self, day: dt.date) -> dict[str, Any]:
        """Return what a case says of the patient on a day: the age, and what is named among the alerts."""
        birthday = (self.born_on.month, self.born_on.day)
        age = day.year - self.born_on.year - ((day.month, day.day) < birthday)
        told = " ".join(self.alerts).lower()
        return {
            "age_years": age,
            "pregnant": "pregnan" in told,
            "breast_feeding": bool(re.search(r"breast.?feed|nursing", told)),
            "allergies": [name for name in ALLERGIES if name in told],
        }


class Restoration(Owned):
    """One restoration of one tooth. `draft` is the case without lamp and masses."""

    class Status(models.TextChoices):
        OPEN = "open"
        RUNNING = "running"
        DONE = "done"

    patient = models.ForeignKey(Patient, on_delete=models.PROTECT, related_name="restorations")
    dentist = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    starts_at = models.DateTimeField()
    chair = models.CharField(max_length=20)
    reason = models.CharField(max_length=120)
    draft = models.JSONField()
    light = models.ForeignKey(Light, on_delete=models.PROTECT, null=True, related_name="+")
    materials = models.ManyToManyField(Item, related_name="+")
    status = models.CharField(max_length=20, choices=Status, default=Status.OPEN)

    class Meta:
        ordering: ClassVar[list[str]] = ["starts_at", "id"]


class PlanVersion(Fixed):
    """A saved plan's summary; case, plan and drawing stand beside it, since an old engine can't redraw."""

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

    class Meta(Fixed.Meta):
        ordering: ClassVar[list[str]] = ["number"]
        constraints: ClassVar[list[models.BaseConstraint]] = [
            models.UniqueConstraint(fields=["restoration", "number"], name="one_plan_a_number")
        ]


class PlanBody(Fixed):
    version = models.OneToOneField(PlanVersion, on_delete=models.PROTECT, related_name="body")
    case = models.JSONField()
    plan = models.JSONField()
    drawing = models.JSONField()
