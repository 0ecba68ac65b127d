"""The practice, its people, and the trail of what they did."""

from __future__ import annotations

import datetime as dt
import zoneinfo
from typing import ClassVar

from django.contrib.auth.models import AbstractUser
from django.db import models
from django.utils import timezone

from practice.accounts.owned import Fixed, Owned


def two_chairs() -> list[str]:
    return ["chair 1", "chair 2"]


class Practice(models.Model):
    name = models.CharField(max_length=120)
    zone = models.CharField(max_length=60, default="UTC")
    is_demo = models.BooleanField(default=False)
    # Whose law is told beside the choice of a restorative, as a case takes it.
    place = models.CharField(max_length=20, default="elsewhere")
    lamp_check_days = models.PositiveSmallIntegerField(default=30)
    chairs = models.JSONField(default=two_chairs)

    def __str__(self) -> str:
        return self.name

    def today(self) -> dt.date:
        """Return the date of the practice's own clock."""
        return timezone.now().astimezone(zoneinfo.ZoneInfo(self.zone)).date()

    def day_starts(self, day: dt.date) -> dt.datetime:
        """Return the moment at which a day begins by the practice's own clock."""
        return dt.datetime.combine(day, dt.time(), zoneinfo.ZoneInfo(self.zone))


class User(AbstractUser):
    class Role(models.TextChoices):
        DENTIST = "dentist"
        ASSISTANT = "assistant"
        # Treats under the eyes of a teacher, who passes the hold points.
        TRAINEE = "trainee"
        TEACHER = "teacher"

    class Notation(models.TextChoices):
        TWO_DIGIT = "two_digit"
        NUMBER = "number"
        RIGHT_ANGLE = "right_angle"

    practice = models.ForeignKey(Practice, on_delete=models.PROTECT, null=True, related_name="people")
    role = models.CharField(max_length=20, choices=Role)
    # Runs the practice: people, audit trail, backups. Whoever does may treat as well, by the role.
    is_owner = models.BooleanField(default=False)
    notation = models.CharField(max_length=20, choices=Notation, default=Notation.TWO_DIGIT)
    # Whether the chair sounds from the first press on; else it waits to be switched on.
    hears = models.BooleanField(default=False)
    # First and last name are one field here: people have all kinds of names.
    first_name = None  # type: ignore[assignment]
    last_name = None  # type: ignore[assignment]
    full_name = models.CharField(max_length=120)

    @property
    def may_pass_holds(self) -> bool:
        return self.role in (self.Role.DENTIST, self.Role.TEACHER)

    REQUIRED_FIELDS: ClassVar[list[str]] = ["full_name"]


class PasswordLink(Owned):
    """A link by which somebody sets a password: once, within a day. What is kept of it opens nothing."""

    user = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    token_sha256 = models.CharField(max_length=64, unique=True)
    issued_by = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    expires_at = models.DateTimeField()
    used_at = models.DateTimeField(null=True)


class AuditEntry(Fixed):
    """Who did what to what, written inside the transaction that did it."""

    at = models.DateTimeField(auto_now_add=True)
    who = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    action = models.CharField(max_length=60)
    subject = models.CharField(max_length=60)
    details = models.JSONField(default=dict)

    class Meta(Fixed.Meta):
        ordering: ClassVar[list[str]] = ["id"]


ACTIONS = frozenset(
    {
        "accounts.signed_in",
        "accounts.set_up",
        "accounts.practice.changed",
        "accounts.person.added",
        "accounts.person.changed",
        "accounts.link.issued",
        "accounts.password.set",
        "patients.added",
        "patients.changed",
        "patients.archived",
        "patients.history_checked",
        "equipment.light.added",
        "equipment.light.read",
        "equipment.light.event",
        "equipment.optics.kept",
        "equipment.stock.kept",
        "house.rule.set",
        "restorations.begun",
        "restorations.attached",
        "restorations.plan.saved",
        "visits.booked",
        "visits.changed",
        "runs.started",
        "runs.finished",
        "runs.hold_refused",
        "records.written",
        "records.signed",
        "records.amended",
        "records.restored",
    }
)


def audit(who: User, action: str, subject: str, **details: object) -> None:
    """Write an entry of the trail; an action that is not registered raises ValueError."""
    if action not in ACTIONS:
        raise ValueError(f"unregistered action {action!r}")
    AuditEntry.objects.create(practice=who.practice, who=who, action=action, subject=subject, details=details)
