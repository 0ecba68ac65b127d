"""Whose tooth it is and how it stands, as far as that bears on what is placed in it."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

Place = Literal["eu", "us", "elsewhere"]
Allergy = Literal[
    "resin", "latex", "mercury", "chlorhexidine", "anesthetic", "sulfite", "metals", "eugenol", "other"
]
Agent = Literal[
    "lidocaine_epinephrine", "articaine_epinephrine", "mepivacaine", "prilocaine", "bupivacaine_epinephrine"
]
Cause = Literal[
    "caries",
    "caries_adjacent",
    "deep_fissures",
    "lost_sealant",
    "fracture",
    "wear",
    "cracked_cusp",
    "core",
    "patient_request",
]

Embrasure = Literal["as_before", "open", "closed"]
LINE_END = r"(?:mesial|distal|own)\.[a-z]+"


class Strict(BaseModel):
    """Base of all input models: no unknown keys, no NaN, no silent conversion of text."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False, frozen=True)


class Patient(Strict):
    """What is known of the patient that bears on the work; `weight_kg` for the most of an anesthetic."""

    age_years: Annotated[int, Field(ge=0, le=120)] | None = None
    weight_kg: Annotated[float, Field(ge=3, le=300)] | None = None
    pregnant: bool = False
    planning_pregnancy: bool = False
    breast_feeding: bool = False
    allergies: list[Allergy] = Field(default=[], max_length=9)
    anticoagulants: bool = False
    pacemaker: bool = False
    endocarditis_risk: bool = False
    light_sensitizing: bool = False
    heart_disease: bool = False
    beta_blocker_or_tricyclic: bool = False
    methemoglobinemia: bool = False
    neurological_disease: bool = False
    kidney_impairment: bool = False


class Requests(Strict):
    """What the patient wants of the restoration, asked before one is chosen."""

    fewest_visits: bool = False
    lowest_cost: bool = False
    no_metal: bool = False
    lasts_longest: bool = False


class Anesthetic(Strict):
    """A local anesthetic as it is given, its volume in all."""

    agent: Agent
    volume_ml: Annotated[float, Field(gt=0, le=30)]


class Findings(Strict):
    """What was found before cutting. `clinical_justification` is why a restorative is needed that the law of the place
    forbids otherwise, and `justified_by` who decided so; `seen_on_other_teeth` is what was seen on other teeth, to be booked.
    Nothing is taken for how the pulp is, or for whether it is this tooth: work may not start before both are told."""

    cause: Cause = "caries"
    pain: Literal["none", "brief_on_cold", "lingering", "spontaneous", "on_biting"] = "none"
    percussion: Literal["not_tested", "normal", "tender"] = "not_tested"
    cold: Literal["not_tested", "brief", "lingering", "no_response"] = "not_tested"
    swelling: Literal["none", "swelling", "sinus_tract"] = "none"
    caries_found: bool | None = None
    occlusion_marked: bool = False
    seen_on_other_teeth: Annotated[str, Field(max_length=200)] = ""
    pulp: Literal["normal", "reversible", "pending", "irreversible"] | None = None
    tooth_confirmed: bool | None = None
    field: Literal["dam", "dry_without_dam", "wet"] = "dam"
    load: Literal["low", "normal", "heavy"] = "normal"
    eruption: Literal["erupted", "erupting"] = "erupted"
    overbite: Literal["open", "normal", "deep"] = "normal"
    caries_risk: Literal["low", "moderate", "high"] = "moderate"
    esthetic_zone: bool | None = None
    subgingival: bool = False
    cavitated: bool = True
    cracked: bool = False
    cusps_lost: Annotated[int, Field(ge=0, le=5)] = 0
    tooth_firm: Literal["firm", "loose"] = "firm"
    explorer_catches: bool | None = None
    lesion_mm: Annotated[float, Field(ge=0, le=12)] | None = None
    caries_past_junction_mm: Annotated[float, Field(ge=0, le=5)] | None = None
    stained_groove_left: bool = False
    metal_nearby: Annotated[str, Field(max_length=80)] = ""
    clinical_justification: Annotated[str, Field(max_length=200)] = ""
    justified_by: Annotated[str, Field(max_length=80)] = ""

    @property
    def not_told(self) -> list[str]:
        """Return the findings that nobody has told, in their order."""
        return [name for name in TAKEN if name not in self.model_fields_set]


class CuspHeight(Strict):
    """How one cusp stood before cutting: its tip above (+) or below (-) a line through two others (mm), and how far inside
    the line of the adjacent faces it lay. A line is named by its ends, `mesial.facial distal.mesiofacial`: the tooth, or
    our `own`, and its cusp."""

    line: Annotated[str, Field(pattern=rf"^{LINE_END} {LINE_END}$", max_length=60)] | None = None
    above_mm: Annotated[float, Field(ge=-4, le=4)] | None = None
    inside_mm: Annotated[float, Field(ge=-1, le=4)] | None = None


class CuspHeights(Strict):
    """The cusps of a tooth that were held against a line."""

    facial: CuspHeight = CuspHeight()
    lingual: CuspHeight = CuspHeight()
    mesiofacial: CuspHeight = CuspHeight()
    distofacial: CuspHeight = CuspHeight()
    distal: CuspHeight = CuspHeight()
    mesiolingual: CuspHeight = CuspHeight()
    distolingual: CuspHeight = CuspHeight()


class Embrasures(Strict):
    """How the embrasures are to be: as they were, or wider or narrower."""

    facial: Embrasure = "as_before"
    lingual: Embrasure = "as_before"
    occlusal: Embrasure = "as_before"


class ReferenceHeights(Strict):
    """Heights before cutting, against the adjacent teeth's (mm, higher is more); the groove against the ridges, its place
    from the facial tips. `by_cusp` are those of single cusps against a line."""

    cusps_mm: Annotated[float, Field(ge=-4, le=4)] | None = None
    groove_mm: Annotated[float, Field(ge=-4, le=1)] | None = None
    mesial_ridge_mm: Annotated[float, Field(ge=-4, le=4)] | None = None
    distal_ridge_mm: Annotated[float, Field(ge=-4, le=4)] | None = None
    groove_from_facial_mm: Annotated[float, Field(ge=0.5, le=8)] | None = None
    by_cusp: CuspHeights = CuspHeights()
    embrasures: Embrasures = Embrasures()


class Twin(Strict):
    """The same tooth of the other side as it was measured (mm): how wide between its contacts, how long from gingiva to edge, and how
    far its facial line angles stand apart; `own_width_mm` is the room between the teeth beside our own."""

    width_mm: Annotated[float, Field(ge=3, le=14)] | None = None
    length_mm: Annotated[float, Field(ge=3, le=16)] | None = None
    line_angles_mm: Annotated[float, Field(ge=1, le=12)] | None = None
    own_width_mm: Annotated[float, Field(ge=3, le=14)] | None = None


# What is taken of a finding that nobody has told, in words.
TAKEN = {
    "field": "a dam keeps the field dry",
    "load": "the load is normal",
    "caries_risk": "the caries risk is moderate",
    "cavitated": "the lesion is cavitated",
    "cracked": "nothing is cracked",
    "cusps_lost": "all cusps are intact",
}
