"""The working curve of a light-cured composite: Cd = Dp ln(E / Ec), Jacobs (1992)."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from mallet.rulebook import Rulebook
from mallet.terms.errors import InputError, Problem
from mallet.terms.plan import Assumption
from mallet.terms.restoration import Composite, ShadeRole
from mallet.terms.table import Row, read_table

ATTENUATION: dict[ShadeRole, str] = {
    "enamel": "light.enamel_attenuation_of_mass_per_mm",
    "body": "light.body_attenuation_of_mass_per_mm",
    "dentin": "light.dentin_attenuation_of_mass_per_mm",
}


@dataclass(frozen=True)
class WorkingCurve:
    """Penetration depth Dp (mm) and critical exposure Ec (J/cm2) of a composite."""

    penetration_depth_mm: float
    critical_exposure_j_cm2: float

    @property
    def attenuation_per_mm(self) -> float:
        """Return the natural attenuation coefficient that the curve implies."""
        return 1.0 / self.penetration_depth_mm

    def cure_depth_mm(self, exposure_j_cm2: float) -> float:
        """Return the depth to which an exposure at the surface gels the composite; zero below Ec.

        Raises InputError where the exposure is negative.
        """
        if exposure_j_cm2 < 0:
            raise InputError.at("exposure_j_cm2", exposure_j_cm2, "0 or more")
        if exposure_j_cm2 <= self.critical_exposure_j_cm2:
            return 0.0
        return self.penetration_depth_mm * math.log(exposure_j_cm2 / self.critical_exposure_j_cm2)


@dataclass(frozen=True)
class DepthReading:
    """A depth of cure (mm) under an exposure at the surface (J/cm2)."""

    exposure_j_cm2: float
    depth_mm: float


@dataclass(frozen=True)
class CurveFit:
    """A fitted curve and how far each reading lies off it (mm), in the readings' order."""

    curve: WorkingCurve
    residuals_mm: tuple[float, ...]


def curve_of(mass: Composite) -> WorkingCurve:
    """Return the working curve of a composite; raise InputError for one that is still to be completed."""
    dp, ec = mass.penetration_depth_mm, mass.critical_exposure_j_cm2
    if dp is None or ec is None:
        raise InputError.at("restoration.composites", mass.name, "a composite with its working curve")
    return WorkingCurve(dp, ec)


@dataclass(frozen=True)
class Completed:
    """A composite with its whole working curve, and the value, unit and reason of each part that was not given."""

    mass: Composite
    filled: dict[str, tuple[float, str, str]]

    def assumptions(self, path: str) -> list[Assumption]:
        """Return what was not given as a plan lists it, of a composite that stands at a path of the case."""
        return [
            Assumption(path=f"{path}.{name}", value=value, unit=unit, provenance="handbook", why=why)
            for name, (value, unit, why) in self.filled.items()
        ]


def complete(mass: Composite, rules: Rulebook, path: str = "mass") -> Completed:
    """Return a composite with what its curve lacks: penetration depth by role, critical exposure from the
    manufacturer's time, which is taken to cure the largest increment as ISO 4049 has it, by half the scraped length.

    Raises InputError where neither critical exposure nor manufacturer's time is given.
    """
    filled: dict[str, tuple[float, str, str]] = {}
    dp, ec = mass.penetration_depth_mm, mass.critical_exposure_j_cm2
    if dp is None:
        dp = round(1 / rules.value(ATTENUATION[mass.role]), 3)
        filled["penetration_depth_mm"] = (dp, "mm", f"ordinary for a composite of the role {mass.role}")
    if ec is None:
        if mass.manufacturer is None:
            allowed = "a value, or the manufacturer's time at a stated output"
            raise InputError(Problem(f"{path}.critical_exposure_j_cm2", "nothing", allowed))
        scraped_mm = mass.max_increment_mm / rules.value("light.scraped_share")
        ec = round(mass.manufacturer.exposure_j_cm2 * math.exp(-scraped_mm / dp), 4)
        filled["critical_exposure_j_cm2"] = (ec, "J/cm2", "from the manufacturer's time at the stated output")
    whole = mass.model_copy(update={"penetration_depth_mm": dp, "critical_exposure_j_cm2": ec})
    return Completed(whole, filled)


def dose_wanted_j_cm2(mass: Composite, rules: Rulebook) -> float:
    """Return the dose that a composite wants at its deepest point, in J/cm2.

    A manufacturer's time at an output is an exposure E at the surface; of the length L = Dp ln(E / Ec) that it leaves after
    scraping a share s counts, half in ISO 4049, and there E^(1 - s) Ec^s arrives: `sqrt(E Ec)`. Without a manufacturer's
    time it is the critical exposure Ec times the rulebook's factor.
    """
    critical = curve_of(mass).critical_exposure_j_cm2
    if mass.manufacturer is None:
        return critical * rules.value("light.conversion_factor")
    share = rules.value("light.scraped_share")
    return float(max(critical, mass.manufacturer.exposure_j_cm2 ** (1 - share) * critical**share))


def rule_of_dose(mass: Composite) -> str:
    """Return the rule that the wanted dose of a composite goes by."""
    return "light.scraped_share" if mass.manufacturer else "light.conversion_factor"


def scraped(exposure_j_cm2: float, length_mm: float, share: float) -> DepthReading:
    """Return the depth of cure that is made of a scraped length: a share of it, half in ISO 4049."""
    return DepthReading(exposure_j_cm2, share * length_mm)


def fit_curve(readings: Sequence[DepthReading], path: str = "readings") -> CurveFit:
    """Return the curve that meets depths of cure with the least squares of depth over ln exposure.

    Raises InputError for fewer than two exposures, or depths that do not grow with exposure.
    """
    exposures = sorted({r.exposure_j_cm2 for r in readings})
    if len(exposures) < 2:
        raise InputError(Problem(path, f"{len(exposures)} exposure", "depths at two exposures or more"))
    logs = np.log([r.exposure_j_cm2 for r in readings])
    depths = np.array([r.depth_mm for r in readings])
    dp, offset = np.polyfit(logs, depths, 1)
    if dp <= 0:
        raise InputError(Problem(path, f"a slope of {dp:.2f} mm", "depths that grow with exposure"))
    curve = WorkingCurve(float(dp), math.exp(-offset / dp))
    off = depths - (dp * logs + offset)
    return CurveFit(curve, tuple(float(r) for r in off))


def read_depths_csv(text: str, rules: Rulebook) -> list[DepthReading]:
    """Return depths of cure from CSV with columns exposure_j_cm2, depth_mm and maybe method.

    `method` is `scraped` for lengths as ISO 4049 measures them, of which a share counts; nothing or
    `depth` for depths. Raises InputError with one problem a bad row.
    """
    columns = {"exposure_j_cm2": (0.01, 500.0), "depth_mm": (0.05, 20.0)}
    rows, problems = read_table(text, columns, ["method"])
    problems += [
        row.problem("method", "scraped, depth, or nothing")
        for row in rows
        if row.texts["method"] not in ("scraped", "depth", "")
    ]
    if problems:
        raise InputError(*problems)
    share = rules.value("light.scraped_share")
    return [_reading(row, share) for row in rows]


def _reading(row: Row, share: float) -> DepthReading:
    exposure_j_cm2, depth_mm = row.numbers["exposure_j_cm2"], row.numbers["depth_mm"]
    is_scraped = row.texts["method"] == "scraped"
    return scraped(exposure_j_cm2, depth_mm, share) if is_scraped else DepthReading(exposure_j_cm2, depth_mm)
