"""Amalgam: mixed from capsules, condensed in zones, carved while it yields."""

from mallet.restoratives.amalgam.restorative import AMALGAM

__all__ = ["AMALGAM"]
