"""A run of a plan at the chair, as events that are only ever added."""

from __future__ import annotations

from typing import ClassVar

from django.db import models

from practice.accounts.models import User
from practice.accounts.owned import Fixed, Owned
from practice.restorations.models import PlanVersion, Restoration, Visit, VisitPart


class Run(Owned):
    """A run of a plan; without a part of a visit, that at which the restoration is placed."""

    restoration = models.ForeignKey(Restoration, on_delete=models.PROTECT, related_name="runs")
    plan = models.ForeignKey(PlanVersion, on_delete=models.PROTECT, related_name="+")
    part = models.ForeignKey(VisitPart, on_delete=models.PROTECT, null=True, related_name="runs")
    started_by = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    started_at = models.DateTimeField()
    finished_at = models.DateTimeField(null=True)

    @property
    def visit(self) -> Visit:
        """Return the visit that it is done at."""
        found: Visit | None = self.part.visit if self.part else self.restoration.visit
        assert found, "a run that was started has a visit"
        return found


class RunEvent(Fixed):
    """One thing that happened. `client_id` makes a repeated send harmless; `revision` orders events."""

    class Kind(models.TextChoices):
        STEP_DONE = "step_done"
        STEP_BACK = "step_back"
        CHECK_PASSED = "check_passed"
        CHECK_FAILED = "check_failed"
        PAUSED = "paused"
        RESUMED = "resumed"
        GOT_WET = "got_wet"
        MIX_TOO_OLD = "mix_too_old"
        DAM_TORN = "dam_torn"
        DEEPER = "deeper"
        OTHER_MATRIX = "other_matrix"
        MEASURED = "measured"
        MIXED = "mixed"
        LOT_SCANNED = "lot_scanned"
        FINISHED = "finished"

    run = models.ForeignKey(Run, on_delete=models.PROTECT, related_name="events")
    revision = models.PositiveIntegerField()
    client_id = models.UUIDField(unique=True)
    kind = models.CharField(max_length=20, choices=Kind)
    step_id = models.CharField(max_length=120)
    detail = models.JSONField(default=dict)
    who = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    device = models.CharField(max_length=60)
    device_sequence = models.PositiveIntegerField()
    client_wall = models.DateTimeField()
    client_monotonic_ms = models.BigIntegerField()
    at = models.DateTimeField()

    class Meta(Fixed.Meta):
        ordering: ClassVar[list[str]] = ["revision"]
        constraints: ClassVar[list[models.BaseConstraint]] = [
            models.UniqueConstraint(fields=["run", "revision"], name="one_event_a_revision")
        ]
