"""A color reader (spectrophotometer): the interface that a driver serves, its check on a white tile, one reading out of three, and the
simulated instrument that ships with the application."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass
from itertools import combinations
from random import Random, SystemRandom
from typing import Literal, Protocol

import numpy as np
from numpy.typing import NDArray

from mallet.color.difference import de00
from mallet.color.smooth import smooth_of
from mallet.color.spectra import BANDS, lab_of_reflectance
from mallet.terms.shade import Zone
from mallet.tooth import ToothName
from practice.devices.programs import DeviceError

Floats = NDArray[np.float64]
# The white tile that belongs to the instrument, and how far off it may be read (dE00).
TILE, MOST_OFF_TILE_DE00 = 0.9, 0.5
CALIBRATED_FOR_H = 8.0
# The tip is lifted between readings of one place; they lie no further apart (dE00).
READINGS, MOST_APART_DE00 = 3, 1.0

Held = Literal["flat", "tilted", "over_edge"]
TileState = Literal["clean", "soiled", "other"]


class ColorReader(Protocol):
    """What a driver must do: name itself, and give what its tip is held on: reflectance (31,), 400 to 700 nm every 10 nm."""

    name: str

    def read_tile(self) -> Floats: ...

    def read(self) -> Floats: ...


@dataclass(frozen=True)
class ColorRead:
    """The middle one of three readings at each wavelength (31,), its CIELAB (3,), and how far the readings are apart (dE00)."""

    reflectance: Floats
    lab: Floats
    apart_de00: float

    @property
    def is_steady(self) -> bool:
        return self.apart_de00 <= MOST_APART_DE00


def read_place(reader: ColorReader) -> ColorRead:
    """Read a place three times, the tip lifted in between."""
    taken = np.array([reader.read() for _ in range(READINGS)])
    labs = lab_of_reflectance(taken)
    apart = max(float(de00(one, other)) for one, other in combinations(labs, 2))
    middle = np.median(taken, axis=0)
    return ColorRead(middle, lab_of_reflectance(middle), apart)


class Calibration:
    """When a reader last read its tile as it should."""

    def __init__(self, clock: Callable[[], float] = time.monotonic) -> None:
        self._clock = clock
        self._at: float | None = None

    @property
    def age_h(self) -> float | None:
        return None if self._at is None else (self._clock() - self._at) / 3600

    @property
    def holds(self) -> bool:
        return self.age_h is not None and self.age_h <= CALIBRATED_FOR_H

    def calibrate(self, reader: ColorReader) -> None:
        """Read the tile; raise DeviceError where that is further off than a reader that is right can be."""
        self._at = None
        off = float(de00(lab_of_reflectance(np.full(BANDS, TILE)), lab_of_reflectance(reader.read_tile())))
        if off > MOST_OFF_TILE_DE00:
            raise DeviceError(
                f"the tile reads {off:.1f} dE00 off, up to {MOST_OFF_TILE_DE00:g} is right: clean it, take the reader's own"
            )
        self._at = self._clock()


# L*, a* and b* of teeth that there are none of: incisors, canines, and those behind; what the thirds of their faces add.
INCISOR, CANINE, BEHIND = (80.5, 0.6, 16.5), (76.0, 1.6, 20.5), (77.0, 1.3, 18.5)
THIRDS: dict[Zone, tuple[float, float, float]] = {
    "cervical": (-2.5, 0.9, 3.0),
    "middle": (0.0, 0.0, 0.0),
    "incisal": (-1.5, -1.0, -3.5),
}
# The share of light that is lost to the side at the red end; a hand that does not hold still loses now more, now less.
LOST: dict[Held, float] = {"flat": 0.0, "tilted": 0.02, "over_edge": 0.04}
TILES: dict[TileState, float] = {"clean": 1.0, "soiled": 0.95, "other": 0.85}


class SimulatedColorReader:
    """Reads teeth that there are none of, with noise, and light that is lost to the side where the tip is held badly.

    Its constants are invented: they exercise what reads them and tell nothing about real teeth.
    """

    name = "simulated color reader"
    NOISE = 0.003

    def __init__(
        self, tooth: ToothName, zone: Zone, held: Held, dry_lab: Floats, tile: TileState, random: Random
    ) -> None:
        kind = (INCISOR, INCISOR, CANINE, BEHIND)[min(tooth.position, 4) - 1]
        self._lab = np.array(kind) + THIRDS[zone] + dry_lab
        self._lost = LOST[held]
        self._tile = TILES[tile]
        self._random = random

    def read_tile(self) -> Floats:
        return TILE * self._tile * self._noise()

    def read(self) -> Floats:
        lost = self._lost * self._random.uniform(0.0, 2.0) * np.linspace(0.5, 1.0, BANDS)
        return np.asarray(np.clip(smooth_of(self._lab) * (1 - lost) * self._noise(), 0.0, 1.0))

    def _noise(self) -> Floats:
        return np.array([self._random.gauss(1.0, self.NOISE) for _ in range(BANDS)])


# One of each practice, as long as the server runs.
_calibrations: dict[int, Calibration] = {}


def calibration_of(practice_id: int) -> Calibration:
    return _calibrations.setdefault(practice_id, Calibration())


def simulated(
    tooth: ToothName, zone: Zone, held: Held, dry_lab: Floats, tile: TileState = "clean"
) -> SimulatedColorReader:
    """Return the simulated reader before a tooth that has been drying so far (3,)."""
    return SimulatedColorReader(tooth, zone, held, dry_lab, tile, SystemRandom())
