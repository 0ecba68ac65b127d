"""Teeth: notation, adjacent teeth and handbook crowns as plain arrays. Imports terms and rulebook."""

from mallet.tooth.crown import Crown, Shell, loft_crown
from mallet.tooth.notation import ToothName, read_tooth

__all__ = ["Crown", "Shell", "ToothName", "loft_crown", "read_tooth"]
