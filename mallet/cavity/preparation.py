"""The preparation as solids: boxes and cusps to be covered, placed on the handbook crown and cut out of it.

What the words of the case mean in the frame of the crown is settled here and nowhere else.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache, partial

import numpy as np
from manifold3d import Manifold, OpType

from mallet.cavity.access import ACCESS, OCCLUSAL, Access
from mallet.cavity.boxes import axial_wall_mm, box_tool, occlusal_tool
from mallet.cavity.cover import Reduction, reduced
from mallet.cavity.features import Feature, Ground, feature
from mallet.cavity.front import fracture_tool, proximal_tool
from mallet.cavity.measures import gap_mm
from mallet.cavity.neck import groove_tool, neck_tool
from mallet.cavity.rims import stump_tool
from mallet.cavity.scan import pair_of
from mallet.cavity.solids import Tagged, crown_solid
from mallet.cavity.surfaces import check_parts, check_surfaces
from mallet.cavity.tool import Tool
from mallet.cavity.tunnel import tunnel_tool
from mallet.rulebook import Rulebook
from mallet.terms.case import (
    Case,
    CrownStump,
    CuspReduction,
    FacePart,
    FeaturePart,
    IncisalFracture,
    NeckLesion,
    Notch,
    OcclusalBox,
    Part,
    Pit,
    ProximalBox,
    ProximalCavity,
    Saucer,
    SealantGroove,
    Shoulder,
    Side,
    Tunnel,
)
from mallet.terms.errors import InputError
from mallet.terms.plan import Assumption
from mallet.tooth import Crown, ToothName, loft_crown, read_tooth
from mallet.tooth.crown import Shell

PULP_SEARCHES_MM = (0.7, 1.5, 2.0, 2.25, 2.5, 3.0, 4.0, 6.0)
STEP_MM = 0.1
FACE_PARTS = (NeckLesion, Pit, ProximalCavity, IncisalFracture)


@dataclass(frozen=True)
class Base:
    """What is laid on one part's wall towards the pulp, with the tag of its faces towards the filling."""

    tool: Tool
    solid: Manifold
    tag: int
    thickness_mm: float


@dataclass(frozen=True)
class Scanned:
    """That a cavity is a scanned one: the tag of its walls, and what the measured parts would cut out instead."""

    tag: int
    measured_mm3: float


@dataclass(frozen=True)
class Cavity:
    """The crown, what is cut from it, the bases laid in it and what will fill the rest.

    Solids stand in the frame of the access, the crown in the tooth's. `gaps_mm` are how far each part stays
    off the handbook pulp.
    """

    tooth: ToothName
    crown: Crown
    outer: Tagged
    tools: tuple[Tool, ...]
    filling: Manifold
    remaining_tooth: Manifold
    remaining_dentin_mm: float
    handbook_dentin_mm: float
    assumptions: tuple[Assumption, ...]
    spans_walls: tuple[float, float] | None
    gaps_mm: tuple[float, ...]
    reductions: tuple[Reduction, ...] = ()
    features: tuple[Feature, ...] = ()
    bases: tuple[Base, ...] = ()
    access: Access = OCCLUSAL
    scanned: Scanned | None = None

    def shell(self, rules: Rulebook, shell: Shell) -> Manifold:
        """Return a shell of the crown as it stands in the frame of the access."""
        return self.access.turned(shell_solid(self.tooth, rules, shell).solid)

    def base_on(self, tool: Tool) -> Base | None:
        return next((base for base in self.bases if base.tool.index == tool.index), None)

    def above_cervical_mm(self, box: Tool) -> float:
        """Return how far a box's gingival floor lies above the cervical line; below it there is no enamel."""
        return box.floor_mm - self.crown.cervical_mm[box.side or "mesial"]

    @property
    def parts(self) -> list[Tool | Reduction | Feature]:
        """Return all that is cut."""
        return [*self.tools, *self.reductions, *self.features]

    @property
    def cut_tags(self) -> set[int]:
        """Return the tags of the faces that the filling has against tooth or base."""
        walls = {self.scanned.tag} if self.scanned else {one.cut.tag for one in self.parts}
        pins = {one.pin.tag for one in self.features if one.pin}
        return walls | pins | {base.tag for base in self.bases}

    @property
    def laid(self) -> list[Manifold]:
        """Return what stands in the cavity besides the filling: bases and pins."""
        return [*(base.solid for base in self.bases), *self.pins]

    @property
    def pins(self) -> list[Manifold]:
        return [one.pin.solid for one in self.features if one.pin]

    @property
    def covered(self) -> set[str]:
        """Return the cusps that were taken down."""
        return {cusp for reduction in self.reductions for cusp in reduction.cusps}

    @property
    def margins_in_dentin(self) -> list[str]:
        """Return the sides whose gingival margin lies in dentin."""
        boxes = [box.side for box in self.boxes if box.side and self.above_cervical_mm(box) < 0]
        necks = [self.access.side for neck in self.necks if self.gingival_margin_mm(neck) < 0]
        return [*boxes, *necks]

    def gingival_margin_mm(self, neck: Tool) -> float:
        """Return how far the gingival margin of a neck lesion lies above the cervical line."""
        ends = [self.access.points_in_tooth(np.array([[0.0, y, 0.0]]))[0, 2] for y in neck.floor[2:]]
        return float(min(ends))

    @property
    def necks(self) -> list[Tool]:
        return [t for t in self.tools if t.is_neck]

    @property
    def from_face(self) -> Tool | None:
        """Return the part that is entered from a face; it is the only one then."""
        return next((t for t in self.tools if t.is_from_face), None)

    @property
    def opened(self) -> list[Side]:
        """Return the sides whose contact is opened."""
        if self.stump or self.shoulder:
            return ["mesial", "distal"]
        sides = [side for t in self.tools for side in (t.side or t.under,) if side]
        return [*sides, *(side for t in self.tools for side in t.beside)]

    def box(self, side: Side) -> Tool | None:
        return next((t for t in self.tools if t.side == side), None)

    @property
    def boxes(self) -> list[Tool]:
        return [t for t in self.tools if t.side is not None]

    @property
    def occlusal(self) -> Tool | None:
        return next((t for t in self.tools if t.kind == "occlusal_box"), None)

    @property
    def stump(self) -> Tool | None:
        return next((t for t in self.tools if t.kind == "crown_stump"), None)

    @property
    def shoulder(self) -> Feature | None:
        return next((one for one in self.features if one.kind == "shoulder"), None)

    @property
    def tunnels(self) -> list[Tool]:
        return [t for t in self.tools if t.under is not None]


@lru_cache(maxsize=128)
def solid_of(crown: Crown) -> Tagged:
    """Return the cached solid of a crown."""
    return crown_solid(crown)


def shell_solid(tooth: ToothName, rules: Rulebook, shell: Shell = "outer") -> Tagged:
    """Return the cached solid of a crown's shell."""
    return solid_of(loft_crown(tooth, rules, shell))


def prepare_cavity(case: Case, rules: Rulebook) -> Cavity:
    """Return the cavity of a case.

    Raises InputError where a part leaves the tooth, meets the pulp or contradicts the surfaces.
    """
    tooth = read_tooth(case.tooth.code)
    access = _access(case)
    check_parts(case, tooth)
    check_surfaces(case)
    crown = loft_crown(tooth, rules)
    upright = shell_solid(tooth, rules)
    outer = Tagged(access.turned(upright.solid), upright.tag)
    tools, spans = _tools(case, crown, outer.solid, access)
    reductions = _reductions(case, crown, outer.solid, rules)
    cuts = [*(tool.cut.solid for tool in tools), *(reduction.cut.solid for reduction in reductions)]
    features = _features(case, crown, outer.solid, cuts, tools, access, rules)
    pins = [one.pin.solid for one in features if one.pin]
    cuts += [one.cut.solid for one in features if not one.pin]
    filling, remaining_tooth = outer.solid.split(Manifold.batch_boolean(cuts, OpType.Add))
    measured_mm3, scan = filling.volume(), case.preparation.scan
    if scan:
        pair = pair_of(scan, upright.solid, tooth.mirrored_when_drawn)
        outer = Tagged(access.turned(pair.before.solid), pair.before.tag)
        remaining_tooth, filling = access.turned(pair.after.solid), access.turned(pair.cut)
    for pin in pins:
        filling, remaining_tooth = filling - pin, remaining_tooth - pin
    gaps = _pulp_gaps(case, crown, tools, outer.solid, access, rules)
    gap = min(
        [*gaps, *_gaps_under(case, crown, reductions, rules), *_gaps_at(case, crown, features, access, rules)]
    )
    given = case.preparation.remaining_dentin_mm
    assumptions = []
    if given is None:
        why = "smallest distance to the handbook pulp"
        path = "preparation.remaining_dentin_mm"
        assumptions.append(
            Assumption(path=path, value=round(gap, 2), unit="mm", provenance="handbook", why=why)
        )
    return Cavity(
        tooth=tooth,
        crown=crown,
        outer=outer,
        tools=tuple(tools),
        filling=filling,
        remaining_tooth=remaining_tooth,
        remaining_dentin_mm=gap if given is None else given,
        handbook_dentin_mm=gap,
        assumptions=tuple(assumptions),
        spans_walls=spans,
        gaps_mm=tuple(gaps),
        reductions=tuple(reductions),
        features=tuple(features),
        access=access,
        scanned=Scanned(pair.after.tag, measured_mm3) if scan else None,
    )


def _most_off(part: CuspReduction, crown: Crown, rules: Rulebook) -> float:
    """Return how much may come off the tips of cusps, and no more in the groove, short of the pulp."""
    pulp, outer = (shell_solid(crown.tooth, rules, shell).solid for shell in ("pulp", "outer"))
    past = rules.value("prepare.past_groove_mm")
    tip = part.tip_mm
    while tip > STEP_MM:
        tip = round(tip - STEP_MM, 1)
        tried = part.model_copy(update={"tip_mm": tip, "groove_mm": min(part.in_groove_mm, tip)})
        if reduced(0, tried, crown, outer, past).cut.solid.min_gap(pulp, PULP_SEARCHES_MM[0]) > 0:
            break
    return tip


def _access(case: Case) -> Access:
    """Return where a cavity opens to: a broken edge is built up from its lingual wall, and lit from facial."""
    match case.face_part:
        case None:
            return OCCLUSAL
        case IncisalFracture():
            return ACCESS["facial"]
        case part:
            return ACCESS[part.face]


def _reductions(case: Case, crown: Crown, outer: Manifold, rules: Rulebook) -> list[Reduction]:
    reductions = []
    for i, part in enumerate(case.preparation.parts):
        if not isinstance(part, CuspReduction):
            continue
        path = f"preparation.parts[{i}].cusps"
        for j, cusp in enumerate(part.cusps):
            if cusp not in crown.cusps or cusp in part.cusps[:j]:
                allowed = f"each once: {', '.join(crown.cusps)}"
                raise InputError.at(f"{path}[{j}]", cusp, allowed)
        past = rules.value("prepare.past_groove_mm")
        reductions.append(reduced(i, part, crown, outer, past))
    return reductions


def _gaps_under(case: Case, crown: Crown, reductions: list[Reduction], rules: Rulebook) -> list[float]:
    """Return the distance of each reduction from the handbook pulp; raise InputError where they meet."""
    pulp = shell_solid(crown.tooth, rules, "pulp").solid
    gaps = [gap_mm(reduction.cut.solid, pulp, PULP_SEARCHES_MM) for reduction in reductions]
    for reduction, gap in zip(reductions, gaps, strict=True):
        if gap <= 0:
            part = case.preparation.parts[reduction.index]
            assert isinstance(part, CuspReduction)
            allowed = f"up to {_most_off(part, crown, rules):.1f}: the handbook pulp begins there"
            raise InputError.at(f"preparation.parts[{reduction.index}].tip_mm", part.tip_mm, allowed)
    return gaps


def _features(
    case: Case,
    crown: Crown,
    outer: Manifold,
    cuts: list[Manifold],
    tools: list[Tool],
    access: Access,
    rules: Rulebook,
) -> list[Feature]:
    parts = [(i, p) for i, p in enumerate(case.preparation.parts) if isinstance(p, FeaturePart)]
    if not parts:
        return []
    dentin = access.turned(shell_solid(crown.tooth, rules, "dentin").solid)
    made: list[Feature] = []
    # What stands on the core is set into what a shoulder leaves.
    for i, part in sorted(parts, key=lambda one: (not isinstance(one[1], Shoulder), one[0])):
        left = outer - Manifold.batch_boolean(cuts, OpType.Add)
        made.append(feature(i, part, Ground(crown, outer, dentin, left, tools)))
        if isinstance(part, Shoulder):
            dentin -= made[-1].cut.solid
            cuts = [*cuts, made[-1].cut.solid]
    return sorted(made, key=lambda one: one.index)


def _gaps_at(
    case: Case, crown: Crown, features: list[Feature], access: Access, rules: Rulebook
) -> list[float]:
    """Return the distance of each feature from the handbook pulp; raise InputError where they meet."""
    if not features:
        return []
    pulp = access.turned(shell_solid(crown.tooth, rules, "pulp").solid)
    gaps = [gap_mm(one.cut.solid, pulp, PULP_SEARCHES_MM) for one in features]
    for one, gap in zip(features, gaps, strict=True):
        if gap <= 0:
            part = case.preparation.parts[one.index]
            name = "width_mm" if one.kind == "shoulder" else "depth_mm"
            given, path = getattr(part, name), f"preparation.parts[{one.index}].{name}"
            raise InputError.at(path, given, "less: the handbook pulp begins there")
    return gaps


def _tools(
    case: Case, crown: Crown, outer: Manifold, access: Access
) -> tuple[list[Tool], tuple[float, float] | None]:
    parts = list(enumerate(case.preparation.parts))
    boxes = [box_tool(i, p, crown) for i, p in parts if isinstance(p, ProximalBox)]
    spans = None
    tools = list(boxes)
    for i, part in parts:
        if isinstance(part, OcclusalBox):
            tool, spans = occlusal_tool(i, part, crown, boxes)
            tools.append(tool)
        if isinstance(part, SealantGroove):
            tools.append(groove_tool(i, part, outer, crown))
        if isinstance(part, Tunnel):
            tools.append(tunnel_tool(i, part, crown, outer))
        if isinstance(part, CrownStump):
            tools.append(stump_tool(i, part, crown, outer))
        if isinstance(part, FACE_PARTS):
            tools.append(_face_tool(i, part, crown, outer, access))
    return sorted(tools, key=lambda t: t.index), spans


def _face_tool(index: int, part: FacePart, crown: Crown, outer: Manifold, access: Access) -> Tool:
    match part:
        case ProximalCavity():
            return proximal_tool(index, part, crown, outer, access)
        case IncisalFracture():
            return fracture_tool(index, part, crown, outer, access)
        case Saucer() | Notch() | Pit():
            return neck_tool(index, part, outer, access)
    raise TypeError(part)


def box_middle_mm(cavity: Cavity, box: Tool) -> float:
    """Return the x halfway between a proximal box's axial wall and the outer surface, at its floor."""
    outer = cavity.crown.outer_x_mm(box.side or "mesial", box.floor_mm)
    return (outer + axial_wall_mm(box, box.floor_mm)) / 2


def _pulp_gaps(
    case: Case, crown: Crown, tools: list[Tool], outer: Manifold, access: Access, rules: Rulebook
) -> list[float]:
    """Return the distance of each part from the handbook pulp; raise InputError where they meet."""
    pulp = access.turned(shell_solid(crown.tooth, rules, "pulp").solid)

    def cut_to(part: Part, depth_mm: float) -> Tool:
        """Return a part, alone on the tooth, at another depth."""
        tried = part.model_copy(update={_depth_name(part): depth_mm})
        match tried:
            case OcclusalBox():
                return occlusal_tool(0, tried, crown, [])[0]
            case ProximalBox():
                return box_tool(0, tried, crown)
            case SealantGroove():
                return groove_tool(0, tried, outer, crown)
            case Tunnel():
                return tunnel_tool(0, tried, crown, outer)
            case CrownStump():
                return stump_tool(0, tried, crown, outer)
            case Saucer() | Notch() | Pit() | ProximalCavity() | IncisalFracture():
                return _face_tool(0, tried, crown, outer, access)
        raise TypeError(tried.kind)

    gaps = [gap_mm(t.cut.solid, pulp, PULP_SEARCHES_MM) for t in tools]
    for tool, gap in zip(tools, gaps, strict=True):
        if gap <= 0:
            part = case.preparation.parts[tool.index]
            name = _depth_name(part)
            given = getattr(part, name)
            deepest = _deepest(partial(cut_to, part), given, pulp)
            allowed = f"up to {deepest:.1f}: the handbook pulp begins there"
            raise InputError.at(f"preparation.parts[{tool.index}].{name}", given, allowed)
    return gaps


def _depth_name(part: Part) -> str:
    match part:
        case ProximalBox():
            return "axial_depth_mm"
        case Tunnel():
            return "inside_mm"
        case CrownStump():
            return "around_mm"
        case IncisalFracture():
            return "mesial_mm" if part.mesial_mm >= part.distal_mm else "distal_mm"
    return "depth_mm"


def _deepest(cut_to: Callable[[float], Tool], given_mm: float, pulp: Manifold) -> float:
    """Return the greatest depth of a part that stays clear of the pulp."""
    low, high = 0.3, given_mm
    for _ in range(7):
        middle = (low + high) / 2
        if cut_to(middle).cut.solid.min_gap(pulp, PULP_SEARCHES_MM[0]) > 0:
            low = middle
        else:
            high = middle
    return math.floor(low * 10) / 10
