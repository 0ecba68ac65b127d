"""What is placed and sets by itself: increments, whatever they are made of, each with what makes it set."""

from __future__ import annotations

import math
from typing import Annotated, Literal

from pydantic import ConfigDict, Field

from mallet.terms.pieces import Piece, Point, Reason, RuleUse

# A ratio is cut off, not rounded up; a last bit too few cuts nothing.
HAIR = 1e-9


class Exposure(Piece):
    """All curing cycles from one source: how long they take together, and what they stand for at full output;
    what the required exposure and the manufacturer ask for at full output (s)."""

    model_config = ConfigDict(extra="forbid", frozen=True, validate_by_name=True, validate_by_alias=True)

    source: str = Field(alias="from")
    seconds: float
    presses: list[float]
    full_output_seconds: float
    seconds_by_dose: float
    seconds_by_maker: float | None = None


class LitPoint(Point):
    irradiance_mw_cm2: dict[str, float]


class Cured(Piece):
    """What light does to an increment.

    `thickness_mm` is the longest straight way inside it along the light; `least_thickness_mm` the
    least distance of two parallel planes that hold it. `c_factor` counts tooth and earlier increments
    as bonded, air and band as free. `points` are those of its deep faces that get least.
    """

    kind: Literal["cured"] = "cured"
    role: str
    thickness_mm: float
    least_thickness_mm: float
    c_factor: float
    exposures: list[Exposure]
    dose_needed_j_cm2: float
    dose_at_worst_point_j_cm2: float
    worst_point: Point
    touches: dict[str, float]
    points: list[LitPoint] | None = None


class Set(Piece):
    """What lets an increment set by itself: mixing, working and setting times, the last two from the end of mixing."""

    kind: Literal["set"] = "set"
    mix_s: float
    working_s: float
    set_s: float


class Condensed(Piece):
    """What packs a zone: the nib and the force on it, layers, thrusts in all and their seconds; which mixes it is of."""

    kind: Literal["condensed"] = "condensed"
    zone: int
    nib_diameter_mm: float
    force_n: float
    layers: int
    thrusts: int
    seconds: float
    mix: list[int]


class Stepped(Piece):
    """How a zone of direct gold is packed: the nib and the force on it, the line of force in words and as a line of the tooth's
    frame that ends where the nib stands; the steps of one pass over its ground, in order; how many pellets of each
    size, passes over each and steps a pass; all seconds."""

    kind: Literal["stepped"] = "stepped"
    zone: int
    nib_diameter_mm: float
    force_n: float
    line: str
    line_of_force: list[Point]
    path: list[Point]
    pellets: dict[str, int]
    passes: int
    steps_a_pass: int
    seconds: float


Detail = Annotated[Cured | Set | Condensed | Stepped, Field(discriminator="kind")]


class Measure(Piece):
    """A number of an increment for the user, and why it is as it is."""

    id: str
    title: str
    value: float
    unit: str
    why: str = ""


class Increment(Piece):
    """What is placed and sets by itself, whatever it is made of; `detail` by what makes it set, `shaping` how it is
    shaped. `reasons` say why it is made to set so."""

    order: int
    id: str
    name: str
    product: str
    lot: str | None = None
    volume_mm3: float
    mass_g: float
    shaping: str
    measures: list[Measure]
    detail: Detail
    reasons: list[Reason] = []
    rules: list[RuleUse] = []

    @property
    def cured(self) -> Cured:
        """Return what light does to it; raise ValueError for what sets without."""
        if not isinstance(self.detail, Cured):
            raise ValueError(f"{self.id} sets without light")
        return self.detail


def measures_of(cured: Cured) -> list[Measure]:
    """Return the numbers that are shown of an increment that light cures."""
    ratio = cured.dose_at_worst_point_j_cm2 / cured.dose_needed_j_cm2
    return [
        Measure(
            id="thickness",
            title="thickness",
            value=cured.thickness_mm,
            unit="mm",
            why="The longest straight way inside it along the light.",
        ),
        Measure(
            id="received",
            title="received over required",
            value=math.floor(100 * ratio + HAIR) / 100,
            unit="\u00d7",
            why="Radiant exposure at its point of lowest exposure, over what its composite requires there.",
        ),
        Measure(
            id="c_factor",
            title="C-factor",
            value=round(cured.c_factor, 2),
            unit="",
            why="Bonded area over free area: tooth and earlier increments count as bonded, air and band as free.",
        ),
    ]
