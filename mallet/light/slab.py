"""Light on the axis of a tip under a flat layer of a composite: no walls, nothing in the way.

E = M (n+1) integral of u^n exp(-mu d / c) du from h / sqrt(h2 + R2) to 1, with u the cosine in air, c the one behind
the surface (Snell), d the depth under the surface and h the distance from tip to point. With d = 0 it is the beam's own
closed form.
"""

from __future__ import annotations

import numpy as np

from mallet.light.beam import Beam

NODES, WEIGHTS = np.polynomial.legendre.leggauss(48)


def slab_mw_cm2(
    beam: Beam, distance_mm: float, depth_mm: float, attenuation_per_mm: float, index: float
) -> float:
    """Return the planar irradiance at a depth in a layer of a refractive index whose surface is at a distance from the
    tip."""
    height = distance_mm + depth_mm
    least = height / np.hypot(height, beam.radius_mm)
    u = least + (1 - least) * (NODES + 1) / 2
    passed = np.exp(-attenuation_per_mm * depth_mm / np.sqrt(1 - (1 - u**2) / index**2))
    share = (WEIGHTS / 2 * (1 - least) * u**beam.exponent * passed).sum()
    bent = float(beam.measured_over_fit(np.array([height]))[0])
    return float(beam.exitance_mw_cm2 * bent * (beam.exponent + 1) * share)
