"""The open sandwich: resin-modified glass ionomer on the gingival floor of a box without enamel, composite over it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace

from manifold3d import Manifold

from mallet.cavity.boxes import SIGN, axial_wall_mm
from mallet.cavity.preparation import Base, Cavity
from mallet.cavity.solids import frustum
from mallet.cavity.tool import Tool
from mallet.curing.around import Surroundings
from mallet.curing.cured import Cured, Portion
from mallet.curing.portions import cure_portions, in_place_s
from mallet.light.beam import Beam
from mallet.rulebook import Rulebook
from mallet.rulebook.steps import catalog_step
from mallet.stages.ionomer import (
    Chosen,
    as_lit,
    by_handbook,
    conditioned,
    filled,
    in_stock,
    named_among,
)
from mallet.stages.ionomer_layers import capsules_of, placing_layers, supplies_of_layers
from mallet.stages.site import Site
from mallet.terms.case import Case
from mallet.terms.pieces import Reason
from mallet.terms.plan import Caution, Decision, StageResult, Step, Supply, Want
from mallet.terms.reasons import refuse, say, warn, warn_by
from mallet.terms.restoration import Composite

ASKED = "restoration.sandwich_ionomer"
HANDBOOK = "a resin-modified glass ionomer, by the handbook"
TO_MARGIN = "composite to the margin"
BEYOND_MM = 25.0
OFF_EDGE_MM = 0.1
LEAST_MM = 0.5
THINNER = 0.82
PRACTICE = "Common practice, no source"


@dataclass(frozen=True)
class Sandwich:
    """Glass ionomer on gingival floors: its layers with their light and from which capsule each comes, the cavity that is
    left for composite, what is said and done for it, and the steps after which bonding begins. Without a layer composite
    goes to the margin, and it is said why."""

    cavity: Cavity
    said: StageResult
    ready: Sequence[str]
    chosen: Chosen | None = None
    cured: Sequence[Cured] = ()
    capsules: dict[int, list[int]] = field(default_factory=dict)

    def supplies(self, steps: Sequence[Step]) -> list[Supply]:
        """Return each capsule with its times."""
        return supplies_of_layers(self.cured, self.capsules, self.chosen, steps) if self.chosen else []


def sandwich(site: Site, around: Surroundings, beam: Beam) -> Sandwich | None:
    """Return the open sandwich of a case that asks for it; None where it does not.

    Raises InputError for an ionomer that is not in stock or that no light sets, NotFeasible where the light does not reach
    it.
    """
    case, rules = site.case, site.rules
    if case.composite.open_sandwich == "none":
        return None
    boxes = [box for box in site.cavity.boxes if site.cavity.ends_in_dentin(box)]
    if not boxes:
        said = StageResult(decisions=[_decision(TO_MARGIN, [say("sandwich.enamel")], rules)])
        return Sandwich(site.cavity, said, site.ready)
    chosen = _choose(case, rules)
    resin = as_lit(chosen, rules)
    cured, cavity, thick_mm = _cured(site, boxes, resin.mass, around, beam)
    laid = [one.portion.side for one in cured]
    use = rules.use("composite.sandwich_mm")
    cautions = [
        warn_by("caution", "sandwich.no_room", use, where=f"{box.side} box")
        for box in boxes
        if box.side not in laid
    ]
    if not cured:
        said = StageResult(decisions=[_decision(TO_MARGIN, [], rules)], cautions=cautions)
        return Sandwich(site.cavity, said, site.ready)
    sides, capsules = " and ".join(map(str, laid)), capsules_of(cured, chosen, rules)
    dried = _conditioning(chosen, site.ready, rules)
    steps = [*dried, *placing_layers(cured, capsules, chosen, dried[-1].id, [], rules)]
    told = f"open sandwich, {sides}, {thick_mm:.1f} mm: {chosen.item.name}"
    washes_out: Caution = warn("note", "sandwich.washes_out", PRACTICE)
    said = StageResult(
        decisions=[_decision(told, [say("sandwich.why", where=sides), *chosen.reasons], rules)],
        cautions=[*cautions, washes_out],
        wants=_wants(case, chosen, len(capsules)),
        assumptions=[*chosen.assumed, *resin.assumptions(chosen.path)],
        steps=steps,
    )
    return Sandwich(cavity, said, [steps[-1].id], chosen, cured, capsules)


def _cured(
    site: Site, boxes: Sequence[Tool], resin: Composite, around: Surroundings, beam: Beam
) -> tuple[list[Cured], Cavity, float]:
    """Return a layer in each box that has room for it, with its light, the cavity that they leave, and how thick they are:
    thinner than is usual where the light asks for it."""
    case, rules, longest = site.case, site.rules, in_place_s(site.rules)
    thick_mm = min(rules.value("composite.sandwich_mm"), resin.max_increment_mm)
    while True:
        portions, cavity = _laid(site.cavity, boxes, thick_mm)
        masses = [resin] * len(portions)
        cured = list(
            cure_portions(case, site.cavity, portions, masses, around, beam, rules, [longest] * len(portions))
        )
        slow = [one for one in cured if max(one.exposed.seconds) > longest]
        if not slow:
            return cured, cavity, thick_mm
        thick_mm *= THINNER
        if thick_mm < LEAST_MM:
            raise refuse("sandwich.too_dark", name=resin.name, where=slow[0].portion.name, longest_s=longest)


def _laid(cavity: Cavity, boxes: Sequence[Tool], thick_mm: float) -> tuple[list[Portion], Cavity]:
    """Return a layer in each box that has room for it, and the cavity that they leave."""
    portions = []
    for box in boxes:
        if laid := _lay(cavity, box, thick_mm):
            solid, cavity = laid
            name = f"glass ionomer, {box.side} gingival"
            hint = "On the gingival floor up to the margin, level; no void at the corners."
            portion = Portion(f"sandwich.{box.side}", name, solid, "dentin", box.side, hint, "gingival_floor")
            portions.append(portion)
    return portions, cavity


def _choose(case: Case, rules: Rulebook) -> Chosen:
    """Return the glass ionomer: the one that is named, else the first in stock that light sets, else one by the handbook."""
    stock = in_stock(case, lit_only=True)
    if (named := case.composite.sandwich_ionomer) is not None:
        at, item = named_among(stock, named, ASKED)
        return filled(item, at, say("ionomer.named", name=named), rules, ASKED)
    if stock:
        at, item = stock[0]
        return filled(item, at, say("sandwich.from_stock", name=item.name), rules, ASKED)
    item = by_handbook(HANDBOOK, rules, resin_modified=True)
    return filled(item, None, say("sandwich.handbook"), rules, ASKED)


def _lay(cavity: Cavity, box: Tool, wanted_mm: float) -> tuple[Manifold, Cavity] | None:
    """Return a level layer on a box's gingival floor out to the surface, and the cavity that it leaves; None without room.

    For what comes over it the box begins at the layer's top, and its margin ends on it, not in dentin.
    """
    top = box.floor_mm + wanted_mm
    if cavity.occlusal:
        top = min(top, cavity.occlusal.floor_mm - OFF_EDGE_MM)
    if top - box.floor_mm < LEAST_MM or box.side is None:
        return None
    sign, axial = SIGN[box.side], axial_wall_mm(box, top)
    inner = axial - sign * OFF_EDGE_MM
    x0, x1 = sorted((inner, inner + sign * BEYOND_MM))
    block = frustum((x0, x1, -BEYOND_MM, BEYOND_MM), box.floor_mm - 1.0, top, (0, 0, 0, 0)).solid
    cutter = block.as_original()
    solid, rest = cavity.filling.split(cutter)
    raised = _raised(box, top)
    under = Base(raised, solid, cutter.original_id(), 0.0)
    tools = tuple(raised if tool is box else tool for tool in cavity.tools)
    return solid, replace(cavity, filling=rest, tools=tools, bases=(*cavity.bases, under))


def _raised(box: Tool, top_mm: float) -> Tool:
    """Return a box as it is above a height."""
    up = top_mm - box.floor_mm
    lingual, facial = (slope * up for slope in box.slopes[2:])
    x0, x1, y0, y1 = box.floor
    axial = (axial_wall_mm(box, top_mm), x1) if box.side == "mesial" else (x0, axial_wall_mm(box, top_mm))
    return replace(box, floor_mm=top_mm, floor=(*axial, y0 - lingual, y1 + facial), margin_in="enamel")


def _conditioning(chosen: Chosen, ready: Sequence[str], rules: Rulebook) -> list[Step]:
    """Return how the dentin under it is conditioned and dried."""
    steps = conditioned(chosen, ready, rules, "sandwich_")
    dry = catalog_step(
        "ionomer.sandwich_dry",
        rules,
        {"back_to": steps[0].id if steps else "build.sandwich.dry"},
        after=[steps[-1].id] if steps else list(ready),
    )
    return [*steps, dry]


def _decision(chosen: str, reasons: Sequence[Reason], rules: Rulebook) -> Decision:
    others = [] if chosen == TO_MARGIN else [TO_MARGIN]
    use = rules.uses("composite.sandwich_mm")
    return Decision(
        topic="build.sandwich", chosen=chosen, alternatives=others, reasons=list(reasons), rules=use
    )


def _wants(case: Case, chosen: Chosen, capsules: int) -> list[Want]:
    if not case.stock:
        return []
    item = chosen.item if chosen.at is not None else None
    text = f"resin-modified glass ionomer, {capsules} capsule{'s' if capsules > 1 else ''}"
    return [Want(kind="ionomer", text=text, name=item.name if item else None, lot=item.lot if item else None)]
