"""The drawing of a worked plan: millimeter polygons, dimensions and marks."""

from mallet.drawing.sheets import Drawing
from mallet.drawing.views import draw

__all__ = ["Drawing", "draw"]
