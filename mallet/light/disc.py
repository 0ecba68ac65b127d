"""A curing light's disc as a target sees it, cut by turn and by projected solid angle: compiled."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from mallet.tracer import Ray, ray_from
from mallet.trees import compiled

Floats = NDArray[np.float64]
# A tip that touches a target still has it in front.
LEAST_HEIGHT_MM = 1e-3


class Disc(NamedTuple):
    """A curing light's disc: its middle (3,), two unit vectors in its plane and the one from what it lights
    toward it (3, 3), its radius, and its radiance as `peak * cosine^(exponent - 1)`."""

    centre: Floats
    axes: Floats
    radius_mm: float
    peak: float
    exponent: float


class View(NamedTuple):
    """The disc as one target sees it: whether it lies before the target, how far off its plane and how far
    beside it the middle lies, which way in the plane, and how far round it reaches to either side of that."""

    is_before: bool
    height: float
    beside: float
    east: float
    north: float
    half_turn: float
    is_outside: bool
    radius_mm: float


@compiled
def view_of(target: Floats, disc: Disc) -> View:
    x, y, z = 0.0, 0.0, 0.0
    for i in range(3):
        off = disc.centre[i] - target[i]
        x, y, z = x + off * disc.axes[0, i], y + off * disc.axes[1, i], z + off * disc.axes[2, i]
    beside = math.sqrt(x * x + y * y)
    east, north = (x / beside, y / beside) if beside > LEAST_HEIGHT_MM else (1.0, 0.0)
    is_outside = beside > disc.radius_mm
    half_turn = math.asin(disc.radius_mm / beside) if is_outside else math.pi
    height = max(z, LEAST_HEIGHT_MM)
    return View(z > 0, height, beside, east, north, half_turn, is_outside, disc.radius_mm)


class Chord(NamedTuple):
    """A way across the disc as a target sees it: its direction in the disc's frame, the shares of the half
    sphere before its near and its far end, and the projected solid angle (sr) that it stands for a unit
    of turn."""

    x: float
    y: float
    low: float
    high: float
    spread: float


@compiled
def chord_at(view: View, turn: float) -> Chord:
    """Return the chord at a turn, from 0 to 1 over what the target sees."""
    if view.is_outside:
        # The chords shrink towards the ends: they gather there.
        bent = math.pi * (turn - 0.5)
        angle, stretch = view.half_turn * math.sin(bent), view.half_turn * math.pi * math.cos(bent)
    else:
        angle, stretch = view.half_turn * (2 * turn - 1), 2 * view.half_turn
    cos, sin = math.cos(angle), math.sin(angle)
    middle = view.beside * cos
    half = math.sqrt(max(view.radius_mm**2 - (view.beside * sin) ** 2, 0.0))
    near, far = max(middle - half, 0.0) ** 2, (middle + half) ** 2
    low, high = near / (near + view.height**2), far / (far + view.height**2)
    x, y = cos * view.east - sin * view.north, sin * view.east + cos * view.north
    return Chord(x, y, low, high, stretch * (high - low) / 2)


@compiled
def way_on(chord: Chord, ring: float) -> tuple[float, float, float]:
    """Return the slopes of the way to a place on a chord, from 0 to 1, and its cosine to the axis."""
    share = chord.low + ring * (chord.high - chord.low)
    cosine = math.sqrt(1 - share)
    slope = math.sqrt(share) / cosine
    return slope * chord.x, slope * chord.y, cosine


@compiled
def ray_to(target: Floats, axes: Floats, x: float, y: float, cosine: float) -> Ray:
    """Return the ray from a target with slopes off a disc's axis."""
    x, y = x * cosine, y * cosine
    return ray_from(
        target[0],
        target[1],
        target[2],
        x * axes[0, 0] + y * axes[1, 0] + cosine * axes[2, 0],
        x * axes[0, 1] + y * axes[1, 1] + cosine * axes[2, 1],
        x * axes[0, 2] + y * axes[1, 2] + cosine * axes[2, 2],
    )
