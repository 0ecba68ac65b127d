"""What cuts each part of a preparation that is a hollow of its own, and which of its lengths is its depth."""

from __future__ import annotations

from dataclasses import dataclass

from manifold3d import Manifold

from mallet.cavity.access import Access
from mallet.cavity.boxes import box_tool, occlusal_tool
from mallet.cavity.front import fracture_tool, proximal_tool
from mallet.cavity.gold_pit import pit_tool
from mallet.cavity.neck import groove_tool, neck_tool
from mallet.cavity.rims import stump_tool
from mallet.cavity.tool import Tool
from mallet.cavity.tunnel import tunnel_tool
from mallet.terms.case import Case
from mallet.terms.parts import (
    GoldPit,
    IncisalFracture,
    OcclusalBox,
    Part,
    Pit,
    ProximalBox,
    ProximalCavity,
    SaucerLesion,
    SealantGroove,
    StripCrownPreparation,
    Tunnel,
    WedgeLesion,
)
from mallet.tooth import Crown


@dataclass(frozen=True)
class Blank:
    """The crown that is cut, its solid and its dentin as they stand in the frame of the access."""

    crown: Crown
    outer: Manifold
    dentin: Manifold
    access: Access


def tools_of(case: Case, blank: Blank) -> tuple[list[Tool], tuple[float, float] | None]:
    """Return the tools of a case in the order of its parts, and from where to where its occlusal box spans the walls
    of proximal ones."""
    parts = list(enumerate(case.preparation.parts))
    boxes = [box_tool(i, part, blank.crown) for i, part in parts if isinstance(part, ProximalBox)]
    tools, spans = list(boxes), None
    for i, part in parts:
        if isinstance(part, OcclusalBox):
            tool, spans = occlusal_tool(i, part, blank.crown, boxes)
            tools.append(tool)
        elif not isinstance(part, ProximalBox) and (one := tool_of(i, part, blank)):
            tools.append(one)
    return sorted(tools, key=lambda t: t.index), spans


def tool_of(index: int, part: Part, blank: Blank) -> Tool | None:
    """Return what cuts a part on its own; nothing for cusps that are covered and features of walls."""
    crown, outer, access = blank.crown, blank.outer, blank.access
    match part:
        case OcclusalBox():
            return occlusal_tool(index, part, crown, [])[0]
        case ProximalBox():
            return box_tool(index, part, crown)
        case SealantGroove():
            return groove_tool(index, part, outer, crown)
        case Tunnel():
            return tunnel_tool(index, part, crown, outer)
        case StripCrownPreparation():
            return stump_tool(index, part, crown, outer)
        case ProximalCavity():
            return proximal_tool(index, part, crown, outer, blank.dentin, access)
        case IncisalFracture():
            return fracture_tool(index, part, crown, outer, access)
        case SaucerLesion() | WedgeLesion() | Pit():
            return neck_tool(index, part, outer, access)
        case GoldPit():
            return pit_tool(index, part, outer, blank.dentin, access)
    return None
