"""Fissure sealant: enamel etched, resin teased along the fissures and cured to their floor."""

from mallet.restoratives.sealant.restorative import SEALANT

__all__ = ["SEALANT"]
