"""Composite: bonded, layered, cured with light."""

from mallet.restoratives.composite.restorative import COMPOSITE

__all__ = ["COMPOSITE"]
