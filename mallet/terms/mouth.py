"""Whose tooth it is and how it stands, as far as that bears on what is placed in it."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

Place = Literal["eu", "us", "elsewhere"]
Allergy = Literal["resin", "latex", "mercury"]


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
    forbids otherwise."""

    pulp: Literal["sound", "reversible", "in_doubt", "irreversible"] = "sound"
    surely_this_tooth: bool = True
    field: Literal["dam", "dry_without_dam", "wet"] = "dam"
    load: Literal["low", "ordinary", "heavy"] = "ordinary"
    decay_risk: Literal["low", "ordinary", "high"] = "ordinary"
    shows: bool = False
    caved_in: bool = True
    cracked: bool = False
    cusps_lost: Annotated[int, Field(ge=0, le=5)] = 0
    strict_need: Annotated[str, Field(max_length=200)] = ""

    @property
    def not_told(self) -> list[str]:
        """Return the findings that nobody has told, in their order."""
        return [name for name in TAKEN if name not in self.model_fields_set]


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
