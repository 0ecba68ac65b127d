"""The preparation as solids: boxes and cusps to be covered, placed on the handbook crown and cut out of it.

What the words of the case mean in the frame of the crown is settled here and nowhere else.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from manifold3d import Manifold, OpType

from mallet.cavity.access import ACCESS, OCCLUSAL, Access
from mallet.cavity.boxes import axial_wall_mm
from mallet.cavity.cover import Reduction, reduced
from mallet.cavity.crowns import shell_solid
from mallet.cavity.cutters import Blank, tools_of
from mallet.cavity.features import Feature, Ground, feature
from mallet.cavity.pulp import gaps_of, set_back
from mallet.cavity.scan import pair_of
from mallet.cavity.solids import Tagged
from mallet.cavity.surfaces import check_parts, check_surfaces
from mallet.cavity.tool import Tool
from mallet.rulebook import Rulebook
from mallet.terms.case import Case
from mallet.terms.errors import InputError
from mallet.terms.parts import CuspReduction, FeaturePart, IncisalFracture, Shoulder, Side
from mallet.terms.plan import Assumption
from mallet.tooth import Crown, ToothName, loft_crown, read_tooth
from mallet.tooth.crown import Shell

# Of a tooth without a living pulp no dentin is to be left over it.
ENDLESS_MM = 99.0
# The canals of a primary tooth open at its neck.
CANALS_OPEN_MM = 0.0


@dataclass(frozen=True)
class Base:
    """What is laid on one part's wall toward the pulp, with the tag of its faces toward the restoration."""

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
    off the handbook pulp; `pulp` is that, set back to fit what was measured, and none where it is not alive: no dentin is
    to be left for it then. `chamber` is where the pulp of a primary tooth's crown was, once it is filled.
    """

    tooth: ToothName
    crown: Crown
    outer: Tagged
    tools: tuple[Tool, ...]
    filling: Manifold
    remaining_tooth: Manifold
    remaining_dentin_mm: float
    handbook_dentin_mm: float
    pulp: Manifold | None
    assumptions: tuple[Assumption, ...]
    spans_walls: tuple[float, float] | None
    gaps_mm: tuple[float, ...]
    reductions: tuple[Reduction, ...] = ()
    features: tuple[Feature, ...] = ()
    bases: tuple[Base, ...] = ()
    access: Access = OCCLUSAL
    scanned: Scanned | None = None
    chamber: Manifold | None = None

    def shell(self, rules: Rulebook, shell: Shell) -> Manifold:
        """Return a shell of the crown as it stands in the frame of the access."""
        return self.access.turned(shell_solid(self.tooth, rules, shell).solid)

    def base_on(self, tool: Tool) -> Base | None:
        return next((base for base in self.bases if base.tool.index == tool.index), None)

    def above_cej_mm(self, box: Tool) -> float:
        """Return how far a box's gingival floor lies above the cementoenamel junction; below it there is no enamel."""
        return box.floor_mm - self.crown.cervical_mm[box.side or "mesial"]

    def ends_in_dentin(self, box: Tool) -> bool:
        """Tell whether a box's gingival margin lies in dentin."""
        return box.margin_in == "dentin" if box.margin_in else self.above_cej_mm(box) < 0

    @property
    def parts(self) -> list[Tool | Reduction | Feature]:
        """Return all that is cut."""
        return [*self.tools, *self.reductions, *self.features]

    @property
    def cut_tags(self) -> set[int]:
        """Return the tags of the faces that the restoration has against tooth or base."""
        walls = {self.scanned.tag} if self.scanned else {one.cut.tag for one in self.parts}
        pins = {one.pin.tag for one in self.features if one.pin}
        return walls | pins | {base.tag for base in self.bases}

    @property
    def laid(self) -> list[Manifold]:
        """Return what stands in the cavity besides the restoration: bases and pins."""
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
        """Return the sides whose gingival margin lies in dentin: as it was seen, else by the handbook's cementoenamel junction."""
        boxes = [box.side for box in self.boxes if box.side and self.ends_in_dentin(box)]
        necks = [self.access.side for neck in self.necks if self.gingival_margin_mm(neck) < 0]
        faces = [
            one.where.partition(" ")[0]
            for one in self.features
            if one.kind == "face_box" and one.mouth[2] < 0
        ]
        return [*boxes, *necks, *faces]

    def gingival_margin_mm(self, neck: Tool) -> float:
        """Return how far the gingival margin of a neck lesion lies above the cementoenamel junction."""
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
        return next((t for t in self.tools if t.kind == "strip_crown_preparation"), None)

    @property
    def shoulder(self) -> Feature | None:
        return next((one for one in self.features if one.kind == "shoulder"), None)

    @property
    def tunnels(self) -> list[Tool]:
        return [t for t in self.tools if t.under is not None]


def prepare_cavity(case: Case, rules: Rulebook) -> Cavity:
    """Return the cavity of a case.

    Raises InputError where a part leaves the tooth or contradicts the surfaces.
    """
    tooth = read_tooth(case.tooth.code)
    access = _access(case)
    check_parts(case, tooth)
    check_surfaces(case)
    crown = loft_crown(tooth, rules)
    upright = shell_solid(tooth, rules)
    outer = Tagged(access.turned(upright.solid), upright.tag)
    dentin = access.turned(shell_solid(tooth, rules, "dentin").solid)
    blank = Blank(crown, outer.solid, dentin, access)
    tools, spans = tools_of(case, blank)
    reductions = _reductions(case, crown, outer.solid, rules)
    cuts = [*(tool.cut.solid for tool in tools), *(reduction.cut.solid for reduction in reductions)]
    features = _features(case, blank, cuts, tools, rules)
    cuts += [one.cut.solid for one in features if not one.pin]
    filling, remaining_tooth = outer.solid.split(Manifold.batch_boolean(cuts, OpType.Add))
    measured_mm3, scan = filling.volume(), case.preparation.scan
    if scan:
        pair = pair_of(scan, upright.solid, tooth.mirrored_when_drawn)
        outer = Tagged(access.turned(pair.before.solid), pair.before.tag)
        remaining_tooth, filling = access.turned(pair.after.solid), access.turned(pair.cut)
    filling, remaining_tooth = _without_pins(filling, remaining_tooth, features, is_scanned=bool(scan))
    pulp, chamber = shell_solid(tooth, rules, "pulp").solid, None
    if loses_coronal_pulp(case):
        chamber, pulp = pulp.split_by_plane((0, 0, 1), CANALS_OPEN_MM)
        chamber = access.turned(chamber)
    pulp = access.turned(pulp)
    # What is set into dentin for hold has checks of its own.
    sunk = [one.cut.solid for one in features if one.kind in ("shoulder", "face_box")]
    gaps = gaps_of([tool.cut.solid for tool in tools], pulp)
    near = [*(tool.cut.solid for tool in tools), *(reduction.cut.solid for reduction in reductions), *sunk]
    gap = min([*gaps, *gaps_of(near[len(tools) :], pulp)])
    given = case.preparation.remaining_dentin_mm if case.has_living_pulp else ENDLESS_MM
    if chamber:
        # What was seen over the pulp was over what is gone.
        given = gap
    if case.has_living_pulp and given is not None and gap < given:
        pulp = set_back(pulp, near, given)
    return Cavity(
        tooth=tooth,
        crown=crown,
        outer=outer,
        tools=tuple(tools),
        filling=filling,
        remaining_tooth=remaining_tooth,
        remaining_dentin_mm=gap if given is None else given,
        handbook_dentin_mm=gap,
        pulp=pulp if case.has_living_pulp else None,
        assumptions=() if given is not None else (_taken_gap(gap),),
        spans_walls=spans,
        gaps_mm=tuple(gaps),
        reductions=tuple(reductions),
        features=tuple(features),
        access=access,
        scanned=Scanned(pair.after.tag, measured_mm3) if scan else None,
        chamber=chamber,
    )


def loses_coronal_pulp(case: Case) -> bool:
    """Tell whether the pulp is taken out of the crown of a primary tooth, whose chamber is filled then."""
    return case.protection.exposure == "pulpotomy" and read_tooth(case.tooth.code).is_deciduous


def _without_pins(
    filling: Manifold, tooth: Manifold, features: Sequence[Feature], *, is_scanned: bool
) -> tuple[Manifold, Manifold]:
    """Return restoration and tooth without the pins in them; in a scanned cavity a pin's sleeve is no restoration either."""
    for one in features:
        if one.pin:
            filling, tooth = filling - one.pin.solid, tooth - one.pin.solid
            filling = filling - one.sleeve if is_scanned else filling
    return filling, tooth


def _taken_gap(gap_mm: float) -> Assumption:
    """Return what is taken of the dentin over the pulp where nobody has told it."""
    return Assumption(
        path="preparation.remaining_dentin_mm",
        value=round(gap_mm, 2),
        unit="mm",
        provenance="handbook",
        why="smallest distance to the handbook pulp",
    )


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


def _features(
    case: Case, blank: Blank, cuts: list[Manifold], tools: list[Tool], rules: Rulebook
) -> list[Feature]:
    parts = [(i, p) for i, p in enumerate(case.preparation.parts) if isinstance(p, FeaturePart)]
    if not parts:
        return []
    dentin = blank.dentin
    made: list[Feature] = []
    shoulder = next((part for _, part in parts if isinstance(part, Shoulder)), None)
    # What stands on the core is set into what a shoulder leaves.
    left = blank.outer - Manifold.batch_boolean(cuts, OpType.Add)
    for i, part in sorted(parts, key=lambda one: (not isinstance(one[1], Shoulder), one[0])):
        made.append(feature(i, part, Ground(blank.crown, blank.outer, dentin, left, tools, shoulder)))
        if isinstance(part, Shoulder):
            dentin -= made[-1].cut.solid
            left = blank.outer - Manifold.batch_boolean([*cuts, made[-1].cut.solid], OpType.Add)
    return sorted(made, key=lambda one: one.index)


def box_middle_mm(cavity: Cavity, box: Tool) -> float:
    """Return the x halfway between a proximal box's axial wall and the outer surface, at its floor."""
    outer = cavity.crown.outer_x_mm(box.side or "mesial", box.floor_mm)
    return (outer + axial_wall_mm(box, box.floor_mm)) / 2
