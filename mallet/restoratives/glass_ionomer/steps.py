"""What the hands do for glass ionomer: condition, mix, place, press, and leave it alone until it has set."""

from __future__ import annotations

from collections.abc import Sequence

from mallet.cavity.preparation import Cavity
from mallet.restoratives.glass_ionomer.mixes import Mix
from mallet.restoratives.glass_ionomer.stock import asked_of
from mallet.rulebook import Rulebook
from mallet.stages.hand import hand_step
from mallet.stages.ionomer import Chosen, conditioned, mixing_step, told_input
from mallet.terms.case import Case
from mallet.terms.plan import Step, StepCheck, Within

DRYNESS = {
    "moist": "Gentle air until no water is left; the surface stays glossy.",
    "very_dry": "Dry it thoroughly with air.",
}


def conditioning(case: Case, chosen: Chosen, ready: Sequence[str], rules: Rulebook) -> list[Step]:
    """Return the steps of cleaning and conditioning; `ready` must be done before."""
    item = chosen.item
    steps = [
        hand_step(
            id="bond.pumice",
            title="Clean with pumice",
            detail="Pumice and water on the tooth, and on those beside it in the dam; rinse.",
            rule=rules.use("ionomer.pumice_s"),
            tray=["pumice", "rubber cup"],
            after=list(ready),
        )
    ]
    where = "floor, walls and margins"
    steps += conditioned(chosen, "bond", "Condition the cavity", where, [steps[0].id], rules)
    steps.append(
        hand_step(
            id="bond.dry",
            title="Dry and inspect",
            detail=DRYNESS[asked_of(case).dryness],
            rule=rules.use("ionomer.dry_s"),
            timed=True,
            tray=["air syringe"],
            after=[steps[-1].id],
            check=StepCheck(
                question="Is it clean, without saliva or blood, and as dry as planned?",
                remedy="Contaminated: condition it again. Parched: wet it with a moist pellet.",
                back_to="bond.condition" if item.conditioner != "none" else "bond.pumice",
            ),
        )
    )
    return steps


def placing(
    case: Case, cavity: Cavity, chosen: Chosen, mixes: Sequence[Mix], between: Sequence[Step], rules: Rulebook
) -> list[Step]:
    """Return the steps of mixing, placing and pressing each mix, and of leaving the last alone until it has set; `between`
    is what is changed before the first."""
    steps: list[Step] = []
    last, before = "bond.dry", "bond.dry"
    for step in between:
        steps.append(step.model_copy(update={"after": [last]}))
        last = step.id
    for order, mix in enumerate(mixes, 1):
        made = _mixed(order, mix, chosen, before, last, rules)
        steps += made
        before, last = made[1].id, made[-1].id
    placed_s = sum(step.seconds for step in steps[-2:])
    steps.append(
        Step(
            id="build.set",
            stage="build",
            title="Leave it alone until it has set",
            detail=f"Do not touch it: {chosen.item.set_s:g} s from the end of mixing. Keep it covered and dry.",
            actor="both",
            seconds=max(round(chosen.item.set_s - placed_s), 0),
            seconds_rule=None if chosen.at is not None else rules.use("ionomer.set_s"),
            seconds_input=told_input(chosen, "set_s", chosen.item.set_s) if chosen.at is not None else None,
            timed=True,
            after=[last],
            increment=len(mixes),
            role="set",
            check=StepCheck(
                question="Does a probe no longer mark it?",
                remedy="Wait another minute: cut before it has set, it crazes.",
                back_to="build.set",
            ),
        )
    )
    return steps


def _mixed(order: int, mix: Mix, chosen: Chosen, before: str, last: str, rules: Rulebook) -> list[Step]:
    item, volume = chosen.item, mix.solid.volume()
    mixing = mixing_step(chosen, f"build.{mix.id}.mix", order, before, rules)
    seconds = round(rules.value("chair.place_fixed_s") + rules.value("ionomer.place_s_per_mm3") * volume)
    press_s = rules.value("ionomer.press_s")
    where = "from the deepest point" if order == 1 else "onto the mix before it, while that is soft"
    place = Step(
        id=f"build.{mix.id}.place",
        stage="build",
        title=f"Place the {mix.name}",
        detail=f"Fill {where}; keep the tip in it, so that no air is caught. Slightly overfill.",
        actor="dentist",
        seconds=seconds,
        seconds_rule=rules.use("ionomer.place_s_per_mm3"),
        tray=[f"{item.name}, {volume:.0f} mm\u00b3"],
        after=[mixing.id, last],
        # Pressing has to be over within the working time too.
        within=[Within(step=mixing.id, seconds=max(item.working_s - seconds - press_s, 0.0))],
        increment=order,
    )
    press = hand_step(
        id=f"build.{mix.id}.press",
        title="Press it home",
        detail="A moist pellet, the strip or the form; hold it still.",
        rule=rules.use("ionomer.press_s"),
        timed=True,
        tray=["moist pellet"],
        after=[place.id],
        increment=order,
    )
    return [mixing, place, press]
