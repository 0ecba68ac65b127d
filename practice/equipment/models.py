"""The practice's curing lights with their readings, and its stock."""

from __future__ import annotations

import datetime as dt
from typing import Any, ClassVar

from django.db import models
from django.utils import timezone

from practice.accounts.owned import Fixed, Owned

MASS = "mass"


class Light(Owned):
    name = models.CharField(max_length=80)
    tip_diameter_mm = models.FloatField()
    time_steps_s = models.JSONField()
    peak_nm = models.FloatField(null=True)
    # What it offers besides full output, as a case takes it.
    output_modes = models.JSONField(default=list)

    class Meta:
        ordering: ClassVar[list[str]] = ["id"]
        constraints: ClassVar[list[models.BaseConstraint]] = [
            models.UniqueConstraint(fields=["practice", "name"], name="one_lamp_a_name")
        ]

    def counting_readings(self) -> list[Reading]:
        """Return the readings, oldest first, but for those of a day on which the curing light was cleaned or repaired
        later."""
        renewed = {e.happened_on: e.noted_at for e in self.events.all() if e.kind in LightEvent.RENEWING}
        return [
            r for r in self.readings.all() if r.taken_on not in renewed or r.noted_at > renewed[r.taken_on]
        ]

    def case_part(self) -> dict[str, Any]:
        """Return the curing light as a case takes it, with the readings of its newest day."""
        counting = self.counting_readings()
        peak = {"peak_nm": self.peak_nm} if self.peak_nm else {}
        return {
            "name": self.name,
            "tip_diameter_mm": self.tip_diameter_mm,
            "time_steps_s": self.time_steps_s,
            "readings": [r.case_part() for r in counting if r.taken_on == counting[-1].taken_on],
            **peak,
        }


class Reading(Fixed):
    """What a radiometer showed; never changed, so that a trend can be trusted."""

    class Source(models.TextChoices):
        ENTERED = "entered"
        FILE = "file"
        RADIOMETER = "radiometer"

    light = models.ForeignKey(Light, on_delete=models.PROTECT, related_name="readings")
    distance_mm = models.FloatField()
    irradiance_mw_cm2 = models.FloatField()
    taken_on = models.DateField()
    noted_at = models.DateTimeField(default=timezone.now, editable=False)
    source = models.CharField(max_length=20, choices=Source, default=Source.ENTERED)
    taken_by = models.ForeignKey("accounts.User", on_delete=models.PROTECT, null=True, related_name="+")

    class Meta(Fixed.Meta):
        ordering: ClassVar[list[str]] = ["taken_on", "distance_mm", "id"]

    def case_part(self) -> dict[str, Any]:
        return {
            "distance_mm": self.distance_mm,
            "irradiance_mw_cm2": self.irradiance_mw_cm2,
            "taken_at": self.taken_on.isoformat(),
        }


class LightEvent(Fixed):
    """Something that was done with a curing light; whether it can be used follows from the newest that tells."""

    class Kind(models.TextChoices):
        CLEANED = "cleaned"
        REPAIRED = "repaired"
        LENT = "lent"
        RETURNED = "returned"
        RETIRED = "retired"

    # What makes a lamp give more light again: a trend starts after it, and readings before it count no more.
    RENEWING = (Kind.CLEANED, Kind.REPAIRED)

    light = models.ForeignKey(Light, on_delete=models.PROTECT, related_name="events")
    kind = models.CharField(max_length=20, choices=Kind)
    note = models.CharField(max_length=120, blank=True)
    happened_on = models.DateField()
    noted_at = models.DateTimeField(default=timezone.now, editable=False)
    who = models.ForeignKey("accounts.User", on_delete=models.PROTECT, related_name="+")

    class Meta(Fixed.Meta):
        ordering: ClassVar[list[str]] = ["happened_on", "id"]


class Item(Owned):
    """A thing in stock, with the properties that planning needs."""

    kind = models.CharField(max_length=20)
    name = models.CharField(max_length=80)
    manufacturer = models.CharField(max_length=80, blank=True)
    gtin = models.CharField(max_length=14, blank=True)
    properties = models.JSONField()

    class Meta:
        ordering: ClassVar[list[str]] = ["id"]
        constraints: ClassVar[list[models.BaseConstraint]] = [
            models.UniqueConstraint(fields=["practice", "kind", "name"], name="one_thing_a_name")
        ]

    def lots_left(self) -> list[Lot]:
        """Return the lots of which something is left, the one that expires first at the front."""
        left = [lot for lot in self.lots.all() if lot.count > 0]
        return sorted(left, key=lambda lot: (lot.expires_on is None, lot.expires_on, lot.pk))

    def case_part(self, today: dt.date) -> dict[str, Any]:
        """Return a composite as a case takes it, anything else as it stands on a case's stock, with the lot that
        would be opened."""
        usable = [lot for lot in self.lots_left() if not lot.is_over(today)]
        lot = {"lot": usable[0].number} if usable and usable[0].number else {}
        kind = {} if self.kind == MASS else {"kind": self.kind}
        return {**kind, "name": self.name, **self.properties, **lot}


class Specimen(Fixed):
    """What was read of a specimen of a composite, and of which lot it was made; or what so many reviews made of that. The newest is what
    plans weigh."""

    item = models.ForeignKey(Item, on_delete=models.PROTECT, related_name="specimens")
    lot = models.CharField(max_length=40, blank=True)
    optics = models.JSONField()
    reviews = models.PositiveSmallIntegerField(default=0)
    noted_at = models.DateTimeField(default=timezone.now, editable=False)
    who = models.ForeignKey("accounts.User", on_delete=models.PROTECT, related_name="+")

    class Meta(Fixed.Meta):
        ordering: ClassVar[list[str]] = ["id"]


class Lot(Owned):
    """Packages of a thing that share a lot and an expiry, and how many are left."""

    item = models.ForeignKey(Item, on_delete=models.PROTECT, related_name="lots")
    number = models.CharField(max_length=40, blank=True)
    expires_on = models.DateField(null=True)
    count = models.PositiveIntegerField(default=1)

    class Meta:
        ordering: ClassVar[list[str]] = ["id"]
        constraints: ClassVar[list[models.BaseConstraint]] = [
            models.UniqueConstraint(fields=["item", "number"], name="one_row_a_lot")
        ]

    def is_over(self, today: dt.date) -> bool:
        return self.expires_on is not None and self.expires_on < today
