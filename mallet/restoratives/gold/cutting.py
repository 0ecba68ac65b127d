"""How a tooth is cut for direct gold, and its dentin sealed: the margin is beveled once the varnish is dry."""

from __future__ import annotations

from mallet.restoratives.gold.shape import Shape
from mallet.restoratives.gold.stock import Kit, asked_of
from mallet.rulebook.steps import catalog_step
from mallet.stages.isolate import before_cutting
from mallet.stages.site import Site
from mallet.terms.case import Case
from mallet.terms.parts import GoldPit, ProximalCavity
from mallet.terms.plan import Step
from mallet.terms.stock import Bur

OUTLINES = {"oval": "oval", "teardrop": "teardrop", "trapezoid": "trapezoid"}
# Nearer to the junction than this a margin wants the gingiva held off.
AT_NECK_MM = 1.0


TOOLS = {"clamp": "cervical clamp", "separator": "separator"}


def steady(site: Site, shape: Shape) -> str:
    """Return what keeps the tooth from giving way: a clamp at the neck, a separator where teeth stand beside, which a contact
    that is opened wants anyhow, else a finger."""
    part = shape.part
    if (
        isinstance(part, GoldPit)
        and part.face != "occlusal"
        and part.above_cej_mm - part.height_mm / 2 < AT_NECK_MM
    ):
        return "clamp"
    beside = (site.case.adjacent.mesial, site.case.adjacent.distal)
    if isinstance(part, ProximalCavity):
        facing = getattr(site.case.adjacent, part.side)
        return "finger" if facing and facing.missing else "separator"
    return "separator" if any(one and not one.missing for one in beside) else "finger"


def cutting(site: Site, shape: Shape, depths_mm: tuple[float, float] | None) -> list[Step]:
    """Return the steps from opening the pit to the last look, which comes after the bevel."""
    case, rules, ends = site.case, site.rules, shape.ends
    how = steady(site, shape)
    steps: list[Step] = []

    def then(name: str, **told: object) -> None:
        before = steps[-1].id if steps else before_cutting(case)
        steps.append(catalog_step(f"gold.{name}", rules, told, after=[before]))

    if how != "finger":
        then("steady", how=how, tool=TOOLS[how])
    then("enter_beside" if shape.is_beside else "enter", steady=how, bur=_bur(case, "round", 0.8))
    then("decay", into_mm=round(shape.into_mm, 1))
    straight = _bur(case, "straight_fissure", 0.8)
    part = shape.part
    if isinstance(part, ProximalCavity):
        lengths = {name: getattr(part, name) for name in ("height_mm", "depth_mm", "faciolingual_mm")}
        then("walls_beside", bur=straight, **lengths)
    else:
        assert depths_mm
        upper, lower = depths_mm
        then(
            "walls",
            height_mm=part.height_mm,
            width_mm=part.width_mm,
            outline=OUTLINES[part.outline],
            upper=f"{ends.upper}ly" if ends.upper != "facial" else "facially",
            lower=f"{ends.lower}ly",
            upper_mm=upper,
            lower_mm=lower,
            bur=straight,
        )
    cone = _bur(case, "inverted_cone", 0.6)
    if shape.groove_mm:
        then("groove", groove_mm=shape.groove_mm, bur=cone)
    if shape.point_mm:
        places = f"one {ends.upper}, two {ends.lower}"
        then("points", point_mm=shape.point_mm, places=places, bur=cone)
    then("clean")
    verify = catalog_step(
        "gold.verify", rules, after=["bond.seal", *(["bond.bevel"] if shape.bevel_mm else [])]
    )
    return [*steps, verify]


def sealing(site: Site, kit: Kit, shape: Shape) -> list[Step]:
    """Return varnish and bevel, in the order that the case asks for."""
    case, rules = site.case, site.rules
    is_late = asked_of(case).bevel == "after_varnish"
    use, item = rules.use("gold.varnish_s"), kit.varnish
    seconds = item.coats * (use.value + item.dry_s)
    told = {"name": item.name, "dry_s": item.dry_s, "after": bool(shape.bevel_mm and not is_late)}
    order = ["prepare.clean"]
    bevel = {
        "bevel_mm": shape.bevel_mm,
        "bevel_deg": shape.bevel_deg,
        "cleans": is_late,
        "bur": _bur(case, "round", 0.8),
    }
    if not is_late and shape.bevel_mm:
        order = ["bond.bevel"]
    seal = catalog_step("gold.varnish", rules, told, after=order, seconds=seconds, seconds_rule=use)
    if not shape.bevel_mm:
        return [seal]
    cut = catalog_step("gold.bevel", rules, bevel, after=["bond.seal" if is_late else "prepare.clean"])
    return [seal, cut] if is_late else [cut, seal]


def _bur(case: Case, shape: str, head_mm: float) -> str:
    """Return the bur of a shape in stock that is nearest to a head, else what it is."""
    burs = [one for one in case.stock if isinstance(one, Bur) and one.shape == shape]
    nearest = min(burs, key=lambda one: (abs(one.head_mm - head_mm), one.name), default=None)
    return nearest.name if nearest else f"{shape.replace('_', ' ')} bur {head_mm:g} mm"
