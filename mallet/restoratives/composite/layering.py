"""Schools of layering: each cuts the filling into portions, in the order of placing.

A school takes the cavity and the thickest vertical way that a portion may have, and returns
portions that together are the whole filling. Cut surfaces bear tags of their own.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
from manifold3d import Manifold

from mallet.cavity.boxes import SIGN
from mallet.cavity.crowns import solid_of
from mallet.cavity.measures import longest_vertical_mm, vertical_spans_mm
from mallet.cavity.preparation import Cavity
from mallet.cavity.solids import below, frustum, half_space
from mallet.cavity.tool import Tool
from mallet.curing.cured import Portion
from mallet.rulebook import Rulebook
from mallet.terms.case import LayeringSchool, MassRole
from mallet.terms.parts import Side
from mallet.terms.plan import Reason
from mallet.terms.reasons import say
from mallet.tooth import Crown, loft_crown

CRUMB_MM3 = 0.08
ALONE_MM3 = 0.5
APART_MM = 1.0
CLEAR_OF_FLOOR_MM = 0.02
CLEAR_AROUND_MM = 0.1
HIGH_MM = 25.0
SLACK_MM = 1e-3
TOUCH_MM = 0.01
OFF_PLANE_MM = 0.05


@dataclass(frozen=True)
class Layering:
    """The portions in order, the school that was followed and why."""

    school: LayeringSchool
    portions: list[Portion]
    reasons: list[Reason]


class _Block:
    """What is still to be filled; every cut splits a solid once, along a plane or shell that lies on
    none of its faces, since cutting along a face would leave films without thickness."""

    def __init__(self, filling: Manifold, limit_mm: float, rules: Rulebook) -> None:
        self.rest = filling
        self.limit_mm = limit_mm
        self.least_mm = rules.value("composite.least_portion_mm")
        self.least_mm3 = rules.value("composite.least_portion_mm3")
        self.portions: list[Portion] = []

    def split_off(self, cutter: Manifold) -> Manifold:
        """Take what lies within a cutter off the rest and return it."""
        piece, self.rest = self.rest.split(cutter)
        return piece

    def add(self, id: str, name: str, piece: Manifold, role: MassRole,
            side: Side | None, sculpt: str = "") -> None:  # fmt: skip
        if not piece.is_empty():
            self.portions.append(Portion(id, name, piece, role, side, sculpt))

    def done(self) -> list[Portion]:
        """Return the portions: parts that lie apart on their own, crumbs joined to what is near unless
        that grew too thick."""
        apart = [part for portion in self.portions for part in _apart(portion)]
        kept: list[Portion] = []
        loose: Manifold | None = None
        for portion in apart:
            solid = portion.solid if loose is None else portion.solid + loose
            loose = None
            if solid.volume() >= CRUMB_MM3:
                kept.append(replace(portion, solid=solid))
            elif not kept:
                loose = solid
            elif longest_vertical_mm(joined := kept[-1].solid + solid) <= self.limit_mm + SLACK_MM:
                kept[-1] = replace(kept[-1], solid=joined)
            else:
                kept.append(replace(portion, solid=solid))
        return self._merged(kept)

    def _merged(self, portions: list[Portion]) -> list[Portion]:
        """Return the portions, those too small to be worth planning placed with what lies above them or, where that
        would be too thick, with what lies below."""
        kept = list(portions)
        for portion in portions:
            if len(kept) < 2 or not self._is_small(portion):
                continue
            at = next(i for i, one in enumerate(kept) if one.id == portion.id)
            for beside in (at + 1, at - 1):
                if not 0 <= beside < len(kept) or not _touch(kept[at].solid, kept[beside].solid):
                    continue
                joined = kept[beside].solid + kept[at].solid
                if longest_vertical_mm(joined) <= self.limit_mm + SLACK_MM:
                    kept[beside] = replace(kept[beside], solid=joined)
                    del kept[at]
                    break
        return kept

    def _is_small(self, portion: Portion) -> bool:
        is_thin = longest_vertical_mm(portion.solid) < self.least_mm - SLACK_MM
        return bool(is_thin or portion.solid.volume() < self.least_mm3)


def _touch(one: Manifold, other: Manifold) -> bool:
    return bool(one.min_gap(other, TOUCH_MM) < TOUCH_MM)


def _apart(portion: Portion) -> list[Portion]:
    """Return the parts of a portion that lie at different ends of the tooth, from mesial to distal."""
    groups: list[list[Manifold]] = []
    for part in sorted(portion.solid.decompose(), key=lambda part: -part.bounding_box()[3]):
        reach = min((other.bounding_box()[0] for other in groups[-1]), default=0.0) if groups else 0.0
        if groups and part.bounding_box()[3] > reach - APART_MM:
            groups[-1].append(part)
        else:
            groups.append([part])
    solids = [Manifold.compose(group) for group in groups]
    if len(solids) < 2 or min(solid.volume() for solid in solids) < ALONE_MM3:
        return [portion]
    return [
        replace(portion, id=f"{portion.id}.part.{i}", name=f"{portion.name}, part {i}", solid=solid)
        for i, solid in enumerate(solids, 1)
    ]


def layer(school: LayeringSchool, cavity: Cavity, limit_mm: float, rules: Rulebook) -> Layering:
    """Return the portions of a school; one that can't serve the cavity falls back to flat layers."""
    asked = say("layering.asked", school=SCHOOL_NAMES[school])
    reasons = [asked, say("layering.bounded", limit_mm=round(limit_mm, 2))]
    if cavity.from_face:
        return _from_face(school, cavity, limit_mm, rules, reasons)
    if cavity.stump:
        return Layering(school, _in_form(cavity), [asked, say("layering.in_form")])
    if school == "wall_first":
        refusal = _no_wall(cavity, rules)
        if refusal:
            return Layering("horizontal", _horizontal(cavity, limit_mm, rules), [asked, refusal])
    return Layering(school, LAYERING[school](cavity, limit_mm, rules), reasons)


def is_flat(school: LayeringSchool, cavity: Cavity, rules: Rulebook) -> bool:
    """Tell whether a school lays flat layers in a cavity, from its floor towards occlusal."""
    if cavity.from_face or cavity.stump:
        return False
    return school == "horizontal" or (school == "wall_first" and _no_wall(cavity, rules) is not None)


def _in_form(cavity: Cavity) -> list[Portion]:
    hint = (
        "Fill the form slowly, no air at the edge; seat it, clear what comes out of the vents and at the gum."
    )
    return [Portion("form", "filling in the form", cavity.filling, "body", None, hint)]


def _from_face(
    school: LayeringSchool, cavity: Cavity, limit_mm: float, rules: Rulebook, reasons: list[Reason]
) -> Layering:
    """Return what is entered from a face in layers from its depth outwards.

    The oblique school slopes each layer in two, from the gum; with the wall first a broken edge gets its
    lingual wall, then dentin, then enamel.
    """
    block = _Block(cavity.filling, limit_mm, rules)
    tool = cavity.from_face
    if tool and any(one.kind == "dovetail_notch" for one in cavity.features):
        _notch_behind(block, tool)
    if school == "wall_first" and tool and tool.kind == "incisal_fracture":
        return Layering(school, _edge(block, cavity, rules), [*reasons, say("layering.edge_wall")])
    hint = HINTS[tool.kind] if tool else ""
    lifts = _lifts(block.rest, limit_mm)
    for i, lift in enumerate(lifts, 1):
        last, name = i == len(lifts), f"layer {i}" if len(lifts) > 1 else "filling"
        role: MassRole = "enamel" if last and i > 1 else "body"
        if school == "oblique":
            gingival, rest = _gingival_slope(cavity, lift)
            block.add(f"face.{i}.gingival", f"{name}, gingival slope", gingival, role, None)
            block.add(f"face.{i}.rest", f"{name}, the rest", rest, role, None, hint if last else "")
        else:
            block.add(f"face.{i}", name, lift, role, None, hint if last else "")
    if school == "wall_first":
        return Layering("horizontal", block.done(), [reasons[0], say("layering.no_box")])
    told = [say("layering.gingival_first")] if school == "oblique" else []
    return Layering(school, block.done(), [*reasons, *told])


def _notch_behind(block: _Block, edge: Tool) -> None:
    """Take what lies in the notch on the tongue side, which is filled and lit from there first, off the rest."""
    # Past the fracture's plane, so that no cut runs along a face.
    block.rest, notch = block.rest.split(edge.cut.solid.translate((0.0, OFF_PLANE_MM, 0.0)).as_original())
    hint = "Into every corner of it, flush with the tongue side."
    block.add("edge.notch", "notch on the tongue side", notch, "dentin", None, hint)


HINTS = {
    "saucer": "A little full; flush at the gingival margin, so that no bur has to go there.",
    "notch": "A little full; flush at the gingival margin, so that no bur has to go there.",
    "pit": "Level with the surface round it.",
    "proximal_cavity": "Draw the strip tight over it; ridge and hollow of the face before the light.",
    "incisal_fracture": "Line angles, edge and face as on the tooth beside it, before the light.",
}


def _edge(block: _Block, cavity: Cavity, rules: Rulebook) -> list[Portion]:
    """Return a broken edge as a lingual wall on the index, dentin in lifts, and enamel over its face."""
    wall, enamel = rules.value("composite.lingual_wall_mm"), rules.value("composite.enamel_layer_mm")
    outer = cavity.outer.solid
    # What stays is cut out: what is cut off would share its faces with the rest.
    block.rest, lingual = block.rest.split(outer.translate((0.0, 0.0, wall)).as_original())
    hint = "Thin on the index; light before the index comes off."
    for i, lift in enumerate(_lifts(lingual, block.limit_mm), 1):
        block.add(f"edge.wall.{i}", f"lingual wall {i}", lift, "enamel", None, hint)
    block.rest, face = block.rest.split(outer.translate((0.0, 0.0, -enamel)).as_original())
    for i, lift in enumerate(_lifts(block.rest, block.limit_mm), 1):
        block.add(f"edge.dentin.{i}", f"dentin core {i}", lift, "dentin", None, "Lobes, short of the edge.")
    for i, lift in enumerate(_lifts(face, block.limit_mm), 1):
        block.add(f"edge.face.{i}", f"facial enamel {i}", lift, "enamel", None, HINTS["incisal_fracture"])
    return block.done()


def _gingival_slope(cavity: Cavity, slab: Manifold) -> tuple[Manifold, Manifold]:
    """Return a layer cut along a slope, from its surface at the gum to its depth at the other end."""
    under, over = slab.split(_under_slope(slab, rises=cavity.access.along_y[0] == "gingival"))
    return under, over


def _under_slope(slab: Manifold, rises: bool) -> Manifold:
    """Return what lies under a slope through a layer, which rises with y or falls."""
    _, y0, low, _, y1, high = slab.bounding_box()
    clear = 0.1 * (high - low)
    rise = (high - low - 2 * clear) * (1 if rises else -1)
    return half_space(
        np.array([0.0, y0 if rises else y1, low + clear]), np.array([0.0, -rise, y1 - y0])
    ).solid


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
    block = _Block(cavity.filling, limit_mm, rules)
    for box in cavity.boxes:
        side = _side(box)
        for i, piece in enumerate(_lifts(_box_part(block, cavity, side), limit_mm), 1):
            block.add(f"{side}.layer.{i}", f"{side} box, layer {i}", piece, "body", side)
    # What lies in a tunnel may be lit through its clear strip.
    under = cavity.tunnels[0].under if cavity.tunnels else None
    lifts = _lifts(block.rest, limit_mm)
    for i, piece in enumerate(lifts, 1):
        last = i == len(lifts)
        role: MassRole = "enamel" if last else "body"
        hint = "Shape cusp slopes and groove before the light." if last else ""
        block.add(f"occlusal.layer.{i}", f"occlusal layer {i}", piece, role, under, hint)
    return block.done()


def _wall_first(cavity: Cavity, limit_mm: float, rules: Rulebook) -> list[Portion]:
    """Gingival portion, proximal wall up to the ridge, the box behind it, then a Class I."""
    block = _Block(cavity.filling, limit_mm, rules)
    barrel = loft_crown(cavity.tooth, rules, "barrel")
    thickness = rules.value("composite.wall_thickness_mm")
    hint = "Press it to the band and see it meet the floor; ridge level with the neighbour's."
    for box in cavity.boxes:
        side = _side(box)
        _gingival(block, box, limit_mm, rules)
        wall = block.split_off(_outside(barrel, side, thickness))
        for i, piece in enumerate(_lifts(wall, limit_mm), 1):
            block.add(f"{side}.wall.{i}", f"{side} wall, lift {i}", piece, "enamel", side, hint)
    surface = _surface(block, cavity, limit_mm, rules)
    for box in cavity.boxes:
        side = _side(box)
        for i, piece in enumerate(_lifts(_box_part(block, cavity, side), limit_mm), 1):
            name = f"{side} box behind the wall, {i}"
            block.add(f"{side}.core.{i}", name, piece, "dentin", side)
    for i, piece in enumerate(_lifts(block.rest, limit_mm), 1):
        block.add(f"occlusal.body.{i}", f"occlusal body {i}", piece, "dentin", None)
    return _with_surface(block, surface)


def _oblique(cavity: Cavity, limit_mm: float, rules: Rulebook) -> list[Portion]:
    """Sloping portions, each against as few walls as possible: facial, then lingual."""
    block = _Block(cavity.filling, limit_mm, rules)
    for box in cavity.boxes:
        _gingival(block, box, limit_mm, rules)
    surface = _surface(block, cavity, limit_mm, rules)
    for box in cavity.boxes:
        side = _side(box)
        for i, slab in enumerate(_lifts(_box_part(block, cavity, side), limit_mm), 1):
            _facial_then_lingual(block, slab, f"{side}.slope.{i}", f"{side} box {i}", side)
    for i, slab in enumerate(_lifts(block.rest, limit_mm), 1):
        _facial_then_lingual(block, slab, f"occlusal.slope.{i}", f"occlusal {i}", None)
    return _with_surface(block, surface)


LAYERING: dict[LayeringSchool, Callable[[Cavity, float, Rulebook], list[Portion]]] = {
    "horizontal": _horizontal,
    "oblique": _oblique,
    "wall_first": _wall_first,
}
SCHOOL_NAMES: dict[LayeringSchool, str] = {
    "horizontal": "horizontal",
    "oblique": "oblique",
    "wall_first": "proximal wall first",
}


def _gingival(block: _Block, box: Tool, limit_mm: float, rules: Rulebook) -> None:
    side = _side(box)
    lift = min(rules.value("composite.gingival_lift_mm"), limit_mm)
    piece = block.split_off(_half(side, box.floor_mm + lift))
    hint = "Adapt it to the floor and into both corners; no gap at the margin."
    block.add(f"{side}.gingival", f"{side} gingival portion", piece, "body", side, hint)


@lru_cache(maxsize=64)
def _outside(barrel: Crown, side: Side, thickness_mm: float) -> Manifold:
    """Return what lies no deeper than a wall's thickness under one side of a crown, and all outside."""
    inner = solid_of(barrel).solid.translate((-SIGN[side] * thickness_mm, 0, 0)).as_original()
    return _half(side, HIGH_MM) - inner


@lru_cache(maxsize=64)
def _lowered(crown: Crown, by_mm: float) -> Manifold:
    """Return a crown's solid moved down, with a tag of its own."""
    return solid_of(crown).solid.translate((0, 0, -by_mm)).as_original()


def _surface(block: _Block, cavity: Cavity, limit_mm: float, rules: Rulebook) -> Manifold:
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


def _with_surface(block: _Block, surface: Manifold) -> list[Portion]:
    hint = "One continuous layer to the anatomy, cusp by cusp; shape it before the light."
    block.add("occlusal.surface", "occlusal surface layer", surface, "enamel", None, hint)
    return block.done()


def _box_part(block: _Block, cavity: Cavity, side: Side) -> Manifold:
    """Take a box's part below the pulpal floor off the rest; all of its side where there is none."""
    floor = cavity.occlusal.floor_mm - CLEAR_OF_FLOOR_MM if cavity.occlusal else HIGH_MM
    return block.split_off(_half(side, floor))


def _facial_then_lingual(block: _Block, slab: Manifold, id: str, name: str, side: Side | None) -> None:
    facial, lingual = slab.split(_under_slope(slab, rises=True))
    block.add(f"{id}.facial", f"{name}, facial slope", facial, "dentin", side)
    block.add(f"{id}.lingual", f"{name}, lingual slope", lingual, "dentin", side)


def _lifts(solid: Manifold, limit_mm: float) -> list[Manifold]:
    """Return a solid in equal flat lifts from bottom to top, the fewest in which no straight
    vertical way is longer than the limit."""
    if solid.is_empty():
        return []
    low, high = solid.bounding_box()[2], solid.bounding_box()[5]
    most = max(1, math.ceil(round((high - low) / limit_mm, 6)))
    if most == 1:
        return [solid]
    begins, ends = vertical_spans_mm(solid)
    least = max(1, math.ceil(round(float((ends - begins).max(initial=0.0)) / limit_mm, 3)))
    for count in range(least, most):
        levels = np.linspace(low, high, count + 1)[:, None]
        ways = np.minimum(ends, levels[1:]) - np.maximum(begins, levels[:-1])
        # As above: the columns of the whole tell of most counts that they are too few.
        if ways.max(initial=0.0) > limit_mm + SLACK_MM:
            continue
        lifts = _cut_evenly(solid, low, high, count)
        if all(longest_vertical_mm(lift) <= limit_mm + SLACK_MM for lift in lifts):
            return lifts
    return _cut_evenly(solid, low, high, most)


def lowest_lift(cavity: Cavity, limit_mm: float) -> tuple[float, Manifold]:
    """Return what flat layers place at the bottom of a cavity, or the lower part of that, and how high it is (mm)."""
    _, _, low, _, _, high = cavity.filling.bounding_box()
    lowest = min(cavity.boxes, key=lambda box: box.floor_mm, default=None)
    if lowest and cavity.occlusal:
        high = cavity.occlusal.floor_mm - CLEAR_OF_FLOOR_MM
    lift = (high - low) / max(1, math.ceil(round((high - low) / limit_mm, 6)))
    under = _half(_side(lowest), low + lift) if lowest else below(low + lift).solid
    return lift, cavity.filling ^ under


def _cut_evenly(solid: Manifold, low: float, high: float, count: int) -> list[Manifold]:
    lifts = []
    for i in range(1, count):
        lift, solid = solid.split(below(low + (high - low) * i / count).solid)
        lifts.append(lift)
    return [*lifts, solid]


def _half(side: Side, top_mm: float) -> Manifold:
    """Return the block that fills one side of the tooth's middle below a height."""
    x0, x1 = (0.0, HIGH_MM) if side == "mesial" else (-HIGH_MM, 0.0)
    return frustum((x0, x1, -HIGH_MM, HIGH_MM), -HIGH_MM, top_mm, (0, 0, 0, 0)).solid


def _side(box: Tool) -> Side:
    return box.side or "mesial"


def _axial_x(box: Tool) -> float:
    return box.floor[0] if box.side == "mesial" else box.floor[1]
