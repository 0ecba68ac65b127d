"""How far all that is cut stays off the pulp. The handbook's pulp is an estimate: it gives way to what was measured, and
where nobody measured it is told, never held against a depth."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from manifold3d import Manifold

from mallet.cavity.measures import gap_mm

SEARCHES_MM = (0.7, 1.5, 2.0, 2.25, 2.5, 3.0, 4.0, 6.0)
HALVINGS, LEAST_SHARE = 7, 0.15


def gaps_of(cuts: Sequence[Manifold], pulp: Manifold) -> list[float]:
    """Return the distance in mm of each cut from a pulp, nought where they meet."""
    return [max(gap_mm(cut, pulp, SEARCHES_MM), 0.0) for cut in cuts]


def set_back(pulp: Manifold, cuts: Sequence[Manifold], gap: float) -> Manifold:
    """Return a pulp drawn back toward its root until all cuts stay that far off it; as far as it goes, where that is
    not enough."""
    x0, y0, low, x1, y1, _ = pulp.bounding_box()
    foot = np.array([(x0 + x1) / 2, (y0 + y1) / 2, low])

    def drawn(share: float) -> Manifold:
        return pulp.translate(-foot).scale((share, share, share)).translate(foot)

    def stays_off(share: float) -> bool:
        return bool(min(cut.min_gap(drawn(share), gap + 0.1) for cut in cuts) >= gap)

    least, most = LEAST_SHARE, 1.0
    for _ in range(HALVINGS):
        middle = (least + most) / 2
        least, most = (middle, most) if stays_off(middle) else (least, middle)
    return drawn(least)
