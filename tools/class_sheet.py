"""A sheet of every class of cavity that is planned, each in the two views of its drawing."""

from __future__ import annotations

import json
import sys
from pathlib import Path
from typing import Any

sys.path.insert(0, str(Path(__file__).resolve().parent.parent))
from mallet.drawing import draw
from mallet.drawing.sheets import Drawing, Shape, Sheet
from mallet.plan import work
from mallet.terms.case import read_case
from mallet.terms.upgrade import upgrade_case
from tools.contact_sheet import photograph
from tools.server import ROOT

OUT = ROOT / "docs" / "screenshots" / "classes.png"
EXAMPLE = ROOT / "examples" / "lower_first_molar_mo.json"
PER_MM, WIDE, HIGH, COLUMNS = 11.0, 400, 240, 4
FILLS = {
    "enamel": "#fdfaf2", "dentin": "#efe3c0", "pulp": "#eccfc8", "sectional": "#1f2a30", "circumferential": "#1f2a30",
    "wedge": "#dcc79a", "air": "#dfe6e2", "metal": "#5b6670", "copper": "#a4623a",
}  # fmt: skip
LAYERS = ("#a9cdc2", "#cfe3da", "#8fb8ad", "#e3eee8")
INK = "#1f2a30"

OCCLUSAL = {"kind": "occlusal_box", "depth_mm": 2.0, "width_mm": 2.0, "length_mm": 5.0}
BOX = {"kind": "proximal_box", "height_mm": 4.5, "width_mm": 3.8, "axial_depth_mm": 1.5}
MESIAL, DISTAL = {**BOX, "side": "mesial"}, {**BOX, "side": "distal"}
COVER = {"kind": "cusp_reduction", "cusps": ["mesiolingual", "distolingual"], "tip_mm": 2.0}
BESIDE = {
    "kind": "proximal_cavity",
    "side": "mesial",
    "height_mm": 1.8,
    "depth_mm": 1.6,
    "faciolingual_mm": 1.3,
}
ALL_CUSPS = ["mesiofacial", "distofacial", "distal", "mesiolingual", "distolingual"]
LOW: dict[str, Any] = {
    "kind": "cusp_reduction",
    "cusps": ["mesiolingual", "distolingual"],
    "tip_mm": 3.5,
    "groove_mm": 2.0,
}
EDGE = {"kind": "incisal_fracture", "mesial_mm": 4.0, "distal_mm": 2.0}
NECK = {"face": "facial", "width_mm": 3.6, "height_mm": 2.2, "depth_mm": 1.2, "above_cej_mm": 0.4}
# Views other than a drawing's first two.
OTHER_VIEWS = {
    "Retention grooves, lower molar": ("across_feature", "above"),
    "Slot, lower molar": ("across_feature", "above"),
    "Pins, lower molar": ("across_feature", "above"),
    "Crown stump, primary upper central": ("section", "across_feature"),
    "Class IV with dovetail notch, upper central": ("through", "lingual"),
}
# What it is called, the tooth, its surfaces, its parts and the school.
CLASSES: tuple[tuple[str, str, str, list[dict[str, Any]], str], ...] = (
    ("Class I, lower molar", "46", "O", [OCCLUSAL], "horizontal"),
    ("Class I, facial pit, lower molar", "46", "F",
     [{"kind": "pit", "diameter_mm": 1.6, "depth_mm": 1.4, "above_cej_mm": 2.6}], "horizontal"),
    ("Class II, one box, lower molar", "36", "MO", [OCCLUSAL, MESIAL], "wall_first"),
    ("Class II, two boxes, upper premolar", "15", "MOD",
     [{**OCCLUSAL, "length_mm": 2.6}, {**MESIAL, "width_mm": 3.2, "axial_depth_mm": 1.3},
      {**DISTAL, "width_mm": 3.2, "axial_depth_mm": 1.3}], "oblique"),
    ("Class II, box alone, upper molar", "16", "M", [{**MESIAL, "axial_depth_mm": 2.0}], "horizontal"),
    ("Class II, cusps covered, lower molar", "46", "MOL", [OCCLUSAL, MESIAL, COVER], "horizontal"),
    ("Class III from lingual, upper central", "11", "ML", [BESIDE], "horizontal"),
    ("Class III from facial, upper canine", "23", "MF", [{**BESIDE, "face": "facial", "faciolingual_mm": 2.0}], "horizontal"),
    ("Class IV, corner, upper central", "11", "MI",
     [{"kind": "incisal_fracture", "mesial_mm": 4.0, "distal_mm": -2.0}], "wall_first"),
    ("Class IV, edge, lower central", "31", "MID",
     [{"kind": "incisal_fracture", "mesial_mm": 2.0, "distal_mm": 2.0}], "horizontal"),
    ("Class V, saucer, upper canine", "13", "F", [{**NECK, "kind": "saucer_lesion"}], "horizontal"),
    ("Class V, notch, lower premolar", "34", "F", [{**NECK, "kind": "wedge_lesion"}], "oblique"),
    ("Class V from lingual, lower molar", "47", "L", [{**NECK, "kind": "saucer_lesion", "face": "lingual"}], "horizontal"),
    ("Class IV, beveled, upper central", "21", "MID",
     [{"kind": "incisal_fracture", "mesial_mm": 3.0, "distal_mm": 2.0, "bevel_mm": 2.5}], "wall_first"),
    ("Class II, primary lower molar", "75", "DO",
     [{"kind": "occlusal_box", "depth_mm": 1.5, "width_mm": 1.4, "length_mm": 2.6},
      {"kind": "proximal_box", "side": "distal", "height_mm": 3.0, "width_mm": 2.6, "axial_depth_mm": 1.0}], "horizontal"),
    ("Class V, primary upper canine", "53", "F",
     [{"kind": "saucer_lesion", "width_mm": 2.5, "height_mm": 1.6, "depth_mm": 0.8, "above_cej_mm": 0.4}], "horizontal"),
    ("Groove to be sealed, lower molar", "36", "O",
     [{"kind": "sealant_groove", "length_mm": 6.0, "width_mm": 0.8, "depth_mm": 0.8}], "horizontal"),
    ("Class II, tunnel, lower molar", "36", "MO",
     [{"kind": "tunnel", "side": "mesial", "below_ridge_mm": 2.5, "inset_mm": 2.5, "diameter_mm": 1.6}], "horizontal"),
    ("Retention grooves, lower molar", "36", "MO",
     [OCCLUSAL, MESIAL, {"kind": "retention_groove", "side": "mesial", "depth_mm": 0.4, "width_mm": 0.7,
      "height_mm": 1.5}], "horizontal"),
    ("Slot, lower molar", "46", "MOL",
     [OCCLUSAL, MESIAL, LOW, {"kind": "slot", "at": "distolingual", "length_mm": 2.2, "width_mm": 0.8,
      "depth_mm": 1.0, "inset_mm": 0.8}], "horizontal"),
    ("Pins, lower molar", "46", "MOL",
     [OCCLUSAL, MESIAL, LOW, *({"kind": "pin_hole", "at": cusp, "diameter_mm": 0.6, "depth_mm": 2.0, "above_floor_mm": 1.5}
      for cusp in LOW["cusps"])], "horizontal"),
    ("Core over a shoulder, lower molar", "36", "MODFL",
     [OCCLUSAL, {**LOW, "cusps": ALL_CUSPS, "tip_mm": 3.0},
      {"kind": "shoulder", "width_mm": 1.5, "above_cej_mm": 1.5}], "horizontal"),
    ("Class IV with dovetail notch, upper central", "11", "MID",
     [EDGE, {"kind": "lingual_dovetail", "width_mm": 2.5, "height_mm": 2.0, "depth_mm": 0.8}], "wall_first"),
    ("Class IV, star bevel, upper central", "21", "MID",
     [{**EDGE, "bevel_mm": 2.5, "bevel_points": 3}], "wall_first"),
    ("Crown stump, primary upper central", "51", "MIDFL",
     [{"kind": "strip_crown_preparation", "incisal_reduction_mm": 1.5, "axial_reduction_mm": 0.5, "above_cej_mm": 0.6}], "horizontal"),
)  # fmt: skip


def drawn(tooth: str, surfaces: str, parts: list[dict[str, Any]], technique: str) -> Drawing:
    """Return the drawing of a plan."""
    case = upgrade_case(json.loads(EXAMPLE.read_text()))
    case |= {
        "tooth": {"code": tooth},
        "restoration": {**case["restoration"], "surfaces": surfaces, "technique": technique},
        "preparation": {"remaining_dentin_mm": 1.5, "parts": parts},
        "adjacent": {},
        "techniques": {},
        "provenance": {},
    }
    return draw(work(read_case(case)))


def signs(sheet: Sheet, drawing: Drawing) -> tuple[int, int]:
    """Return how a view stands in the mouth; y grows downwards in a picture."""
    across = (1 if drawing.upper else -1) * (-1 if drawing.mirrored else 1)
    up = 1 if drawing.upper else -1
    match sheet.view:
        case "above" | "level":
            return across, -up
        case "through":
            return -1, up
        case "across_feature":
            return 1, up
        case "lingual":
            return -across, up
    return across, up


def fill_of(shape: Shape) -> str:
    if shape.role == "increment":
        return LAYERS[(shape.order - 1) % len(LAYERS)]
    return FILLS.get(shape.material, "none")


def picture(sheet: Sheet, drawing: Drawing, x: float, y: float) -> str:
    """Return one view about a place; neighbours are left out."""
    sx, sy = signs(sheet, drawing)
    own = [shape for shape in sheet.shapes if shape.role != "neighbour"]
    points = [p for shape in own for ring in shape.rings for p in ring]
    low, high = ([f(p[i] for p in points) for i in (0, 1)] for f in (min, max))
    cx, cy = (low[0] + high[0]) / 2, (low[1] + high[1]) / 2

    def path(rings: list[list[list[float]]], fill: str, width: float, close: bool) -> str:
        loops = "".join(
            "M"
            + " ".join(
                f"{x + sx * PER_MM * (p[0] - cx):.1f},{y + sy * PER_MM * (p[1] - cy):.1f}" for p in ring
            )
            + ("Z" if close else "")
            for ring in rings
        )
        return f'<path d="{loops}" fill="{fill}" stroke="{INK}" stroke-width="{width}"/>'

    shapes = [path(shape.rings, fill_of(shape), 1.1, True) for shape in own]
    lines = [
        path(line.rings, "none", 0.5, line.material != "cervical")
        for line in sheet.lines
        if line.material != "outline"
    ]
    return "".join([*shapes, *lines])


def main() -> None:
    """Write the picture."""
    body = []
    for i, (name, tooth, surfaces, parts, school) in enumerate(CLASSES):
        drawing = drawn(tooth, surfaces, parts, school)
        x, y = (i % COLUMNS) * WIDE, (i // COLUMNS) * HIGH
        views = OTHER_VIEWS.get(name, [sheet.view for sheet in drawing.sheets[:2]])
        for j, sheet in enumerate(next(s for s in drawing.sheets if s.view == view) for view in views):
            body.append(picture(sheet, drawing, x + WIDE * (0.27 + 0.46 * j), y + 112))
        body.append(
            f'<text x="{x + WIDE / 2}" y="{y + 226}" text-anchor="middle" font-size="15">{name}</text>'
        )
    rows = -(-len(CLASSES) // COLUMNS)
    photograph(body, COLUMNS * WIDE, rows * HIGH, OUT)


if __name__ == "__main__":
    main()
