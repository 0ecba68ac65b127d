"""Reflectance to color: 31 values from 400 to 700 nm, the CIE 1931 observer of 2 degrees, and four lamps.

Tables are of CIE 015:2018, every 10 nm; of the lamps with lines (FL11, LED-B3) each value stands for the band about it:
a quarter, a half and a quarter of the three values at 5 nm.
"""

from __future__ import annotations

import csv
from functools import cache
from importlib import resources
from typing import Literal

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Lamp = Literal["d65", "a", "fl11", "led_b3"]
WAVELENGTHS_NM = np.arange(400.0, 701.0, 10.0)
BANDS = len(WAVELENGTHS_NM)
# Where CIELAB turns from a cube root to a line.
EPSILON, KAPPA = 216 / 24389, 24389 / 27


@cache
def _table() -> dict[str, Floats]:
    text = (resources.files("mallet.color") / "cie.csv").read_text()
    rows = list(csv.DictReader(text.splitlines()))
    return {name: np.array([float(row[name]) for row in rows]) for name in rows[0]}


@cache
def weights(lamp: Lamp = "d65") -> Floats:
    """Return what each band adds to X, Y and Z under a lamp (31, 3); a perfect white has Y 1."""
    table = _table()
    seen = np.column_stack([table[axis] for axis in "xyz"]) * table[lamp][:, None]
    return np.asarray(seen / seen[:, 1].sum())


@cache
def white(lamp: Lamp = "d65") -> Floats:
    """Return X, Y and Z of a perfect white (3,)."""
    return np.asarray(weights(lamp).sum(axis=0))


def xyz_of(reflectance: Floats, lamp: Lamp = "d65") -> Floats:
    """Return X, Y and Z (..., 3) of reflectances (..., 31), with Y 1 for a perfect white."""
    return np.asarray(reflectance @ weights(lamp))


def lab_of(xyz: Floats, lamp: Lamp = "d65") -> Floats:
    """Return CIELAB (..., 3) of X, Y and Z (..., 3)."""
    return lab_of_bands(xyz / white(lamp))


def lab_of_bands(relative: Floats) -> Floats:
    """Return CIELAB (..., 3) of X, Y and Z over those of the white (..., 3)."""
    f = np.where(relative > EPSILON, np.cbrt(relative), (KAPPA * relative + 16) / 116)
    x, y, z = f[..., 0], f[..., 1], f[..., 2]
    return np.stack([116 * y - 16, 500 * (x - y), 200 * (y - z)], axis=-1)


def bands_of_lab(lab: Floats) -> Floats:
    """Return X, Y and Z over those of the white (..., 3) of CIELAB (..., 3)."""
    y = (lab[..., 0] + 16) / 116
    f = np.stack([y + lab[..., 1] / 500, y, y - lab[..., 2] / 200], axis=-1)
    cubed = f**3
    return np.where(cubed > EPSILON, cubed, (116 * f - 16) / KAPPA)


def lab_of_reflectance(reflectance: Floats, lamp: Lamp = "d65") -> Floats:
    """Return CIELAB (..., 3) of reflectances (..., 31) under a lamp."""
    return lab_of(xyz_of(reflectance, lamp), lamp)
