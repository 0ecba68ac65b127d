"""What the drawing shows of tunnels, stumps and shoulders, and of what holds a restoration."""

from __future__ import annotations

import math
from collections.abc import Iterable

import numpy as np
from manifold3d import Manifold

from mallet.cavity.boxes import SIGN
from mallet.cavity.face_box import TOWARD
from mallet.cavity.features import Feature
from mallet.cavity.measures import topmost_mm
from mallet.cavity.sections import Ring, crosswise_section, from_above
from mallet.drawing.sheets import (
    Dimension,
    Shape,
    Sheet,
    Slice,
    View,
    amiss,
    base_shapes,
    dimension_of,
    increment_shapes,
    outline_of,
    part_places,
    shape_of,
    tooth_shapes,
)
from mallet.plan import Worked
from mallet.rulebook import Rulebook
from mallet.terms.parts import (
    FaceBox,
    LingualDovetail,
    PinHole,
    PulpChamber,
    RetentionGroove,
    SealantGroove,
    Shoulder,
    Slot,
    StripCrownPreparation,
    Tunnel,
)

OFF_MM = 0.8
NEAR_MM = 0.8


def pin_shapes(worked: Worked, cut: Slice) -> list[Shape]:
    """Return the pins that stand in dentin and restoration."""
    in_tooth = worked.cavity.access.in_tooth
    pins = [(one.index, one.pin.solid) for one in worked.cavity.features if one.pin]
    return [shape_of(f"pin.{index}", "pin", "metal", cut(in_tooth(solid))) for index, solid in pins]


def feature_lines(worked: Worked) -> list[Shape]:
    """Return the outlines of features as they are seen from above."""
    features = [one for one in worked.cavity.features if one.kind not in ("shoulder", "lingual_dovetail")]
    return [shape_of(f"feature.{one.index}", "line", "floor", from_above(one.taken)) for one in features]


def section_dimensions(worked: Worked) -> Iterable[Dimension]:
    """Return what is measured in the mesiodistal section of what has no box's dimensions."""
    crown = worked.cavity.crown
    for i, part in enumerate(worked.case.preparation.parts):
        match part:
            case SealantGroove():
                x = -part.length_mm / 6
                top = float(topmost_mm(worked.cavity.outer.solid, np.array([[x, 0.0]]))[0, 1])
                yield dimension_of(worked, i, "depth_mm", [x, top], [x, top - part.depth_mm], "z")
            case PulpChamber():
                x, _, z = next(one.mouth for one in worked.cavity.features if one.index == i)
                beside = x - part.length_mm / 2 - OFF_MM
                low = z - part.depth_mm - OFF_MM / 2
                yield dimension_of(worked, i, "depth_mm", [beside, z], [beside, z - part.depth_mm], "z")
                half = part.length_mm / 2
                yield dimension_of(worked, i, "length_mm", [x - half, low], [x + half, low], "x")
            case Tunnel():
                ridge = crown.ridge_mm(part.side)
                x = crown.outer_x_mm(part.side, crown.contact_mm[part.side]) - SIGN[part.side] * OFF_MM
                yield dimension_of(
                    worked, i, "below_ridge_mm", [x, ridge], [x, ridge - part.below_ridge_mm], "z"
                )
            case StripCrownPreparation():
                top = crown.height_mm
                yield dimension_of(
                    worked, i, "incisal_reduction_mm", [0.0, top], [0.0, top - part.incisal_reduction_mm], "z"
                )
                yield _above_cervical(worked, i, part.above_cej_mm)
            case Shoulder():
                z = part.above_cej_mm
                outer = crown.outer_x_mm("mesial", z)
                yield dimension_of(
                    worked, i, "width_mm", [outer, z - OFF_MM], [outer - part.width_mm, z - OFF_MM], "x"
                )
                yield _above_cervical(worked, i, z)


def _above_cervical(worked: Worked, index: int, level_mm: float) -> Dimension:
    x = worked.cavity.crown.outer_x_mm("distal", level_mm) - OFF_MM
    return dimension_of(worked, index, "above_cej_mm", [x, 0.0], [x, level_mm], "z")


def above_dimensions(worked: Worked) -> Iterable[Dimension]:
    """Return what is measured from above of what has no box's dimensions."""
    crown = worked.cavity.crown
    for i, part in enumerate(worked.case.preparation.parts):
        match part:
            case SealantGroove():
                half, wide = part.length_mm / 2, part.width_mm / 2
                yield dimension_of(worked, i, "length_mm", [-half, -1.2], [half, -1.2], "x").model_copy(
                    update={"both_ends": True}
                )
                yield dimension_of(worked, i, "width_mm", [0.0, -wide], [0.0, wide], "y")
            case FaceBox():
                y = next(one.mouth[1] for one in worked.cavity.features if one.index == i)
                half = part.width_mm / 2
                ends = [part.at_mm - half, y], [part.at_mm + half, y]
                yield dimension_of(worked, i, "width_mm", *ends, "x").model_copy(update={"both_ends": True})
            case Tunnel():
                outer = crown.outer_x_mm(part.side, crown.contact_mm[part.side])
                y = part.diameter_mm / 2 + OFF_MM
                yield dimension_of(
                    worked, i, "inset_mm", [outer, y], [outer - SIGN[part.side] * part.inset_mm, y], "x"
                )


def feature_sheets(worked: Worked, rules: Rulebook) -> list[Sheet]:
    """Return a faciolingual section through each feature that no other section shows, of a stump through its
    middle; of two at one height along the tooth, one."""
    shown: list[float] = []
    sheets = []
    if worked.cavity.stump:
        sheets.append(_across(worked, 0.0, "the prepared tooth", "across_feature", [], rules))
    kinds = ("slot", "pin_hole", "retention_groove", "pulp_chamber", "face_box")
    for one in worked.cavity.features:
        x = one.mouth[0]
        if one.kind in kinds and not sheets and all(abs(x - other) > NEAR_MM for other in shown):
            shown.append(x)
            dims = [d for other in worked.cavity.features for d in _sunk_dimensions(worked, other, x)]
            sheets.append(_across(worked, x, f"the {NAMES[one.kind]}", "across_feature", dims, rules))
    return sheets


NAMES = {
    "slot": "slot",
    "pin_hole": "pin",
    "retention_groove": "retention grooves",
    "pulp_chamber": "pulp chamber",
    "face_box": "box in a face",
}


def _across(worked: Worked, x: float, what: str, view: View, dims: list[Dimension], rules: Rulebook) -> Sheet:
    def cut(solid: Manifold, within: Manifold | None = None) -> list[Ring]:
        return crosswise_section(solid, x, within)

    return Sheet(
        view=view,
        title=f"faciolingual section through {what}",
        axes=["y", "z"],
        shapes=[
            *tooth_shapes(worked, cut, rules),
            *base_shapes(worked, cut),
            *increment_shapes(worked, cut),
            *pin_shapes(worked, cut),
        ],
        lines=[outline_of(worked, cut)],
        dimensions=dims,
        marks=amiss(worked, lambda p: [p.y, p.z] if abs(p.x - x) < NEAR_MM else None),
        parts=part_places(worked, (1, 2), across=0, at_mm=x),
    )


def _sunk_dimensions(worked: Worked, one: Feature, x_mm: float) -> Iterable[Dimension]:
    """Return how deep a feature is sunk, where a section runs through it."""
    part = worked.case.preparation.parts[one.index]
    x, y, z = one.mouth
    if abs(x - x_mm) > NEAR_MM:
        return
    if isinstance(part, Slot | PinHole):
        beside = y + (OFF_MM if y > 0 else -OFF_MM)
        yield dimension_of(worked, one.index, "depth_mm", [beside, z], [beside, z - part.depth_mm], "z")
    if isinstance(part, FaceBox):
        toward, low = TOWARD[part.face], z - OFF_MM / 2
        axial = y - toward * part.axial_depth_mm / 2
        face = y + toward * part.axial_depth_mm / 2
        yield dimension_of(worked, one.index, "axial_depth_mm", [face, low], [axial, low], "y")
        beside = face + toward * OFF_MM
        yield dimension_of(worked, one.index, "above_cej_mm", [beside, 0.0], [beside, z], "z")
    if isinstance(part, RetentionGroove):
        box = worked.cavity.box(part.side)
        assert box is not None
        wall = box.floor[3] if part.walls != "lingual" else box.floor[2]
        way = 1.0 if wall > 0 else -1.0
        low = box.floor_mm - OFF_MM / 2
        yield dimension_of(worked, one.index, "depth_mm", [wall, low], [wall + way * part.depth_mm, low], "y")
        # At the other wall, where there is a groove too: the two lengths are short.
        other = -wall if part.walls == "both" else wall
        beside = other + math.copysign(part.depth_mm + OFF_MM / 2, other)
        top = box.floor_mm + part.height_mm
        yield dimension_of(worked, one.index, "height_mm", [beside, box.floor_mm], [beside, top], "z")


def notch_dimensions(worked: Worked) -> list[Dimension]:
    """Return what is measured of a notch behind an edge as it is seen from lingual."""
    dims = []
    for one in worked.cavity.features:
        part = worked.case.preparation.parts[one.index]
        if isinstance(part, LingualDovetail):
            box = worked.cavity.access.in_tooth(one.taken).bounding_box()
            x, low = (box[0] + box[3]) / 2, box[2]
            half = part.width_mm / 2
            across = dimension_of(
                worked, one.index, "width_mm", [x - half, low - OFF_MM], [x + half, low - OFF_MM], "x"
            )
            beside = x + half + OFF_MM
            down = dimension_of(
                worked, one.index, "height_mm", [beside, low + part.height_mm], [beside, low], "z"
            )
            dims += [across, down]
    return dims
