"""The inputs that a figure rests on, with where each is from."""

from __future__ import annotations

from mallet.terms.case import Case, get_path
from mallet.terms.plan import InputUse


def input_of(case: Case, path: str, unit: str) -> InputUse:
    """Return a value of the case by its path, measured or not."""
    return InputUse(path=path, value=get_path(case, path), unit=unit, provenance=case.provenance_of(path))


SIZES = {
    "occlusal_box": ("depth_mm", "width_mm", "length_mm"),
    "proximal_box": ("height_mm", "width_mm", "axial_depth_mm"),
    "cusp_reduction": ("tip_mm",),
    "saucer": ("width_mm", "height_mm", "depth_mm"),
    "proximal_cavity": ("height_mm", "depth_mm", "reach_mm"),
    "incisal_fracture": ("mesial_mm", "distal_mm"),
    "pit": ("diameter_mm", "depth_mm"),
    "sealant_groove": ("length_mm", "width_mm", "depth_mm"),
    "tunnel": ("under_ridge_mm", "inside_mm", "diameter_mm"),
    "crown_stump": ("edge_mm", "around_mm", "above_cervical_mm"),
    "retention_groove": ("depth_mm", "width_mm", "height_mm"),
    "slot": ("length_mm", "width_mm", "depth_mm"),
    "pin_hole": ("diameter_mm", "depth_mm"),
    "dovetail_notch": ("width_mm", "height_mm", "depth_mm"),
    "shoulder": ("width_mm", "above_cervical_mm"),
    "notch": ("width_mm", "height_mm", "depth_mm"),
}


def part_inputs(case: Case) -> list[InputUse]:
    """Return the sizes of all parts of a preparation."""
    inputs = []
    for i, part in enumerate(case.preparation.parts):
        sizes = SIZES[part.kind]
        inputs += [input_of(case, f"preparation.parts[{i}].{name}", "mm") for name in sizes]
    return inputs
