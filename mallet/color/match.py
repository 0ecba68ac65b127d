"""Which composites, at which thicknesses, come nearest to a color: enamel over dentin over a shell behind, within the room.

Enamel and shell are of even thickness, dentin takes the rest. Thickness is searched in steps of 0.05 mm: a hand errs by more.
"""

from __future__ import annotations

import itertools
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from mallet.color.columns import Columns
from mallet.color.composites import Seen, lab_read
from mallet.color.difference import de00
from mallet.color.flux import Surface
from mallet.color.stack import read_over

Floats = NDArray[np.float64]
STEP_MM = 0.05
ENAMEL_MM, SHELL_MM = (0.3, 1.0), (0.3, 0.5)
# So many columns tell as much as all.
ENOUGH = 80


@dataclass(frozen=True)
class Wanted:
    """The color that is wanted at each column (C, 3), what lies behind it (C, N) and how much of the face it stands for (C,)."""

    lab: Floats
    behind: Floats
    weight: Floats


@dataclass(frozen=True)
class Layers:
    """Composites by name from the front, and how thick enamel and shell are; without an enamel all is of one composite."""

    dentin: str
    enamel: str | None = None
    enamel_mm: float = 0.0
    shell_mm: float = 0.0

    @property
    def names(self) -> list[str]:
        return list(dict.fromkeys([*([self.enamel] if self.enamel else []), self.dentin]))

    def cut(self, room_mm: Floats) -> list[tuple[str, Floats]]:
        """Return each layer's length (C,) along ways so long (C,), from the front to the back; of one that is as long on all of
        them just once (1,)."""
        if self.enamel is None:
            return [(self.dentin, room_mm)]
        least_mm = room_mm.min(initial=np.inf)
        if self.enamel_mm + self.shell_mm <= least_mm:
            front, back = np.array([self.enamel_mm]), np.array([self.shell_mm])
        else:
            front = np.minimum(self.enamel_mm, room_mm)
            back = np.minimum(self.shell_mm, room_mm - front)
        return [(self.enamel, front), (self.dentin, room_mm - front - back), (self.enamel, back)]


@dataclass(frozen=True)
class Match:
    """Layers with how far they are off, on the mean of the face and at each column (C,), and the color of each (C, 3)."""

    layers: Layers
    mean_de00: float
    de00: Floats
    lab: Floats


def looked_at(
    cut: Sequence[tuple[str, Floats]], known: Mapping[str, Seen], wanted: Wanted, surface: Surface
) -> Floats:
    """Return the color (C, 3) of layers, each with its length (C,), over what lies behind."""
    layers = [known[name].layer(length) for name, length in cut]
    return lab_read(read_over(layers, wanted.behind, surface))


def judged(
    layers: Layers, room_mm: Floats, known: Mapping[str, Seen], wanted: Wanted, surface: Surface
) -> Match:
    """Return layers in a room (C,) with how far they are off."""
    lab = looked_at(layers.cut(room_mm), known, wanted, surface)
    off = de00(wanted.lab, lab)
    return Match(layers, float(off @ wanted.weight / wanted.weight.sum()), off, lab)


def ranked(
    columns: Columns,
    enamels: Sequence[str],
    dentins: Sequence[str],
    alone: Sequence[str],
    known: Mapping[str, Seen],
    wanted: Wanted,
    surface: Surface,
    enamel_mm: float | None = None,
    shell_mm: float | None = None,
) -> list[Match]:
    """Return the best of each choice of composites, what comes nearest first: those that may stand alone, and each enamel over
    each other composite with the thicknesses that come nearest. With `enamel_mm` and `shell_mm` those are as thick as that,
    and none stands alone where there is one for the face."""
    room, wanted = _some(columns.room_mm, wanted)
    fronts = [enamel_mm] if enamel_mm else _steps(*ENAMEL_MM)
    backs = [shell_mm] if shell_mm else _steps(*SHELL_MM)

    def nearest(enamel: str, dentin: str) -> Match:
        def best(tried: Iterable[tuple[float, float]]) -> Match:
            matches = (judged(Layers(dentin, enamel, *mm), room, known, wanted, surface) for mm in tried)
            return min(matches, key=lambda one: (one.mean_de00, one.layers.enamel_mm, one.layers.shell_mm))

        # In double steps first, then in single ones about the best.
        rough = best(itertools.product(fronts[::2], backs[::2])).layers
        near = ([mm for mm in mms if abs(mm - about) < 1.5 * STEP_MM]
                for mms, about in ((fronts, rough.enamel_mm), (backs, rough.shell_mm)))  # fmt: skip
        front, back = near
        return best(itertools.product(front, back))

    found = [nearest(*pair) for pair in itertools.product(enamels, dentins)]
    if not (enamel_mm and found):
        found += [judged(Layers(name), room, known, wanted, surface) for name in alone]
    return sorted(found, key=lambda one: (one.mean_de00, one.layers.names))


def _some(room_mm: Floats, wanted: Wanted) -> tuple[Floats, Wanted]:
    """Return the columns that count, or evenly some of them where they are many."""
    counts = np.flatnonzero(wanted.weight > 0)
    some = counts[:: max(1, len(counts) // ENOUGH)]
    return room_mm[some], Wanted(wanted.lab[some], wanted.behind[some], wanted.weight[some])


def _steps(low: float, high: float) -> list[float]:
    count = round((high - low) / STEP_MM)
    return [round(low + i * STEP_MM, 2) for i in range(count + 1)]


def dark_shows(
    columns: Columns, lab: Floats, off: Floats, wanted: Wanted, accepted_de00: float
) -> NDArray[np.bool_]:
    """Tell at which columns (C,) the dark of the mouth shows: no tooth behind, and a color (C, 3) that is so far off (C,) that it is
    not accepted, and darker."""
    darker = lab[:, 0] < wanted.lab[:, 0]
    return (off > accepted_de00) & darker & ~columns.has_tooth_behind & (wanted.weight > 0)


def lacking_mm(
    layers: Layers,
    columns: Columns,
    known: Mapping[str, Seen],
    wanted: Wanted,
    surface: Surface,
    accepted_de00: float,
) -> float:
    """Return how much more room the darkest column would want for its own color to be accepted; 0 where none, inf where no
    room up to 3 mm more would do."""
    match = judged(layers, columns.room_mm, known, wanted, surface)
    shows = dark_shows(columns, match.lab, match.de00, wanted, accepted_de00)
    if not shows.any():
        return 0.0
    worst = int(np.argmax(np.where(shows, match.de00, -1.0)))
    one = Wanted(wanted.lab[[worst]], wanted.behind[[worst]], np.ones(1))
    for more in np.arange(STEP_MM, 3.0 + STEP_MM, STEP_MM):
        room = columns.room_mm[[worst]] + more
        if judged(layers, room, known, one, surface).mean_de00 <= accepted_de00:
            return float(round(more, 2))
    return float("inf")
