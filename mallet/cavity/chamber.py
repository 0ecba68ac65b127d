"""The pulp chamber of a root canal-treated tooth as a cut: below the pulpal floor, with the mouths of its canals."""

from __future__ import annotations

import math

import numpy as np
from manifold3d import Manifold, OpType
from numpy.typing import NDArray

from mallet.cavity.rods import rod
from mallet.cavity.solids import Tagged
from mallet.cavity.tool import Tool
from mallet.terms.errors import InputError
from mallet.terms.parts import PulpChamber
from mallet.tooth import Crown

Floats = NDArray[np.float64]
# Its corners are as round as the bur that opened it.
CORNER_MM = 0.5
OVER_MM = 0.4
HAIR_MM = 1e-3
STEP_MM = 0.1


def chamber_cutter(
    index: int, part: PulpChamber, crown: Crown, outer: Manifold, box: Tool | None
) -> tuple[Tagged, Manifold | None, float, tuple[float, float, float]]:
    """Return the cut, its canals alone, its nominal volume (mm3) and the middle of its opening.

    Raises InputError without an occlusal box above it, for a canal below no cusp, and where it would come out of the tooth.
    """
    path = f"preparation.parts[{index}]"
    if box is None:
        raise InputError.at(f"{path}.kind", part.kind, "a pulp chamber under an occlusal box")
    for i, cusp in enumerate(part.canals):
        if cusp not in crown.cusps or cusp in part.canals[:i]:
            raise InputError.at(f"{path}.canals[{i}]", cusp, f"each once: {', '.join(crown.cusps)}")
    x, y = (box.floor[0] + box.floor[1]) / 2, (box.floor[2] + box.floor[3]) / 2
    top = np.array([x, y, box.floor_mm])

    def cut_to(depth_mm: float, canal_mm: float) -> tuple[Manifold, Manifold | None]:
        room = _room(part, top, depth_mm)
        canals = _canals(part, crown, top - np.array([0.0, 0.0, depth_mm]), canal_mm) if canal_mm else None
        return room, canals

    for name, most, at in (
        ("depth_mm", part.depth_mm, lambda mm: (mm, 0.0)),
        ("canal_depth_mm", part.canal_depth_mm, lambda mm: (part.depth_mm, mm)),
    ):
        allowed = most
        while allowed > STEP_MM and _leaves(cut_to(*at(allowed)), float(top[2]), outer):
            allowed = round(allowed - STEP_MM, 1)
        if allowed < most:
            text = f"up to {allowed:.1f}: it comes out of the root at its side"
            raise InputError.at(f"{path}.{name}", most, text)
    room, canals = cut_to(part.depth_mm, part.canal_depth_mm if part.canals else 0.0)
    whole = (room if canals is None else room + canals).as_original()
    corners = (4 - math.pi) * CORNER_MM**2
    nominal = (part.length_mm * part.width_mm - corners) * part.depth_mm
    nominal += len(part.canals) * math.pi * part.canal_diameter_mm**2 / 4 * part.canal_depth_mm
    return Tagged(whole, whole.original_id()), canals, nominal, (float(x), float(y), box.floor_mm)


def _room(part: PulpChamber, top: Floats, depth_mm: float) -> Manifold:
    halves = part.length_mm / 2 - CORNER_MM, part.width_mm / 2 - CORNER_MM
    posts = []
    for along in (-1, 1):
        for across in (-1, 1):
            x, y = top[0] + along * halves[0], top[1] + across * halves[1]
            low, high = np.array([x, y, top[2] - depth_mm]), np.array([x, y, top[2] + OVER_MM])
            posts.append(rod(low, high, CORNER_MM).solid)
    return Manifold.batch_hull(posts)


def _canals(part: PulpChamber, crown: Crown, floor: Floats, depth_mm: float) -> Manifold | None:
    """Return the canals, each at the edge of the chamber's floor toward its cusp."""
    radius = part.canal_diameter_mm / 2
    rods = []
    for cusp in part.canals:
        x, y, _ = crown.cusps[cusp]
        way = np.array([x - floor[0], y - floor[1]])
        room = np.array([part.length_mm / 2 - radius, part.width_mm / 2 - radius])
        share = float(np.min(room / np.maximum(np.abs(way), HAIR_MM)))
        across = way * min(share, 1.0)
        at = floor + np.array([across[0], across[1], 0.0])
        up = np.array([0.0, 0.0, 1.0])
        rods.append(rod(at - depth_mm * up, at + HAIR_MM * up, radius).solid)
    return Manifold.batch_boolean(rods, OpType.Add) if rods else None


def _leaves(solids: tuple[Manifold, Manifold | None], top_mm: float, outer: Manifold) -> bool:
    """Tell whether what is cut below the floor comes out of the tooth; a root goes on below what is shown of it."""
    whole = solids[0] if solids[1] is None else solids[0] + solids[1]
    under = whole.trim_by_plane((0.0, 0.0, -1.0), -top_mm + HAIR_MM)
    shown = under.trim_by_plane((0.0, 0.0, 1.0), float(outer.bounding_box()[2]) + HAIR_MM)
    return bool((shown - outer).volume() > HAIR_MM)
