"""Margins beside a developmental groove: one that runs along it cannot be finished."""

from __future__ import annotations

import numpy as np

from mallet.cavity.margins import margin_of
from mallet.cavity.preparation import Cavity
from mallet.rulebook import Rulebook
from mallet.stages.least import at_least
from mallet.terms.pieces import Point
from mallet.terms.plan import Check

# Steeper than this the outside of a tooth is its side.
STEEP_DEG = 60.0
# A margin runs along a groove where it turns from it by less than half a right angle, for so long.
ALONG = np.sin(np.radians(45.0))
LEAST_RUN_MM = 0.5
# A margin is cut through triangles, and lies where they do.
HAIR_MM = 0.03
FAR_MM = 1.5


def groove_checks(cavity: Cavity, rules: Rulebook) -> list[Check]:
    """Return how far the margins of cusps taken down keep off the groove that they run along; one that they cross is no
    matter, and a scanned tooth's grooves are not known."""
    if cavity.shoulder or cavity.scanned or not cavity.reductions:
        return []
    tags = {reduction.cut.tag for reduction in cavity.reductions}
    margin = margin_of(cavity.filling, cavity.outer.tag, tags)
    margin = margin.where(margin.outside[:, 2] > np.cos(np.radians(STEEP_DEG)))
    level = margin.wall[:, :2] / np.maximum(np.linalg.norm(margin.wall[:, :2], axis=1), 1e-9)[:, None]
    found = []
    for name, line in cavity.crown.grooves.items():
        way = (line[-1] - line[0]) / np.linalg.norm(line[-1] - line[0])
        along = margin.where(np.abs(level @ way) < ALONG)
        off = np.hypot(*(along.middles[:, None, :2] - line[None]).transpose(2, 0, 1)).min(
            axis=1, initial=np.inf
        )
        if along.lengths_mm[off < FAR_MM].sum() >= LEAST_RUN_MM:
            least = int(off.argmin())
            found.append((float(off[least]), name, along.middles[least]))
    if not found:
        return []
    off_mm, name, at = min(found, key=lambda one: one[0])
    x, y, z = (float(c) for c in at)
    return [
        at_least(
            "prepare.groove",
            "Margin of the reduction, off the nearest groove",
            off_mm,
            "prepare.past_groove_mm",
            rules,
            remedy="Carry the margin past the groove: in a groove it cannot be finished.",
            where=f"{name} groove",
            place=Point(x=x, y=y, z=z),
            hair=HAIR_MM,
        )
    ]
