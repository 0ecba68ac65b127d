"""Layers over each other and over what lies behind them: the color of a column."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from mallet.color.flux import Surface, layer, over, seen_outside

Floats = NDArray[np.float64]
# K and S (..., N) per mm, and thickness (...,) in mm.
Layer = tuple[Floats, Floats, Floats]


def inside(layers: Sequence[Layer], backing: Floats) -> Floats:
    """Return what is reflected inside (..., N) by layers from the front to the back, over a backing (..., N).

    Reckoned from the back: several layers are not the same from both sides.
    """
    found = np.asarray(backing, dtype=np.float64)
    for k, s, thickness_mm in reversed(layers):
        reflected, passed = layer(k, s, np.asarray(thickness_mm)[..., None])
        found = over(reflected, passed, found)
    return found


def read_over(layers: Sequence[Layer], backing: Floats, surface: Surface) -> Floats:
    """Return the reflectance that an instrument reads (..., N) of layers from the front to the back over a backing."""
    return seen_outside(inside(layers, backing), surface)


def both_ways(layers: Sequence[Layer]) -> tuple[Floats, Floats, Floats]:
    """Return the reflectance of layers from the front, what passes, and the reflectance from the back, by themselves."""
    (k, s, thickness_mm), *others = layers
    front, passed = layer(k, s, np.asarray(thickness_mm)[..., None])
    back = front
    for k, s, thickness_mm in others:
        reflected, through = layer(k, s, np.asarray(thickness_mm)[..., None])
        between = 1 - back * reflected
        front = front + passed**2 * reflected / between
        back = reflected + through**2 * back / between
        passed = passed * through / between
    return front, passed, back
