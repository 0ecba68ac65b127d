"""A proximal box before what lies behind its wall: a layer over all floors, the gingival increment, and the wall itself."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from manifold3d import Manifold

from mallet.cavity.boxes import SIGN, axial_wall_mm
from mallet.cavity.crowns import solid_of
from mallet.cavity.preparation import Cavity
from mallet.cavity.solids import frustum, half_space
from mallet.cavity.tool import Tool
from mallet.restoratives.composite.block import Block, lifts_of
from mallet.rulebook import Rulebook
from mallet.terms.parts import Side
from mallet.terms.restoration import CompositeRestoration, ShadeRole
from mallet.tooth import Crown, loft_crown

CLEAR_OF_FLOOR_MM = 0.02
HIGH_MM = 25.0


def half_of(side: Side, top_mm: float) -> Manifold:
    """Return the block that fills one side of the tooth's middle below a height."""
    x0, x1 = (0.0, HIGH_MM) if side == "mesial" else (-HIGH_MM, 0.0)
    return frustum((x0, x1, -HIGH_MM, HIGH_MM), -HIGH_MM, top_mm, (0, 0, 0, 0)).solid


def side_of(box: Tool) -> Side:
    return box.side or "mesial"


def axial_x_mm(box: Tool) -> float:
    return box.floor[0] if box.side == "mesial" else box.floor[1]


def over_base_mm(cavity: Cavity, tool: Tool) -> float:
    """Return how high the floor of a box lies once a base covers it."""
    base = cavity.base_on(tool)
    return tool.floor_mm + (base.thickness_mm if base else 0.0)


def cover_floors(block: Block, cavity: Cavity, thick_mm: float) -> None:
    """Take a level layer of flowable on every floor off the rest, gingival floors first."""
    for box in cavity.boxes:
        side = side_of(box)
        piece = block.split_off(half_of(side, over_base_mm(cavity, box) + thick_mm))
        hint = "Tip on the floor, then drawn back slowly; a probe through it to the margin lets air out."
        block.add(f"{side}.floor", f"{side} gingival floor", piece, "body", side, hint, "floor")
    if (tool := cavity.occlusal) is None:
        return
    # Between the boxes: what stands over their gingival floors is none of it.
    ends = {"distal": -HIGH_MM, "mesial": HIGH_MM}
    for box in cavity.boxes:
        side = side_of(box)
        ends[side] = axial_wall_mm(box, tool.floor_mm) - SIGN[side] * CLEAR_OF_FLOOR_MM
    around = (ends["distal"], ends["mesial"], -HIGH_MM, HIGH_MM)
    top = over_base_mm(cavity, tool) + thick_mm
    piece = block.split_off(frustum(around, -HIGH_MM, top, (0, 0, 0, 0)).solid)
    block.add("occlusal.floor", "pulpal floor", piece, "body", None, "A thin, level layer.", "floor")


def gingival_role(asked: CompositeRestoration) -> ShadeRole:
    """Return the shade on gingival floors: unless it is told, that of the wall which follows; enamel shade lets more light
    through to the margin."""
    return asked.gingival_role or ("enamel" if asked.has_wall_first else "body")


def gingival_increment(
    block: Block, cavity: Cavity, box: Tool, asked: CompositeRestoration, rules: Rulebook
) -> None:
    """Take the first increment on a gingival floor off the rest; none where a layer of flowable stands for it."""
    if asked.floor_layer_mm:
        return
    side, role = side_of(box), gingival_role(asked)
    lift = min(rules.value("composite.gingival_lift_mm"), block.limits[role])
    piece = block.split_off(half_of(side, box.floor_mm + lift))
    hint = "Adapt it to the floor and into both corners; no gap at the margin."
    block.add(f"{side}.gingival", f"{side} gingival increment", piece, role, side, hint, "gingival_floor")


def proximal_wall(
    block: Block, cavity: Cavity, box: Tool, asked: CompositeRestoration, rules: Rulebook
) -> None:
    """Take the wall of a box off the rest, in lifts up to the ridge; in halves one beside the contact after the other."""
    side, barrel = side_of(box), loft_crown(cavity.tooth, rules, "barrel")
    wall = block.split_off(_outside(barrel, side, rules.value("composite.wall_thickness_mm")))
    for half, solid in _halves(wall, barrel, side) if asked.wall == "halves" else [("", wall)]:
        lifts = lifts_of(solid, block.limits["enamel"])
        for i, piece in enumerate(lifts, 1):
            id, of = (f"{side}.wall.{half}.{i}", f", {half} half") if half else (f"{side}.wall.{i}", "")
            name = f"{side} wall{of}, lift {i}" if len(lifts) > 1 or not half else f"{side} wall{of}"
            hint = "Adapt it to the band." if i < len(lifts) else TOP_OF_WALL
            block.add(id, name, piece, "enamel", side, f"{hint}{HELD if half else ''}", "wall")


TOP_OF_WALL = (
    "Adapt it to the band; ridge level with the adjacent tooth's, rolled to the band, embrasure opened."
)
HELD = " Hold the band to the adjacent tooth while it is lit."


def _halves(wall: Manifold, barrel: Crown, side: Side) -> list[tuple[str, Manifold]]:
    """Return a wall cut at the contact, its lingual half first."""
    ring = barrel.outline(barrel.contact_mm[side])
    contact = ring[np.argmax(SIGN[side] * ring[:, 0])]
    facial, lingual = wall.split(
        half_space(np.array([0.0, contact[1], 0.0]), np.array([0.0, -1.0, 0.0])).solid
    )
    return [("lingual", lingual), ("facial", facial)]


@lru_cache(maxsize=64)
def _outside(barrel: Crown, side: Side, thickness_mm: float) -> Manifold:
    """Return what lies no deeper than a wall's thickness under one side of a crown, and all outside."""
    inner = solid_of(barrel).solid.translate((-SIGN[side] * thickness_mm, 0, 0)).as_original()
    return half_of(side, HIGH_MM) - inner
