"""What is cut off a crown all round: down to a flat shoulder, or to a stump whose walls run out to nothing."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
from manifold3d import CrossSection, Manifold
from numpy.typing import NDArray

from mallet.cavity.solids import Tagged, below, crown_solid
from mallet.cavity.tool import Tool
from mallet.terms.errors import InputError
from mallet.terms.parts import Shoulder, StripCrownPreparation
from mallet.tooth import Crown
from mallet.tooth.crown import AROUND

Floats = NDArray[np.float64]
LEAST_CORE_MM = 0.8
HAIR_MM = 0.05
HIGH_MM = 30.0


def shoulder_cutter(index: int, part: Shoulder, crown: Crown) -> tuple[Tagged, float]:
    """Return the cutter of a shoulder, and the volume in mm3 of an upright rim of its width up to the cusps."""
    level, path = part.above_cej_mm, f"preparation.parts[{index}]"
    if level > crown.rim_mm - LEAST_CORE_MM:
        allowed = f"up to {crown.rim_mm - LEAST_CORE_MM:.1f}"
        raise InputError.at(f"{path}.above_cej_mm", level, allowed)
    ring = crown.outline(level)
    widest = float(np.linalg.norm(ring, axis=1).min()) - LEAST_CORE_MM
    if part.width_mm > widest:
        raise InputError.at(f"{path}.width_mm", part.width_mm, f"up to {widest:.1f}: a core stays")
    inner = CrossSection([_inset(ring, part.width_mm)])
    core = Manifold.extrude(inner, 2 * HIGH_MM).translate((0, 0, -HIGH_MM))
    solid = (Manifold.cube((2 * HIGH_MM,) * 3, True) - below(level).solid - core).as_original()
    nominal = (CrossSection([ring]).area() - inner.area()) * (crown.height_mm - level)
    return Tagged(solid, solid.original_id()), nominal


def stump_tool(index: int, part: StripCrownPreparation, crown: Crown, outer: Manifold) -> Tool:
    """Return the cutter of a stump: all that lies over the crown drawn in and lowered; raise InputError where nothing
    stands any more."""
    path = f"preparation.parts[{index}]"
    level, top = part.above_cej_mm, crown.height_mm - part.incisal_reduction_mm
    if top < level + LEAST_CORE_MM:
        most = crown.height_mm - level - LEAST_CORE_MM
        raise InputError.at(
            f"{path}.incisal_reduction_mm",
            part.incisal_reduction_mm,
            f"up to {most:.1f}: prepared tooth has to be left",
        )
    known = (float(z) for z in crown.axial[:, 0, 2])
    heights = sorted([*(z for z in known if z < top - HAIR_MM and abs(z - level) > HAIR_MM), level, top])
    rings = []
    for z in heights:
        # Next to nothing at the margin, and soon all of it.
        share = math.sqrt(min(max((z - level) / (top - level), 0.0), 1.0))
        rings.append(
            np.column_stack([_inset(crown.outline(z), share * part.axial_reduction_mm), np.full(AROUND, z)])
        )
    last = rings[-1]
    thick = crown.outline(top)
    widest = float(np.ptp(thick[:, 1])) / 2 - LEAST_CORE_MM / 2
    if part.axial_reduction_mm > widest:
        raise InputError.at(
            f"{path}.axial_reduction_mm",
            part.axial_reduction_mm,
            f"up to {max(widest, 0.0):.1f}: prepared tooth has to be left",
        )
    middle = last.mean(axis=0)
    cap = np.array([middle + (last - middle) * share for share in (0.7, 0.4)])
    kept = crown_solid(replace(crown, axial=np.array(rings), cap=cap, centre=middle)).solid
    solid = (Manifold.cube((2 * HIGH_MM,) * 3, True) - below(level).solid - kept).as_original()
    (x0, y0), (x1, y1) = last[:, :2].min(axis=0).tolist(), last[:, :2].max(axis=0).tolist()
    return Tool(
        index=index,
        kind=part.kind,
        side=None,
        cut=Tagged(solid, solid.original_id()),
        nominal_volume_mm3=(outer ^ solid).volume(),
        floor_mm=top,
        floor=(x0, x1, y0, y1),
    )


def _inset(ring: Floats, by_mm: float) -> Floats:
    """Return a ring (N, 2) about the middle, every point moved inwards, square to the ring."""
    along = np.roll(ring, -1, axis=0) - np.roll(ring, 1, axis=0)
    outward = np.column_stack([along[:, 1], -along[:, 0]])
    outward /= np.linalg.norm(outward, axis=1, keepdims=True)
    return np.asarray(ring - by_mm * outward)
