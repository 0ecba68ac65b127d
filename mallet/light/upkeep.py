"""A curing light over the months: what it gave on each day, where that is going, what it must give, and the
seconds that it takes for each composite at each distance."""

from __future__ import annotations

import datetime as dt
import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import groupby

import numpy as np

from mallet.light.beam import Beam, fit_beam
from mallet.light.cure import need_of
from mallet.light.eye import direct_seconds, reflected_seconds
from mallet.light.heat import Pulse, dentin_of, warmth
from mallet.light.presses import Button
from mallet.light.slab import slab_mw_cm2
from mallet.light.working_curve import curve_of, dose_wanted_j_cm2
from mallet.rulebook import Rulebook
from mallet.terms.errors import InputError
from mallet.terms.restoration import Composite, Reading

DISTANCES_MM = (0.0, 2.0, 4.0, 6.0, 8.0, 10.0)
DAYS_A_MONTH = 365.25 / 12
# A trend needs more than two days to tell how sure it is.
LEAST_DAYS = 3
HORIZON_DAYS = 5 * 365
SURE = 0.95
# The bare floor that the warning of warmth is told for.
BARE_RADIUS_MM, BARE_DENTIN_MM = 2.0, 1.0


@dataclass(frozen=True)
class DayOutput:
    """What a curing light gave at contact on a day, by the fit to that day's readings."""

    day: dt.date
    contact_mw_cm2: float


def outputs_by_day(readings: Sequence[Reading], tip_diameter_mm: float) -> list[DayOutput]:
    """Return the output at contact of each day, oldest first; a day whose readings tell no beam is left
    out, and so are readings without a date."""
    dated = sorted((r for r in readings if r.taken_at), key=lambda r: (r.taken_at or "")[:10])
    found = []
    for day, of_day in groupby(dated, key=lambda r: (r.taken_at or "")[:10]):
        try:
            beam = fit_beam(list(of_day), tip_diameter_mm)
        except InputError:
            continue
        found.append(DayOutput(dt.date.fromisoformat(day), beam.contact_mw_cm2))
    return found


@dataclass(frozen=True)
class Trend:
    """How a curing light's output changes: share a month (negative when it falls), and when it goes below what it
    must give: most likely, and at the earliest and latest of the range that holds 95 of 100 slopes.

    A date is None where the curing light stays above for five years to come; one that is below now went below on
    the day it was last read, at the latest.
    """

    since: dt.date
    days: int
    share_a_month: float
    falls_below_on: dt.date | None
    earliest_on: dt.date | None
    latest_on: dt.date | None


def trend_of(outputs: Sequence[DayOutput], least_mw_cm2: float, since: dt.date | None = None) -> Trend | None:
    """Return the trend of a curing light's outputs since a day; None where fewer than three days tell one.

    Output is taken to fall by a constant share: a straight line of its logarithm by least squares.
    """
    counted = [o for o in outputs if since is None or o.day >= since]
    if len(counted) < LEAST_DAYS:
        return None
    first = counted[0].day
    t = np.array([(o.day - first).days for o in counted], dtype=np.float64)
    logs = np.log([o.contact_mw_cm2 for o in counted])
    now, mean_t, mean_log = float(t[-1]), float(t.mean()), float(logs.mean())
    about = t - mean_t
    slope = float(about @ logs / (about @ about))
    off, free = logs - mean_log - slope * about, len(counted) - 2
    from scipy.special import stdtrit  # slow to load: not before it is needed

    spread = float(stdtrit(free, (1 + SURE) / 2) * np.sqrt(off @ off / free / (about @ about)))

    is_below = counted[-1].contact_mw_cm2 < least_mw_cm2

    def below(slope: float) -> dt.date | None:
        level = mean_log + slope * (now - mean_t)
        left = level - math.log(least_mw_cm2)
        if left <= 0 or is_below:
            return counted[-1].day
        days = left / -slope if slope < 0 else math.inf
        return counted[-1].day + dt.timedelta(days=math.floor(days)) if days <= HORIZON_DAYS else None

    return Trend(
        since=first,
        days=len(counted),
        share_a_month=math.expm1(slope * DAYS_A_MONTH),
        falls_below_on=below(slope),
        earliest_on=below(slope - spread),
        latest_on=below(slope + spread),
    )


@dataclass(frozen=True)
class Wanted:
    """What a curing light must give at contact, and for which composite; None where the rulebook's minimum is more."""

    contact_mw_cm2: float
    mass: str | None


def wanted_of(beam: Beam, masses: Sequence[Composite], rules: Rulebook) -> Wanted:
    """Return the output with which an increment of every composite cures on a deep floor, straight under a tip with this
    beam's spread, within the longest single exposure: half its largest one, as a plan lays it thinner where it must."""
    longest, floor_mm = rules.value("light.longest_exposure_s"), rules.value("light.deep_floor_mm")
    unit, index = replace(beam, exitance_mw_cm2=1.0), rules.value("light.refractive_index")
    wanted = Wanted(rules.value("light.minimum_output_mw_cm2"), None)
    for mass in masses:
        # The tip cannot come nearer: the increment stands on the floor.
        depth_mm = mass.max_increment_mm / 2
        gap_mm = max(0.0, floor_mm - depth_mm)
        reaching = slab_mw_cm2(unit, gap_mm, depth_mm, curve_of(mass).attenuation_per_mm, index)
        dose = dose_wanted_j_cm2(mass, rules)
        contact = dose * 1000 / longest / reaching * unit.contact_mw_cm2
        if contact > wanted.contact_mw_cm2:
            wanted = Wanted(contact, mass.name)
    return wanted


@dataclass(frozen=True)
class Row:
    """Seconds for an increment of a composite by the distance of its surface; None where they are more than
    the longest single exposure."""

    mass: str
    depth_mm: float
    seconds: tuple[float | None, ...]


def seconds_table(
    beam: Beam, masses: Sequence[Composite], steps_s: Sequence[float], rules: Rulebook
) -> list[Row]:
    """Return the seconds in whole curing cycles, at full output, for the largest increment of each composite, straight
    under the tip and without walls, at `DISTANCES_MM`."""
    button = Button(tuple(steps_s))
    longest, cap = rules.value("light.longest_exposure_s"), rules.value("light.irradiance_cap_mw_cm2")
    index = rules.value("light.refractive_index")

    def seconds(mass: Composite, distance: float) -> float | None:
        mu = curve_of(mass).attenuation_per_mm
        reaching = min(cap, slab_mw_cm2(beam, distance, mass.max_increment_mm, mu, index))
        need = need_of(mass, reaching, beam.contact_mw_cm2, rules).seconds
        total = button.least(need).seconds if need <= longest else math.inf
        return total if total <= longest else None

    return [
        Row(m.name, m.max_increment_mm, tuple(seconds(m, distance) for distance in DISTANCES_MM))
        for m in masses
    ]


@dataclass(frozen=True)
class Safety:
    """Seconds a day that an eye may look without a shield into the tip and at a tooth lit in contact; and the
    least that the longest exposure, in contact with a bare floor over some dentin, raises the pulp's temperature."""

    direct_s: float
    reflected_s: float
    exposure_s: float
    dentin_mm: float
    warms_k: float


def safety_of(beam: Beam, peak_nm: float | None, rules: Rulebook) -> Safety:
    """Return what to tell of a curing light beside any case; its peak is the rulebook's where it is not known."""
    dose, peak = rules.value("light.eye_dose_j_m2_sr"), peak_nm or rules.value("light.peak_nm")
    kept, exposure = rules.value("light.dentin_absorbed_share"), rules.value("light.longest_exposure_s")
    pulse = Pulse(0.0, exposure, kept * beam.contact_mw_cm2)
    return Safety(
        direct_s=direct_seconds(beam, peak, dose),
        reflected_s=reflected_seconds(beam, peak, dose, 0.0, 1 - kept),
        exposure_s=exposure,
        dentin_mm=BARE_DENTIN_MM,
        warms_k=warmth([pulse], BARE_RADIUS_MM, BARE_DENTIN_MM, dentin_of(rules))[0],
    )


def has_fallen(then: Beam, now: Beam, rules: Rulebook) -> bool:
    """Return whether a curing light has lost more light since than a plan may bear."""
    return now.contact_mw_cm2 < (1 - rules.value("light.output_fall")) * then.contact_mw_cm2
