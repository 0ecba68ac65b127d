"""Schools of layering: each cuts the restoration into increments, in the order of placing.

A technique takes the cavity and the thickest vertical way that an increment may have, and returns
increments that together are the whole restoration. Cut surfaces bear tags of their own.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from functools import lru_cache

import numpy as np
from manifold3d import Manifold

from mallet.cavity.boxes import SIGN
from mallet.cavity.crowns import solid_of
from mallet.cavity.measures import longest_vertical_mm, vertical_spans_mm
from mallet.cavity.preparation import Cavity
from mallet.cavity.solids import below, frustum
from mallet.cavity.tool import Tool
from mallet.curing.cured import Portion
from mallet.restoratives.composite.block import (
    SLACK_MM,
    Block,
    Layering,
    lifts_of,
    under_slope,
)
from mallet.restoratives.composite.layering_face import from_face, in_form
from mallet.rulebook import Rulebook
from mallet.terms.parts import Side
from mallet.terms.pieces import Reason
from mallet.terms.reasons import say
from mallet.terms.restoration import LayeringTechnique, ShadeRole
from mallet.tooth import Crown, loft_crown

CLEAR_OF_FLOOR_MM = 0.02
CLEAR_AROUND_MM = 0.1
HIGH_MM = 25.0


def layer(school: LayeringTechnique, cavity: Cavity, limit_mm: float, rules: Rulebook) -> Layering:
    """Return the increments of a technique; one that can't serve the cavity falls back to flat layers."""
    asked = say("layering.asked", school=SCHOOL_NAMES[school])
    reasons = [asked, say("layering.bounded", limit_mm=round(limit_mm, 2))]
    if cavity.from_face:
        return from_face(school, cavity, limit_mm, rules, reasons)
    if cavity.stump:
        return Layering(school, in_form(cavity), [asked, say("layering.in_form")])
    if school == "wall_first":
        refusal = _no_wall(cavity, rules)
        if refusal:
            return Layering("horizontal", _horizontal(cavity, limit_mm, rules), [asked, refusal])
    return Layering(school, LAYERING[school](cavity, limit_mm, rules), reasons)


def is_flat(school: LayeringTechnique, cavity: Cavity, rules: Rulebook) -> bool:
    """Tell whether a technique lays flat layers in a cavity, from its floor toward occlusal."""
    if cavity.from_face or cavity.stump:
        return False
    return school == "horizontal" or (school == "wall_first" and _no_wall(cavity, rules) is not None)


def _no_wall(cavity: Cavity, rules: Rulebook) -> Reason | None:
    """Return why a proximal wall can't be built first, or None."""
    if not cavity.boxes:
        return say("layering.no_box")
    wall, room = rules.value("composite.wall_thickness_mm"), rules.value("composite.room_behind_wall_mm")
    for box in cavity.boxes:
        base = cavity.base_on(box)
        depth = abs(cavity.crown.outer_x_mm(_side(box), box.floor_mm) - _axial_x(box))
        depth -= base.thickness_mm if base else 0.0
        if depth < wall + room - 1e-6:
            return say(
                "layering.no_room_for_wall",
                axial_depth_mm=round(depth, 2),
                side=box.side,
                wall_mm=wall,
                least_mm=room,
            )
    return None


def _horizontal(cavity: Cavity, limit_mm: float, rules: Rulebook) -> list[Portion]:
    """Flat layers: each box up to the pulpal floor, then across."""
    block = Block(cavity.filling, limit_mm, rules)
    for box in cavity.boxes:
        side = _side(box)
        for i, piece in enumerate(lifts_of(_box_part(block, cavity, side), limit_mm), 1):
            block.add(f"{side}.layer.{i}", f"{side} box, layer {i}", piece, "body", side)
    # What lies in a tunnel may be lit through its clear strip.
    under = cavity.tunnels[0].under if cavity.tunnels else None
    lifts = lifts_of(block.rest, limit_mm)
    for i, piece in enumerate(lifts, 1):
        last = i == len(lifts)
        role: ShadeRole = "enamel" if last else "body"
        hint = "Shape cusp slopes and groove before curing." if last else ""
        block.add(f"occlusal.layer.{i}", f"occlusal layer {i}", piece, role, under, hint)
    return block.done()


def _wall_first(cavity: Cavity, limit_mm: float, rules: Rulebook) -> list[Portion]:
    """Gingival increment, proximal wall up to the ridge, the box behind it, then a Class I."""
    block = Block(cavity.filling, limit_mm, rules)
    barrel = loft_crown(cavity.tooth, rules, "barrel")
    thickness = rules.value("composite.wall_thickness_mm")
    hint = "Adapt it to the band and floor; ridge level with the adjacent tooth's."
    for box in cavity.boxes:
        side = _side(box)
        _gingival(block, box, limit_mm, rules)
        wall = block.split_off(_outside(barrel, side, thickness))
        for i, piece in enumerate(lifts_of(wall, limit_mm), 1):
            block.add(f"{side}.wall.{i}", f"{side} wall, lift {i}", piece, "enamel", side, hint)
    surface = _surface(block, cavity, limit_mm, rules)
    for box in cavity.boxes:
        side = _side(box)
        for i, piece in enumerate(lifts_of(_box_part(block, cavity, side), limit_mm), 1):
            name = f"{side} box behind the wall, {i}"
            block.add(f"{side}.core.{i}", name, piece, "dentin", side)
    for i, piece in enumerate(lifts_of(block.rest, limit_mm), 1):
        block.add(f"occlusal.body.{i}", f"occlusal body {i}", piece, "dentin", None)
    return _with_surface(block, surface)


def _oblique(cavity: Cavity, limit_mm: float, rules: Rulebook) -> list[Portion]:
    """Sloping increments, each against as few walls as possible: facial, then lingual."""
    block = Block(cavity.filling, limit_mm, rules)
    for box in cavity.boxes:
        _gingival(block, box, limit_mm, rules)
    surface = _surface(block, cavity, limit_mm, rules)
    for box in cavity.boxes:
        side = _side(box)
        for i, slab in enumerate(lifts_of(_box_part(block, cavity, side), limit_mm), 1):
            _facial_then_lingual(block, slab, f"{side}.slope.{i}", f"{side} box {i}", side)
    for i, slab in enumerate(lifts_of(block.rest, limit_mm), 1):
        _facial_then_lingual(block, slab, f"occlusal.slope.{i}", f"occlusal {i}", None)
    return _with_surface(block, surface)


LAYERING: dict[LayeringTechnique, Callable[[Cavity, float, Rulebook], list[Portion]]] = {
    "horizontal": _horizontal,
    "oblique": _oblique,
    "wall_first": _wall_first,
}
SCHOOL_NAMES: dict[LayeringTechnique, str] = {
    "horizontal": "horizontal",
    "oblique": "oblique",
    "wall_first": "proximal wall first",
}


def _gingival(block: Block, box: Tool, limit_mm: float, rules: Rulebook) -> None:
    side = _side(box)
    lift = min(rules.value("composite.gingival_lift_mm"), limit_mm)
    piece = block.split_off(_half(side, box.floor_mm + lift))
    hint = "Adapt it to the floor and into both corners; no gap at the margin."
    block.add(f"{side}.gingival", f"{side} gingival increment", piece, "body", side, hint, "gingival_floor")


@lru_cache(maxsize=64)
def _outside(barrel: Crown, side: Side, thickness_mm: float) -> Manifold:
    """Return what lies no deeper than a wall's thickness under one side of a crown, and all outside."""
    inner = solid_of(barrel).solid.translate((-SIGN[side] * thickness_mm, 0, 0)).as_original()
    return _half(side, HIGH_MM) - inner


@lru_cache(maxsize=64)
def _lowered(crown: Crown, by_mm: float) -> Manifold:
    """Return a crown's solid moved down, with a tag of its own."""
    return solid_of(crown).solid.translate((0, 0, -by_mm)).as_original()


def _surface(block: Block, cavity: Cavity, limit_mm: float, rules: Rulebook) -> Manifold:
    """Take the last layer off the rest: of even vertical thickness under the anatomy.

    Near steep walls the body stops at a level, and the last layer is thicker there, rather than
    leaving scraps between them.
    """
    thickness = min(rules.value("composite.enamel_layer_mm"), limit_mm)
    lowered = _lowered(cavity.crown, thickness)
    x0, y0, low, x1, y1, high = block.rest.bounding_box()
    around = (x0 - CLEAR_AROUND_MM, x1 + CLEAR_AROUND_MM, y0 - CLEAR_AROUND_MM, y1 + CLEAR_AROUND_MM)
    base = cavity.occlusal.floor_mm if cavity.occlusal else low
    starts, ends = vertical_spans_mm(block.rest)
    body, surface = block.rest, block.rest
    for count in range(1, math.ceil((high - base) / limit_mm) + 2):
        level = base + count * limit_mm - CLEAR_OF_FLOOR_MM
        ways = ends - np.maximum(starts, np.minimum(ends - thickness, level))
        # Where the columns of the rest already tell that it would be too thick, there is no need to cut.
        if ways.max(initial=0.0) > limit_mm + SLACK_MM and level <= high:
            continue
        capped = lowered ^ frustum(around, low - CLEAR_AROUND_MM, level, (0, 0, 0, 0)).solid
        body, surface = block.rest.split(capped)
        if longest_vertical_mm(surface) <= limit_mm + SLACK_MM:
            break
    block.rest = body
    return surface


def _with_surface(block: Block, surface: Manifold) -> list[Portion]:
    hint = "One continuous layer to the anatomy, cusp by cusp; shape it before the light."
    block.add("occlusal.surface", "occlusal surface layer", surface, "enamel", None, hint)
    return block.done()


def _box_part(block: Block, cavity: Cavity, side: Side) -> Manifold:
    """Take a box's part below the pulpal floor off the rest; all of its side where there is none."""
    floor = cavity.occlusal.floor_mm - CLEAR_OF_FLOOR_MM if cavity.occlusal else HIGH_MM
    return block.split_off(_half(side, floor))


def _facial_then_lingual(block: Block, slab: Manifold, id: str, name: str, side: Side | None) -> None:
    facial, lingual = slab.split(under_slope(slab, rises=True))
    block.add(f"{id}.facial", f"{name}, facial slope", facial, "dentin", side)
    block.add(f"{id}.lingual", f"{name}, lingual slope", lingual, "dentin", side)


def lowest_lift(cavity: Cavity, limit_mm: float) -> tuple[float, Manifold]:
    """Return what flat layers place at the bottom of a cavity, or the lower part of that, and how high it is (mm)."""
    _, _, low, _, _, high = cavity.filling.bounding_box()
    lowest = min(cavity.boxes, key=lambda box: box.floor_mm, default=None)
    if lowest and cavity.occlusal:
        high = cavity.occlusal.floor_mm - CLEAR_OF_FLOOR_MM
    lift = (high - low) / max(1, math.ceil(round((high - low) / limit_mm, 6)))
    under = _half(_side(lowest), low + lift) if lowest else below(low + lift).solid
    return lift, cavity.filling ^ under


def _half(side: Side, top_mm: float) -> Manifold:
    """Return the block that fills one side of the tooth's middle below a height."""
    x0, x1 = (0.0, HIGH_MM) if side == "mesial" else (-HIGH_MM, 0.0)
    return frustum((x0, x1, -HIGH_MM, HIGH_MM), -HIGH_MM, top_mm, (0, 0, 0, 0)).solid


def _side(box: Tool) -> Side:
    return box.side or "mesial"


def _axial_x(box: Tool) -> float:
    return box.floor[0] if box.side == "mesial" else box.floor[1]
