"""What a house sets otherwise than the rulebook, by whose word, why and from which day on."""

from __future__ import annotations

from typing import ClassVar

from django.db import models
from django.utils import timezone

from practice.accounts.owned import Fixed


class HouseRule(Fixed):
    """A value of a rule from a day on; without one the rulebook's own holds again. Of several the one with
    the latest day that has come counts, and of one day the one written last."""

    rule = models.CharField(max_length=80)
    value = models.FloatField(null=True)
    from_day = models.DateField()
    why = models.CharField(max_length=200, blank=True)
    who = models.ForeignKey("accounts.User", on_delete=models.PROTECT, related_name="+")
    noted_at = models.DateTimeField(default=timezone.now, editable=False)

    class Meta(Fixed.Meta):
        ordering: ClassVar[list[str]] = ["from_day", "id"]
