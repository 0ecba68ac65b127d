"""Layers of what is entered from a face, and of what is built up in a form."""

from __future__ import annotations

from manifold3d import Manifold

from mallet.cavity.preparation import Cavity
from mallet.cavity.tool import Tool
from mallet.curing.cured import Portion
from mallet.restoratives.composite.block import Block, Layering, Limits, lifts_of, under_slope
from mallet.rulebook import Rulebook
from mallet.terms.pieces import Reason
from mallet.terms.reasons import say
from mallet.terms.restoration import CompositeRestoration, ShadeRole

OFF_PLANE_MM = 0.05
IN_FORM = "form"


def in_form(cavity: Cavity) -> list[Portion]:
    """Return what is built up in a crown form: one increment."""
    hint = "Fill the form slowly, no air at the edge; seat it, clear what comes out of the vents and at the gingiva."
    return [Portion(IN_FORM, "restoration in the form", cavity.filling, "body", None, hint)]


def from_face(
    asked: CompositeRestoration, cavity: Cavity, limits: Limits, rules: Rulebook, reasons: list[Reason]
) -> Layering:
    """Return what is entered from a face in layers from its depth outwards.

    The oblique technique slopes each layer in two, from the gingiva; with the wall first a broken edge gets its
    lingual wall, then dentin, then enamel.
    """
    school, block = asked.technique, Block(cavity.filling, limits, rules)
    tool = cavity.from_face
    if tool and any(one.kind == "lingual_dovetail" for one in cavity.features):
        _notch_behind(block, tool)
    has_shell = asked.has_wall_first
    if has_shell and tool and tool.kind == "incisal_fracture":
        return Layering(
            "wall_first", _edge(block, cavity, asked, rules), [*reasons, say("layering.edge_wall")]
        )
    hint = HINTS[tool.kind] if tool else ""
    is_through = bool(tool and tool.is_through)
    # What opens on both faces gets its enamel where it is seen.
    begins_in_front = is_through and cavity.access.side == "lingual"
    lifts = lifts_of(block.rest, min(limits["body"], limits["enamel"]))
    for i, lift in enumerate(lifts, 1):
        last, name = i == len(lifts), f"layer {i}" if len(lifts) > 1 else "single increment"
        is_front = i == 1 if begins_in_front else last
        role: ShadeRole = "enamel" if is_front and len(lifts) > 1 else "body"
        if school == "oblique":
            gingival, rest = _gingival_slope(cavity, lift)
            block.add(
                f"face.{i}.gingival", f"{name}, gingival slope", gingival, role, None, "", "gingival_floor"
            )
            block.add(f"face.{i}.rest", f"{name}, the rest", rest, role, None, hint if last else "")
        else:
            said = [AGAINST_STRIP] if is_through and i == 1 else []
            block.add(f"face.{i}", name, lift, role, None, " ".join([*said, *([hint] if last else [])]))
    if has_shell or school == "bulk":
        instead = say("layering.no_box" if has_shell else "layering.one_way_in")
        return Layering("horizontal", block.done(), [reasons[0], instead])
    told = [say("layering.gingival_first")] if school == "oblique" else []
    return Layering(school, block.done(), [*reasons, *told])


def _notch_behind(block: Block, edge: Tool) -> None:
    """Take what lies in the notch on the lingual side, which is filled and lit from there first, off the rest."""
    # Past the fracture's plane, so that no cut runs along a face.
    block.rest, notch = block.rest.split(edge.cut.solid.translate((0.0, OFF_PLANE_MM, 0.0)).as_original())
    hint = "Into every corner of it, flush with the lingual side."
    block.add("edge.notch", "lingual retention notch", notch, "dentin", None, hint)


AGAINST_STRIP = "Against the strip, drawn tight over the other face and held there with a finger."
HINTS = {
    "saucer_lesion": "A little full; flush at the gingival margin, so that no bur has to go there.",
    "wedge_lesion": "A little full; flush at the gingival margin, so that no bur has to go there.",
    "gold_pit": "Level with the surface round it.",
    "pit": "Level with the surface round it.",
    "proximal_cavity": "Draw the strip tight over it; ridge and hollow of the face before the light.",
    "incisal_fracture": "Line angles, edge and face as on the tooth beside it, before the light.",
}


def _edge(block: Block, cavity: Cavity, asked: CompositeRestoration, rules: Rulebook) -> list[Portion]:
    """Return a broken edge as a lingual wall on the index, dentin in lifts, and enamel over its face."""
    wall = asked.shell_mm or rules.value("composite.lingual_wall_mm")
    enamel = asked.enamel_mm or rules.value("shade.enamel_front_mm")
    outer = cavity.outer.solid
    # What stays is cut out: what is cut off would share its faces with the rest.
    block.rest, lingual = block.rest.split(outer.translate((0.0, 0.0, wall)).as_original())
    hint = "Thin on the index; light before the index comes off."
    for i, lift in enumerate(lifts_of(lingual, block.limits["enamel"]), 1):
        block.add(f"edge.wall.{i}", f"lingual wall {i}", lift, "enamel", None, hint, "lingual_wall")
    block.rest, face = block.rest.split(outer.translate((0.0, 0.0, -enamel)).as_original())
    for i, lift in enumerate(lifts_of(block.rest, block.limits["dentin"]), 1):
        block.add(f"edge.dentin.{i}", f"dentin core {i}", lift, "dentin", None, "Lobes, short of the edge.")
    for i, lift in enumerate(lifts_of(face, block.limits["enamel"]), 1):
        block.add(
            f"edge.face.{i}",
            f"facial enamel {i}",
            lift,
            "enamel",
            None,
            HINTS["incisal_fracture"],
            "facial_enamel",
        )
    return block.done()


def _gingival_slope(cavity: Cavity, slab: Manifold) -> tuple[Manifold, Manifold]:
    """Return a layer cut along a slope, from its surface at the gingiva to its depth at the other end."""
    under, over = slab.split(under_slope(slab, rises=cavity.access.along_y[0] == "gingival"))
    return under, over
