"""A radiometer: the interface that a driver serves, one steady reading out of many samples, and the
simulated instrument that ships with the application."""

from __future__ import annotations

import math
import statistics
from dataclasses import dataclass
from random import Random
from typing import Literal, Protocol

from mallet.light.beam import Beam

STEADY_SAMPLES = 6
MOST_SAMPLES = 40
STEADY_SHARE = 0.03


class Radiometer(Protocol):
    """What a driver must do: name itself, and give one sample of the light that reaches its sensor.

    A sample may take as long as the instrument needs; calls come one after another.
    """

    name: str

    def sample_mw_cm2(self, distance_mm: float) -> float: ...


@dataclass(frozen=True)
class Steady:
    """The mean of the last samples, how far they lie apart, how many were taken, and whether they held."""

    irradiance_mw_cm2: float
    spread_mw_cm2: float
    samples: int
    is_steady: bool


def read_steadily(radiometer: Radiometer, distance_mm: float) -> Steady:
    """Sample until the last few hold within 3 %; a curing light that warms up drifts at first."""
    samples: list[float] = []
    while len(samples) < MOST_SAMPLES:
        samples.append(radiometer.sample_mw_cm2(distance_mm))
        last = samples[-STEADY_SAMPLES:]
        spread = max(last) - min(last)
        mean = statistics.fmean(last)
        if len(last) == STEADY_SAMPLES and spread <= STEADY_SHARE * mean:
            return Steady(mean, spread, len(samples), is_steady=True)
    return Steady(mean, spread, len(samples), is_steady=False)


TipState = Literal["clean", "dirty", "chipped"]
# What a tip lets through, and what it leaves of the beam's narrowness.
TIPS: dict[TipState, tuple[float, float]] = {
    "clean": (1.0, 1.0),
    "dirty": (0.72, 0.9),
    "chipped": (0.8, 0.55),
}


@dataclass(frozen=True)
class Condition:
    """How the curing light before a simulated sensor is: the age of its battery, and its tip."""

    battery_months: float = 0.0
    tip: TipState = "clean"


class SimulatedRadiometer:
    """Samples a curing light that there is none of: a beam, worn by its condition, seen with noise.

    Its constants are invented: they exercise what reads them and tell nothing about real curing lights.
    """

    name = "simulated radiometer"
    NOISE = 0.006
    WARMS_BY = 0.12
    WARMS_IN = 4.0
    FADES_IN_MONTHS = 120.0

    def __init__(self, beam: Beam, condition: Condition, random: Random) -> None:
        passed, narrow = TIPS[condition.tip]
        worn = passed * math.exp(-condition.battery_months / self.FADES_IN_MONTHS)
        self._beam = Beam(beam.radius_mm, worn * beam.contact_mw_cm2, narrow * beam.exponent)
        self._random = random
        self._taken = 0

    def sample_mw_cm2(self, distance_mm: float) -> float:
        cold = 1 + self.WARMS_BY * math.exp(-self._taken / self.WARMS_IN)
        self._taken += 1
        seen = self._beam.on_axis_mw_cm2(distance_mm) * cold * self._random.gauss(1.0, self.NOISE)
        return max(0.0, seen)
