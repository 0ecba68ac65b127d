"""How a composite looks: read over black and white by spectrum or in CIELAB, or told by its opacity alone."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import AfterValidator, Field, model_validator

from mallet.terms.mouth import Strict

Share = Annotated[float, Field(ge=0, le=1)]
Spectrum = Annotated[list[Share], Field(min_length=31, max_length=31)]


def _of_teeth(lab: list[float]) -> list[float]:
    """Return L*, a* and b* as they are; raise ValueError for a color that nothing in a mouth has."""
    lightness, a, b = lab
    if not (0 <= lightness <= 100 and abs(a) <= MOST_CHROMATIC and abs(b) <= MOST_CHROMATIC):
        raise ValueError(f"L* 0 to 100, a* and b* -{MOST_CHROMATIC} to {MOST_CHROMATIC}")
    return lab


MOST_CHROMATIC = 60
Lab = Annotated[list[float], Field(min_length=3, max_length=3), AfterValidator(_of_teeth)]
Thickness = Annotated[float, Field(ge=0.3, le=3)]
OpacityGrade = Literal["opaque", "body", "enamel", "clear"]


class SpectralOptics(Strict):
    """Reflectance of a specimen over a black and a white backing, and of those, at 400 to 700 nm every 10 nm."""

    kind: Literal["spectral"]
    thickness_mm: Thickness
    over_black: Spectrum
    over_white: Spectrum
    black: Spectrum
    white: Spectrum

    @model_validator(mode="after")
    def is_lighter_over_white(self) -> SpectralOptics:
        """Raise ValueError at the first wavelength at which a specimen over white is no lighter than over black."""
        for i, (dark, light) in enumerate(zip(self.over_black, self.over_white, strict=True)):
            if light <= dark:
                raise ValueError(f"over white lighter than over black; at {400 + 10 * i} nm it is not")
        return self


class LabOptics(Strict):
    """CIELAB of a specimen over black and over white, and of the white backing."""

    kind: Literal["lab"]
    thickness_mm: Thickness
    over_black: Lab
    over_white: Lab
    white: Lab

    @model_validator(mode="after")
    def is_lighter_over_white(self) -> LabOptics:
        """Raise ValueError where a specimen over white is no lighter than over black."""
        if self.over_white[0] <= self.over_black[0]:
            raise ValueError("over white lighter than over black: L* there must be higher")
        return self


class FamilyOptics(Strict):
    """Only how opaque a composite is, and the color that it is sold as."""

    kind: Literal["family"]
    opacity: OpacityGrade
    tab: Lab


Optics = Annotated[SpectralOptics | LabOptics | FamilyOptics, Field(discriminator="kind")]
