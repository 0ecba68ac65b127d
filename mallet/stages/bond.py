"""Bonding by selective enamel etch: clocks for each step, and the adhesive's cure from the lamp."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from mallet.light.presses import Rung
from mallet.rulebook import Rulebook
from mallet.stages.lighting import light_step, presses_of
from mallet.terms.plan import Decision, StageResult, Step, StepCheck
from mallet.terms.reasons import say


@dataclass(frozen=True)
class FilmCure:
    """One exposure of the adhesive film: its aim and what is pressed."""

    aim: str
    rung: Rung


def bond(cures: Sequence[FilmCure], after: Sequence[str], rules: Rulebook) -> StageResult:
    """Return the adhesive steps; `after` are the steps that must be done before the acid."""
    wet = StepCheck(
        question="Is the field still dry?",
        remedy="Wet with saliva or blood before the cure: rinse, dry and begin again at the etch.",
        back_to="bond.etch_enamel",
    )

    def step(name: str, title: str, detail: str, rule: str, previous: Sequence[str], **more: object) -> Step:
        fields: dict[str, object] = {
            "id": f"bond.{name}",
            "stage": "bond",
            "title": title,
            "detail": detail,
            "actor": "dentist",
            "seconds": rules.value(rule),
            "seconds_rule": rules.use(rule),
            "timed": True,
            "after": list(previous),
        }
        return Step.model_validate({**fields, **more})

    steps = [
        step(
            "etch_enamel",
            "Etch the enamel",
            "Acid on enamel only, a little onto uncut enamel. Move it to break bubbles.",
            "bond.etch_enamel_s",
            after,
            tray=["phosphoric acid gel", "fine tip"],
        ),
        step(
            "rinse",
            "Rinse the acid",
            "Water and high suction; the assistant aspirates.",
            "bond.rinse_s",
            ["bond.etch_enamel"],
            actor="both",
            tray=["suction", "water syringe"],
        ),
        step(
            "dry",
            "Dry, look",
            "Enamel looks frosty; dentin stays moist, never parched.",
            "bond.dry_s",
            ["bond.rinse"],
            check=StepCheck(
                question="Does the etched enamel look frosty?",
                remedy="Etch that enamel again, 15 s.",
                back_to="bond.etch_enamel",
            ),
        ),
        step(
            "scrub",
            "Scrub the adhesive",
            "Keep the brush moving over every wall for the full time.",
            "bond.scrub_s",
            ["bond.dry"],
            tray=["adhesive in well", "fine brush"],
        ),
        step(
            "wick",
            "Wick the pools",
            "Fresh dry brush into the line angles of the box.",
            "bond.wick_s",
            ["bond.scrub"],
            timed=False,
            tray=["fresh brush"],
        ),
        step(
            "air",
            "Air until nothing moves",
            "Rising force; blow into gauze, not onto gums. Thin and glossy.",
            "bond.air_s",
            ["bond.wick"],
            check=wet,
        ),
        *_cures(cures, rules),
    ]
    decision = Decision(
        topic="bond.strategy",
        chosen="selective enamel etch",
        alternatives=["etch-and-rinse", "self-etch"],
        reasons=[say("bond.selective")],
    )
    return StageResult(decisions=[decision], steps=steps)


def _cures(cures: Sequence[FilmCure], rules: Rulebook) -> list[Step]:
    steps = []
    previous = "bond.air"
    for cure in cures:
        half = cure.aim.removeprefix("occlusal").strip("_")
        step = light_step(
            f"bond.cure.{half}" if half else "bond.cure",
            "bond",
            f"Light on the adhesive, {half} half" if half else "Light on the adhesive",
            presses_of([(cure.aim, cure.rung)]),
            rules.use("light.adhesive_dose_j_cm2"),
            [previous],
            how="Tip flat, as close as the cusps allow.",
        )
        steps.append(step)
        previous = step.id
    return steps
