"""Teeth: notation, neighbours and handbook crowns as plain arrays. Imports terms and rulebook."""

from mallet.tooth.crown import Crown, loft_crown
from mallet.tooth.notation import ToothName, read_tooth

__all__ = ["Crown", "ToothName", "loft_crown", "read_tooth"]
