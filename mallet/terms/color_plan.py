"""What a plan says of color: what was wanted, what is predicted, what else would come near."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, ConfigDict

from mallet.terms.pieces import RuleUse

# L*, a* and b*.
Lab = list[float]


class Masking(BaseModel):
    """How far a layer so thick (mm) over the dark of the mouth is off one so thick that nothing shows through (dE00)."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    thickness_mm: float
    shows_de00: float


class CompositeColor(BaseModel):
    """What a composite looks like by itself: CIELAB of a thick layer, of 1 mm over black and over white, how far these two are apart
    (CIELAB), from which thickness it hides the dark of the mouth so far that the rest is accepted, or not seen, None where it
    never does, how that grows with its thickness, and how unsure what is predicted from it is (dE00)."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    known_by: Literal["spectral", "lab", "family"]
    deep: Lab
    over_black: Lab
    over_white: Lab
    translucency: float
    accepted_from_mm: float | None
    unseen_from_mm: float | None
    masking: list[Masking]
    unsure_de00: float
    rules: list[RuleUse]


class ColorChoice(BaseModel):
    """Composites from the front, how thick the enamel over the face and the shell behind are (0 where all is of one), and how far
    they are off on the mean of the face."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    composites: list[str]
    enamel_mm: float
    shell_mm: float
    de00: float


class MatchCost(BaseModel):
    """What composites that come near ask for: how many increments they are placed in, how long those are lit (s), and why they cannot
    be placed, where they cannot; nothing else is told then."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    composites: list[str]
    increments: int | None = None
    cure_seconds: float | None = None
    refused: str = ""


class ColorPlan(BaseModel):
    """The color that was wanted, what the planned increments look like as they are seen from the face, on its mean, and that tooth
    once it is dry; how far that is off, how unsure this is (dE00) and what it means, in words.

    `accepted_share` is how much of the face is accepted, `lacking_mm` how much room it lacks to hide the dark of the mouth,
    `is_beyond` whether no room would do. `hides_mm` is from where each composite by itself hides it, None where it never
    does. `metamerism_de00` is what another light source adds, where spectra tell.
    """

    model_config = ConfigDict(extra="forbid", frozen=True)

    target: Lab
    predicted: Lab
    target_dry: Lab
    de00: float
    uncertain_de00: float
    seen: Literal["not_seen", "accepted", "not_accepted", "cannot_tell"]
    says: str
    accepted_share: float
    lacking_mm: float
    is_beyond: bool
    hides_mm: dict[str, float | None]
    metamerism_de00: float | None
    choices: list[ColorChoice]
    rules: list[RuleUse]


class ColorLayer(BaseModel):
    """A composite as it lies behind the face, and its shade role, which tells how it is hatched."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    name: str
    role: Literal["dentin", "body", "enamel"]


class ColorColumn(BaseModel):
    """A straight way through a restoration from its face, at a place [x, z] of the face (mm): how long it is in each layer (mm), whether
    tooth lies behind the last, how far its color is off (dE00), and why that is not predicted there, if it is not."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    at: list[float]
    lengths_mm: list[float]
    has_tooth_behind: bool
    de00: float
    unpredicted: Literal["near_margin", "thin"] | None = None


class ThicknessLine(BaseModel):
    """A line in the face [x, z] (mm) along which the layer that is seen first is so thick."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    thickness_mm: float
    points: list[list[float]]


class ColorFace(BaseModel):
    """The color of a restoration place by place, as its face is seen: its layers from the front to the back, lines of equal thickness
    of the first, ways through it, and rings [x, z] (mm) round where the dark of the mouth shows and round where no color is predicted:
    near a margin light goes sideways, and at a thin edge a tooth lets the dark through as well."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    view: Literal["facial"]
    layers: list[ColorLayer]
    lines: list[ThicknessLine]
    columns: list[ColorColumn]
    dark: list[list[list[float]]]
    unpredicted: list[list[list[float]]]
    rules: list[RuleUse]
