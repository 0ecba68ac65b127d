"""Lines of equal dose over need through every increment, in the sections that the drawing shows.

For each increment as it is cured: what is placed and banded by then, all its exposures together.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal, cast

import numpy as np
from contourpy import contour_generator
from numpy.typing import NDArray

from mallet.cavity.preparation import box_middle_mm
from mallet.curing.around import Surroundings
from mallet.curing.cured import Cured
from mallet.light.field import Filling, Grain
from mallet.restoratives.worked import Worked
from mallet.terms.plan import LightLine

Floats = NDArray[np.float64]
TIMES_NEED = (1.0, 1.5, 2.0, 3.0, 5.0, 10.0)
GRID_MM = 0.2
BESIDE_MM = 0.01  # a section may run along a seam of faces: points lie just beside it
GRAIN = Grain(8, 16, 2)
DECIMALS = 2


@dataclass(frozen=True)
class _Plane:
    """A section of the drawing: the axis of the access that it cuts (0 is x, 1 is y), and where."""

    view: Literal["section", "across_mesial", "across_distal", "through", "level"]
    axis: int
    at_mm: float


def light_lines(worked: Worked) -> list[LightLine]:
    """Return the lines of each section and increment in order.

    Doses are within about 5 %; a line ends up to a grid cell short of the increment's edge.
    """
    if worked.built.curing is None:
        return []
    around = worked.lit.around
    cap = worked.rules.value("light.irradiance_cap_mw_cm2")
    placed: list[Filling] = []
    for cured in worked.lit.cured:
        placed.append(cured.filling)
    planes = [_face_plane(worked)] if worked.cavity.from_face else [_Plane("section", 1, 0.0)]
    for box in worked.cavity.boxes:
        side: Literal["across_mesial", "across_distal"] = (
            "across_mesial" if box.side == "mesial" else "across_distal"
        )
        planes.append(_Plane(side, 0, box_middle_mm(worked.cavity, box)))
    lines = []
    for plane in planes:
        for order, cured in enumerate(worked.lit.cured, 1):
            across, up, times = _over_need(
                cured, placed[:order], around.at(cured.portion.is_banded), plane, cap
            )
            if min(times.shape) < 2 or np.isnan(times).all():
                continue
            levels = contour_generator(across, up, np.ma.masked_invalid(times))
            lines += [
                LightLine(view=plane.view, order=order, times_need=level, points=_drawn(line, plane, worked))
                for level in TIMES_NEED
                for line in cast("list[Floats]", levels.lines(level))
                if len(line) > 2
            ]
    return lines


def _face_plane(worked: Worked) -> _Plane:
    """Return the section of a part that is entered from a face."""
    tool = worked.cavity.from_face
    assert tool
    if tool.kind == "proximal_cavity":
        return _Plane("level", 1, (tool.floor[2] + tool.floor[3]) / 2)
    return _Plane("through", 0, (tool.floor[0] + tool.floor[1]) / 2)


def _drawn(line: Floats, plane: _Plane, worked: Worked) -> list[list[float]]:
    """Return a line (N, 2) of a plane as its view shows it."""
    points = np.zeros((len(line), 3))
    points[:, [1 - plane.axis, 2]] = line
    axes = [0, 1] if plane.view == "level" else [1 - plane.axis, 2]
    shown = worked.cavity.access.points_in_tooth(points)[:, axes]
    return np.round(shown, DECIMALS).tolist()  # type: ignore[no-any-return]


def _over_need(
    cured: Cured, placed: Sequence[Filling], around: Surroundings, plane: _Plane, cap: float
) -> tuple[Floats, Floats, Floats]:
    """Return the grid of a plane across (A,) and up (B,), and the dose over need (B, A), NaN outside
    the increment."""
    box = cured.portion.solid.bounding_box()
    low, high, along = box[:3], box[3:], 1 - plane.axis
    across, up = (np.arange(low[i] + GRID_MM / 4, high[i], GRID_MM) for i in (along, 2))
    grid = np.meshgrid(across, up)
    points = np.full((grid[0].size, 3), plane.at_mm + BESIDE_MM)
    points[:, along], points[:, 2] = grid[0].ravel(), grid[1].ravel()
    inside = placed[-1].scene.contains(points)
    field = around.through(placed)
    aims = [field(points[inside], aim, GRAIN) for aim in cured.lit.aims]
    dose = np.array(cured.exposed.full_s) @ np.minimum(np.array(aims), cap) / 1000
    times = np.full(len(points), np.nan)
    times[inside] = dose / cured.need.dose_j_cm2
    return across, up, times.reshape(grid[0].shape)
