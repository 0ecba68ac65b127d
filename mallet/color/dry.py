"""How a tooth changes color as it dries, and what that does to a reading."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from mallet.rulebook import Rulebook

Floats = NDArray[np.float64]
# Lighter, less red and less yellow, in the end.
DRIED_LAB = np.array([4.0, -0.3, -1.0])


def dried(minutes: float, rules: Rulebook) -> Floats:
    """Return how far L*, a* and b* of a tooth have moved once it has been dry so long (3,)."""
    return np.asarray(DRIED_LAB * (1 - math.exp(-minutes / rules.value("shade.dry_tau_min"))))


def as_if_wet(lab: Floats, minutes: float, rules: Rulebook) -> Floats:
    """Return the color (3,) that a tooth had before it was dry so long."""
    return np.asarray(lab - dried(minutes, rules))
