"""One part of a preparation as a cutter."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

from mallet.cavity.solids import Tagged
from mallet.terms.parts import Side

Slopes = tuple[float, float, float, float]
UPRIGHT: Slopes = (0.0, 0.0, 0.0, 0.0)


@dataclass(frozen=True)
class Tool:
    """One part of the preparation as a cutter that reaches out of the tooth, in the frame of its access.

    `index` is the part's place in the case, `side` that of a box. The floor rectangle is x0, x1, y0, y1, that of
    the opening where a part has no flat floor; `slopes` is how far its walls move outward a mm of height, in that order. Of a part that is entered from a face, `spot` is the deepest
    point of its wall toward the pulp, `depth_mm` how deep that lies, and `beside` the sides whose
    contact it opens; one that `is_through` opens on the other face too. A tunnel opens `under` the ridge of a side, from the height `opens_mm` up, and `leans_deg` off the tooth's
    long axis. `margin_in` is where a box's
    gingival margin was seen to end.
    """

    index: int
    kind: str
    side: Side | None
    cut: Tagged
    nominal_volume_mm3: float
    floor_mm: float
    floor: tuple[float, float, float, float]
    slopes: Slopes = UPRIGHT
    depth_mm: float = 0.0
    spot: tuple[float, float, float] | None = None
    beside: tuple[Side, ...] = ()
    under: Side | None = None
    opens_mm: float = 0.0
    leans_deg: float = 0.0
    is_through: bool = False
    margin_in: Literal["enamel", "dentin"] | None = None

    @property
    def is_neck(self) -> bool:
        return self.kind in ("saucer_lesion", "wedge_lesion")

    @property
    def is_from_face(self) -> bool:
        return self.spot is not None

    @property
    def floor_mm2(self) -> float:
        """Return the area of the floor, of a neck lesion that of its opening."""
        x0, x1, y0, y1 = self.floor
        share = math.pi / 4 if self.kind in ("saucer_lesion", "pit") else 1.0
        return share * (x1 - x0) * (y1 - y0)
