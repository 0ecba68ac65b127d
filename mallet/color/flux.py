"""Layers that scatter and absorb, by two fluxes (Kubelka 1948, J Opt Soc Am 38:448), and what the surface does to them.

K and S are per mm, thickness in mm; all of them broadcast. The surface is corrected once (Saunderson 1942, J Opt Soc
Am 32:727), the mirror reflection left out.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
# Under this a layer scatters without absorbing, or neither.
NONE = 1e-9


@dataclass(frozen=True)
class Surface:
    """What the surface sends back of light from outside (`k1`) and of diffuse light from inside (`k2`)."""

    k1: float = 0.04
    k2: float = 0.596


def layer(k: Floats, s: Floats, thickness_mm: Floats) -> tuple[Floats, Floats]:
    """Return reflectance and transmittance of a layer by itself."""
    k, s, x = np.broadcast_arrays(*(np.asarray(one, dtype=np.float64) for one in (k, s, thickness_mm)))
    scatters, sx = s > NONE, s * x
    share = k / np.where(scatters, s, 1.0)
    b = np.sqrt(share * (share + 2))
    once, lost = np.exp(-b * sx), -np.expm1(-2 * b * sx)
    below = (1 + share) * lost + b * (2 - lost)
    absorbs = b > NONE
    below = np.where(absorbs, below, 1.0)
    reflected = np.where(absorbs, lost / below, sx / (1 + sx))
    passed = np.where(absorbs, 2 * b * once / below, 1 / (1 + sx))
    return np.where(scatters, reflected, 0.0), np.where(scatters, passed, np.exp(-k * x))


def over(reflected: Floats, passed: Floats, backing: Floats) -> Floats:
    """Return the reflectance of a layer that looks the same from both sides, over a backing."""
    return np.asarray(reflected + passed**2 * backing / (1 - reflected * backing))


def seen_outside(inside: Floats, surface: Surface) -> Floats:
    """Return the reflectance that an instrument reads of what is reflected inside."""
    return np.asarray((1 - surface.k1) * (1 - surface.k2) * inside / (1 - surface.k2 * inside))


def seen_inside(read: Floats, surface: Surface) -> Floats:
    """Return what is reflected inside of the reflectance that an instrument reads."""
    return np.asarray(read / ((1 - surface.k1) * (1 - surface.k2) + surface.k2 * read))
