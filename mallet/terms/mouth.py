"""Whose tooth it is and how it stands, as far as that bears on what is placed in it."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

Place = Literal["eu", "us", "elsewhere"]
Allergy = Literal["resin", "latex", "mercury"]
Cause = Literal[
    "decay", "decay_beside_filling", "lost_sealant", "fracture", "wear", "cracked_cusp", "core", "wish"
]


class Strict(BaseModel):
    """Base of all input models: no unknown keys, no NaN, no silent conversion of text."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False, frozen=True)


class Patient(Strict):
    age_years: Annotated[int, Field(ge=0, le=120)] | None = None
    pregnant: bool = False
    breast_feeding: bool = False
    allergies: list[Allergy] = Field(default=[], max_length=3)


class Findings(Strict):
    """What was found before cutting. `strict_need` is why a restorative is needed that the law of the place
    forbids otherwise; `seen_beside` is what was seen on other teeth, to be booked."""

    cause: Cause = "decay"
    pain: Literal["none", "brief_on_cold", "lingering", "spontaneous", "on_biting"] = "none"
    percussion: Literal["not_tested", "normal", "tender"] = "not_tested"
    cold: Literal["not_tested", "brief", "lingering", "no_answer"] = "not_tested"
    bite_marked: bool = False
    seen_beside: Annotated[str, Field(max_length=200)] = ""
    pulp: Literal["sound", "reversible", "in_doubt", "irreversible"] = "sound"
    surely_this_tooth: bool = True
    field: Literal["dam", "dry_without_dam", "wet"] = "dam"
    load: Literal["low", "ordinary", "heavy"] = "ordinary"
    decay_risk: Literal["low", "ordinary", "high"] = "ordinary"
    shows: bool = False
    below_gum: bool = False
    caved_in: bool = True
    cracked: bool = False
    cusps_lost: Annotated[int, Field(ge=0, le=5)] = 0
    strict_need: Annotated[str, Field(max_length=200)] = ""

    @property
    def not_told(self) -> list[str]:
        """Return the findings that nobody has told, in their order."""
        return [name for name in TAKEN if name not in self.model_fields_set]


class Heights(Strict):
    """Heights before cutting, against the neighbours' (mm, higher is more); the groove against the ridges."""

    cusps_mm: Annotated[float, Field(ge=-4, le=4)] | None = None
    groove_mm: Annotated[float, Field(ge=-4, le=1)] | None = None
    mesial_ridge_mm: Annotated[float, Field(ge=-4, le=4)] | None = None
    distal_ridge_mm: Annotated[float, Field(ge=-4, le=4)] | None = None


# What is taken of a finding that nobody has told, in words.
TAKEN = {
    "pulp": "the pulp is sound",
    "surely_this_tooth": "it is surely this tooth",
    "field": "a dam keeps the field dry",
    "load": "the load is ordinary",
    "decay_risk": "the risk of decay is ordinary",
    "shows": "it does not show",
    "caved_in": "the decay has caved in",
    "cracked": "nothing is cracked",
    "cusps_lost": "all cusps stand",
}
