"""Plane pictures of solids: sections across and outlines from above, as millimetre polygons."""

from __future__ import annotations

import numpy as np
from manifold3d import CrossSection, Manifold

Ring = list[list[float]]
LEAST_AREA_MM2 = 1e-4


def lengthwise_section(solid: Manifold, y_mm: float = 0.0, within: Manifold | None = None) -> list[Ring]:
    """Return the mesiodistal section at a facial-lingual place: rings of [x, z]; of what lies within
    another solid, if one is given."""
    cut = _turned_slice(solid, within, (90.0, 0.0, 0.0), y_mm)
    return [[[x, -y] for x, y in ring] for ring in _rings(cut)]


def crosswise_section(solid: Manifold, x_mm: float, within: Manifold | None = None) -> list[Ring]:
    """Return the faciolingual section at a mesiodistal place: rings of [y, z]; of what lies within
    another solid, if one is given."""
    cut = _turned_slice(solid, within, (0.0, -90.0, 0.0), x_mm)
    return [[[y, -x] for x, y in ring] for ring in _rings(cut)]


def _turned_slice(
    solid: Manifold, within: Manifold | None, degrees: tuple[float, float, float], at_mm: float
) -> CrossSection:
    cut = solid.rotate(degrees).slice(at_mm)
    # Plane figures are cut far faster than the solids.
    return cut if within is None else cut ^ within.rotate(degrees).slice(at_mm)


def from_above(solid: Manifold) -> list[Ring]:
    """Return the outline seen from occlusal: rings of [x, y]."""
    return _rings(solid.project())


def level_section(solid: Manifold, z_mm: float) -> list[Ring]:
    """Return the section parallel to the occlusal plane: rings of [x, y]."""
    return _rings(solid.slice(z_mm))


def area_mm2(rings: list[Ring]) -> float:
    """Return the area of rings; holes run the other way and count negative."""
    total = 0.0
    for ring in rings:
        p = np.array(ring)
        x, y = p[:, 0], p[:, 1]
        total += float((x * np.roll(y, -1) - y * np.roll(x, -1)).sum()) / 2
    return abs(total)


def _rings(section: CrossSection) -> list[Ring]:
    rings = [np.asarray(p, dtype=np.float64) for p in section.to_polygons() if len(p) > 2]
    return [p.tolist() for p in rings if abs(_signed(p)) > LEAST_AREA_MM2]


def _signed(p: np.ndarray) -> float:
    x, y = p[:, 0], p[:, 1]
    return float((x * np.roll(y, -1) - y * np.roll(x, -1)).sum()) / 2
