"""A cavity filled cusp by cusp: each increment slopes from its cusp to the floor, against as few walls as may be."""

from __future__ import annotations

from itertools import pairwise
from typing import Literal

import numpy as np
from manifold3d import Manifold

from mallet.cavity.preparation import Cavity
from mallet.cavity.solids import half_space
from mallet.restoratives.composite.block import Block, lifts_of, under_slope
from mallet.rulebook import Rulebook

Row = Literal["facial", "lingual"]
# On which side of the tooth's middle a row of cusps stands, by the sign of y.
ROWS: dict[Row, float] = {"facial": 1.0, "lingual": -1.0}
HINT = "Slope it from the cusp down to the floor; touch one wall only."


def by_cusp(block: Block, cavity: Cavity, first: Row, rules: Rulebook) -> None:
    """Take all that is left, in layers, each parted along a slope and either side of it among the cusps that stand there; the
    side of the first cusp is placed before the other."""
    slabs = lifts_of(block.rest, block.limits[block.core])
    for i, slab in enumerate(slabs, 1):
        _part(block, cavity, slab, f"{i}" if len(slabs) > 1 else "", first, rules)


def _part(block: Block, cavity: Cavity, slab: Manifold, lift: str, first: Row, rules: Rulebook) -> None:
    under, over = slab.split(under_slope(slab, rises=first == "facial"))
    other: Row = "lingual" if first == "facial" else "facial"
    most_mm3, of = rules.value("composite.cusp_portion_mm3"), f", lift {lift}" if lift else ""
    for row, wedge in ((first, under), (other, over)):
        for cusp, piece in _territories(cavity, row, wedge):
            parts = _halved(piece) if piece.volume() > most_mm3 else [("", piece)]
            for end, part in parts:
                id = ".".join(word for word in ("cusp", cusp, end, lift) if word)
                name = f"{cusp} cusp slope{f', {end} part' if end else ''}{of}"
                block.add(id, name, part, block.core, None, HINT)


def _territories(cavity: Cavity, row: Row, wedge: Manifold) -> list[tuple[str, Manifold]]:
    """Return what belongs to each standing cusp of a row, from mesial to distal; all of it to the row where none stands."""
    tips = {name: tip for name, tip in cavity.crown.cusps.items() if tip[1] * ROWS[row] > 0}
    standing = sorted(tips.keys() - cavity.covered, key=lambda name: -tips[name][0])
    if not standing:
        return [(row, wedge)]
    parted = []
    for one, following in pairwise(standing):
        middle = (tips[one][0] + tips[following][0]) / 2
        piece, wedge = wedge.split(half_space(np.array([middle, 0.0, 0.0]), np.array([-1.0, 0.0, 0.0])).solid)
        parted.append((one, piece))
    return [*parted, (standing[-1], wedge)]


def _halved(piece: Manifold) -> list[tuple[str, Manifold]]:
    """Return a piece cut mesiodistally in two."""
    x0, _, _, x1, _, _ = piece.bounding_box()
    middle = half_space(np.array([(x0 + x1) / 2, 0.0, 0.0]), np.array([-1.0, 0.0, 0.0])).solid
    mesial, distal = piece.split(middle)
    return [("mesial", mesial), ("distal", distal)]
