"""What the hands do for glass ionomer: condition, mix, place, press, and leave it alone until it has set."""

from __future__ import annotations

from collections.abc import Sequence

from mallet.cavity.preparation import Cavity
from mallet.restoratives.glass_ionomer.mixes import Mix
from mallet.restoratives.glass_ionomer.stock import asked_of
from mallet.rulebook import Rulebook
from mallet.rulebook.steps import catalog_step
from mallet.stages.ionomer import Chosen, conditioned, mixing_step, told_input
from mallet.terms.case import Case
from mallet.terms.plan import Step, Within


def conditioning(case: Case, chosen: Chosen, ready: Sequence[str], rules: Rulebook) -> list[Step]:
    """Return the steps of cleaning and conditioning; `ready` must be done before."""
    steps = [catalog_step("ionomer.pumice", rules, after=list(ready))]
    steps += conditioned(chosen, [steps[0].id], rules)
    back_to = "bond.condition" if chosen.item.conditioner != "none" else "bond.pumice"
    told = {"how": asked_of(case).dryness, "back_to": back_to}
    return [*steps, catalog_step("ionomer.dry", rules, told, after=[steps[-1].id])]


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
    by_package = chosen.at is not None
    steps.append(
        catalog_step(
            "ionomer.set",
            rules,
            {"set_s": chosen.item.set_s},
            seconds=max(round(chosen.item.set_s - placed_s), 0),
            seconds_rule=None if by_package else rules.use("ionomer.set_s"),
            seconds_input=told_input(chosen, "set_s", chosen.item.set_s) if by_package else None,
            after=[last],
            increment=len(mixes),
        )
    )
    return steps


def _mixed(order: int, mix: Mix, chosen: Chosen, before: str, last: str, rules: Rulebook) -> list[Step]:
    item, volume = chosen.item, mix.solid.volume()
    mixing = mixing_step(chosen, f"build.{mix.id}.mix", order, before, rules)
    seconds = round(rules.value("chair.place_fixed_s") + rules.value("ionomer.place_s_per_mm3") * volume)
    press_s = rules.value("ionomer.press_s")
    told = {
        "mix": mix.id,
        "what": mix.name,
        "where": "first" if order == 1 else "next",
        "name": item.name,
        "volume_mm3": volume,
    }
    place = catalog_step(
        "ionomer.place",
        rules,
        told,
        seconds=seconds,
        after=[mixing.id, last],
        # Pressing has to be over within the working time too.
        within=[Within(step=mixing.id, seconds=max(item.working_s - seconds - press_s, 0.0))],
        increment=order,
    )
    press = catalog_step("ionomer.press", rules, told, after=[place.id], increment=order)
    return [mixing, place, press]
