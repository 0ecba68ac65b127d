"""Band off, light from the sides, trim, check, polish."""

from __future__ import annotations

from collections.abc import Sequence

from mallet.light.presses import presses_for
from mallet.rulebook import Rulebook
from mallet.stages.matrix import Band
from mallet.terms.plan import StageResult, Step, StepCheck


def finish(bands: Sequence[Band], last: str, time_steps_s: Sequence[float], rules: Rulebook) -> StageResult:
    """Return the steps after the last portion is cured; `last` is that step's id."""
    steps: list[Step] = []
    for band in bands:
        steps.append(_band_off(band, last, rules))
        last = steps[-1].id
        if band.is_metal:
            for side in ("facial", "lingual"):
                steps.append(_side_cure(band, side, last, time_steps_s, rules))
                last = steps[-1].id
    steps += _trim_and_check(bands, last, rules)
    return StageResult(steps=steps)


def _band_off(band: Band, after: str, rules: Rulebook) -> Step:
    return Step(
        id=f"matrix.{band.side}.off",
        stage="matrix",
        title=f"{band.side.capitalize()} band off",
        detail="Ring, then wedge, then band; draw it sideways, not up, so that the ridge stays.",
        actor="dentist",
        seconds=rules.value("chair.band_off_s"),
        seconds_rule=rules.use("chair.band_off_s"),
        tray=["ring forceps", "cotton forceps"],
        after=[after],
    )


def _side_cure(band: Band, side: str, after: str, time_steps_s: Sequence[float], rules: Rulebook) -> Step:
    presses = presses_for(rules.value("light.final_cure_s"), time_steps_s)
    return Step(
        id=f"build.{band.side}.final.{side}",
        stage="build",
        title=f"Light on the {band.side} box from {side}",
        detail="The metal band shaded this surface. Tip against the embrasure. Orange shield.",
        actor="both",
        seconds=sum(presses),
        seconds_rule=rules.use("light.final_cure_s"),
        timed=True,
        light=True,
        tray=["lamp", "orange shield"],
        after=[after],
    )


def _trim_and_check(bands: Sequence[Band], after: str, rules: Rulebook) -> list[Step]:
    def step(id: str, title: str, detail: str, rule: str, previous: str, **more: object) -> Step:
        fields: dict[str, object] = {
            "id": id,
            "stage": "finish",
            "title": title,
            "detail": detail,
            "actor": "dentist",
            "seconds": rules.value(rule),
            "seconds_rule": rules.use(rule),
            "after": [previous],
        }
        return Step.model_validate({**fields, **more})

    steps = [
        step(
            "finish.trim",
            "Trim and contour",
            "Blade or strip for flash, fine diamond for cusp slopes and groove.",
            "chair.trim_s",
            after,
            tray=["scalpel blade", "fine diamond, pear", "finishing strip"],
        )
    ]
    contact = StepCheck(
        question="Does unwaxed floss snap through and come out whole?",
        remedy="Shreds: strip the margin. Too tight: contact saw, waxed floss, strip. Open: note it.",
        back_to="finish.trim",
    )
    if bands:
        steps.append(
            step(
                "finish.contact",
                "Check the contact",
                "Unwaxed floss, before the dam comes off.",
                "chair.contact_s",
                "finish.trim",
                tray=["unwaxed floss"],
                check=contact,
            )
        )
    bite = StepCheck(
        question="Do the marks stand as before the filling, in closure and sideways?",
        remedy="Take the high spot down with a fine diamond, mark again.",
        back_to="finish.bite",
    )
    return [
        *steps,
        step(
            "isolate.dam_off",
            "Rubber dam off",
            "Cut the septa one by one; floss out shreds.",
            "chair.dam_off_s",
            steps[-1].id,
            actor="both",
            tray=["scissors", "clamp forceps", "floss"],
        ),
        step(
            "finish.bite",
            "Check the bite",
            "Thicker paper, tap, then slide all ways.",
            "chair.bite_s",
            "isolate.dam_off",
            tray=["bite paper", "fine diamond, flame"],
            check=bite,
        ),
        step(
            "finish.polish",
            "Polish",
            "Two grits, wet, light pressure.",
            "chair.polish_s",
            "finish.bite",
            tray=["rubber points", "brush"],
        ),
    ]
