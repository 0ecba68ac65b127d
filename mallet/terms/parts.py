"""The parts that a preparation is made of, as they are measured: lengths in mm, angles in degrees."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from mallet.terms.mouth import Strict

Side = Literal["mesial", "distal"]
Opening = Annotated[float, Field(ge=-10, le=20)]
Wall = Literal["mesial", "distal", "facial", "lingual", "axial"]
# By converging these hold a restoration that nothing bonds.
HOLDING: tuple[Wall, ...] = ("facial", "lingual")


class Walled(Strict):
    """A box whose walls open occlusally, or converge: all by one angle, but for those whose own is told."""

    def wall_deg(self, wall: Wall) -> float:
        """Return by how much a wall opens, in degrees."""
        return float(getattr(self, self.wall_path(wall)))

    def wall_path(self, wall: Wall) -> str:
        """Return which of its angles tells how a wall opens."""
        return "wall_divergence_deg" if getattr(self, f"{wall}_wall_deg") is None else f"{wall}_wall_deg"


class OcclusalBox(Walled):
    """Box cut from the occlusal surface; length and width are taken at the pulpal floor."""

    kind: Literal["occlusal_box"]
    depth_mm: Annotated[float, Field(gt=0, le=8)]
    width_mm: Annotated[float, Field(ge=0.5, le=10)]
    length_mm: Annotated[float, Field(ge=0.5, le=12)]
    wall_divergence_deg: Opening = 3.0
    facial_wall_deg: Opening | None = None
    lingual_wall_deg: Opening | None = None
    mesial_wall_deg: Opening | None = None
    distal_wall_deg: Opening | None = None


class ProximalBox(Walled):
    """Box through a marginal ridge; depth from the outer surface at the gingival floor. `margin_in` is where its
    gingival margin was seen to end, which the handbook's cementoenamel junction gives way to."""

    kind: Literal["proximal_box"]
    side: Side
    height_mm: Annotated[float, Field(gt=0, le=10)]
    width_mm: Annotated[float, Field(ge=0.5, le=10)]
    axial_depth_mm: Annotated[float, Field(ge=0.3, le=6)]
    wall_divergence_deg: Opening = 3.0
    facial_wall_deg: Opening | None = None
    lingual_wall_deg: Opening | None = None
    axial_wall_deg: Opening | None = None
    margin_in: Literal["enamel", "dentin"] | None = None


Cusp = Literal["facial", "lingual", "mesiofacial", "distofacial", "distal", "mesiolingual", "distolingual"]


class CuspReduction(Strict):
    """Cusps taken down along their slopes, to be covered: by how much at the tips, and in the central groove
    beside them, where nobody has measured by as much."""

    kind: Literal["cusp_reduction"]
    cusps: list[Cusp] = Field(min_length=1, max_length=5)
    tip_mm: Annotated[float, Field(ge=0.5, le=4)]
    groove_mm: float | None = Field(default=None, ge=0.3, le=4)

    @property
    def in_groove_mm(self) -> float:
        return self.tip_mm if self.groove_mm is None else self.groove_mm


class CervicalLesion(Strict):
    """A cavity at the neck of a tooth, entered from the face that it lies in, about the middle of it.

    Width is mesiodistal and height occlusogingival, as seen from that face; depth is measured from the
    surface straight in. `above_cej_mm` is how far the gingival margin lies above the cementoenamel junction,
    negative on the root; `bevel_mm` how far a bevel runs out over the enamel.
    """

    face: Literal["facial", "lingual"] = "facial"
    width_mm: Annotated[float, Field(ge=0.5, le=10)]
    height_mm: Annotated[float, Field(ge=0.5, le=8)]
    depth_mm: Annotated[float, Field(ge=0.3, le=4)]
    above_cej_mm: Annotated[float, Field(ge=-3, le=8)]
    bevel_mm: Annotated[float, Field(ge=0, le=3)] | None = None


class SaucerLesion(CervicalLesion):
    """Scooped out: half an ellipsoid sunk into the surface."""

    kind: Literal["saucer_lesion"]


class WedgeLesion(CervicalLesion):
    """Wedge-shaped, two flat walls that meet at its depth halfway up."""

    kind: Literal["wedge_lesion"]


class Pit(Strict):
    """A round pit in a face, about the middle of it, with a flat floor: depth is measured from the surface
    straight in, and its gingival edge lies so far above the cementoenamel junction."""

    kind: Literal["pit"]
    face: Literal["facial", "lingual"] = "facial"
    diameter_mm: Annotated[float, Field(ge=0.5, le=5)]
    depth_mm: Annotated[float, Field(ge=0.3, le=4)]
    above_cej_mm: Annotated[float, Field(ge=-3, le=9)]


class GoldPit(Strict):
    """A small preparation for direct gold in a face, its axial wall just past the junction of enamel and dentin, so far into
    dentin, and following it. Height runs occlusogingivally, on the occlusal surface faciolingually; the middle lies
    `above_cej_mm` above the cementoenamel junction (not on the occlusal surface) and `at_mm` mesial of the tooth's. A groove runs
    round the foot of its wall, three points start the gold, and the margin is beveled, so far out over the face."""

    kind: Literal["gold_pit"]
    face: Literal["facial", "lingual", "occlusal"] = "facial"
    outline: Literal["oval", "teardrop", "trapezoid"] = "oval"
    height_mm: Annotated[float, Field(ge=0.6, le=5)]
    width_mm: Annotated[float, Field(ge=0.6, le=5)]
    above_cej_mm: Annotated[float, Field(ge=-1, le=9)] = 3.0
    at_mm: Annotated[float, Field(ge=-4, le=4)] = 0.0
    into_dentin_mm: Annotated[float, Field(ge=0.1, le=1.5)] = 0.3
    groove_depth_mm: Annotated[float, Field(ge=0, le=0.6)] = 0.25
    point_depth_mm: Annotated[float, Field(ge=0, le=0.8)] = 0.4
    bevel_mm: Annotated[float, Field(ge=0, le=1)] = 0.5
    bevel_deg: Annotated[float, Field(ge=15, le=60)] = 45.0


class ProximalCavity(Strict):
    """A cavity beside the contact of an anterior tooth, entered from one of its faces.

    Height is incisogingival, its middle at the contact or so far gingival of it; depth is measured from the proximal surface inwards, and reach
    from the face that it is entered from, straight in, to the wall that stays on the other face. For direct gold three
    points go out of its axial wall's angles, and its margin on that face is beveled, so far out over it. One that goes
    through opens on both faces: no wall stays, and its reach is not read.
    """

    kind: Literal["proximal_cavity"]
    side: Side
    face: Literal["facial", "lingual"] = "lingual"
    height_mm: Annotated[float, Field(ge=0.5, le=8)]
    depth_mm: Annotated[float, Field(ge=0.3, le=4)]
    faciolingual_mm: Annotated[float, Field(ge=0.5, le=7)]
    through: bool = False
    wall_divergence_deg: Opening = 3.0
    below_contact_mm: Annotated[float, Field(ge=-2, le=4)] | None = None
    point_depth_mm: Annotated[float, Field(ge=0, le=0.8)] | None = None
    bevel_mm: Annotated[float, Field(ge=0, le=1)] | None = None


class IncisalFracture(Strict):
    """What broke off an anterior tooth: all above a plane, told by what is lost of the height at the mesial and at
    the distal end of the edge, less than nothing where the plane passes above it, and by its fall to facial.
    A facial bevel reaches so far below the plane, and slopes to the face by an angle; with points it is a star,
    which reaches so far at its points and half as far between them."""

    kind: Literal["incisal_fracture"]
    mesial_mm: Annotated[float, Field(ge=-12, le=9)]
    distal_mm: Annotated[float, Field(ge=-12, le=9)]
    facial_fall_deg: Annotated[float, Field(ge=-60, le=60)] = 0.0
    bevel_mm: Annotated[float, Field(ge=0, le=5)] | None = None
    bevel_deg: Annotated[float, Field(ge=5, le=80)] = 25.0
    bevel_points: Annotated[int, Field(ge=0, le=7)] = 0


class SealantGroove(Strict):
    """The central groove opened to be sealed, about the middle of the tooth: V-shaped, its depth measured from
    the surface straight down."""

    kind: Literal["sealant_groove"]
    length_mm: Annotated[float, Field(ge=1, le=12)]
    width_mm: Annotated[float, Field(ge=0.2, le=2)]
    depth_mm: Annotated[float, Field(ge=0.2, le=2.5)]


class Tunnel(Strict):
    """A round way from the occlusal surface to a lesion beside the contact, under a ridge that stays.

    It opens so far under the ridge's height, to its upper edge, and is entered so far inside the outer surface,
    to its middle.
    """

    kind: Literal["tunnel"]
    side: Side
    below_ridge_mm: Annotated[float, Field(ge=0.5, le=6)]
    inset_mm: Annotated[float, Field(ge=0.5, le=6)]
    diameter_mm: Annotated[float, Field(ge=0.5, le=4)]


Site = Cusp | Side


class RetentionGroove(Strict):
    """A groove along the line angle of a proximal box's axial wall with its facial or lingual one or with both, cut
    into those from the gingival floor up; its depth is measured from the wall."""

    kind: Literal["retention_groove"]
    side: Side
    walls: Literal["both", "facial", "lingual"] = "both"
    depth_mm: Annotated[float, Field(ge=0.1, le=1.5)]
    width_mm: Annotated[float, Field(ge=0.3, le=2)]
    height_mm: Annotated[float, Field(ge=0.5, le=8)]


class Slot(Strict):
    """A slot in the floor at a cusp that was taken down, or in the gingival floor of a side's box, along the outline
    and so far inside the dentinoenamel junction; its middle lies `along_mm` from the cusp or the contact, counterclockwise as
    seen from occlusal in the computed frame."""

    kind: Literal["slot"]
    at: Site
    length_mm: Annotated[float, Field(ge=0.5, le=6)]
    width_mm: Annotated[float, Field(ge=0.3, le=2)]
    depth_mm: Annotated[float, Field(ge=0.2, le=3)]
    inset_mm: Annotated[float, Field(ge=0, le=3)] = 0.5
    along_mm: Annotated[float, Field(ge=-5, le=5)] = 0.0


class PinHole(Strict):
    """A hole for a pin, as a slot is placed; the pin fills it and stands out of it by so much. Where there is a shoulder
    it stands on that, beside the core, unless it is told to stand on the floor."""

    kind: Literal["pin_hole"]
    at: Site
    diameter_mm: Annotated[float, Field(ge=0.3, le=1.2)]
    depth_mm: Annotated[float, Field(ge=0.5, le=6)]
    above_floor_mm: Annotated[float, Field(ge=0.5, le=5)] = 2.0
    inset_mm: Annotated[float, Field(ge=0, le=3)] = 0.5
    along_mm: Annotated[float, Field(ge=-5, le=5)] = 0.0
    on: Literal["floor", "shoulder"] | None = None


class FaceBox(Strict):
    """A box in the facial or lingual face of a posterior tooth: as wide mesiodistally at its gingival floor, that floor so
    far above the cementoenamel junction and so deep from the surface in; its middle lies `at_mm` mesial of the tooth's. With
    `grooves` one is cut along each line angle of its axial wall."""

    kind: Literal["face_box"]
    face: Literal["facial", "lingual"]
    width_mm: Annotated[float, Field(ge=0.8, le=6)]
    axial_depth_mm: Annotated[float, Field(ge=0.5, le=6)]
    above_cej_mm: Annotated[float, Field(ge=-2, le=7)]
    at_mm: Annotated[float, Field(ge=-4, le=4)] = 0.0
    wall_divergence_deg: Annotated[float, Field(ge=-6, le=10)] = 0.0
    grooves: Literal["none", "both"] = "none"


class PulpChamber(Strict):
    """The emptied pulp chamber of a root canal-treated tooth, about the middle of the occlusal box: below its floor, as long
    mesiodistally and as wide faciolingually; `canals` are the cusps below which canals open, emptied so far into them."""

    kind: Literal["pulp_chamber"]
    depth_mm: Annotated[float, Field(ge=0.5, le=8)]
    length_mm: Annotated[float, Field(ge=1.2, le=8)]
    width_mm: Annotated[float, Field(ge=1.2, le=8)]
    canals: list[Cusp] = Field(default=[], max_length=4)
    canal_depth_mm: Annotated[float, Field(ge=0.5, le=6)] = 3.0
    canal_diameter_mm: Annotated[float, Field(ge=0.5, le=2.5)] = 1.0


class LingualDovetail(Strict):
    """A retention notch on the lingual face behind a broken edge, widest at its end: width there, height from the fracture on,
    depth measured from the face straight in."""

    kind: Literal["lingual_dovetail"]
    width_mm: Annotated[float, Field(ge=0.8, le=5)]
    height_mm: Annotated[float, Field(ge=0.5, le=4)]
    depth_mm: Annotated[float, Field(ge=0.3, le=2)]


class Shoulder(Strict):
    """A flat shoulder all round for a later crown: its width inwards, and how far it lies above the cementoenamel junction of
    the facial face."""

    kind: Literal["shoulder"]
    width_mm: Annotated[float, Field(ge=0.3, le=2.5)]
    above_cej_mm: Annotated[float, Field(ge=-1, le=5)]


class StripCrownPreparation(Strict):
    """An anterior tooth cut down all round, to be built up in a strip crown form: how much is off its edge, and off its walls
    under that, running out to nothing so far above the cementoenamel junction."""

    kind: Literal["strip_crown_preparation"]
    incisal_reduction_mm: Annotated[float, Field(ge=0.5, le=4)]
    axial_reduction_mm: Annotated[float, Field(ge=0.2, le=1.5)]
    above_cej_mm: Annotated[float, Field(ge=0, le=3)]


FacePart = SaucerLesion | WedgeLesion | Pit | GoldPit | ProximalCavity | IncisalFracture
FeaturePart = RetentionGroove | Slot | PinHole | FaceBox | PulpChamber | LingualDovetail | Shoulder
Part = Annotated[
    OcclusalBox
    | ProximalBox
    | CuspReduction
    | SealantGroove
    | Tunnel
    | StripCrownPreparation
    | SaucerLesion
    | WedgeLesion
    | Pit
    | GoldPit
    | ProximalCavity
    | IncisalFracture
    | RetentionGroove
    | Slot
    | PinHole
    | FaceBox
    | PulpChamber
    | LingualDovetail
    | Shoulder,
    Field(discriminator="kind"),
]


def sizes_of(part: Part) -> dict[str, Literal["mm", "deg"]]:
    """Return the lengths and angles that a part has, with their units; one that is left out is another's or none."""
    units: dict[str, Literal["mm", "deg"]] = {"mm": "mm", "deg": "deg"}
    return {
        name: units[name.rsplit("_", 1)[-1]]
        for name in type(part).model_fields
        if name.endswith(("_mm", "_deg")) and getattr(part, name) is not None
    }
