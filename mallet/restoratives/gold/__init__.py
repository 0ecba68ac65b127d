"""Direct gold: heated, stepped over its ground pellet by pellet, zone by zone."""

from mallet.restoratives.gold.restorative import GOLD_FOIL

__all__ = ["GOLD_FOIL"]
