"""A lesion at the neck as a cutter sunk into the surface of the tooth.

Its depth is measured from the surface everywhere, straight in, so that however the tooth curves its margin
lies where it was measured and its volume is that of the plain solid (Cavalieri).
"""

from __future__ import annotations

import math

import numpy as np
from manifold3d import Manifold
from numpy.typing import NDArray

from mallet.cavity.access import Access
from mallet.cavity.measures import topmost_mm
from mallet.cavity.solids import Tagged, tagged_solid
from mallet.cavity.tool import Tool
from mallet.terms.case import Notch, Saucer
from mallet.terms.errors import InputError

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
AROUND, RINGS = 48, 14
GRID_MM = 0.15
OVERRUN_MM = 2.0
# A margin without any depth would leave films along it.
RIM_MM = 0.01
STEP_MM = 0.1


def neck_tool(index: int, part: Saucer | Notch, outer: Manifold, access: Access) -> Tool:
    """Return the cutter of a neck lesion in a tooth that stands in the frame of its access.

    Raises InputError where its margin would leave the face.
    """
    y = access.toward((0.0, 0.0, part.above_cervical_mm + part.height_mm / 2))[1]
    xy, shares, triangles, rim = _saucer(part) if isinstance(part, Saucer) else _notch(part)
    places = xy + np.array([0.0, y])
    surface = topmost_mm(outer, places)[:, 1]
    if not (surface > 0).all():
        raise _leaves(index, part, outer, y)
    bottom = surface - np.maximum(part.depth_mm * shares, RIM_MM)
    deepest = float(topmost_mm(outer, np.array([[0.0, y]]))[0, 1]) - part.depth_mm
    half = part.width_mm / 2, part.height_mm / 2
    return Tool(
        index=index,
        kind=part.kind,
        side=None,
        cut=_sunk(places, bottom, float(surface.max()) + OVERRUN_MM, triangles, rim),
        nominal_volume_mm3=nominal_mm3(part),
        floor_mm=deepest,
        floor=(-half[0], half[0], y - half[1], y + half[1]),
        slope=0.0,
        depth_mm=part.depth_mm,
    )


def nominal_mm3(part: Saucer | Notch) -> float:
    """Return the volume of half an ellipsoid, or of a wedge."""
    whole = part.width_mm * part.height_mm * part.depth_mm
    return math.pi / 6 * whole if isinstance(part, Saucer) else whole / 2


def _saucer(part: Saucer) -> tuple[Floats, Floats, Ints, Ints]:
    """Return places (N, 2) about the middle, the share of the depth at each, triangles and the rim."""
    tilt = np.pi / 2 * np.arange(1, RINGS + 1) / RINGS
    turn = 2 * np.pi * np.arange(AROUND) / AROUND
    # A polygon of the ellipse's area.
    wider = math.sqrt(2 * math.pi / AROUND / math.sin(2 * math.pi / AROUND))
    circle = wider * np.column_stack([np.cos(turn), np.sin(turn)])
    rings = np.sin(tilt)[:, None, None] * circle
    xy = np.concatenate([[[0.0, 0.0]], rings.reshape(-1, 2)]) * [part.width_mm / 2, part.height_mm / 2]
    shares = np.concatenate([[1.0], np.repeat(np.cos(tilt), AROUND)])
    index = 1 + np.arange(RINGS * AROUND).reshape(RINGS, AROUND)
    after = np.roll(index, -1, axis=1)
    inner, outer = index[:-1], index[1:]
    inner_after, outer_after = after[:-1], after[1:]
    triangles = [
        _columns(np.zeros_like(index[0]), index[0], after[0]),
        _columns(inner, outer, outer_after),
        _columns(inner, outer_after, inner_after),
    ]
    return xy, shares, np.concatenate(triangles), index[-1]


def _notch(part: Notch) -> tuple[Floats, Floats, Ints, Ints]:
    """Return places (N, 2) about the middle, the share of the depth at each, triangles and the rim."""
    cols = math.ceil(part.width_mm / GRID_MM) + 1
    rows = 2 * math.ceil(part.height_mm / 2 / GRID_MM) + 1
    x, v = np.linspace(-part.width_mm / 2, part.width_mm / 2, cols), np.linspace(-1.0, 1.0, rows)
    grid = np.stack(np.meshgrid(x, part.height_mm / 2 * v), axis=-1)
    index = np.arange(rows * cols).reshape(rows, cols)
    a, b, c, d = index[:-1, :-1], index[:-1, 1:], index[1:, 1:], index[1:, :-1]
    triangles = np.concatenate([_columns(a, b, c), _columns(a, c, d)])
    rim = np.concatenate([index[0, :-1], index[:-1, -1], index[-1, :0:-1], index[:0:-1, 0]])
    return grid.reshape(-1, 2), np.repeat(1 - np.abs(v), cols), triangles, rim


def _columns(*corners: Ints) -> Ints:
    return np.column_stack([c.ravel() for c in corners])


def _sunk(xy: Floats, bottom: Floats, top: float, triangles: Ints, rim: Ints) -> Tagged:
    """Return the solid between a bottom and a level top over the same places, walled along its rim."""
    count = len(xy)
    low, high = np.column_stack([xy, bottom]), np.column_stack([xy, np.full(count, top)])
    after = np.roll(rim, -1)
    walls = np.concatenate([_columns(rim, after, after + count), _columns(rim, after + count, rim + count)])
    return tagged_solid(
        np.concatenate([low, high]), np.concatenate([triangles[:, ::-1], triangles + count, walls])
    )


def _leaves(index: int, part: Saucer | Notch, outer: Manifold, y: float) -> InputError:
    """Return what is wrong with a lesion whose margin leaves the face: its width or, where it is too high or
    lies too far down for any, its height."""

    def fits(width: float, height: float) -> bool:
        corners = np.array([[width / 2, y], [-width / 2, y], [0.0, y + height / 2], [0.0, y - height / 2]])
        return bool((topmost_mm(outer, corners)[:, 1] > 0).all())

    def most(given: float, other: float, is_width: bool) -> float:
        tried = given
        while tried > STEP_MM and not (fits(tried, other) if is_width else fits(other, tried)):
            tried = round(tried - STEP_MM, 1)
        return tried

    path = f"preparation.parts[{index}]"
    is_high = not fits(STEP_MM, part.height_mm)
    if is_high:
        allowed = f"up to {most(part.height_mm, STEP_MM, False):.1f}: the tooth ends there"
        return InputError.at(f"{path}.height_mm", part.height_mm, allowed)
    allowed = f"less than {most(part.width_mm, part.height_mm, True):.1f}: the face ends there"
    return InputError.at(f"{path}.width_mm", part.width_mm, allowed)
