"""The practice's lamps with their readings, and the masses on its shelf."""

from __future__ import annotations

from typing import Any, ClassVar

from django.db import models

from practice.accounts.owned import Owned


class Light(Owned):
    name = models.CharField(max_length=80)
    tip_diameter_mm = models.FloatField()
    time_steps_s = models.JSONField()
    retired = models.BooleanField(default=False)

    def case_part(self) -> dict[str, Any]:
        """Return the lamp as a case takes it, with all its readings."""
        return {
            "name": self.name,
            "tip_diameter_mm": self.tip_diameter_mm,
            "time_steps_s": self.time_steps_s,
            "readings": [
                {
                    "distance_mm": r.distance_mm,
                    "irradiance_mw_cm2": r.irradiance_mw_cm2,
                    "taken_at": r.taken_on.isoformat(),
                }
                for r in self.readings.all()
            ],
        }


class Reading(Owned):
    light = models.ForeignKey(Light, on_delete=models.CASCADE, related_name="readings")
    distance_mm = models.FloatField()
    irradiance_mw_cm2 = models.FloatField()
    taken_on = models.DateField()

    class Meta:
        ordering: ClassVar[list[str]] = ["taken_on", "distance_mm", "id"]


class Material(Owned):
    """A mass on the shelf, with the properties that planning needs."""

    name = models.CharField(max_length=80)
    role = models.CharField(max_length=20)
    properties = models.JSONField()
    lot = models.CharField(max_length=40, blank=True)
    in_stock = models.BooleanField(default=True)

    class Meta:
        ordering: ClassVar[list[str]] = ["id"]

    def case_part(self) -> dict[str, Any]:
        lot = {"lot": self.lot} if self.lot else {}
        return {"name": self.name, "role": self.role, **self.properties, **lot}
