"""The color of composite place by place, as it is seen from the face that shows."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from typing import cast

import numpy as np
from contourpy import FillType, contour_generator
from numpy.typing import NDArray

from mallet.cavity.access import Access
from mallet.color.columns import APART_MM, Columns, stacked
from mallet.color.difference import de00
from mallet.color.match import dark_shows, looked_at
from mallet.curing.cured import Cured
from mallet.restoratives.composite.color import RULES, Looked
from mallet.rulebook import Rulebook
from mallet.terms.color_plan import ColorColumn, ColorFace, ColorLayer, ThicknessLine

Floats = NDArray[np.float64]
THICK_MM = (0.3, 0.5, 1.0)
# No finger points finer: one way of so many along either side of the face is told.
EVERY = 2
DECIMALS = 2
# An even layer wavers by so much; a shorter line is the facets'.
WAVERS_MM, LEAST_POINTS = 0.02, 6


def color_face(looked: Looked, cured: Sequence[Cured], access: Access, rules: Rulebook) -> ColorFace | None:
    """Return what the planned increments look like at each place of the face; None where it is not known of all of them."""
    if any(one.mass.name not in looked.known for one in cured):
        return None
    roles = {one.mass.name: one.mass.role for one in cured}
    columns = looked.columns
    cut = stacked([(one.portion.solid, one.mass.name) for one in cured], columns.places)
    lab = looked_at(cut, looked.known, looked.wanted, looked.surface)
    off = de00(looked.wanted.lab, lab)
    dark = dark_shows(columns, lab, off, looked.wanted, rules.value("color.acceptable_de00"))
    unpredicted = looked.wanted.weight == 0
    grid = _Grid(columns, access)
    _, first_mm = cut[0]
    return ColorFace(
        view="facial",
        layers=[ColorLayer(name=name, role=roles[name]) for name, _ in cut],
        lines=[
            ThicknessLine(thickness_mm=mm, points=line)
            for mm in THICK_MM
            for line in grid.lines(first_mm, mm - WAVERS_MM)
        ],
        columns=[
            ColorColumn(
                at=grid.at(i),
                lengths_mm=[round(float(lengths[i]), DECIMALS) for _, lengths in cut],
                has_tooth_behind=bool(columns.has_tooth_behind[i]),
                de00=round(float(off[i]), 1),
                unpredicted=("near_margin" if columns.is_beside[i] else "thin") if unpredicted[i] else None,
            )
            for i in grid.some(EVERY)
        ],
        dark=grid.rings(dark),
        unpredicted=grid.rings(unpredicted),
        rules=rules.uses(*RULES),
    )


class _Grid:
    """Columns in the rows and ranks that they were laid out in, a rank to spare round about."""

    def __init__(self, columns: Columns, access: Access) -> None:
        flat = np.column_stack([columns.places, np.zeros(len(columns))])
        self._drawn = access.points_in_tooth(flat)[:, [0, 2]]
        self._least = columns.places.min(axis=0)
        self._cells = np.rint((columns.places - self._least) / APART_MM).astype(int) + 1
        self._shape = self._cells.max(axis=0) + 2
        self._access = access

    def at(self, i: int) -> list[float]:
        """Return where a column is drawn."""
        return np.round(self._drawn[i], DECIMALS).tolist()  # type: ignore[no-any-return]

    def some(self, every: int) -> list[int]:
        """Return the columns of every so many-th rank along both sides."""
        return [int(i) for i in np.flatnonzero((self._cells % every == 0).all(axis=1))]

    def lines(self, values: Floats, level: float) -> list[list[list[float]]]:
        """Return the lines along which what is known at each column reaches a level."""
        known = np.full(self._shape, np.nan)
        known[self._cells[:, 0], self._cells[:, 1]] = values
        found = contour_generator(z=np.ma.masked_invalid(known.T)).lines(level)
        return [self._placed(line) for line in cast("list[Floats]", found) if len(line) >= LEAST_POINTS]

    def rings(self, these: NDArray[np.bool_]) -> list[list[list[float]]]:
        """Return rings round the columns that are told, those of holes too."""
        filled = np.zeros(self._shape)
        filled[self._cells[:, 0], self._cells[:, 1]] = these
        found = contour_generator(z=filled.T, fill_type=FillType.OuterOffset).filled(0.5, 2.0)
        points, offsets = cast("tuple[list[Floats], list[NDArray[np.uint32]]]", found)
        return [
            self._placed(ring[start:end])
            for ring, ends in zip(points, offsets, strict=True)
            for start, end in itertools.pairwise(ends)
        ]

    def _placed(self, cells: Floats) -> list[list[float]]:
        places = self._least + (cells - 1) * APART_MM
        drawn = self._access.points_in_tooth(np.column_stack([places, np.zeros(len(places))]))[:, [0, 2]]
        return np.round(drawn, DECIMALS).tolist()  # type: ignore[no-any-return]
