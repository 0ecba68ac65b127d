"""What a preparation for direct gold is told by, however it is cut: a pit in a face, or a small cavity beside the contact that
is entered from lingual."""

from __future__ import annotations

from dataclasses import dataclass

from mallet.cavity.gold_beside import BEVEL_DEG, into_dentin_mm
from mallet.cavity.preparation import Cavity
from mallet.rulebook import Rulebook
from mallet.terms.case import Case
from mallet.terms.parts import GoldPit, ProximalCavity

GoldPart = GoldPit | ProximalCavity


@dataclass(frozen=True)
class Ends:
    """What the two ends of an outline are called."""

    lower: str
    upper: str


@dataclass(frozen=True)
class Shape:
    """A preparation as gold is placed in it: `into_mm` is how far its axial wall lies past the junction, `path` where the
    length that takes it there stands in the case."""

    part: GoldPart
    ends: Ends
    into_mm: float
    path: str

    @property
    def is_beside(self) -> bool:
        """Tell whether it lies beside the contact, open toward it."""
        return isinstance(self.part, ProximalCavity)

    @property
    def margins(self) -> list[str]:
        """Return the sides on which it has a margin in its face, counterclockwise from mesial with the upper end up."""
        every = ["mesial", self.ends.upper, "distal", self.ends.lower]
        if isinstance(self.part, ProximalCavity):
            # Across from the contact its margin lies on the other side of it.
            every.remove(self.part.side)
        return every

    @property
    def point_mm(self) -> float:
        return self.part.point_depth_mm or 0.0

    @property
    def groove_mm(self) -> float:
        return self.part.groove_depth_mm if isinstance(self.part, GoldPit) else 0.0

    @property
    def bevel_mm(self) -> float:
        return self.part.bevel_mm or 0.0

    @property
    def bevel_deg(self) -> float:
        return self.part.bevel_deg if isinstance(self.part, GoldPit) else BEVEL_DEG


def shape_of(case: Case, cavity: Cavity, part: GoldPart, rules: Rulebook) -> Shape:
    """Return a part of a case as gold is placed in it."""
    path = f"preparation.parts[{case.preparation.parts.index(part)}]"
    if isinstance(part, ProximalCavity):
        into = into_dentin_mm(cavity.tools[0], cavity.shell(rules, "dentin"))
        return Shape(part, Ends("gingival", "incisal"), into, f"{path}.depth_mm")
    upper = "occlusal" if cavity.tooth.is_posterior else "incisal"
    ends = Ends("lingual", "facial") if part.face == "occlusal" else Ends("cervical", upper)
    return Shape(part, ends, part.into_dentin_mm, f"{path}.into_dentin_mm")
