"""A base in the cavity: the shape of the dentin that is lost there, kept off enamel and off the margin."""

from __future__ import annotations

from dataclasses import replace

from manifold3d import Manifold

from mallet.cavity.boxes import SIGN, axial_wall_mm
from mallet.cavity.preparation import Base, Cavity
from mallet.cavity.solids import frustum
from mallet.cavity.tool import Tool

BEYOND_MM = 1.0
# Short of the edge where a floor opens into a box, so that no cut runs along a face.
OFF_EDGE_MM = 0.1
LEAST_MM3 = 0.1


def room_mm(cavity: Cavity, tool: Tool, least_above_mm: float) -> float:
    """Return how thick a base may be on a part's wall toward the pulp, with enough restoration over it: on a
    floor below the groove, on an axial wall inside the outer surface."""
    if tool.side is None:
        return over_floor_mm(cavity, tool) - least_above_mm
    outer = cavity.crown.outer_x_mm(tool.side, tool.floor_mm)
    return abs(outer - axial_wall_mm(tool, tool.floor_mm)) - least_above_mm


def over_floor_mm(cavity: Cavity, tool: Tool) -> float:
    """Return the height over a floor of the central groove's lowest point, or of the surface over the deepest
    point of a part that is entered from a face."""
    if tool.is_from_face:
        return tool.depth_mm
    return cavity.crown.groove_mm(tool.floor[0], tool.floor[1]) - tool.floor_mm


def with_base(cavity: Cavity, tool: Tool, thickness_mm: float, dentin: Manifold) -> Cavity:
    """Return the cavity with a base on a part's wall toward the pulp, as far as dentin reaches there; as
    it was, where that is next to nothing."""
    block = (
        _on_floor(cavity, tool, thickness_mm) if tool.side is None else _on_axial(cavity, tool, thickness_mm)
    )
    cutter = (block ^ dentin).as_original()
    solid, rest = cavity.filling.split(cutter)
    if solid.volume() < LEAST_MM3:
        return cavity
    base = Base(tool, solid, cutter.original_id(), thickness_mm)
    return replace(cavity, filling=rest, bases=(*cavity.bases, base))


def _on_floor(cavity: Cavity, tool: Tool, thickness_mm: float) -> Manifold:
    x0, x1, y0, y1 = tool.floor
    x0 = x0 + OFF_EDGE_MM if cavity.box("distal") else x0 - BEYOND_MM
    x1 = x1 - OFF_EDGE_MM if cavity.box("mesial") else x1 + BEYOND_MM
    floor = (x0, x1, y0 - BEYOND_MM, y1 + BEYOND_MM)
    return frustum(floor, tool.floor_mm - BEYOND_MM, tool.floor_mm + thickness_mm, (0, 0, 0, 0)).solid


def _on_axial(cavity: Cavity, tool: Tool, thickness_mm: float) -> Manifold:
    """Return a slab along an axial wall, from the gingival floor to just under the pulpal floor or, in a slot,
    to well under the groove."""
    sign = SIGN[tool.side or "mesial"]
    axial = axial_wall_mm(tool, tool.floor_mm)
    x0, x1 = sorted((axial - 2 * sign * BEYOND_MM, axial + sign * thickness_mm))
    if cavity.occlusal:
        top = cavity.occlusal.floor_mm - OFF_EDGE_MM
    else:
        top = cavity.crown.groove_mm(min(axial, 0.0), max(axial, 0.0)) - 2 * BEYOND_MM
    _, _, y0, y1 = tool.floor
    floor = (x0, x1, y0 - BEYOND_MM, y1 + BEYOND_MM)
    return frustum(
        floor, tool.floor_mm - BEYOND_MM, max(top, tool.floor_mm + OFF_EDGE_MM), (0, 0, 0, 0)
    ).solid
