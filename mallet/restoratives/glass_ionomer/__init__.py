"""Glass ionomer: placed in one, set undisturbed, finished wet and coated."""

from mallet.restoratives.glass_ionomer.restorative import GLASS_IONOMER

__all__ = ["GLASS_IONOMER"]
