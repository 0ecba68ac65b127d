"""Heat at the pulp under a curing light, as a range of two estimates by conduction in dentin.

Low: a disc of the floor's size on a semi-infinite solid (Carslaw and Jaeger 1959, 10.5), from which heat runs off on
all sides. High: while it is lit, a floor without end (2.9), from which heat runs straight toward the pulp only; what
earlier exposures left behind is the disc's. Both take the pulp for more dentin; neither has blood flow, which cools,
nor the heat that curing sets free, which warms. Neither is a bound. Pulses add up, since conduction is linear.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

from mallet.light.beam import W_M2_PER_MW_CM2
from mallet.rulebook import Rulebook
from mallet.terms.errors import InputError

Floats = NDArray[np.float64]
LOOKS = 64
M2_PER_MM2 = 1e-6


@dataclass(frozen=True)
class Tissue:
    """What conducts heat: conductivity in W/(m K) and diffusivity in m2/s, from one source."""

    conductivity_w_mk: float
    diffusivity_m2_s: float


def dentin_of(rules: Rulebook) -> Tissue:
    """Return dentin as the rulebook has it."""
    return Tissue(
        rules.value("light.dentin_conductivity_w_mk"),
        rules.value("light.dentin_diffusivity_mm2_s") * M2_PER_MM2,
    )


@dataclass(frozen=True)
class Pulse:
    """Light on the floor of a cavity: when it begins and how long it lasts (s), and what is absorbed
    there (mW/cm2)."""

    begin_s: float
    seconds: float
    absorbed_mw_cm2: float


def rise_under_disc(
    flux_w_m2: float, radius_mm: float, depth_mm: float, seconds: ArrayLike, tissue: Tissue
) -> Floats:
    """Return the rise (degC) at a depth under the middle of a disc on a semi-infinite solid, under a
    constant flux, after times; an infinite radius gives the plane case (10.5 and 2.9)."""
    t = np.asarray(seconds, dtype=np.float64)
    root = np.sqrt(tissue.diffusivity_m2_s * np.maximum(t, 1e-9))
    x, far = _metres(depth_mm), math.hypot(_metres(depth_mm), radius_mm / 1000)
    spread = _ierfc(x / (2 * root)) - (_ierfc(far / (2 * root)) if math.isfinite(far) else 0.0)
    return np.asarray(np.where(t > 0, 2 * flux_w_m2 / tissue.conductivity_w_mk * root * spread, 0.0))


def _ierfc(x: Floats) -> Floats:
    """Return the integral of the complementary error function."""
    from scipy.special import erfc  # slow to load: not before it is needed

    return np.asarray(np.exp(-(x**2)) / math.sqrt(math.pi) - x * erfc(x))


def warmth(
    pulses: Sequence[Pulse], radius_mm: float, dentin_mm: float, tissue: Tissue
) -> tuple[float, float]:
    """Return the highest rise (degC) at the pulp by the low and by the high estimate, with that much dentin between.

    Raises InputError where no dentin is left.
    """
    if not pulses:
        return 0.0, 0.0
    # Heat arrives late: the peak comes after the light, by no more than its time to diffuse.
    late = 2 * _metres(dentin_mm) ** 2 / tissue.diffusivity_m2_s
    ends = np.array([pulse.begin_s + pulse.seconds for pulse in pulses])
    times = (ends[:, None] + np.linspace(0.0, late, LOOKS)).ravel()
    left = _left_behind(pulses, radius_mm, dentin_mm, times, tissue)
    own = np.repeat(np.arange(len(pulses)), LOOKS)
    alone = np.array(
        [_left_behind([p], math.inf, dentin_mm, times[own == i], tissue)[0] for i, p in enumerate(pulses)]
    )
    others = left.sum(axis=0) - left[own, np.arange(len(times))]
    return float(left.sum(axis=0).max()), float((others + alone.ravel()).max())


def _flux(pulse: Pulse) -> float:
    return pulse.absorbed_mw_cm2 * W_M2_PER_MW_CM2


def _left_behind(
    pulses: Sequence[Pulse], radius_mm: float, dentin_mm: float, times: Floats, tissue: Tissue
) -> Floats:
    """Return what each of N pulses does under a disc at T times (N, T): a curing light that goes off is one of
    the same strength taken away."""
    begins = np.array([pulse.begin_s for pulse in pulses])[:, None]
    lasts = np.array([pulse.seconds for pulse in pulses])[:, None]
    on, off = (
        rise_under_disc(1.0, radius_mm, dentin_mm, times - since, tissue)
        for since in (begins, begins + lasts)
    )
    return np.asarray((on - off) * np.array([_flux(pulse) for pulse in pulses])[:, None])


def _metres(length_mm: float) -> float:
    if length_mm <= 0:
        raise InputError.at(
            "preparation.remaining_dentin_mm", length_mm, "more than 0, for heat to be calculated"
        )
    return length_mm / 1000
