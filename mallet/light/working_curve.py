"""The working curve of a light-cured mass: Cd = Dp ln(E / Ec), Jacobs (1992)."""

from __future__ import annotations

import math
from dataclasses import dataclass

from mallet.terms.case import Mass
from mallet.terms.errors import InputError


@dataclass(frozen=True)
class WorkingCurve:
    """Penetration depth Dp (mm) and critical exposure Ec (J/cm2) of a mass."""

    penetration_depth_mm: float
    critical_exposure_j_cm2: float

    @property
    def attenuation_per_mm(self) -> float:
        """Return the natural attenuation coefficient that the curve implies."""
        return 1.0 / self.penetration_depth_mm

    def cure_depth_mm(self, exposure_j_cm2: float) -> float:
        """Return the depth to which an exposure at the surface gels the mass; zero below Ec.

        Raises InputError where the exposure is negative.
        """
        if exposure_j_cm2 < 0:
            raise InputError.at("exposure_j_cm2", exposure_j_cm2, "0 or more")
        if exposure_j_cm2 <= self.critical_exposure_j_cm2:
            return 0.0
        return self.penetration_depth_mm * math.log(exposure_j_cm2 / self.critical_exposure_j_cm2)


def curve_of(mass: Mass) -> WorkingCurve:
    """Return the working curve of a mass on the shelf."""
    return WorkingCurve(mass.penetration_depth_mm, mass.critical_exposure_j_cm2)
