"""What the hands do for a sealant, for one tooth or for several of a quadrant in one order of work."""

from __future__ import annotations

from collections.abc import Sequence

from mallet.curing.cured import Cured
from mallet.curing.exposures import light_step, presses_of
from mallet.light.working_curve import rule_of_dose
from mallet.restoratives.sealant.stock import Chosen, asked_of
from mallet.rulebook import Rulebook
from mallet.rulebook.steps import catalog_step
from mallet.stages.fissures import Chain
from mallet.stages.isolate import field_off
from mallet.terms.case import Case
from mallet.terms.plan import Step


def etching(case: Case, after: Sequence[str], rules: Rulebook) -> list[Step]:
    """Return how enamel is etched, and nothing else."""
    asked, chain = asked_of(case), Chain(case, after, rules)
    chain.add("sealant.etch", at_once="sealant.etch_long_s" if asked.fluorosed else "sealant.etch_s")
    chain.add("sealant.rinse", at_once="sealant.rinse_s")
    chain.add("sealant.dry")
    if asked.with_adhesive:
        chain.add("sealant.adhesive")
    return chain.steps


def placing(
    case: Case, chosen: Chosen, cured: Sequence[Cured], after: Sequence[str], rules: Rulebook
) -> list[Step]:
    """Return how the resin is placed, left to soak in, and cured, tooth by tooth."""
    steps: list[Step] = []
    last = list(after)
    (one,) = cured
    exposures = list(zip((aim.name for aim in one.lit.aims), one.exposed.rungs, strict=True))
    for tooth in ("", *asked_of(case).also):
        told = {"name": chosen.name}
        told |= {"end": f".{tooth}", "named": f", {tooth}"} if tooth else {"end": "", "named": ""}
        order = None if tooth else 1
        place = catalog_step("sealant.place", rules, told, after=last, increment=order)
        soak = catalog_step("sealant.soak", rules, told, after=[place.id], increment=order)
        light = light_step(
            "sealant.light",
            rules,
            rule_of_dose(one.mass),
            presses_of(exposures),
            told,
            after=[soak.id],
            increment=order,
        )
        steps += [place, soak, light]
        last = [light.id]
    return steps


def finishing(case: Case, last: str, rules: Rulebook) -> list[Step]:
    """Return the short finish of a sealant."""
    chain = Chain(case, [last], rules)
    chain.add("sealant.probe")
    chain.add("sealant.excess")
    off = field_off(case, chain.steps[-1].id, rules)
    bite = catalog_step("sealant.bite", rules, after=[off.id])
    recall = {"months": rules.value("sealant.recall_months")}
    return [*chain.steps, off, bite, catalog_step("sealant.tell", rules, recall, after=[bite.id])]
