"""What the hands do for each portion: hand over, place, light."""

from __future__ import annotations

from collections.abc import Sequence

from mallet.rulebook import Rulebook
from mallet.stages.build.composite import Cured
from mallet.terms.plan import Step, StepCheck, Within


def build_steps(cured: Sequence[Cured], after: str, rules: Rulebook) -> list[Step]:
    """Return the steps of building; `after` is the last step of bonding.

    The next mass is portioned while the dentist places the one before it.
    """
    steps: list[Step] = []
    before_last, last = "bond.dry", after
    for order, one in enumerate(cured, 1):
        ready, place, light = _of_one(order, one, last, before_last, rules)
        steps += [ready, place, light]
        before_last, last = last, light.id
    return steps


def _of_one(order: int, one: Cured, last: str, before_last: str, rules: Rulebook) -> tuple[Step, Step, Step]:
    portion, volume = one.portion, one.portion.solid.volume()
    grams = volume * one.mass.density_g_cm3 / 1000
    base = f"build.{portion.id}"
    ready = Step(
        id=f"{base}.ready",
        stage="build",
        title=f"Portion for {portion.name}",
        detail=f"{one.mass.name}, about {volume:.0f} mm\u00b3 ({grams:.2f} g). Keep it under the orange cover.",
        actor="assistant",
        seconds=rules.value("chair.hand_over_s"),
        seconds_rule=rules.use("chair.hand_over_s"),
        tray=[one.mass.name],
        after=[before_last],
        increment=order,
    )
    place = Step(
        id=f"{base}.place",
        stage="build",
        title=f"Place the {portion.name}",
        detail=portion.sculpt or "Adapt it to the walls; leave no void at the line angles.",
        actor="dentist",
        seconds=round(rules.value("chair.place_fixed_s") + rules.value("chair.place_s_per_mm3") * volume),
        seconds_rule=rules.use("chair.place_s_per_mm3"),
        tray=[f"{one.mass.name}, {grams:.2f} g", "placing instrument"],
        after=[ready.id, last],
        within=[
            Within(
                step=ready.id,
                seconds=rules.value("chair.open_mass_s"),
                rule=rules.use("chair.open_mass_s"),
            )
        ],
        increment=order,
    )
    light = Step(
        id=f"{base}.light",
        stage="build",
        title=f"Light on the {portion.name}",
        detail=f"Tip flat, as close as it goes. Press {_presses(one)}. Do not lean.",
        actor="both",
        seconds=one.seconds,
        seconds_rule=rules.use("light.conversion_factor"),
        timed=True,
        light=True,
        tray=["lamp", "orange shield"],
        after=[place.id],
        increment=order,
        check=_seen(portion.id),
    )
    return ready, place, light


FROM = {
    "occlusal": "",
    "occlusal_mesial": " over the mesial half",
    "occlusal_distal": " over the distal half",
    "facial": " from facial",
    "lingual": " from lingual",
}


def _presses(one: Cured) -> str:
    """Return what to press, and from where when it is not from occlusal alone."""
    exposed = zip(one.lit.aims, one.exposed.presses, strict=True)
    several = len(one.lit.aims) > 1
    return ", then ".join(
        " + ".join(f"{p:g}" for p in presses)
        + " s"
        + (" from occlusal" if several and aim.name == "occlusal" else FROM[aim.name])
        for aim, presses in exposed
    )


def _seen(portion_id: str) -> StepCheck | None:
    if not portion_id.endswith("gingival"):
        return None
    return StepCheck(
        question="Does the portion meet the gingival floor without a gap?",
        remedy="Take it out before anything covers it, and place it again.",
        back_to=f"build.{portion_id}.place",
    )
