"""The open sandwich: resin-modified glass ionomer on the gingival floor of a box without enamel, composite over it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from manifold3d import Manifold

from mallet.cavity.boxes import SIGN, axial_wall_mm
from mallet.cavity.preparation import Base, Cavity
from mallet.cavity.solids import frustum
from mallet.cavity.tool import Tool
from mallet.curing.around import Surroundings
from mallet.curing.cured import Cured, Portion
from mallet.curing.exposures import again_in_turns, light_step, presses_of
from mallet.curing.portions import cure_portions, in_place_s
from mallet.light.beam import Beam
from mallet.light.working_curve import rule_of_dose
from mallet.rulebook import Rulebook
from mallet.stages.hand import hand_step
from mallet.stages.ionomer import Chosen, as_lit, by_package, filled, mixing_step
from mallet.stages.site import Site
from mallet.terms.case import Case
from mallet.terms.errors import InputError
from mallet.terms.plan import (
    Assumption,
    Decision,
    StageResult,
    Step,
    StepCheck,
    Supply,
    Want,
    Within,
)
from mallet.terms.reasons import refuse, say, warn, warn_by
from mallet.terms.stock import Ionomer

ASKED = "restoration.sandwich_ionomer"
HANDBOOK = "a resin-modified glass ionomer, by the handbook"
BEYOND_MM = 25.0
OFF_EDGE_MM = 0.1
LEAST_MM = 0.5
THINNER = 0.82
PRACTICE = "Common practice, no source"
CONDITIONERS = {"polyacrylic": ("polyacrylic acid", "ionomer.polyacrylic_s"), "phosphoric": ("phosphoric acid", "ionomer.phosphoric_s")}  # fmt: skip


@dataclass(frozen=True)
class Sandwich:
    """Glass ionomer on gingival floors: its layers with their light, the cavity that is left for composite, what is said and
    done for it, and the step after which bonding begins."""

    cured: Sequence[Cured]
    cavity: Cavity
    chosen: Chosen
    said: StageResult
    ready: str

    def supplies(self, steps: Sequence[Step]) -> list[Supply]:
        """Return each capsule with its times."""
        ends = {step.id: step.end_s for step in steps}
        mixed = [ends[f"build.{one.portion.id}.mix"] for one in self.cured]
        item = self.chosen.item
        return [
            Supply(
                kind="capsule",
                name=item.name,
                lot=item.lot,
                count=1,
                starts_s=at,
                expires_s=at + item.working_s,
                increments=[order],
            )
            for order, at in enumerate(mixed, 1)
        ]


def sandwich(site: Site, around: Surroundings, beam: Beam) -> Sandwich | None:
    """Return the open sandwich of a case that asks for it; None where it does not, or where every margin has enamel.

    Raises InputError for an ionomer that is not in stock or that no light sets, NotFeasible where the light does not reach
    it.
    """
    case, cavity, rules = site.case, site.cavity, site.rules
    boxes = [box for box in cavity.boxes if cavity.ends_in_dentin(box)]
    if case.composite.open_sandwich == "none" or not boxes:
        return None
    chosen = _choose(case, rules)
    resin, longest = as_lit(chosen, rules), in_place_s(rules)
    thick_mm = min(rules.value("composite.sandwich_mm"), resin.mass.max_increment_mm)
    while True:
        portions, cavity = _laid(site.cavity, boxes, thick_mm)
        if not portions:
            return None
        masses = [resin.mass] * len(portions)
        cured = list(cure_portions(case, site.cavity, portions, masses, around, beam, rules, longest))
        slow = [one for one in cured if max(one.exposed.seconds) > longest]
        if not slow:
            break
        thick_mm *= THINNER
        if thick_mm < LEAST_MM:
            name, where = chosen.item.name, slow[0].portion.name
            raise refuse("sandwich.too_dark", name=name, where=where, longest_s=longest)
    use, laid_in = rules.use("composite.sandwich_mm"), {one.side for one in portions}
    cautions = [
        warn_by("caution", "sandwich.no_room", use, where=f"{box.side} box")
        for box in boxes
        if box.side not in laid_in
    ]
    steps = _steps(cured, chosen, site.ready, rules)
    filled_in = [
        Assumption(path=f"{chosen.path}.{name}", value=value, unit=unit, provenance="handbook", why=why)
        for name, (value, unit, why) in resin.filled.items()
    ]
    said = StageResult(
        decisions=[_decision(portions, chosen, rules)],
        cautions=[*cautions, warn("note", "sandwich.washes_out", PRACTICE)],
        wants=_wants(case, chosen, len(cured)),
        assumptions=[*chosen.assumed, *filled_in],
        steps=steps,
    )
    return Sandwich(cured, cavity, chosen, said, steps[-1].id)


def _laid(cavity: Cavity, boxes: Sequence[Tool], thick_mm: float) -> tuple[list[Portion], Cavity]:
    """Return a layer in each box that has room for it, and the cavity that they leave."""
    portions = []
    for box in boxes:
        if laid := _lay(cavity, box, thick_mm):
            solid, cavity = laid
            name = f"glass ionomer, {box.side} gingival"
            hint = "On the gingival floor up to the margin, level; no void at the corners."
            portions.append(Portion(f"sandwich.{box.side}", name, solid, "dentin", box.side, hint))
    return portions, cavity


def _choose(case: Case, rules: Rulebook) -> Chosen:
    """Return the glass ionomer: the one that is named, else the first in stock that light sets, else one by the handbook."""
    stock = [
        (at, one) for at, one in enumerate(case.stock) if isinstance(one, Ionomer) and one.resin_modified
    ]
    if (named := case.composite.sandwich_ionomer) is not None:
        found = [(at, one) for at, one in stock if one.name == named]
        if not found:
            names = (
                ", ".join(one.name for _, one in stock) or "none: there is no resin-modified glass ionomer"
            )
            raise InputError.at(ASKED, named, names)
        at, item = found[0]
        return filled(item, at, say("ionomer.named", name=named), rules, ASKED)
    if stock:
        at, item = min(stock, key=lambda one: one[1].name)
        return filled(item, at, say("sandwich.from_stock", name=item.name), rules, ASKED)
    item = Ionomer(
        kind="ionomer",
        name=HANDBOOK,
        resin_modified=True,
        conditioner="polyacrylic",
        condition_s=rules.value("ionomer.polyacrylic_s"),
        working_s=rules.value("ionomer.working_s"),
        set_s=rules.value("ionomer.set_s"),
    )
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
    into = box.slope * (top_mm - box.floor_mm)
    x0, x1, y0, y1 = box.floor
    axial = (axial_wall_mm(box, top_mm), x1) if box.side == "mesial" else (x0, axial_wall_mm(box, top_mm))
    return replace(box, floor_mm=top_mm, floor=(*axial, y0 - into, y1 + into), margin_in="enamel")


def _steps(cured: Sequence[Cured], chosen: Chosen, ready: Sequence[str], rules: Rulebook) -> list[Step]:
    """Return how the boxes are conditioned, and the ionomer is mixed, placed and cured in each."""
    steps = _conditioning(chosen, ready, rules)
    last = steps[-1].id
    for order, one in enumerate(cured, 1):
        base, volume = f"build.{one.portion.id}", one.portion.solid.volume()
        mixing = mixing_step(chosen, f"{base}.mix", order, last, rules)
        seconds = round(
            float(rules.value("chair.place_fixed_s") + rules.value("ionomer.place_s_per_mm3") * volume)
        )
        place = Step(
            id=f"{base}.place",
            stage="build",
            title=f"Place the {one.portion.name}",
            detail=one.portion.sculpt,
            actor="dentist",
            seconds=seconds,
            seconds_rule=rules.use("ionomer.place_s_per_mm3"),
            tray=[f"{chosen.item.name}, {volume:.0f} mm\u00b3"],
            after=[mixing.id],
            within=[Within(step=mixing.id, seconds=max(chosen.item.working_s - seconds, 0.0))],
            increment=order,
            check=StepCheck(
                question="Before the light: level, out to the band, no void?",
                remedy="Adapt it again, or take it out and place it again, before it is lit.",
                back_to=f"{base}.place",
            ),
        )
        light = light_step(
            f"{base}.light",
            "build",
            f"Light-cure the {one.portion.name}",
            presses_of(zip((aim.name for aim in one.lit.aims), one.exposed.rungs, strict=True)),
            rules.use(rule_of_dose(one.mass)),
            [place.id],
            then="Hold still.",
            increment=order,
        )
        steps += [mixing, place, *again_in_turns(light, rules)]
        last = steps[-1].id
    return steps  # fmt: skip


def _conditioning(chosen: Chosen, ready: Sequence[str], rules: Rulebook) -> list[Step]:
    item, steps = chosen.item, list[Step]()
    if item.conditioner != "none":
        acid, rule = CONDITIONERS[item.conditioner]
        told = by_package(chosen, "condition_s", item.condition_s) if item.condition_s else {}
        steps.append(
            hand_step(
                id="build.sandwich.condition",
                title="Condition the gingival dentin",
                detail=f"{acid.capitalize()} over the gingival floor and the walls beside it.",
                rule=rules.use(rule),
                timed=True,
                tray=[acid, "applicator"],
                after=list(ready),
                **told,
            )
        )
        steps.append(
            hand_step(
                id="build.sandwich.rinse",
                title="Rinse",
                detail="Water and high suction; the assistant aspirates.",
                actor="both",
                rule=rules.use("ionomer.rinse_s"),
                timed=True,
                tray=["suction", "water syringe"],
                after=[steps[-1].id],
            )
        )
    steps.append(
        hand_step(
            id="build.sandwich.dry",
            title="Dry and inspect",
            detail="Gentle air until no water is left; the surface stays glossy.",
            rule=rules.use("ionomer.dry_s"),
            timed=True,
            tray=["air syringe"],
            after=[steps[-1].id] if steps else list(ready),
            check=StepCheck(
                question="Is the gingival floor clean, without saliva or blood?",
                remedy="Stop the leak, condition it again.",
                back_to=steps[0].id if steps else "build.sandwich.dry",
            ),
        )
    )
    return steps


def _decision(portions: Sequence[Portion], chosen: Chosen, rules: Rulebook) -> Decision:
    sides = " and ".join(str(one.side) for one in portions)
    return Decision(
        topic="build.sandwich",
        chosen=f"open sandwich, {sides}: {chosen.item.name}",
        alternatives=["composite to the margin"],
        reasons=[say("sandwich.why", where=sides), *chosen.reasons],
        rules=rules.uses("composite.sandwich_mm"),
    )


def _wants(case: Case, chosen: Chosen, capsules: int) -> list[Want]:
    if not case.stock:
        return []
    item = chosen.item if chosen.at is not None else None
    text = f"resin-modified glass ionomer, {capsules} capsule{'s' if capsules > 1 else ''}"
    return [Want(kind="ionomer", text=text, name=item.name if item else None, lot=item.lot if item else None)]
