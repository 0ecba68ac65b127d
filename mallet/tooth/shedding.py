"""When primary teeth are shed."""

from __future__ import annotations

from mallet.tooth.notation import ToothName

SOURCE = "American Dental Association, eruption chart of the primary teeth (from memory)"
# Years of age at which each is shed, from the midline backward.
UPPER_YEARS = ((6, 7), (7, 8), (10, 12), (9, 11), (10, 12))
LOWER_YEARS = ((6, 7), (7, 8), (9, 12), (9, 11), (10, 12))
# Somebody of whom whole years are told is half a year older on average.
HALF_YEAR = 0.5


def months_to_shedding(tooth: ToothName, age_years: int) -> int:
    """Return after how many months a primary tooth is shed on average, nought where that is past, by whole years of age;
    raise ValueError for a permanent tooth."""
    if not tooth.is_deciduous:
        raise ValueError(f"{tooth.iso} is not shed")
    first, last = (UPPER_YEARS if tooth.is_upper else LOWER_YEARS)[tooth.position - 1]
    return max(round(12 * ((first + last) / 2 - age_years - HALF_YEAR)), 0)
