"""What the hands do for a sealant, for one tooth or for several of a quadrant in one order of work."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from mallet.curing.cured import Cured
from mallet.curing.exposures import light_step, presses_of
from mallet.light.working_curve import rule_of_dose
from mallet.restoratives.sealant.stock import Chosen, asked_of
from mallet.rulebook import Rulebook
from mallet.stages.fissures import Chain
from mallet.stages.hand import hand_step
from mallet.stages.isolate import field_off
from mallet.terms.case import Case
from mallet.terms.plan import Step, StepCheck

FROSTY = StepCheck(
    question="Is the enamel frosty all along the fissures?",
    remedy="Not frosty, or met by saliva: etch it again.",
    back_to="bond.etch",
)
HOLDS = StepCheck(
    question="Does it hold under the probe, without bubbles, its edges closed?",
    remedy="Comes off or has a bubble: etch again and add to it.",
    back_to="bond.etch",
)


def etching(case: Case, after: Sequence[str], rules: Rulebook) -> list[Step]:
    """Return how enamel is etched, and nothing else."""
    asked, chain = asked_of(case), Chain(case, after, rules)
    rule = "sealant.etch_long_s" if asked.fluorosed else "sealant.etch_s"
    told: dict[str, Any] = {"timed": True}
    gel = ["phosphoric acid gel", "fine tip"]
    chain.add(
        "bond.etch",
        "Etch the enamel",
        "Fissures and a little past them; move it to break bubbles.",
        rule,
        tray=gel,
        at_once=True,
        **told,
    )
    chain.add(
        "bond.rinse",
        "Rinse",
        "Water and high suction; nobody closes the mouth.",
        "sealant.rinse_s",
        actor="both",
        tray=["suction", "water syringe"],
        at_once=True,
        **told,
    )
    chain.add(
        "bond.dry",
        "Dry and inspect",
        "Dry air until it is frosty.",
        "sealant.dry_s",
        tray=["air syringe"],
        check=FROSTY,
        **told,
    )
    if asked.with_adhesive:
        chain.add(
            "bond.adhesive",
            "Adhesive",
            "A thin film, blown thin; it is cured with the sealant.",
            "sealant.adhesive_s",
            tray=["adhesive", "applicator"],
            **told,
        )
    return chain.steps  # fmt: skip


def placing(
    case: Case, chosen: Chosen, cured: Sequence[Cured], after: Sequence[str], rules: Rulebook
) -> list[Step]:
    """Return how the resin is placed, left to soak in, and cured, tooth by tooth."""
    steps: list[Step] = []
    last = list(after)
    (one,) = cured
    exposures = list(zip((aim.name for aim in one.lit.aims), one.exposed.rungs, strict=True))
    for tooth in ("", *asked_of(case).also):
        end, named = (f".{tooth}", f", {tooth}") if tooth else ("", "")
        order = None if tooth else 1
        place = hand_step(
            id=f"build.sealant.place{end}",
            title=f"Tease the sealant along the fissures{named}",
            detail=f"{chosen.name}: from one end with an explorer; no bubbles, no puddle.",
            rule=rules.use("sealant.place_s"),
            tray=[chosen.name, "explorer"],
            after=last,
            increment=order,
        )
        soak = hand_step(
            id=f"build.sealant.soak{end}",
            title=f"Let it soak in{named}",
            detail="Do not touch it; keep it dry.",
            rule=rules.use("sealant.soak_s"),
            timed=True,
            after=[place.id],
            increment=order,
        )
        light = light_step(
            f"build.sealant.light{end}",
            "build",
            f"Light-cure the sealant{named}",
            presses_of(exposures),
            rules.use(rule_of_dose(one.mass)),
            [soak.id],
            then="Hold still.",
            increment=order,
        )
        steps += [place, soak, light]
        last = [light.id]
    return steps


def finishing(case: Case, last: str, rules: Rulebook) -> list[Step]:
    """Return the short finish of a sealant."""
    chain = Chain(case, [last], rules)
    chain.add(
        "finish.probe",
        "Probe it",
        "Retention and edges, from both ends.",
        "sealant.probe_s",
        tray=["probe"],
        check=HOLDS,
    )
    chain.add(
        "finish.excess",
        "Remove excess",
        "Pits past the fissures and the distal fossa; floss.",
        "sealant.excess_s",
        tray=["fine diamond, flame", "floss"],
    )
    steps = [*chain.steps, field_off(case, chain.steps[-1].id, rules)]
    steps.append(
        hand_step(
            id="finish.bite",
            title="Check the occlusion",
            detail="Mark contacts and reduce high spots: unfilled resin wears, filled does not.",
            rule=rules.use("chair.bite_s"),
            tray=["articulating paper", "fine diamond, flame"],
            after=[steps[-1].id],
            hold="finished",
            check=StepCheck(
                question="Nothing high, every sealant whole, nothing left behind?",
                remedy="Take it down, or add to it, while the field can still be dried.",
                back_to="finish.probe",
            ),
        )
    )
    months = rules.value("sealant.recall_months")
    steps.append(
        hand_step(
            id="finish.tell",
            title="Tell the patient",
            detail=f"Eat and drink as usual. Recall in {months:g} months: a lost sealant is looked under and renewed.",
            rule=rules.use("chair.tell_s"),
            actor="both",
            after=[steps[-1].id],
        )
    )
    return steps  # fmt: skip
