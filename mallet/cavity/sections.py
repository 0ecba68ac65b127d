"""Plane pictures of solids: sections across and outlines from above, as millimeter polygons.

A ring is an array (N, 2), closed without repeating its first point.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from manifold3d import CrossSection, Manifold
from numpy.typing import ArrayLike, NDArray

Ring = NDArray[np.float64]
LEAST_AREA_MM2 = 1e-4


def lengthwise_section(solid: Manifold, y_mm: float = 0.0, within: Manifold | None = None) -> list[Ring]:
    """Return the mesiodistal section at a facial-lingual place: rings of [x, z]; of what lies within
    another solid, if one is given."""
    cut = _turned_slice(solid, within, (90.0, 0.0, 0.0), y_mm)
    return [ring * [1, -1] for ring in rings_of(cut)]


def crosswise_section(solid: Manifold, x_mm: float, within: Manifold | None = None) -> list[Ring]:
    """Return the faciolingual section at a mesiodistal place: rings of [y, z]; of what lies within
    another solid, if one is given."""
    cut = _turned_slice(solid, within, (0.0, -90.0, 0.0), x_mm)
    return [ring[:, ::-1] * [1, -1] for ring in rings_of(cut)]


def _turned_slice(
    solid: Manifold, within: Manifold | None, degrees: tuple[float, float, float], at_mm: float
) -> CrossSection:
    cut = solid.rotate(degrees).slice(at_mm)
    # Plane figures are cut far faster than the solids.
    return cut if within is None else cut ^ within.rotate(degrees).slice(at_mm)


def from_above(solid: Manifold) -> list[Ring]:
    """Return the outline seen from occlusal: rings of [x, y]."""
    return rings_of(solid.project())


def level_section(solid: Manifold, z_mm: float) -> list[Ring]:
    """Return the section parallel to the occlusal plane: rings of [x, y]."""
    return rings_of(solid.slice(z_mm))


def area_mm2(rings: Sequence[ArrayLike]) -> float:
    """Return the area of rings; holes run the other way and count negative."""
    return abs(sum(_signed(np.asarray(ring, dtype=np.float64)) for ring in rings))


def rings_of(section: CrossSection) -> list[Ring]:
    """Return the rings of a plane figure; slivers are left out."""
    rings = [np.asarray(p, dtype=np.float64) for p in section.to_polygons() if len(p) > 2]
    return [ring for ring in rings if abs(_signed(ring)) > LEAST_AREA_MM2]


def _signed(ring: Ring) -> float:
    x, y = ring[:, 0], ring[:, 1]
    return float(x[:-1] @ y[1:] - y[:-1] @ x[1:] + x[-1] * y[0] - y[-1] * x[0]) / 2
