"""A lesion at the neck, a pit, or a groove to be sealed, as a cutter sunk into the surface of the tooth.

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
from mallet.terms.errors import InputError
from mallet.terms.parts import Pit, SaucerLesion, SealantGroove, WedgeLesion
from mallet.tooth import Crown

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
Sunk = SaucerLesion | WedgeLesion | Pit
AROUND, RINGS = 32, 9
GRID_MM = 0.15
OVERRUN_MM = 2.0
# A margin without any depth would leave films along it.
RIM_MM = 0.005
STEP_MM = 0.1
LEAST_MM = 0.5
# A bevel's slope, how far above the cervical line it ends, and how many widths are tried.
BEVEL_DEG, ABOVE_NECK_MM, BEVELS = 25.0, 0.1, 6


def neck_tool(index: int, part: Sunk, outer: Manifold, access: Access) -> Tool:
    """Return the cutter of a neck lesion in a tooth that stands in the frame of its access.

    Raises InputError where its margin would leave the face.
    """
    xy, shares, triangles, rim = _placed(part, access)
    surface = topmost_mm(outer, xy)[:, 1]
    if not (surface > 0).all():
        raise _leaves(index, part, outer, access)
    bottom = surface - np.maximum(part.depth_mm * shares, RIM_MM)
    y = _middle_y(part, access)
    deepest = float(topmost_mm(outer, np.array([[0.0, y]]))[0, 1]) - part.depth_mm
    half = [size / 2 for size in _opening(part)]
    cut = sunk(xy, bottom, float(surface.max()) + OVERRUN_MM, triangles, rim)
    if not isinstance(part, Pit) and part.bevel_mm:
        cut = _beveled(cut, part, part.bevel_mm, outer, access)
    return Tool(
        index=index,
        kind=part.kind,
        side=None,
        cut=cut,
        nominal_volume_mm3=nominal_mm3(part),
        floor_mm=deepest,
        floor=(-half[0], half[0], y - half[1], y + half[1]),
        depth_mm=part.depth_mm,
        spot=(0.0, y, deepest),
    )


def _beveled(
    cut: Tagged, part: SaucerLesion | WedgeLesion, bevel_mm: float, outer: Manifold, access: Access
) -> Tagged:
    """Return what is cut of a lesion with a bevel of its enamel margin: as wide all round as the face bears, deepest at
    the margin and running out, and nowhere below the cementoenamel junction."""
    width, height = _opening(part)
    middle = np.array([0.0, _middle_y(part, access)])
    up = access.toward((0.0, 0.0, 1.0))[1]
    neck = access.toward((0.0, 0.0, ABOVE_NECK_MM))[1]
    turn = 2 * np.pi * np.arange(AROUND) / AROUND
    round_about = np.column_stack([np.cos(turn), np.sin(turn)])
    for wide in np.linspace(bevel_mm, 0.0, BEVELS, endpoint=False):
        out = np.linspace(-1.0, 1.0, RINGS)[:, None, None] * wide
        half = np.maximum(np.array([width, height]) / 2 + out, LEAST_MM / 4)
        xy = np.concatenate([[middle], (middle + half * round_about).reshape(-1, 2)])
        # On the root, and at the neck, there is nothing to bevel: the places stay on the line.
        xy[:, 1] = np.where(up * (xy[:, 1] - neck) < 0, neck, xy[:, 1])
        surface = topmost_mm(outer, xy)[:, 1]
        if (surface > 0).all():
            break
    else:
        return cut
    deep = wide * math.tan(math.radians(BEVEL_DEG))
    shares = np.concatenate([[1.0], np.repeat(np.clip((1 - np.linspace(-1.0, 1.0, RINGS)), 0, 1), AROUND)])
    on_line = np.abs(xy[:, 1] - neck) < RIM_MM
    depths = np.where(on_line, RIM_MM, np.maximum(deep * shares, RIM_MM))
    solid = (
        cut.solid + sunk(xy, surface - depths, float(surface.max()) + OVERRUN_MM, *_fan()).solid
    ).as_original()
    return Tagged(solid, solid.original_id())


def _fan() -> tuple[Ints, Ints]:
    """Return the triangles and the rim of a middle with rings about it."""
    index = 1 + np.arange(RINGS * AROUND).reshape(RINGS, AROUND)
    after = np.roll(index, -1, axis=1)
    inner, outer = index[:-1], index[1:]
    inner_after, outer_after = after[:-1], after[1:]
    triangles = [
        _columns(np.zeros_like(index[0]), index[0], after[0]),
        _columns(inner, outer, outer_after),
        _columns(inner, outer_after, inner_after),
    ]
    return np.concatenate(triangles), index[-1]


def nominal_mm3(part: Sunk) -> float:
    """Return the volume of half an ellipsoid, of a wedge, or of a cylinder."""
    width, height = _opening(part)
    shares = {"saucer_lesion": math.pi / 6, "wedge_lesion": 1 / 2, "pit": math.pi / 4}
    return shares[part.kind] * width * height * part.depth_mm


def _opening(part: Sunk) -> tuple[float, float]:
    """Return how wide and how high a part opens."""
    if isinstance(part, Pit):
        return part.diameter_mm, part.diameter_mm
    return part.width_mm, part.height_mm


def _middle_y(part: Sunk, access: Access) -> float:
    return access.toward((0.0, 0.0, part.above_cej_mm + _opening(part)[1] / 2))[1]


def _placed(part: Sunk, access: Access) -> tuple[Floats, Floats, Ints, Ints]:
    """Return places (N, 2) over a lesion, the share of the depth at each, triangles and the rim."""
    xy, shares, triangles, rim = _notch(part) if isinstance(part, WedgeLesion) else _round(part)
    return xy + np.array([0.0, _middle_y(part, access)]), shares, triangles, rim


def _round(part: SaucerLesion | Pit) -> tuple[Floats, Floats, Ints, Ints]:
    """Return places (N, 2) about the middle, the share of the depth at each, triangles and the rim."""
    tilt = np.pi / 2 * np.arange(1, RINGS + 1) / RINGS
    turn = 2 * np.pi * np.arange(AROUND) / AROUND
    # A polygon of the ellipse's area.
    wider = math.sqrt(2 * math.pi / AROUND / math.sin(2 * math.pi / AROUND))
    circle = wider * np.column_stack([np.cos(turn), np.sin(turn)])
    rings = np.sin(tilt)[:, None, None] * circle
    xy = np.concatenate([[[0.0, 0.0]], rings.reshape(-1, 2)]) * np.array(_opening(part)) / 2
    deep = np.cos(tilt) if isinstance(part, SaucerLesion) else np.ones(RINGS)
    shares = np.concatenate([[1.0], np.repeat(deep, AROUND)])
    return xy, shares, *_fan()


def _notch(part: WedgeLesion) -> tuple[Floats, Floats, Ints, Ints]:
    """Return places (N, 2) about the middle, the share of the depth at each, triangles and the rim."""
    cols = math.ceil(part.width_mm / GRID_MM) + 1
    rows = 2 * math.ceil(part.height_mm / 2 / GRID_MM) + 1
    x, v = np.linspace(-part.width_mm / 2, part.width_mm / 2, cols), np.linspace(-1.0, 1.0, rows)
    grid = np.stack(np.meshgrid(x, part.height_mm / 2 * v), axis=-1)
    return grid.reshape(-1, 2), np.repeat(1 - np.abs(v), cols), *grid_of(rows, cols)


def grid_of(rows: int, cols: int) -> tuple[Ints, Ints]:
    """Return the triangles and the rim of places (rows x cols) whose x grows along a row, and y from row to row."""
    index = np.arange(rows * cols).reshape(rows, cols)
    a, b, c, d = index[:-1, :-1], index[:-1, 1:], index[1:, 1:], index[1:, :-1]
    triangles = np.concatenate([_columns(a, b, c), _columns(a, c, d)])
    return triangles, np.concatenate([index[0, :-1], index[:-1, -1], index[-1, :0:-1], index[:0:-1, 0]])


def groove_tool(index: int, part: SealantGroove, outer: Manifold, crown: Crown) -> Tool:
    """Return the cutter of a groove opened to be sealed; raise InputError where it would leave the table."""
    rows, cols = 2 * math.ceil(part.width_mm / 2 / GRID_MM) + 1, math.ceil(part.length_mm / GRID_MM) + 1
    half, v = part.length_mm / 2, np.linspace(-1.0, 1.0, rows)
    xy = np.stack(np.meshgrid(np.linspace(-half, half, cols), part.width_mm / 2 * v), axis=-1).reshape(-1, 2)
    widest = (
        2 * min(-crown.outer_x_mm("distal", crown.rim_mm), crown.outer_x_mm("mesial", crown.rim_mm)) - 1.0
    )
    if part.length_mm > widest:
        path = f"preparation.parts[{index}].length_mm"
        raise InputError.at(path, part.length_mm, f"up to {widest:.1f}: the ridges stay")
    surface = topmost_mm(outer, xy)[:, 1]
    bottom = surface - np.maximum(part.depth_mm * np.repeat(1 - np.abs(v), cols), RIM_MM)
    return Tool(
        index=index,
        kind=part.kind,
        side=None,
        cut=sunk(xy, bottom, float(surface.max()) + OVERRUN_MM, *grid_of(rows, cols)),
        nominal_volume_mm3=part.length_mm * part.width_mm * part.depth_mm / 2,
        floor_mm=float(bottom.min()),
        floor=(-half, half, -part.width_mm / 2, part.width_mm / 2),
        depth_mm=part.depth_mm,
    )


def _columns(*corners: Ints) -> Ints:
    return np.column_stack([c.ravel() for c in corners])


def sunk(xy: Floats, bottom: Floats, top: float, triangles: Ints, rim: Ints) -> Tagged:
    """Return the solid between a bottom and a level top over the same places, walled along its rim."""
    count = len(xy)
    low, high = np.column_stack([xy, bottom]), np.column_stack([xy, np.full(count, top)])
    after = np.roll(rim, -1)
    walls = np.concatenate([_columns(rim, after, after + count), _columns(rim, after + count, rim + count)])
    return tagged_solid(
        np.concatenate([low, high]), np.concatenate([triangles[:, ::-1], triangles + count, walls])
    )


def _leaves(index: int, part: Sunk, outer: Manifold, access: Access) -> InputError:
    """Return what is wrong with a lesion whose margin leaves the face: its width or, where no width would do,
    its height."""

    def fits(tried: Sunk) -> bool:
        return bool((topmost_mm(outer, _placed(tried, access)[0])[:, 1] > 0).all())

    path = f"preparation.parts[{index}]"
    name, tried = "diameter_mm", part
    if not isinstance(part, Pit):
        narrow = part.model_copy(update={"width_mm": LEAST_MM})
        name, tried = ("width_mm", part) if fits(narrow) else ("height_mm", narrow)
    given = most = getattr(part, name)
    while most > LEAST_MM and not fits(tried.model_copy(update={name: most})):
        most = round(most - STEP_MM, 1)
    return InputError.at(f"{path}.{name}", given, f"up to {most:.1f}: the face ends there")
