"""The zones that a cavity is filled in, cut from the restoration itself: hollows first, then boxes, the floor, cusps."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np
from manifold3d import CrossSection, Manifold, OpType

from mallet.cavity.measures import topmost_mm
from mallet.cavity.preparation import Cavity
from mallet.cavity.rods import rod
from mallet.cavity.tool import Tool

LEAST_MM3 = 0.05
FIRST_MM = 1.0
# What lies so close round a pin is packed before the rest.
ROUND_PIN_MM = 0.6
OFF_ENDS_MM = 0.05
HEIGHTS = 6
FINE_MM = 5e-3
HOLLOWS = ("slot", "retention_groove", "lingual_dovetail")


@dataclass(frozen=True)
class Zone:
    """What is packed at once: `width_mm` is the widest nib that gets to its bottom, `area_mm2` its ground as seen from the
    opening, `height_mm` how high it is built."""

    id: str
    name: str
    solid: Manifold
    width_mm: float
    area_mm2: float
    height_mm: float

    @property
    def volume_mm3(self) -> float:
        return float(self.solid.volume())


def zones_of(cavity: Cavity) -> list[Zone]:
    """Return the zones of a cavity in their order; together they are its filling."""
    rest, zones = cavity.filling, []
    opening = Manifold.batch_boolean(
        [
            *(tool.cut.solid for tool in cavity.tools),
            *(one.cut.solid for one in cavity.reductions),
            *(one.cut.solid for one in cavity.features if one.kind in (*HOLLOWS, "pulp_chamber", "face_box")),
        ],
        OpType.Add,
    )
    for id, name, region in _regions(cavity):
        solid, left = rest.split(region)
        if solid.volume() < LEAST_MM3 or left.volume() < LEAST_MM3:
            continue
        rest = left
        zones.append(_zone(id, name, solid, opening))
    id, name = ("cusps", "reduced cusps") if cavity.reductions else ("floor", "whole floor")
    if cavity.from_face:
        id, name = "cavity", "cavity"
    last = _zone(id, name, rest, opening)
    # Entered from a face it is as wide as it opens: its deepest point wants no nib.
    face_mm = inscribed_mm(rest.project()) if cavity.from_face else last.width_mm
    return [*zones, replace(last, width_mm=face_mm)]


def _regions(cavity: Cavity) -> Iterator[tuple[str, str, Manifold]]:
    """Yield what each zone takes of what those before it left."""
    chambers = [one for one in cavity.features if one.kind == "pulp_chamber"]
    canals = [one.canals for one in chambers if one.canals]
    hollows = [*_hollows(cavity), *canals, *_round_pins(cavity)]
    if hollows:
        kinds = {one.kind for one in cavity.features if one.pin or one.kind in HOLLOWS}
        kinds |= {"canals"} if canals else set()
        yield "hollows", _named(kinds), Manifold.batch_boolean(hollows, OpType.Add)
    for chamber in chambers:
        yield "chamber", "pulp chamber", _trimmed(chamber.cut.solid, chamber.mouth[2])
    floor = cavity.occlusal.floor_mm if cavity.occlusal else None
    for box in cavity.boxes:
        first = box.floor_mm + FIRST_MM
        yield f"{box.side}.floor", f"{box.side} box, gingival floor", _below(box, first)
        if floor is not None and floor - first > OFF_ENDS_MM:
            yield f"{box.side}.box", f"{box.side} box, up to the pulpal floor", _below(box, floor)
    for one in (one for one in cavity.features if one.kind == "face_box"):
        at, first = one.where.partition(" ")[0], one.mouth[2] + FIRST_MM
        yield f"{at}.floor", f"{at} box, gingival floor", _trimmed(one.cut.solid, first)
        if floor is not None and floor - first > OFF_ENDS_MM:
            yield f"{at}.box", f"{at} box, up to the pulpal floor", _trimmed(one.cut.solid, floor)
    if cavity.reductions and cavity.tools:
        reduced = _reduced_mm(cavity)
        cuts = Manifold.batch_boolean([tool.cut.solid for tool in cavity.tools], OpType.Add)
        yield "floor", "whole floor", _trimmed(cuts, reduced)


def _hollows(cavity: Cavity) -> list[Manifold]:
    return [one.cut.solid for one in cavity.features if one.kind in HOLLOWS]


def _round_pins(cavity: Cavity) -> list[Manifold]:
    """Return the first millimeter round each pin."""
    found = []
    for one in cavity.features:
        if one.pin:
            x, y, z = one.mouth
            x0, _, _, x1, _, _ = one.pin.solid.bounding_box()
            radius = (x1 - x0) / 2 + ROUND_PIN_MM
            found.append(rod(np.array([x, y, z - OFF_ENDS_MM]), np.array([x, y, z + FIRST_MM]), radius).solid)
    return found


def _named(kinds: set[str]) -> str:
    words = {
        "slot": "slots",
        "retention_groove": "grooves",
        "lingual_dovetail": "notch",
        "pin_hole": "round pins",
        "canals": "canal openings",
    }
    return ", ".join(name for kind, name in words.items() if kind in kinds)


def _below(box: Tool, z_mm: float) -> Manifold:
    return _trimmed(box.cut.solid, z_mm)


def _trimmed(solid: Manifold, z_mm: float) -> Manifold:
    """Return what of a solid lies below a height."""
    return solid.trim_by_plane((0.0, 0.0, -1.0), -z_mm)


def _reduced_mm(cavity: Cavity) -> float:
    """Return the height up to which boxes are filled before the cusps: where what is left of them begins."""
    left = cavity.remaining_tooth
    tips = [cavity.crown.cusps[cusp][:2] for one in cavity.reductions for cusp in one.cusps]
    return float(np.nanmin(topmost_mm(left, np.array(tips))[:, 1]))


def _zone(id: str, name: str, solid: Manifold, opening: Manifold) -> Zone:
    x0, y0, z0, x1, y1, z1 = solid.bounding_box()
    area = float(solid.project().area())
    # What is built in the mean over its ground: ridges and cusps stand higher, grooves lower.
    height = max(min(z1 - z0, float(solid.volume()) / area), FINE_MM)
    window = CrossSection.square((x1 - x0 + 2 * FINE_MM, y1 - y0 + 2 * FINE_MM)).translate(
        (x0 - FINE_MM, y0 - FINE_MM)
    )
    heights = np.linspace(z0 + OFF_ENDS_MM, max(z1 - OFF_ENDS_MM, z0 + OFF_ENDS_MM), HEIGHTS)
    widths = [inscribed_mm(opening.slice(float(z)) ^ window) for z in heights]
    return Zone(id, name, solid, min((width for width in widths if width > 0), default=0.0), area, height)


def inscribed_mm(section: CrossSection) -> float:
    """Return the diameter of the widest circle within a section."""
    low, high = 0.0, 12.0
    if section.is_empty():
        return 0.0
    while high - low > FINE_MM:
        middle = (low + high) / 2
        if section.offset(-middle / 2).is_empty():
            high = middle
        else:
            low = middle
    return low
