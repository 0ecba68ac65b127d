"""Absorption and scattering of a composite, from readings over two backings or from its name alone."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from mallet.color.difference import de00
from mallet.color.flux import Surface, seen_inside, seen_outside
from mallet.color.spectra import BANDS, WAVELENGTHS_NM, bands_of_lab, lab_of_bands, lab_of_reflectance
from mallet.color.stack import Layer, read_over
from mallet.rulebook import Rulebook
from mallet.terms.errors import InputError
from mallet.terms.optics import FamilyOptics, OpacityGrade, Optics, SpectralOptics

Floats = NDArray[np.float64]
# By how much CIELAB differs between over black and over white at 1 mm.
TRANSLUCENCY: dict[OpacityGrade, float] = {"opaque": 8.0, "body": 12.0, "enamel": 18.0, "clear": 24.0}
AXES = ("X", "Y", "Z")
BLACK_LAB_L, DEEPEST_MM = 0.0, 10.0
# From here on what shows of the backing is lost in what an instrument errs by.
TOO_OPAQUE = 0.9999


@dataclass(frozen=True)
class Seen:
    """How a composite absorbs and scatters (N,), per mm, at 31 wavelengths or in the three bands of the observer, and by what it is
    known."""

    k: Floats
    s: Floats
    known_by: Literal["spectral", "lab", "family"]

    @property
    def is_spectral(self) -> bool:
        return len(self.k) == BANDS

    @property
    def unsure_by(self) -> str:
        """Return the rule of how unsure a color is that is predicted from what is known of it."""
        return f"color.{self.known_by}_de00"

    def layer(self, thickness_mm: Floats | float) -> Layer:
        return self.k, self.s, np.asarray(thickness_mm, dtype=np.float64)


def lab_read(read: Floats) -> Floats:
    """Return CIELAB (..., 3) of what is read at 31 wavelengths or in three bands (..., N)."""
    return lab_of_reflectance(read) if read.shape[-1] == BANDS else lab_of_bands(read)


def known_of(optics: Optics, surface: Surface, path: str = "optics") -> Seen:
    """Return how a composite absorbs and scatters; raise InputError by row where readings cannot be of any layer."""
    if isinstance(optics, FamilyOptics):
        return _of_family(optics, surface)
    if isinstance(optics, SpectralOptics):
        readings = [
            np.array(one) for one in (optics.over_black, optics.over_white, optics.black, optics.white)
        ]
        names = [f"{nm:.0f} nm" for nm in WAVELENGTHS_NM]
    else:
        dark = np.array([BLACK_LAB_L, 0.0, 0.0])
        readings = [
            bands_of_lab(np.array(one)) for one in (optics.over_black, optics.over_white, dark, optics.white)
        ]
        names = [f"band {axis}" for axis in AXES]
    k, s = _from_two(readings, optics.thickness_mm, surface, names, path)
    return Seen(k, s, optics.kind)


def _from_two(
    readings: list[Floats], thickness_mm: float, surface: Surface, names: list[str], path: str
) -> tuple[Floats, Floats]:
    """Return K and S (N,) of what a specimen reads over two backings, and what those read."""
    r1, r2, g1, g2 = (seen_inside(one, surface) for one in readings)
    under = (r1 + g1) * (r2 - g2) - (r2 + g2) * (r1 - g1)
    with np.errstate(divide="ignore", invalid="ignore"):
        a = ((1 + r1 * g1) * (r2 - g2) - (1 + r2 * g2) * (r1 - g1)) / under
        c = ((r1 + g1) * (1 + r2 * g2) - (r2 + g2) * (1 + r1 * g1)) / under
        b = np.sqrt(a * a - 1)
        shown = b / c
        s = np.arctanh(shown) / (b * thickness_mm)
    for i, name in enumerate(names):
        if not a[i] >= 1:
            allowed = "readings of one specimen over both backings: more light comes back than goes in"
            raise InputError.at(f"{path}.over_white[{i}]", f"{readings[1][i]:.4f} at {name}", allowed)
        if not 0 < shown[i] < TOO_OPAQUE:
            allowed = f"a thinner specimen: at {thickness_mm:g} mm too opaque, measure at 0.5 mm"
            raise InputError.at(f"{path}.thickness_mm", f"{thickness_mm:g}, {name}", allowed)
    return s * (a - 1), s


def _of_family(optics: FamilyOptics, surface: Surface) -> Seen:
    """Return a composite whose thick layer has its tab's color and whose layer of 1 mm lets as much through as its grade does."""
    deep = np.clip(seen_inside(bands_of_lab(np.array(optics.tab)), surface), 0.01, 0.99)
    ratio = (1 - deep) ** 2 / (2 * deep)
    low, high = 0.01, 60.0
    for _ in range(60):
        middle = np.sqrt(low * high)
        tried = Seen(ratio * middle, np.full(3, middle), "family")
        low, high = (
            (middle, high) if translucency(tried, surface) > TRANSLUCENCY[optics.opacity] else (low, middle)
        )
    return tried


def translucency(seen: Seen, surface: Surface, thickness_mm: float = 1.0) -> float:
    """Return how far CIELAB of a layer over black is off that over white."""
    over = [
        lab_read(read_over([seen.layer(thickness_mm)], np.full_like(seen.k, g), surface)) for g in (0.0, 1.0)
    ]
    return float(np.linalg.norm(over[0] - over[1]))


def in_bands(seen: Seen, surface: Surface) -> Seen:
    """Return a composite that is known by its spectrum as it is known in three bands, to be layered with others that are."""
    if not seen.is_spectral:
        return seen
    layer = [seen.layer(1.0)]
    black, white = (lab_read(read_over(layer, np.full(BANDS, g), surface)) for g in (0.0, 1.0))
    readings = [bands_of_lab(black), bands_of_lab(white), np.zeros(3), seen_white(surface)]
    k, s = _from_two(readings, 1.0, surface, list(AXES), "optics")
    return Seen(k, s, seen.known_by)


def seen_white(surface: Surface) -> Floats:
    """Return what a perfect white inside reads in three bands."""
    return seen_outside(np.ones(3), surface)


def deep_lab(seen: Seen, surface: Surface) -> Floats:
    """Return CIELAB (3,) of a layer so thick that nothing shows through."""
    return lab_read(read_over([seen.layer(100.0)], np.zeros_like(seen.k), surface))


def shows_de00(seen: Seen, thickness_mm: float, rules: Rulebook, surface: Surface) -> float:
    """Return how far a layer over the dark of the mouth is off one so thick that nothing shows through."""
    dark = np.full_like(seen.k, rules.value("color.mouth_reflectance"))
    over = lab_read(read_over([seen.layer(thickness_mm)], dark, surface))
    return float(de00(deep_lab(seen, surface), over))


def hides_from_mm(seen: Seen, off_de00: float, rules: Rulebook, surface: Surface) -> float:
    """Return how thick a layer hides the dark of the mouth to a difference; inf where no thickness worth placing does."""

    def off(thickness_mm: float) -> float:
        return shows_de00(seen, thickness_mm, rules, surface)

    low, high = 0.0, DEEPEST_MM
    if off(high) > off_de00:
        return float("inf")
    while high - low > 0.005:
        middle = (low + high) / 2
        low, high = (low, middle) if off(middle) <= off_de00 else (middle, high)
    return high


def surface_of(rules: Rulebook) -> Surface:
    """Return what a composite's polished surface does to light."""
    return Surface(rules.value("color.surface_k1"), rules.value("color.surface_k2"))
