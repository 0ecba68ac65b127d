"""The record of a finished run: a draft until it is signed, then only amended, each link chained."""

from __future__ import annotations

from typing import Any, ClassVar

from django.db import models

from practice.accounts.models import User
from practice.accounts.owned import Fixed, Owned, OwnedQuerySet, Refused
from practice.accounts.packed import PackedJSONField
from practice.restorations.models import PlanVersion
from practice.runs.models import Run

SEALED = "a signed record is never changed, only amended"


class RecordQuerySet(OwnedQuerySet):
    def update(self, **values: Any) -> int:
        if self.filter(signed_at__isnull=False).exists():
            raise Refused("signed", SEALED)
        return super().update(**values)

    def delete(self) -> tuple[int, dict[str, int]]:
        raise Refused("signed", "records are never deleted")

    def bulk_update(self, objs: Any, *args: Any, **kwargs: Any) -> int:
        objs = list(objs)
        if self.model.objects.filter(pk__in=[o.pk for o in objs], signed_at__isnull=False).exists():
            raise Refused("signed", SEALED)
        return super().bulk_update(objs, *args, **kwargs)


class Record(Owned):
    run = models.OneToOneField(Run, on_delete=models.PROTECT, related_name="record")
    content = PackedJSONField()
    free_text = models.TextField(blank=True)
    written_at = models.DateTimeField(auto_now_add=True)
    signed_by = models.ForeignKey(User, on_delete=models.PROTECT, null=True, related_name="+")
    signed_at = models.DateTimeField(null=True)

    objects = RecordQuerySet.as_manager()

    @property
    def drawn_plan(self) -> PlanVersion:
        """Return the plan that the run ended by, whose drawing the record shows."""
        number = self.content["plan"]["version"]
        plan: PlanVersion = self.run.restoration.plans.select_related("body").get(number=number)
        return plan

    class Meta:
        base_manager_name = "objects"
        indexes: ClassVar[list[models.Index]] = [
            models.Index(fields=["practice", "signed_at"], name="records_to_sign")
        ]

    def save(self, *args: Any, **kwargs: Any) -> None:
        if self.pk and Record.objects.filter(pk=self.pk, signed_at__isnull=False).exists():
            raise Refused("signed", SEALED)
        super().save(*args, **kwargs)

    def delete(self, *_: Any, **__: Any) -> tuple[int, dict[str, int]]:
        raise Refused("signed", "records are never deleted")


class Seal(Fixed):
    """A signature: on a record as it stands, on an amendment beneath it, or on that all data was restored from a backup.

    The seals of a practice form one chain; each hash covers what was signed and the hash before it.
    """

    class Kind(models.TextChoices):
        RECORD = "record"
        AMENDMENT = "amendment"
        RESTORED = "restored"

    record = models.ForeignKey(Record, on_delete=models.PROTECT, null=True, related_name="seals")
    sequence = models.PositiveIntegerField()
    kind = models.CharField(max_length=20, choices=Kind)
    text = models.TextField(blank=True)
    signed_by = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    signed_at = models.DateTimeField()
    previous_hash = models.CharField(max_length=64)
    hash = models.CharField(max_length=64)

    class Meta(Fixed.Meta):
        ordering: ClassVar[list[str]] = ["sequence"]
        constraints: ClassVar[list[models.BaseConstraint]] = [
            models.UniqueConstraint(fields=["practice", "sequence"], name="one_seal_a_sequence")
        ]
