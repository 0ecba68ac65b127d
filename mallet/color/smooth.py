"""A smooth spectrum that has a color: for what was read in CIELAB alone but stands behind what is known by its spectrum."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from mallet.color.spectra import BANDS, bands_of_lab, weights, white

Floats = NDArray[np.float64]
LEAST, MOST = 0.005, 0.95


def smooth_of(lab: Floats) -> Floats:
    """Return a parabola over the wavelengths (..., 31) that reads as a color (..., 3) by daylight; cut off where it would be no
    reflectance."""
    across = np.linspace(-1.0, 1.0, BANDS)
    shapes = np.stack([np.ones(BANDS), across, across**2])
    shares = bands_of_lab(np.asarray(lab, dtype=np.float64)) * white() @ np.linalg.inv(shapes @ weights())
    return np.asarray(np.clip(shares @ shapes, LEAST, MOST))
