"""Schools of layering: each cuts the restoration into increments, in the order of placing.

A technique takes the cavity and the thickest vertical way that an increment may have, and returns
increments that together are the whole restoration. Cut surfaces bear tags of their own.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import replace
from functools import lru_cache

import numpy as np
from manifold3d import Manifold

from mallet.cavity.crowns import solid_of
from mallet.cavity.measures import longest_vertical_mm, vertical_spans_mm
from mallet.cavity.preparation import Cavity
from mallet.cavity.solids import below, frustum
from mallet.curing.cured import Portion
from mallet.restoratives.composite.block import (
    SLACK_MM,
    Block,
    Layering,
    Limits,
    lifts_of,
    under_slope,
)
from mallet.restoratives.composite.layering_cusps import by_cusp
from mallet.restoratives.composite.layering_face import from_face, in_form
from mallet.restoratives.composite.layering_walls import (
    CLEAR_OF_FLOOR_MM,
    HIGH_MM,
    axial_x_mm,
    cover_floors,
    gingival_increment,
    half_of,
    proximal_wall,
    side_of,
)
from mallet.rulebook import Rulebook
from mallet.terms.parts import Side
from mallet.terms.pieces import Reason
from mallet.terms.reasons import say
from mallet.terms.restoration import CompositeRestoration, LayeringTechnique, ShadeRole
from mallet.tooth import Crown

CLEAR_AROUND_MM = 0.1


def layer(
    asked: CompositeRestoration, cavity: Cavity, limits: Limits, rules: Rulebook, core: ShadeRole = "dentin"
) -> Layering:
    """Return the increments of a technique, none thicker than its role allows; `core` is the shade below
    the surface of a posterior tooth. A technique that can't serve the cavity falls back to another, and says so."""
    school = asked.technique
    said = say("layering.asked", school=names_for(cavity).get(school, SCHOOL_NAMES[school]))
    reasons = [said, say("layering.bounded", limits=in_words(limits))]
    if cavity.from_face:
        return from_face(asked, cavity, limits, rules, reasons)
    if cavity.stump:
        return Layering(school, in_form(cavity), [said, say("layering.in_form")])
    if core == "body" and school in CORED:
        reasons.append(say("layering.body_core"))
    if asked.floor_layer_mm:
        reasons.append(say("layering.floor", thick_mm=asked.floor_layer_mm))
    refusal = _no_wall(cavity, rules) if asked.has_wall_first else None
    if refusal:
        school, reasons = INSTEAD[school], [said, refusal, *reasons[2:]]
    block = Block(cavity.filling, limits, rules, core)
    if asked.floor_layer_mm:
        cover_floors(block, cavity, asked.floor_layer_mm)
    if school != "bulk":
        _faces_first(block, cavity)
    portions = LAYERING[school](block, cavity, asked, rules)
    if asked.band_off == "after_wall":
        portions = _without_band(portions)
    return Layering(school, portions, reasons)


def in_words(limits: Limits) -> str:
    """Say how thick increments may be, by role where that differs."""
    if len(set(limits.values())) == 1:
        return f"{limits['body']:.2g} mm"
    return ", ".join(f"{role} {mm:.2g} mm" for role, mm in limits.items())


def _without_band(portions: list[Portion]) -> list[Portion]:
    """Return increments in order, the band off once the last wall is cured."""
    walls = [i for i, one in enumerate(portions) if one.part == "wall"]
    return [replace(one, is_banded=not walls or i <= walls[-1]) for i, one in enumerate(portions)]


def names_for(cavity: Cavity) -> dict[LayeringTechnique, str]:
    """Return what the techniques are called that a cavity may be filled by."""
    return ON_EDGE if cavity.from_face else SCHOOL_NAMES


def is_flat(asked: CompositeRestoration, cavity: Cavity, rules: Rulebook) -> bool:
    """Tell whether a technique lays flat layers in a cavity, from its floor toward occlusal."""
    has_face_box = any(one.kind == "face_box" for one in cavity.features)
    if cavity.from_face or cavity.stump or asked.floor_layer_mm or has_face_box:
        return False
    has_no_wall = asked.technique == "wall_first" and _no_wall(cavity, rules) is not None
    return asked.technique == "horizontal" or has_no_wall


def _no_wall(cavity: Cavity, rules: Rulebook) -> Reason | None:
    """Return why a proximal wall can't be built first, or None."""
    if not cavity.boxes:
        return say("layering.no_box")
    wall, room = rules.value("composite.wall_thickness_mm"), rules.value("composite.room_behind_wall_mm")
    for box in cavity.boxes:
        base = cavity.base_on(box)
        depth = abs(cavity.crown.outer_x_mm(side_of(box), box.floor_mm) - axial_x_mm(box))
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


def _faces_first(block: Block, cavity: Cavity) -> None:
    """Take boxes in a face, up to the pulpal floor, off the rest: they are filled first, shaped by hand."""
    if cavity.occlusal is None:
        return
    for box in (one for one in cavity.features if one.kind == "face_box"):
        face = box.where.partition(" ")[0]
        below = box.cut.solid.trim_by_plane((0.0, 0.0, -1.0), -cavity.occlusal.floor_mm)
        lifts = lifts_of(block.split_off(below.as_original()), block.limits["body"])
        for i, piece in enumerate(lifts, 1):
            name = f"{face} box, layer {i}" if len(lifts) > 1 else f"{face} box"
            hint = f"Draw it to the {face} face by hand, a little full; no step at the gingival margin."
            block.add(f"{face}.box.{i}", name, piece, "body", None, hint)


def _horizontal(block: Block, cavity: Cavity, asked: CompositeRestoration, rules: Rulebook) -> list[Portion]:
    """Flat layers: each box up to the pulpal floor, then across."""
    for box in cavity.boxes:
        side = side_of(box)
        for i, piece in enumerate(lifts_of(_box_part(block, cavity, side), block.limits["body"]), 1):
            block.add(f"{side}.layer.{i}", f"{side} box, layer {i}", piece, "body", side)
    # What lies in a tunnel may be lit through its clear strip.
    under = cavity.tunnels[0].under if cavity.tunnels else None
    lifts = lifts_of(block.rest, min(block.limits["body"], block.limits["enamel"]))
    for i, piece in enumerate(lifts, 1):
        last = i == len(lifts)
        role: ShadeRole = "enamel" if last else "body"
        hint = "Shape cusp slopes and groove before curing." if last else ""
        block.add(f"occlusal.layer.{i}", f"occlusal layer {i}", piece, role, under, hint)
    return block.done()


def _bulk(block: Block, cavity: Cavity, asked: CompositeRestoration, rules: Rulebook) -> list[Portion]:
    """As few increments as the composite's own limit allows, each across the whole cavity."""
    side = side_of(cavity.boxes[0]) if cavity.boxes else None
    lifts = lifts_of(block.rest, block.limits["body"])
    for i, piece in enumerate(lifts, 1):
        name = f"bulk layer {i}" if len(lifts) > 1 else "bulk layer"
        hint = "Fill from the floor up, tip in the composite; no void at the line angles."
        if i == len(lifts):
            hint += " Shape cusp slopes and groove."
        block.add(f"bulk.{i}", name, piece, "body", side, hint, "bulk")
    return block.done()


def _wall_first(block: Block, cavity: Cavity, asked: CompositeRestoration, rules: Rulebook) -> list[Portion]:
    """Gingival increment, proximal wall up to the ridge, the box behind it, then a Class I."""
    _walls(block, cavity, asked, rules)
    surface = _surface(block, cavity, rules)
    _cores(block, cavity)
    for i, piece in enumerate(lifts_of(block.rest, block.limits[block.core]), 1):
        block.add(f"occlusal.body.{i}", f"occlusal body {i}", piece, block.core, None)
    return _with_surface(block, surface)


def _wall_then_oblique(
    block: Block, cavity: Cavity, asked: CompositeRestoration, rules: Rulebook
) -> list[Portion]:
    """As with the wall first; below the surface layer one sloped increment for each cusp that stands."""
    _walls(block, cavity, asked, rules)
    surface = _surface(block, cavity, rules)
    _cores(block, cavity)
    by_cusp(block, cavity, asked.first_cusp, rules)
    return _with_surface(block, surface)


def _oblique(block: Block, cavity: Cavity, asked: CompositeRestoration, rules: Rulebook) -> list[Portion]:
    """Sloping increments, each against as few walls as possible: facial, then lingual."""
    for box in cavity.boxes:
        gingival_increment(block, cavity, box, asked, rules)
    surface = _surface(block, cavity, rules)
    for box in cavity.boxes:
        side = side_of(box)
        for i, slab in enumerate(lifts_of(_box_part(block, cavity, side), block.limits[block.core]), 1):
            _facial_then_lingual(block, slab, f"{side}.slope.{i}", f"{side} box {i}", side)
    for i, slab in enumerate(lifts_of(block.rest, block.limits[block.core]), 1):
        _facial_then_lingual(block, slab, f"occlusal.slope.{i}", f"occlusal {i}", None)
    return _with_surface(block, surface)


def _walls(block: Block, cavity: Cavity, asked: CompositeRestoration, rules: Rulebook) -> None:
    for box in cavity.boxes:
        gingival_increment(block, cavity, box, asked, rules)
        proximal_wall(block, cavity, box, asked, rules)


def _cores(block: Block, cavity: Cavity) -> None:
    """Take what is left of each box behind its wall off the rest."""
    for box in cavity.boxes:
        side = side_of(box)
        for i, piece in enumerate(lifts_of(_box_part(block, cavity, side), block.limits[block.core]), 1):
            name = f"{side} box behind the wall, {i}"
            block.add(f"{side}.core.{i}", name, piece, block.core, side)


LAYERING: dict[
    LayeringTechnique, Callable[[Block, Cavity, CompositeRestoration, Rulebook], list[Portion]]
] = {
    "horizontal": _horizontal,
    "oblique": _oblique,
    "wall_first": _wall_first,
    "wall_then_oblique": _wall_then_oblique,
    "bulk": _bulk,
}
SCHOOL_NAMES: dict[LayeringTechnique, str] = {
    "wall_first": "proximal wall first",
    "wall_then_oblique": "wall, then cusp by cusp",
    "oblique": "oblique",
    "horizontal": "horizontal",
    "bulk": "bulk",
}
# An edge has no proximal wall: a shell goes before the rest.
ON_EDGE: dict[LayeringTechnique, str] = {
    "wall_first": "lingual shell first",
    "oblique": "oblique",
    "horizontal": "horizontal",
}
# Techniques with a shade of its own below the surface.
CORED: tuple[LayeringTechnique, ...] = ("wall_first", "wall_then_oblique", "oblique")
# What is done where there is no wall to build.
INSTEAD: dict[LayeringTechnique, LayeringTechnique] = {
    "wall_first": "horizontal",
    "wall_then_oblique": "oblique",
}


@lru_cache(maxsize=64)
def _lowered(crown: Crown, by_mm: float) -> Manifold:
    """Return a crown's solid moved down, with a tag of its own."""
    return solid_of(crown).solid.translate((0, 0, -by_mm)).as_original()


def _surface(block: Block, cavity: Cavity, rules: Rulebook) -> Manifold:
    """Take the last layer off the rest: of even vertical thickness under the anatomy.

    Near steep walls the body stops at a level, and the last layer is thicker there, rather than
    leaving scraps between them.
    """
    limit_mm = block.limits["enamel"]
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
    return block.split_off(half_of(side, floor))


def _facial_then_lingual(block: Block, slab: Manifold, id: str, name: str, side: Side | None) -> None:
    facial, lingual = slab.split(under_slope(slab, rises=True))
    block.add(f"{id}.facial", f"{name}, facial slope", facial, block.core, side)
    block.add(f"{id}.lingual", f"{name}, lingual slope", lingual, block.core, side)


def lowest_lift(cavity: Cavity, limit_mm: float) -> tuple[float, Manifold]:
    """Return what flat layers place at the bottom of a cavity, or the lower part of that, and how high it is (mm)."""
    _, _, low, _, _, high = cavity.filling.bounding_box()
    lowest = min(cavity.boxes, key=lambda box: box.floor_mm, default=None)
    if lowest and cavity.occlusal:
        high = cavity.occlusal.floor_mm - CLEAR_OF_FLOOR_MM
    lift = (high - low) / max(1, math.ceil(round((high - low) / limit_mm, 6)))
    under = half_of(side_of(lowest), low + lift) if lowest else below(low + lift).solid
    return lift, cavity.filling ^ under
