"""The color that a restoration should have: how it was read, before isolation."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from mallet.terms.mouth import Strict
from mallet.terms.optics import Lab, Spectrum

MockUpAnswer = Literal[
    "fits", "too_light", "too_dark", "too_gray", "too_yellow", "too_opaque", "too_clear"
]  # fmt: skip
Zone = Literal["cervical", "middle", "incisal"]


class ShadeTarget(Strict):
    """A color that was read of a tooth, in a third of its face: in CIELAB or, by an instrument, as a spectrum; which instrument,
    where it told it itself."""

    zone: Zone = "middle"
    lab: Lab | None = None
    reflectance: Spectrum | None = None
    how: Literal["instrument", "tab", "eye"] = "instrument"
    tooth: Literal["this", "twin", "neighbor"] = "this"
    minutes_dry: Annotated[float, Field(ge=0, le=240)] = 0.0
    reader: str = Field(default="", max_length=60)

    @model_validator(mode="after")
    def is_read(self) -> ShadeTarget:
        """Raise ValueError for a target without a color, or with two."""
        if (self.lab is None) == (self.reflectance is None):
            raise ValueError("either lab or reflectance")
        return self


class FirstShade(Strict):
    """The shade as it was read wet, before isolation, in words, and as a color by thirds of the face; what the last
    mock-up looked like."""

    value: str | None = Field(default=None, max_length=40)
    mock_up: bool = False
    mock_up_answer: MockUpAnswer | None = None
    target: list[ShadeTarget] = Field(default=[], max_length=3)

    @model_validator(mode="after")
    def is_told_once(self) -> FirstShade:
        """Raise ValueError for two targets of one third."""
        zones = [one.zone for one in self.target]
        if len(set(zones)) < len(zones):
            raise ValueError("one target for each third of the face")
        return self
