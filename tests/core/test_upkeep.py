"""A lamp over the months: trend and forecast, what it must give, the table for the wall."""

import datetime as dt
import math

import numpy as np
import pytest
from scipy import stats
from scipy.integrate import quad

from mallet.light.beam import Beam
from mallet.light.slab import slab_mw_cm2
from mallet.light.upkeep import (
    DISTANCES_MM,
    DayOutput,
    outputs_by_day,
    seconds_table,
    trend_of,
    wanted_of,
)
from mallet.rulebook import load_rulebook
from mallet.terms.restoration import Composite, Reading
from mallet.terms.stock import ManufacturerCure

RULES = load_rulebook()
START = dt.date(2026, 1, 1)
BEAM = Beam(4.5, 1150.0, 2.0)


def mass(
    name: str = "body", dp: float = 1.25, ec: float = 0.4, most: float = 2.0, **more: object
) -> Composite:
    return Composite(name=name, penetration_depth_mm=dp, critical_exposure_j_cm2=ec, max_increment_mm=most,
                shrinkage_vol_percent=2.2, density_g_cm3=2.0, modulus_gpa=9.0, **more)  # type: ignore[arg-type]  # fmt: skip


@pytest.mark.parametrize(("n", "value"), [(1, 169.6310), (2, 217.9734), (3, 251.9778)])
def test_slab_meets_published_quadrature_and_the_beams_own_form(n: int, value: float) -> None:
    """R 4.5, M 1000, target 4 mm under the tip, 2 mm of mu 0.5 over it (quadrature)."""
    beam = Beam(4.5, 1000.0, n)
    assert slab_mw_cm2(beam, 2.0, 2.0, 0.5, 1.0) == pytest.approx(value, abs=1e-4)
    assert slab_mw_cm2(beam, 7.0, 0.0, 0.5, 1.5) == pytest.approx(beam.on_axis_mw_cm2(7.0), rel=1e-9)
    least = 5 / math.hypot(5, 4.5)
    by_scipy = quad(lambda u: u**n * math.exp(-0.8 * 1.5 / u), least, 1)[0] * 1000 * (n + 1)
    assert slab_mw_cm2(beam, 3.5, 1.5, 0.8, 1.0) == pytest.approx(by_scipy, rel=1e-9)


def falling(days: range, share_a_day: float, noise: float = 0.0) -> list[DayOutput]:
    rng = np.random.default_rng(7)
    return [
        DayOutput(START + dt.timedelta(days=d), 1000 * math.exp(-share_a_day * d + noise * rng.normal()))
        for d in days
    ]


def test_a_steady_fall_is_foretold_to_the_day() -> None:
    """1000 exp(-t / 1000) goes below 600 after 1000 ln(1000 / 600) = 510.8 days."""
    trend = trend_of(falling(range(0, 300, 30), 1e-3), 600.0)
    assert trend
    assert trend.falls_below_on == trend.earliest_on == trend.latest_on
    assert trend.falls_below_on in (START + dt.timedelta(days=n) for n in (510, 511))
    assert trend.share_a_month == pytest.approx(math.expm1(-365.25 / 12 / 1000))


def test_the_line_and_its_spread_are_those_of_a_statistics_library() -> None:
    outputs = falling(range(0, 400, 20), 1e-3, 0.02)
    line = stats.linregress(
        [(o.day - START).days for o in outputs], np.log([o.contact_mw_cm2 for o in outputs])
    )
    trend = trend_of(outputs, 500.0)
    assert trend
    assert trend.share_a_month == pytest.approx(math.expm1(line.slope * 365.25 / 12))
    steepest = line.slope - stats.t.ppf(0.975, len(outputs) - 2) * line.stderr
    level = np.mean(np.log([o.contact_mw_cm2 for o in outputs])) + steepest * 190
    days = 380 + math.floor((level - math.log(500)) / -steepest)
    assert trend.earliest_on == START + dt.timedelta(days=days)


def test_scatter_widens_the_forecast_and_a_cleaning_starts_it_anew() -> None:
    outputs = falling(range(0, 400, 20), 1e-3, 0.02)
    trend = trend_of(outputs, 500.0)
    assert trend
    assert trend.earliest_on
    assert trend.falls_below_on
    assert trend.latest_on
    assert trend.earliest_on < trend.falls_below_on < trend.latest_on
    assert trend.earliest_on < START + dt.timedelta(days=693) < trend.latest_on
    after = trend_of(outputs, 500.0, since=START + dt.timedelta(days=200))
    assert after
    assert after.since == START + dt.timedelta(days=200)
    assert after.days == 10


def test_no_trend_from_two_days_and_none_below_for_a_lamp_that_holds() -> None:
    assert trend_of(falling(range(0, 60, 30), 1e-3), 600.0) is None
    steady = trend_of(falling(range(0, 300, 30), 0.0), 600.0)
    assert steady
    assert steady.falls_below_on is None
    low = trend_of(falling(range(0, 300, 30), 1e-3), 900.0)
    assert low
    assert low.falls_below_on == START + dt.timedelta(days=270)
    # A sudden fall is told though the line has not come down to it.
    broken = trend_of(
        [*falling(range(0, 240, 30), 1e-4), DayOutput(START + dt.timedelta(days=240), 300.0)], 600.0
    )
    assert broken
    assert broken.falls_below_on == broken.latest_on == START + dt.timedelta(days=240)


def test_days_that_tell_no_beam_are_left_out() -> None:
    readings = [
        Reading(distance_mm=0, irradiance_mw_cm2=900, taken_at="2026-02-01"),
        *(Reading(distance_mm=z, irradiance_mw_cm2=BEAM.on_axis_mw_cm2(z), taken_at="2026-01-01") for z in (0, 6)),
        Reading(distance_mm=4, irradiance_mw_cm2=500),
    ]  # fmt: skip
    (only,) = outputs_by_day(readings, 9.0)
    assert only.day == START
    assert only.contact_mw_cm2 == pytest.approx(1150, rel=1e-4)


def test_what_a_lamp_must_give_just_cures_the_darkest_mass_in_the_longest_exposure() -> None:
    light, dark = mass("light", 1.6, 0.35), mass("dark", 0.85, 0.45)
    wanted = wanted_of(BEAM, [light, dark], RULES)
    assert wanted.mass == "dark"
    at_need = Beam(BEAM.radius_mm, wanted.contact_mw_cm2, BEAM.exponent)
    reaching = slab_mw_cm2(at_need, 5.0, 1.0, 1 / 0.85, 1.5)
    assert reaching * 40 / 1000 == pytest.approx(RULES.value("light.conversion_factor") * 0.45)
    clear = wanted_of(BEAM, [mass("clear", 4.0, 0.05)], RULES)
    assert (clear.contact_mw_cm2, clear.mass) == (233.0, None)


def test_table_grows_with_distance_in_whole_presses_until_it_is_too_long() -> None:
    rows = seconds_table(BEAM, [mass("light", 1.6, 0.35), mass("dark", 0.85, 0.45)], [5, 10, 20], RULES)
    for row in rows:
        known = [s for s in row.seconds if s is not None]
        assert known == sorted(known)
        assert all(s % 5 == 0 and 5 <= s <= 40 for s in known)
        assert row.seconds == (*known, *([None] * (len(DISTANCES_MM) - len(known))))
    light, dark = rows
    assert all(
        b is None or (a is not None and a <= b) for a, b in zip(light.seconds, dark.seconds, strict=True)
    )
    assert dark.seconds[-1] is None
    # By hand: 0.7 J/cm2 at 2 mm under the surface, tip in contact.
    need = 5 * 0.35 * 1000 / slab_mw_cm2(BEAM, 0.0, 2.0, 1 / 1.6, 1.5)
    assert light.seconds[0] == max(5.0, 5 * math.ceil(need / 5))


def test_the_makers_time_counts_where_it_is_longer() -> None:
    slow = mass(manufacturer=ManufacturerCure(seconds=20, at_irradiance_mw_cm2=1150))
    (row,) = seconds_table(BEAM, [slow], [5, 10, 20], RULES)
    assert row.seconds[0] == 20
