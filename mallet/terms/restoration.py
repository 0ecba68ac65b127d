"""What each restorative is told: composites and their light, capsules, sealants."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, Any, Literal

from pydantic import Field

from mallet.terms.mouth import Strict
from mallet.terms.optics import Optics
from mallet.terms.stock import ManufacturerCure

LayeringTechnique = Literal["horizontal", "oblique", "wall_first", "wall_then_oblique", "bulk"]
ShadeRole = Literal["dentin", "body", "enamel"]
Consistency = Literal["paste", "flowable", "injectable", "stain"]
Cleaning = Literal["none", "alcohol", "air_abrasion"]
Etch = Literal["selective_enamel", "etch_and_rinse", "self_etch"]


# What holds gold in its pit, and covers its margin: no other restorative asks for it.
FOR_GOLD = ("groove_depth_mm", "point_depth_mm", "bevel_mm")
# And what is cut besides in a cavity beside the contact.
BESIDE_FOR_GOLD = {"point_depth_mm": 0.4, "bevel_mm": 0.3}


class Reading(Strict):
    """One radiometer reading; `taken_at` is an ISO 8601 date."""

    distance_mm: Annotated[float, Field(ge=0, le=30)]
    irradiance_mw_cm2: Annotated[float, Field(gt=0, le=10000)]
    taken_at: Annotated[str, Field(pattern=r"^\d{4}-\d{2}-\d{2}")] | None = None


class FullOutput(Strict):
    """Steady output, as readings are taken."""

    kind: Literal["full"] = "full"


class RampOutput(Strict):
    """In every curing cycle the output begins at a share of the full one and rises evenly to it."""

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
    """A curing light and how it is held. Without a distance the tip rests on the crown; its axis tilts off the
    occlusal direction, and its middle stands off the increment's, toward the side that it leans to."""

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


class Composite(Strict):
    """A composite; what is not given of its working curve follows from the manufacturer's exposure and its shade role.
    `radiopacity_mm_al` is how thick aluminum looks like 1 mm of it on a radiograph."""

    name: str = Field(min_length=1, max_length=80)
    role: ShadeRole = "body"
    consistency: Consistency = "paste"
    penetration_depth_mm: Annotated[float, Field(ge=0.2, le=8)] | None = None
    critical_exposure_j_cm2: Annotated[float, Field(ge=0.01, le=20)] | None = None
    max_increment_mm: Annotated[float, Field(ge=0.5, le=6)]
    shrinkage_vol_percent: Annotated[float, Field(ge=0, le=10)]
    density_g_cm3: Annotated[float, Field(ge=1, le=4)]
    modulus_gpa: Annotated[float, Field(ge=0.5, le=40)]
    radiopacity_mm_al: Annotated[float, Field(ge=0, le=10)] | None = None
    manufacturer: ManufacturerCure | None = None
    optics: Optics | None = None
    lot: str | None = Field(default=None, max_length=40)


class DirectRestoration(Strict):
    """What any restorative is told: the surfaces."""

    material: str
    surfaces: str = Field(min_length=1, max_length=5)

    @classmethod
    def shaped(cls, part: Mapping[str, Any]) -> dict[str, Any]:
        """Return a part of a preparation as it would be cut for it: without what only gold or amalgam is held by."""
        if part["kind"] == "proximal_cavity":
            return {name: value for name, value in part.items() if name not in FOR_GOLD}
        if part["kind"] == "face_box":
            return {name: value for name, value in part.items() if name != "grooves"}
        if part["kind"] != "gold_pit":
            return dict(part)
        return {**part, "groove_depth_mm": 0.0, "point_depth_mm": 0.0, "bevel_mm": 0.0}

    @classmethod
    def takes(cls, part: Mapping[str, Any]) -> bool:
        """Tell whether a part of a preparation can be cut for it at all."""
        return True

    def option(self, *, covers_cusps: bool) -> str:
        """Return as which of the options it is weighed: its own, unless one that covers cusps is another."""
        return self.material

    @property
    def untold(self) -> dict[str, str]:
        """Return what nobody has told of it, by name, and why it is taken as it is."""
        return {}

    @property
    def is_shaped_by_index(self) -> bool:
        """Tell whether a broken edge is built against an index from the mock-up."""
        return False

    @property
    def is_bonded(self) -> bool:
        """Tell whether margins are roughened and beveled for a bond."""
        return True

    @property
    def is_condensed(self) -> bool:
        """Tell whether it is packed against walls and band under a nib: a band round the tooth is wanted, and walls that hold."""
        return False

    @property
    def cuts_for_itself(self) -> bool:
        """Tell whether its restorative says how the tooth is cut, since cutting goes on once dentin is sealed."""
        return False

    @property
    def is_in_enamel(self) -> bool:
        """Tell whether it stays in enamel: nothing is cut, numbed or measured for carving."""
        return False

    @property
    def before_band(self) -> list[str]:
        """Return the ids of the steps that are done before a band stands, besides keeping the field dry."""
        return []

    @property
    def seals_by(self) -> str:
        """Return what seals dentin that nothing else covers."""
        return "the adhesive"


class CompositeRestoration(DirectRestoration):
    """Composite, in increments by a technique under a curing light; the adhesive by its name in stock. The order of the
    composites decides nothing. In an `open_sandwich` glass ionomer lies under it, by its name in stock.

    A proximal `wall` is built whole or in halves, the band comes off once all is placed or after the wall, and cusps are
    built from `first_cusp` on. `gingival_role` is the shade on gingival floors, of flowable a `floor_layer_mm` covers all
    floors before anything else, `warm_c` is the temperature at which paste is handed over, and `enamel_mm` and
    `shell_mm` how thick enamel composite lies over the face of a broken edge and behind it. `cleaning` is what comes before
    the acid, besides water.
    """

    material: Literal["composite"]
    technique: LayeringTechnique = "wall_first"
    wall: Literal["whole", "halves"] = "whole"
    band_off: Literal["end", "after_wall"] = "end"
    first_cusp: Literal["lingual", "facial"] = "lingual"
    gingival_role: ShadeRole | None = None
    floor_layer_mm: Annotated[float, Field(ge=0.3, le=1.5)] | None = None
    warm_c: Annotated[float, Field(ge=30, le=70)] | None = None
    enamel_mm: Annotated[float, Field(ge=0.2, le=1.5)] | None = None
    shell_mm: Annotated[float, Field(ge=0.2, le=1.0)] | None = None
    etch: Etch = "selective_enamel"
    cleaning: Cleaning = "none"
    chlorhexidine: Literal["none", "before_etch", "after_etch"] = "none"
    adhesive: str | None = Field(default=None, max_length=80)
    open_sandwich: Literal["none", "where_no_enamel"] = "none"
    sandwich_ionomer: str | None = Field(default=None, max_length=80)
    light: Light
    composites: list[Composite] = Field(min_length=1, max_length=12)

    @property
    def untold(self) -> dict[str, str]:
        return {} if "technique" in self.model_fields_set else {"technique": "our default technique"}

    @property
    def has_wall_first(self) -> bool:
        """Tell whether proximal walls are built before what lies behind them; of a broken edge its lingual shell."""
        return self.technique in ("wall_first", "wall_then_oblique")

    @property
    def is_shaped_by_index(self) -> bool:
        return self.has_wall_first


class GlassIonomerRestoration(DirectRestoration):
    """Glass ionomer, placed in one and finished wet; ionomer and coat by their names in stock. `value_when_wet` is how the
    trimmed surface looks: it chooses the coat. The curing light is asked for where resin-modified glass ionomer is
    placed: in layers."""

    material: Literal["glass_ionomer"]
    ionomer: str | None = Field(default=None, max_length=80)
    dryness: Literal["moist", "very_dry"] = "moist"
    value_when_wet: Literal["right", "too_high"] | None = None
    coat: str | None = Field(default=None, max_length=80)
    final_finish: Literal["same_visit", "after_24_h"] = "same_visit"
    light: Light | None = None

    @property
    def is_bonded(self) -> bool:
        return False

    @property
    def seals_by(self) -> str:
        return "the ionomer"


class SealantRestoration(DirectRestoration):
    """A fissure sealant, by its name in stock; `also` are other teeth of the quadrant that are sealed in the same order of
    work, each alike."""

    material: Literal["sealant"]
    sealant: str | None = Field(default=None, max_length=80)
    cleaning: Literal["brush_and_pumice", "fine_diamond", "air_abrasion"] = "brush_and_pumice"
    fluorosed: bool = False
    with_adhesive: bool = False
    also: list[str] = Field(default=[], max_length=7)
    light: Light

    @property
    def is_bonded(self) -> bool:
        return False

    @property
    def seals_by(self) -> str:
        return "the sealant"

    @property
    def is_in_enamel(self) -> bool:
        return True


class AmalgamRestoration(DirectRestoration):
    """Amalgam from capsules; those of one name in stock, else those that fill the cavity with the fewest mixes. `under` is
    what seals dentin before it, `cover` how thick it is wanted over reduced cusps, `polish` when it is polished, if ever."""

    material: Literal["amalgam"]
    capsule: str | None = Field(default=None, max_length=80)
    under: Literal["varnish", "sealer", "nothing"] = "varnish"
    cover: Literal["two_everywhere", "by_function"] = "by_function"
    polish: Literal["none", "after_24_h", "same_visit"] = "none"

    @classmethod
    def shaped(cls, part: Mapping[str, Any]) -> dict[str, Any]:
        """Return a part as it is: a box in a face keeps the grooves that hold amalgam."""
        return dict(part) if part["kind"] == "face_box" else super().shaped(part)

    def option(self, *, covers_cusps: bool) -> str:
        return "amalgam_cover" if covers_cusps else "amalgam"

    @property
    def is_bonded(self) -> bool:
        return False

    @property
    def is_condensed(self) -> bool:
        return True

    @property
    def before_band(self) -> list[str]:
        return ["bond.rinse" if self.under == "nothing" else "bond.seal"]

    @property
    def seals_by(self) -> str:
        return {"varnish": "the varnish", "sealer": "the sealer", "nothing": "nothing"}[self.under]


class GoldRestoration(DirectRestoration):
    """Direct gold, by the name of a piece in stock; pieces of the same form are used beside it. `heat` is how it is cleaned,
    `mallet` how it is condensed, `plugger` the only one that is used, by its name in stock."""

    material: Literal["gold_foil"]
    gold: str | None = Field(default=None, max_length=80)
    heat: Literal["flame", "electric_low", "electric_high"] = "flame"
    mallet: Literal["hand", "pneumatic", "electric"] = "hand"
    plugger: str | None = Field(default=None, max_length=80)
    bevel: Literal["after_varnish", "before_varnish"] = "after_varnish"

    @classmethod
    def shaped(cls, part: Mapping[str, Any]) -> dict[str, Any]:
        """Return a pit, or a lesion at the neck, with an outline for gold; where it is one, with all that holds gold."""
        if part["kind"] == "gold_pit":
            return {name: value for name, value in part.items() if value or name not in FOR_GOLD}
        if part["kind"] == "proximal_cavity":
            return {**BESIDE_FOR_GOLD, **part}
        if part["kind"] not in ("pit", "saucer_lesion", "wedge_lesion"):
            return dict(part)
        is_pit = part["kind"] == "pit"
        height = part["diameter_mm"] if is_pit else part["height_mm"]
        return {
            "kind": "gold_pit",
            "face": part.get("face", "facial"),
            "outline": "oval" if is_pit else "trapezoid",
            "height_mm": height,
            "width_mm": part["diameter_mm"] if is_pit else part["width_mm"],
            "above_cej_mm": part["above_cej_mm"] + height / 2,
        }

    @classmethod
    def takes(cls, part: Mapping[str, Any]) -> bool:
        return cls.shaped(part)["kind"] in ("gold_pit", "proximal_cavity")

    @property
    def cuts_for_itself(self) -> bool:
        return True

    @property
    def is_bonded(self) -> bool:
        return False

    @property
    def is_condensed(self) -> bool:
        return True

    @property
    def before_band(self) -> list[str]:
        return ["bond.seal"]

    @property
    def seals_by(self) -> str:
        return "the varnish"


# Options that are another's way: by which restorative each is planned.
PLANNED_AS = {"amalgam_cover": "amalgam"}
# What each restorative is told, by its name in a case.
RESTORATIONS: dict[str, type[DirectRestoration]] = {
    "composite": CompositeRestoration,
    "glass_ionomer": GlassIonomerRestoration,
    "sealant": SealantRestoration,
    "amalgam": AmalgamRestoration,
    "gold_foil": GoldRestoration,
}
Restoration = Annotated[
    CompositeRestoration
    | GlassIonomerRestoration
    | SealantRestoration
    | AmalgamRestoration
    | GoldRestoration,
    Field(discriminator="material"),
]
