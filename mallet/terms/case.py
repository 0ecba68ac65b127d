"""The case: everything that is known about one restoration before it is planned.

Lengths in mm, irradiance in mW/cm2, exposure in J/cm2, angles in degrees. Names follow the
published case format `mallet-case/1`; an unknown key is an error.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, Any, Literal

from pydantic import Field, ValidationError

from mallet.terms.errors import InputError, Problem
from mallet.terms.mouth import Findings, Heights, Patient, Place, Strict
from mallet.terms.problems import problems_of
from mallet.terms.shelf import ShelfItem

Side = Literal["mesial", "distal"]
Provenance = Literal["measured", "estimated", "handbook"]
LayeringSchool = Literal["horizontal", "oblique", "wall_first"]
MassRole = Literal["dentin", "body", "enamel"]
Etch = Literal["selective_enamel", "etch_and_rinse", "self_etch"]


class Tooth(Strict):
    """Tooth code in two-digit (ISO 3950), 1-32 or right-angle notation."""

    code: str
    vitality: Literal["vital", "non_vital", "root_filled"] = "vital"


class Restoration(Strict):
    material: Literal["composite"] = "composite"
    surfaces: str = Field(min_length=1, max_length=5)


class OcclusalBox(Strict):
    """Box cut from the occlusal surface; length and width are taken at the pulpal floor."""

    kind: Literal["occlusal_box"]
    depth_mm: Annotated[float, Field(gt=0, le=8)]
    width_mm: Annotated[float, Field(ge=0.5, le=10)]
    length_mm: Annotated[float, Field(ge=0.5, le=12)]
    wall_divergence_deg: Annotated[float, Field(ge=-10, le=20)] = 3.0


class ProximalBox(Strict):
    """Box through a marginal ridge; depth from the outer surface at the gingival floor."""

    kind: Literal["proximal_box"]
    side: Side
    height_mm: Annotated[float, Field(gt=0, le=10)]
    width_mm: Annotated[float, Field(ge=0.5, le=10)]
    axial_depth_mm: Annotated[float, Field(ge=0.3, le=6)]
    wall_divergence_deg: Annotated[float, Field(ge=-10, le=20)] = 3.0


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


class NeckLesion(Strict):
    """A cavity at the neck of a tooth, entered from the face that it lies in, about the middle of it.

    Width is mesiodistal and height occlusogingival, as seen from that face; depth is measured from the
    surface straight in. `above_cervical_mm` is how far the gingival margin lies above the cervical line,
    negative on the root.
    """

    face: Literal["facial", "lingual"] = "facial"
    width_mm: Annotated[float, Field(ge=0.5, le=10)]
    height_mm: Annotated[float, Field(ge=0.5, le=8)]
    depth_mm: Annotated[float, Field(ge=0.3, le=4)]
    above_cervical_mm: Annotated[float, Field(ge=-3, le=8)]


class Saucer(NeckLesion):
    """Scooped out: half an ellipsoid sunk into the surface."""

    kind: Literal["saucer"]


class Notch(NeckLesion):
    """Wedge-shaped, two flat walls that meet at its depth halfway up."""

    kind: Literal["notch"]


class Pit(Strict):
    """A round pit in a face, about the middle of it, with a flat floor: depth is measured from the surface
    straight in, and its gingival edge lies so far above the cervical line."""

    kind: Literal["pit"]
    face: Literal["facial", "lingual"] = "facial"
    diameter_mm: Annotated[float, Field(ge=0.5, le=5)]
    depth_mm: Annotated[float, Field(ge=0.3, le=4)]
    above_cervical_mm: Annotated[float, Field(ge=-3, le=9)]


class ProximalCavity(Strict):
    """A cavity beside the contact of a front tooth, entered from one of its faces.

    Height is incisogingival, about the contact; depth is measured from the proximal surface inwards, and reach
    from the face that it is entered from, straight in, to the wall that stays on the other face.
    """

    kind: Literal["proximal_cavity"]
    side: Side
    face: Literal["facial", "lingual"] = "lingual"
    height_mm: Annotated[float, Field(ge=0.5, le=8)]
    depth_mm: Annotated[float, Field(ge=0.3, le=4)]
    reach_mm: Annotated[float, Field(ge=0.5, le=7)]
    wall_divergence_deg: Annotated[float, Field(ge=-10, le=20)] = 3.0


class IncisalFracture(Strict):
    """What broke off a front tooth: all above a plane, told by what is lost of the height at the mesial and at
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
    under_ridge_mm: Annotated[float, Field(ge=0.5, le=6)]
    inside_mm: Annotated[float, Field(ge=0.5, le=6)]
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
    and so far inside the junction of enamel and dentin."""

    kind: Literal["slot"]
    at: Site
    length_mm: Annotated[float, Field(ge=0.5, le=6)]
    width_mm: Annotated[float, Field(ge=0.3, le=2)]
    depth_mm: Annotated[float, Field(ge=0.2, le=3)]
    inside_mm: Annotated[float, Field(ge=0, le=3)] = 0.5


class PinHole(Strict):
    """A hole for a pin, as a slot is placed; the pin fills it and stands out of it by so much."""

    kind: Literal["pin_hole"]
    at: Site
    diameter_mm: Annotated[float, Field(ge=0.3, le=1.2)]
    depth_mm: Annotated[float, Field(ge=0.5, le=6)]
    stands_mm: Annotated[float, Field(ge=0.5, le=5)] = 2.0
    inside_mm: Annotated[float, Field(ge=0, le=3)] = 0.5


class DovetailNotch(Strict):
    """A notch on the lingual face behind a broken edge, widest at its end: width there, height from the fracture on,
    depth measured from the face straight in."""

    kind: Literal["dovetail_notch"]
    width_mm: Annotated[float, Field(ge=0.8, le=5)]
    height_mm: Annotated[float, Field(ge=0.5, le=4)]
    depth_mm: Annotated[float, Field(ge=0.3, le=2)]


class Shoulder(Strict):
    """A flat shoulder all round for a later crown: its width inwards, and how far it lies above the cervical line of
    the facial face."""

    kind: Literal["shoulder"]
    width_mm: Annotated[float, Field(ge=0.3, le=2.5)]
    above_cervical_mm: Annotated[float, Field(ge=-1, le=5)]


class CrownStump(Strict):
    """A front tooth cut down all round, to be built up in a crown form: how much is off its edge, and off its walls
    under that, running out to nothing so far above the cervical line."""

    kind: Literal["crown_stump"]
    edge_mm: Annotated[float, Field(ge=0.5, le=4)]
    around_mm: Annotated[float, Field(ge=0.2, le=1.5)]
    above_cervical_mm: Annotated[float, Field(ge=0, le=3)]


FacePart = Saucer | Notch | Pit | ProximalCavity | IncisalFracture
FeaturePart = RetentionGroove | Slot | PinHole | DovetailNotch | Shoulder
Part = Annotated[
    OcclusalBox
    | ProximalBox
    | CuspReduction
    | SealantGroove
    | Tunnel
    | CrownStump
    | Saucer
    | Notch
    | Pit
    | ProximalCavity
    | IncisalFracture
    | RetentionGroove
    | Slot
    | PinHole
    | DovetailNotch
    | Shoulder,
    Field(discriminator="kind"),
]


class Scan(Strict):
    """The tooth before and after cutting, each a file of STL or PLY in base64: millimetres, the tooth's frame."""

    before: str = Field(min_length=1, max_length=12_000_000)
    after: str = Field(min_length=1, max_length=12_000_000)


class Preparation(Strict):
    """Parts as they were measured. With a scanned pair the cavity is what lies between the two; the parts tell
    what it is made of."""

    remaining_dentin_mm: Annotated[float, Field(ge=0, le=6)] | None = None
    parts: list[Part] = Field(min_length=1, max_length=12)
    scan: Scan | None = None


class Neighbour(Strict):
    """The tooth beside a box; the offset is its marginal ridge above (+) or below (-) ours. `contact` is how
    it met our tooth before cutting."""

    tooth: str | None = None
    ridge_offset_mm: Annotated[float, Field(ge=-4, le=4)] = 0.0
    rotated: bool = False
    missing: bool = False
    contact: Literal["sound", "open", "tight", "concave", "too_high"] = "sound"


class Neighbours(Strict):
    mesial: Neighbour | None = None
    distal: Neighbour | None = None


class School(Strict):
    """Which way is gone where practice and publication, or school and school, differ."""

    layering: LayeringSchool = "wall_first"
    etch: Etch = "selective_enamel"
    chlorhexidine: Literal["none", "before_etch", "after_etch"] = "none"
    silicate: Literal["by_enamel", "same_visit", "two_visits"] = "by_enamel"
    hydroxide: Literal["deepest_spot", "whole_floor"] = "deepest_spot"
    dam_span: Literal["to_opposite_lateral", "two_in_front"] = "to_opposite_lateral"
    decay: Literal["by_depth", "to_hard"] = "by_depth"
    neck_margin: Literal["roughen", "roughen_and_bevel"] = "roughen"
    incisal: Literal["bevel", "bevel_and_notch"] = "bevel"
    copper: Literal["annealed", "as_drawn"] = "annealed"


class FirstShade(Strict):
    """The shade as it was read wet, before isolation."""

    value: str | None = Field(default=None, max_length=40)
    mock_up: bool = False


class Isolation(Strict):
    """When the dam goes on, what was given to numb the tooth, and whether old amalgam comes out."""

    dam_on: Literal["before_cutting", "after_preparation"] = "before_cutting"
    given: str = Field(default="", max_length=200)
    old_amalgam: bool = False


class Protection(Strict):
    """What goes between dentin and filling; `material` is the name of a base or liner on the shelf.

    `base_mm` is how thick the base is. `exposure` is what was decided once the pulp showed.
    `placed_days_ago` tells of a base that has filled the cavity since an earlier visit.
    """

    what: Literal["by_depth", "nothing", "liner", "base"] = "by_depth"
    material: str | None = Field(default=None, max_length=80)
    base_mm: Annotated[float, Field(ge=0.3, le=3)] | None = None
    exposure: Literal["none", "undecided", "cap", "root_treatment"] = "none"
    placed_days_ago: Annotated[int, Field(ge=0, le=365)] | None = None


class Bonding(Strict):
    """The adhesive, by its name on the shelf."""

    adhesive: str | None = Field(default=None, max_length=80)


class Reading(Strict):
    """One radiometer reading; `taken_at` is an ISO 8601 date."""

    distance_mm: Annotated[float, Field(ge=0, le=30)]
    irradiance_mw_cm2: Annotated[float, Field(gt=0, le=10000)]
    taken_at: Annotated[str, Field(pattern=r"^\d{4}-\d{2}-\d{2}")] | None = None


class FullOutput(Strict):
    """Steady output, as readings are taken."""

    kind: Literal["full"] = "full"


class RampOutput(Strict):
    """At every press the output begins at a share of the full one and rises evenly to it."""

    kind: Literal["ramp"]
    start_share: Annotated[float, Field(ge=0.05, le=1)]
    rise_s: Annotated[float, Field(gt=0, le=30)]


class PulsedOutput(Strict):
    """Full output that is on for a share of the time, many times a second."""

    kind: Literal["pulsed"]
    on_share: Annotated[float, Field(ge=0.05, le=1)]


OutputMode = Annotated[FullOutput | RampOutput | PulsedOutput, Field(discriminator="kind")]
FULL = FullOutput()


class Light(Strict):
    """A lamp and how it is held. Without a distance the tip rests on the crown; its axis tilts off the
    occlusal direction, and its middle stands off the portion's, towards the side that it leans to."""

    name: str | None = None
    tip_diameter_mm: Annotated[float, Field(ge=3, le=20)]
    tip_distance_mm: Annotated[float, Field(ge=0, le=20)] | None = None
    tip_tilt_deg: Annotated[float, Field(ge=0, le=60)] = 0.0
    tip_offset_mm: Annotated[float, Field(ge=0, le=10)] = 0.0
    tip_lean: Literal["mesial", "distal", "facial", "lingual"] = "facial"
    peak_nm: Annotated[float, Field(ge=400, le=500)] | None = None
    time_steps_s: list[Annotated[float, Field(gt=0, le=120)]] = Field(min_length=1, max_length=12)
    output_mode: OutputMode = FULL
    readings: list[Reading] = Field(min_length=1, max_length=500)


class Maker(Strict):
    """The maker's cure time at a stated lamp output."""

    seconds: Annotated[float, Field(gt=0, le=240)]
    at_irradiance_mw_cm2: Annotated[float, Field(gt=0, le=5000)]


class Mass(Strict):
    """A mass; what is not given of its working curve follows from the maker's time and its role."""

    name: str = Field(min_length=1, max_length=80)
    role: MassRole = "body"
    penetration_depth_mm: Annotated[float, Field(ge=0.2, le=8)] | None = None
    critical_exposure_j_cm2: Annotated[float, Field(ge=0.01, le=20)] | None = None
    max_increment_mm: Annotated[float, Field(ge=0.5, le=6)]
    shrinkage_vol_percent: Annotated[float, Field(ge=0, le=10)]
    density_g_cm3: Annotated[float, Field(ge=1, le=4)]
    modulus_gpa: Annotated[float, Field(ge=0.5, le=40)]
    maker: Maker | None = None
    lot: str | None = Field(default=None, max_length=40)


class Case(Strict):
    format: Literal["mallet-case/1"]
    tooth: Tooth
    restoration: Restoration
    preparation: Preparation
    neighbours: Neighbours = Neighbours()
    school: School = School()
    patient: Patient = Patient()
    findings: Findings = Findings()
    heights: Heights = Heights()
    shade: FirstShade = FirstShade()
    isolation: Isolation = Isolation()
    protection: Protection = Protection()
    bonding: Bonding = Bonding()
    place: Place = "elsewhere"
    light: Light
    masses: list[Mass] = Field(min_length=1, max_length=12)
    shelf: list[ShelfItem] = Field(default=[], max_length=500)
    provenance: dict[str, Provenance] = {}
    house: dict[str, float] = {}

    @property
    def face_part(self) -> FacePart | None:
        """Return the part that is entered from a face, if there is one."""
        return next((part for part in self.preparation.parts if isinstance(part, FacePart)), None)

    @property
    def is_neck(self) -> bool:
        """Tell whether it is a lesion at the neck."""
        return isinstance(self.face_part, NeckLesion)

    @property
    def is_unbitten(self) -> bool:
        """Tell whether nothing bites on it."""
        return isinstance(self.face_part, NeckLesion | Pit)

    @property
    def cusps_lost(self) -> int:
        """Return how many cusps are gone or taken down."""
        covers = [part for part in self.preparation.parts if isinstance(part, CuspReduction)]
        return max([self.findings.cusps_lost, *(len(cover.cusps) for cover in covers)])

    def provenance_of(self, path: str) -> Provenance:
        """Return how the value at a path is known; what is given counts as measured."""
        return self.provenance.get(path, "measured")


def read_case(data: Mapping[str, Any]) -> Case:
    """Return the case in a parsed JSON object; raise InputError with one problem a field."""
    try:
        return Case.model_validate(data)
    except ValidationError as error:
        raise InputError(*problems_of(error, data, Case)) from None


def get_path(case: Case, path: str) -> object:
    """Return the value at a path such as `preparation.parts[1].height_mm`.

    Raises InputError where the path names nothing in the case.
    """
    here: object = case
    for piece in path.replace("[", ".[").split("."):
        try:
            here = here[int(piece[1:-1])] if piece.startswith("[") else getattr(here, piece)  # type: ignore[index]
        except (AttributeError, IndexError, TypeError, ValueError):
            raise InputError(Problem(f"provenance.{path}", path, "the path of a value in the case")) from None
    return here


def set_path(case: dict[str, Any], path: str, value: object) -> None:
    """Set the value at a path, as `get_path` reads it, in the JSON of a case; objects that lack are made."""
    *way, last = path.replace("]", "").replace("[", ".").split(".")
    here: Any = case
    for piece in way:
        here = here[int(piece)] if piece.isdigit() else here.setdefault(piece, {})
    here[last] = value
