"""How long one may look at what a curing light sends back, without a shield.

The limit is a dose of blue-weighted radiance in a day (ICNIRP 2013, Health Phys 105:74). A curing light's
own tip is the worst that can be seen; a tooth that it lights sends back a share of it.
"""

from __future__ import annotations

import math

import numpy as np

from mallet.light.beam import W_M2_PER_MW_CM2, Beam
from mallet.terms.errors import InputError

# Blue-light hazard function B at wavelengths in nm (ICNIRP 2013, table 2; from memory).
WAVELENGTH_NM = (400, 405, 410, 415, 420, 425, 430, 435, 440, 445, 450, 455, 460, 465, 470, 475, 480, 485,
                 490, 495, 500)  # fmt: skip
HAZARD = (0.10, 0.20, 0.40, 0.80, 0.90, 0.95, 0.98, 1.00, 1.00, 0.97, 0.94, 0.90, 0.80, 0.70, 0.62, 0.55, 0.45,
          0.40, 0.22, 0.16, 0.10)  # fmt: skip


def hazard_at(peak_nm: float) -> float:
    """Return the weight of a narrow band by its peak; raise InputError outside 400-500 nm."""
    if not WAVELENGTH_NM[0] <= peak_nm <= WAVELENGTH_NM[-1]:
        raise InputError.at("restoration.light.peak_nm", peak_nm, "from 400 to 500")
    return float(np.interp(peak_nm, WAVELENGTH_NM, HAZARD))


def direct_seconds(beam: Beam, peak_nm: float, dose_j_m2_sr: float) -> float:
    """Return the seconds a day that an eye may look straight into the tip.

    Radiance does not fall with distance while the tip fills the field that counts.
    """
    radiance = beam.peak_radiance * W_M2_PER_MW_CM2
    return dose_j_m2_sr / (radiance * hazard_at(peak_nm))


def reflected_seconds(
    beam: Beam, peak_nm: float, dose_j_m2_sr: float, distance_mm: float, reflectance: float
) -> float:
    """Return the seconds a day that an eye may look at a tooth lit from a distance, a matt reflector."""
    radiance = beam.on_axis_mw_cm2(distance_mm) * W_M2_PER_MW_CM2 * reflectance / math.pi
    return dose_j_m2_sr / (radiance * hazard_at(peak_nm))
