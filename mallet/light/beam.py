"""The beam of a curing light: a disc whose radiance falls off as a power of the cosine.

On the axis E(z) = M (1 - (z / sqrt(z2 + R2))^(n+1)); n = 1 is a Lambertian disc. M is the
exitance, n the narrowness of the beam. Both are fitted to radiometer readings. A guide whose light
gathers is no such disc: where readings lie off the fit by more than they scatter, the measured curve counts.
"""

from __future__ import annotations

import datetime
import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from mallet.rulebook import Rulebook, load_rulebook
from mallet.terms.errors import InputError, Problem
from mallet.terms.restoration import Reading
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
    """A fitted beam: tip radius (mm), exitance (mW/cm2), exponent n. `bends` are the distances (mm) at which readings
    lie off that, and how many times as much they are."""

    radius_mm: float
    exitance_mw_cm2: float
    exponent: float
    residuals: tuple[Residual, ...] = ()
    bends: tuple[tuple[float, float], ...] = ()

    @property
    def contact_mw_cm2(self) -> float:
        """Return the irradiance at contact."""
        return self.exitance_mw_cm2 * float(self.measured_over_fit(np.zeros(1))[0])

    def on_axis_mw_cm2(self, distance_mm: float) -> float:
        """Return the irradiance on the axis, on a plane parallel to the tip."""
        z = np.array([distance_mm])
        fall = _fall(z, self.radius_mm, self.exponent) * self.measured_over_fit(z)
        return float(self.exitance_mw_cm2 * fall[0])

    def measured_over_fit(self, distances_mm: Floats) -> Floats:
        """Return how many times the fitted light counts at distances (N,): straight between readings, beyond the last
        as there."""
        if not self.bends:
            return np.ones(len(distances_mm))
        z, times = zip(*self.bends, strict=True)
        return np.asarray(np.interp(distances_mm, z, times), dtype=np.float64)

    @property
    def worst_residual(self) -> float:
        """Return by how large a share a reading lies off the fit at most."""
        return max((abs(r.measured_mw_cm2 / r.fitted_mw_cm2 - 1) for r in self.residuals), default=0.0)

    @property
    def peak_radiance(self) -> float:
        """Return radiance (mW/cm2/sr) straight ahead."""
        return self.exitance_mw_cm2 * (self.exponent + 1) / (2 * math.pi)


def fit_beam(
    readings: Sequence[Reading],
    tip_diameter_mm: float,
    path: str = "restoration.light.readings",
    rules: Rulebook | None = None,
) -> Beam:
    """Return the beam that meets the newest day's readings with the least relative residuals.

    Raises InputError where there are fewer than two distances, or readings rise with distance by more than they
    scatter.
    """
    newest, book = _newest(readings), rules or load_rulebook()
    check_readings(newest, path, book)
    read = tuple((reading.distance_mm, reading.irradiance_mw_cm2) for reading in newest)
    return _fitted(read, tip_diameter_mm / 2, book.value("light.reading_scatter_share"))


@lru_cache(maxsize=256)
def _fitted(readings: tuple[tuple[float, float], ...], radius_mm: float, scatter: float) -> Beam:
    z, e = np.array(readings).T

    def contact(n: float) -> float:
        shape = _fall(z, radius_mm, n) / e
        return float(shape.sum() / (shape**2).sum())

    def loss(log_n: float) -> float:
        n = math.exp(log_n)
        return float((((contact(n) * _fall(z, radius_mm, n)) / e - 1) ** 2).sum())

    bounds = (math.log(WIDEST), math.log(NARROWEST))
    from scipy.optimize import minimize_scalar  # slow to load: not before it is needed

    found = minimize_scalar(loss, bounds=bounds, method="bounded", options={"xatol": 1e-9})
    n = math.exp(float(found.x))
    m = contact(n)
    fitted = m * _fall(z, radius_mm, n)
    residuals = tuple(Residual(*map(float, row)) for row in zip(z, e, fitted, strict=True))
    return Beam(radius_mm, m, n, residuals, _bends(residuals, scatter))


def _bends(residuals: Sequence[Residual], scatter: float) -> tuple[tuple[float, float], ...]:
    """Return by how much more than readings scatter they lie off a fit, at each distance."""
    times: dict[float, list[float]] = {}
    for one in residuals:
        times.setdefault(one.distance_mm, []).append(one.measured_mw_cm2 / one.fitted_mw_cm2)
    means = {z: sum(some) / len(some) for z, some in sorted(times.items())}
    bent = {z: mean - min(max(mean - 1, -scatter), scatter) for z, mean in means.items()}
    return tuple(bent.items()) if any(abs(mean - 1) > scatter for mean in means.values()) else ()


def check_readings(readings: Sequence[Reading], path: str, rules: Rulebook) -> None:
    """Raise InputError where readings cannot tell a beam; a rise that readings scatter by is none."""
    most = rules.value("light.reading_rise_share")
    means: dict[float, list[float]] = {}
    for reading in readings:
        means.setdefault(reading.distance_mm, []).append(reading.irradiance_mw_cm2)
    if len(means) < 2:
        raise InputError(Problem(path, f"{len(means)} distance", "readings at two distances or more"))
    ordered = [(d, sum(v) / len(v)) for d, v in sorted(means.items())]
    for (near, strong), (far, weak) in itertools.pairwise(ordered):
        if weak > strong * (1 + most):
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
