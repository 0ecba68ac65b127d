"""The side that a cavity opens to, and the frame that it is planned in.

Wherever a cavity opens, it is planned with that side up: light comes from above, layers are cut level
and points are told by their height. Only what leaves the plan is turned back into the tooth's frame.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
from manifold3d import Manifold
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Way = tuple[float, float, float]


@dataclass(frozen=True)
class Access:
    """A frame with the side that a cavity opens to up: where its x, y and z point in the tooth's frame, and
    what lies where its y is positive and where it is negative."""

    side: Literal["occlusal", "facial", "lingual"]
    axes: tuple[Way, Way, Way]
    along_y: tuple[str, str]

    def turned(self, solid: Manifold) -> Manifold:
        """Return a solid of the tooth as it stands in this frame; its tags stay."""
        if self.side == "occlusal":
            return solid
        return solid.transform(np.column_stack([np.array(self.axes), np.zeros(3)]))

    def in_tooth(self, solid: Manifold) -> Manifold:
        """Return a solid of this frame as it stands in the tooth's."""
        if self.side == "occlusal":
            return solid
        return solid.transform(np.column_stack([np.array(self.axes).T, np.zeros(3)]))

    def points_in_tooth(self, points: Floats) -> Floats:
        """Return points (N, 3) of this frame in the tooth's."""
        return np.asarray(points @ np.array(self.axes))

    def toward(self, way: Way) -> Way:
        """Return a direction or point of the tooth's frame in this one."""
        x, y, z = np.array(self.axes) @ np.array(way)
        return float(x), float(y), float(z)


_X: Way = (1.0, 0.0, 0.0)
OCCLUSAL = Access("occlusal", (_X, (0.0, 1.0, 0.0), (0.0, 0.0, 1.0)), ("facial", "lingual"))
ACCESS = {
    "occlusal": OCCLUSAL,
    "facial": Access("facial", (_X, (0.0, 0.0, -1.0), (0.0, 1.0, 0.0)), ("gingival", "occlusal")),
    "lingual": Access("lingual", (_X, (0.0, 0.0, 1.0), (0.0, -1.0, 0.0)), ("occlusal", "gingival")),
}
