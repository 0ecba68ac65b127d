"""Color difference by CIEDE2000 (CIE 142; Sharma, Wu, Dalal 2005, Color Res Appl 30:21), and what it means in words."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from mallet.rulebook import Rulebook

Floats = NDArray[np.float64]
POW25_7 = 25.0**7
Seen = Literal["not_seen", "accepted", "not_accepted", "cannot_tell"]
# A part of a difference that is less goes without saying.
WORTH_SAYING = 0.3
WORDS = (("lighter", "darker"), ("higher in chroma", "grayer"), ("yellower", "redder"))


@dataclass(frozen=True)
class Difference:
    """How far a color is off another: all in all and by its parts, each over its weight: lightness, chroma, hue (...,)."""

    de00: Floats
    lightness: Floats
    chroma: Floats
    hue: Floats


def de00(wanted: Floats, other: Floats) -> Floats:
    """Return CIEDE2000 (...,) of CIELAB colors (..., 3), with all factors 1."""
    return difference(wanted, other).de00


def difference(wanted: Floats, other: Floats) -> Difference:
    """Return CIEDE2000 of CIELAB colors (..., 3) with its parts, signed from the wanted to the other; all factors 1."""
    l1, a1, b1 = np.moveaxis(np.asarray(wanted, dtype=np.float64), -1, 0)
    l2, a2, b2 = np.moveaxis(np.asarray(other, dtype=np.float64), -1, 0)
    mean7 = ((np.hypot(a1, b1) + np.hypot(a2, b2)) / 2) ** 7
    stretch = 1.5 - 0.5 * np.sqrt(mean7 / (mean7 + POW25_7))
    c1, c2 = np.hypot(stretch * a1, b1), np.hypot(stretch * a2, b2)
    h1, h2 = _hue_deg(stretch * a1, b1), _hue_deg(stretch * a2, b2)
    is_gray = c1 * c2 == 0
    turn = np.where(is_gray, 0.0, (h2 - h1 + 180) % 360 - 180)
    # Right opposite the standard turns the positive way.
    turn = np.where((turn == -180) & (h2 - h1 > 0), 180.0, turn)
    dl, dc, dh = l2 - l1, c2 - c1, 2 * np.sqrt(c1 * c2) * np.sin(np.radians(turn) / 2)
    lightness, chroma = (l1 + l2) / 2, (c1 + c2) / 2
    across = np.abs(h1 - h2) > 180
    hue = np.where(is_gray, h1 + h2, (h1 + h2) / 2 + np.where(across, np.where(h1 + h2 < 360, 180, -180), 0))
    t = (
        1
        - 0.17 * np.cos(np.radians(hue - 30))
        + 0.24 * np.cos(np.radians(2 * hue))
        + 0.32 * np.cos(np.radians(3 * hue + 6))
        - 0.20 * np.cos(np.radians(4 * hue - 63))
    )
    off50 = (lightness - 50) ** 2
    dl = dl / (1 + 0.015 * off50 / np.sqrt(20 + off50))
    dc = dc / (1 + 0.045 * chroma)
    dh = dh / (1 + 0.015 * chroma * t)
    blue = 30 * np.exp(-(((hue - 275) / 25) ** 2))
    mean7 = chroma**7
    turned = -np.sin(np.radians(2 * blue)) * 2 * np.sqrt(mean7 / (mean7 + POW25_7))
    total = np.sqrt(np.maximum(dl**2 + dc**2 + dh**2 + turned * dc * dh, 0.0))
    return Difference(total, dl, dc, dh)


def _hue_deg(a: Floats, b: Floats) -> Floats:
    return np.where((a == 0) & (b == 0), 0.0, np.degrees(np.arctan2(b, a)) % 360)


def in_words(found: Difference) -> str:
    """Say how a single color is off what was wanted, its greatest part first; nothing where no part is worth saying."""
    parts = (float(found.lightness), float(found.chroma), float(found.hue))
    said = [
        (abs(part), words[0] if part > 0 else words[1])
        for part, words in zip(parts, WORDS, strict=True)
        if abs(part) >= WORTH_SAYING
    ]
    return " and ".join(word for _, word in sorted(said, reverse=True)[:2])


def seen(off: float, uncertainty: float, rules: Rulebook) -> Seen:
    """Return what a difference means; where it may mean one thing as well as another, that it cannot be told."""
    low, high = (_seen(max(off + part, 0.0), rules) for part in (-uncertainty, uncertainty))
    return low if low == high else "cannot_tell"


def _seen(off: float, rules: Rulebook) -> Seen:
    if off <= rules.value("color.perceptible_de00"):
        return "not_seen"
    return "accepted" if off <= rules.value("color.acceptable_de00") else "not_accepted"
