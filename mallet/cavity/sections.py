"""Plane pictures of solids: sections across and outlines from above, as millimetre polygons."""

from __future__ import annotations

import numpy as np
from manifold3d import Manifold

Ring = list[list[float]]
LEAST_AREA_MM2 = 1e-4


def lengthwise_section(solid: Manifold, y_mm: float = 0.0) -> list[Ring]:
    """Return the mesiodistal section at a facial-lingual place: rings of [x, z]."""
    turned = solid.rotate((90.0, 0.0, 0.0))
    return [[[x, -y] for x, y in ring] for ring in _rings(turned.slice(y_mm).to_polygons())]


def crosswise_section(solid: Manifold, x_mm: float) -> list[Ring]:
    """Return the faciolingual section at a mesiodistal place: rings of [y, z]."""
    turned = solid.rotate((0.0, -90.0, 0.0))
    return [[[y, -x] for x, y in ring] for ring in _rings(turned.slice(x_mm).to_polygons())]


def from_above(solid: Manifold) -> list[Ring]:
    """Return the outline seen from occlusal: rings of [x, y]."""
    return _rings(solid.project().to_polygons())


def level_section(solid: Manifold, z_mm: float) -> list[Ring]:
    """Return the section parallel to the occlusal plane: rings of [x, y]."""
    return _rings(solid.slice(z_mm).to_polygons())


def area_mm2(rings: list[Ring]) -> float:
    """Return the area of rings; holes run the other way and count negative."""
    total = 0.0
    for ring in rings:
        p = np.array(ring)
        x, y = p[:, 0], p[:, 1]
        total += float((x * np.roll(y, -1) - y * np.roll(x, -1)).sum()) / 2
    return abs(total)


def _rings(polygons: list[np.ndarray]) -> list[Ring]:
    rings = [np.asarray(p, dtype=np.float64) for p in polygons if len(p) > 2]
    return [p.tolist() for p in rings if abs(_signed(p)) > LEAST_AREA_MM2]


def _signed(p: np.ndarray) -> float:
    x, y = p[:, 0], p[:, 1]
    return float((x * np.roll(y, -1) - y * np.roll(x, -1)).sum()) / 2
