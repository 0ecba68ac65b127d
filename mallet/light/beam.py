"""The beam of a curing light: a disc whose radiance falls off as a power of the cosine.

On the axis E(z) = M (1 - (z / sqrt(z2 + R2))^(n+1)); n = 1 is a Lambertian disc. M is the
irradiance at contact, n the narrowness of the beam. Both are fitted to radiometer readings.
"""

from __future__ import annotations

import datetime
import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from mallet.terms.case import Reading
from mallet.terms.errors import InputError, Problem
from mallet.terms.table import read_table

Floats = NDArray[np.float64]
W_M2_PER_MW_CM2 = 10.0
NARROWEST = 60.0
WIDEST = 0.05


@dataclass(frozen=True)
class Residual:
    distance_mm: float
    measured_mw_cm2: float
    fitted_mw_cm2: float


@dataclass(frozen=True)
class Beam:
    """A fitted beam: tip radius (mm), irradiance at contact (mW/cm2), exponent n."""

    radius_mm: float
    contact_mw_cm2: float
    exponent: float
    residuals: tuple[Residual, ...] = ()

    def on_axis_mw_cm2(self, distance_mm: float) -> float:
        """Return the irradiance on the axis, on a plane parallel to the tip."""
        return float(self.contact_mw_cm2 * _fall(np.array([distance_mm]), self.radius_mm, self.exponent)[0])

    @property
    def peak_radiance(self) -> float:
        """Return radiance (mW/cm2/sr) straight ahead."""
        return self.contact_mw_cm2 * (self.exponent + 1) / (2 * math.pi)


def fit_beam(readings: Sequence[Reading], tip_diameter_mm: float, path: str = "light.readings") -> Beam:
    """Return the beam that meets the newest day's readings with the least relative residuals.

    Raises InputError where there are fewer than two distances or readings rise with distance.
    """
    newest = _newest(readings)
    check_readings(newest, path)
    radius = tip_diameter_mm / 2
    z = np.array([r.distance_mm for r in newest])
    e = np.array([r.irradiance_mw_cm2 for r in newest])

    def contact(n: float) -> float:
        shape = _fall(z, radius, n) / e
        return float(shape.sum() / (shape**2).sum())

    def loss(log_n: float) -> float:
        n = math.exp(log_n)
        return float((((contact(n) * _fall(z, radius, n)) / e - 1) ** 2).sum())

    bounds = (math.log(WIDEST), math.log(NARROWEST))
    from scipy.optimize import minimize_scalar  # slow to load: not before it is needed

    found = minimize_scalar(loss, bounds=bounds, method="bounded", options={"xatol": 1e-9})
    n = math.exp(float(found.x))
    m = contact(n)
    fitted = m * _fall(z, radius, n)
    residuals = tuple(Residual(*map(float, row)) for row in zip(z, e, fitted, strict=True))
    return Beam(radius, m, n, residuals)


def check_readings(readings: Sequence[Reading], path: str) -> None:
    """Raise InputError where readings cannot tell a beam."""
    means: dict[float, list[float]] = {}
    for reading in readings:
        means.setdefault(reading.distance_mm, []).append(reading.irradiance_mw_cm2)
    if len(means) < 2:
        raise InputError(Problem(path, f"{len(means)} distance", "readings at two distances or more"))
    ordered = [(d, sum(v) / len(v)) for d, v in sorted(means.items())]
    for (near, strong), (far, weak) in itertools.pairwise(ordered):
        if weak > strong:
            got = f"{strong:g} mW/cm2 at {near:g} mm and {weak:g} at {far:g} mm"
            raise InputError(Problem(path, got, "readings that fall with distance"))


def read_readings_csv(text: str) -> list[Reading]:
    """Return readings from CSV; raise InputError with one problem a bad row."""
    readings, problems = parse_readings(text)
    if problems:
        raise InputError(*problems)
    return readings


def parse_readings(text: str) -> tuple[list[Reading], list[Problem]]:
    """Return the good rows of a CSV text and what is wrong with each of the others.

    Columns are distance_mm, irradiance_mw_cm2 and maybe taken_at; the path of a problem is
    `line N, column`. Raises InputError where a needed column is missing.
    """
    columns = {"distance_mm": (0.0, 30.0), "irradiance_mw_cm2": (0.001, 10000.0)}
    rows, problems = read_table(text, columns, ["taken_at"])
    dated = [row for row in rows if not row.texts["taken_at"] or _is_day(row.texts["taken_at"])]
    problems += [
        row.problem("taken_at", "a date such as 2026-11-21, or nothing") for row in rows if row not in dated
    ]
    return [Reading(**row.numbers, taken_at=row.texts["taken_at"] or None) for row in dated], problems


def _is_day(text: str) -> bool:
    try:
        datetime.date.fromisoformat(text[:10])
    except ValueError:
        return False
    return True


def _newest(readings: Sequence[Reading]) -> list[Reading]:
    """Return the readings of the newest day; undated ones count when none bears a date."""
    days = [r.taken_at[:10] for r in readings if r.taken_at]
    if not days:
        return list(readings)
    return [r for r in readings if r.taken_at and r.taken_at[:10] == max(days)]


def _fall(z: Floats, radius: float, n: float) -> Floats:
    return np.asarray(1 - (z / np.sqrt(z**2 + radius**2)) ** (n + 1), dtype=np.float64)
