"""Round rods as cutters: what a bur leaves that is sunk or led straight."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from mallet.cavity.solids import Tagged, tagged_solid

Floats = NDArray[np.float64]
AROUND = 24


def rod(start: Floats, end: Floats, radius_mm: float) -> Tagged:
    """Return a round rod between two points, a prism of the same cross-section."""
    way = end - start
    length = float(np.linalg.norm(way))
    w = way / length
    side = np.cross(w, [1.0, 0.0, 0.0] if abs(w[0]) < 0.9 else [0.0, 1.0, 0.0])
    u = side / np.linalg.norm(side)
    wider = math.sqrt(2 * math.pi / AROUND / math.sin(2 * math.pi / AROUND))
    turn = 2 * np.pi * np.arange(AROUND) / AROUND
    ring = wider * radius_mm * (np.outer(np.cos(turn), u) + np.outer(np.sin(turn), np.cross(w, u)))
    at = np.arange(AROUND)
    after = (at + 1) % AROUND
    low, high = np.full(AROUND, 2 * AROUND), np.full(AROUND, 2 * AROUND + 1)
    triangles = [
        np.column_stack([at, after, after + AROUND]),
        np.column_stack([at, after + AROUND, at + AROUND]),
        np.column_stack([after, at, low]),
        np.column_stack([at + AROUND, after + AROUND, high]),
    ]
    return tagged_solid(
        np.concatenate([start + ring, end + ring, start[None], end[None]]), np.concatenate(triangles)
    )
