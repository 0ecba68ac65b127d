"""What a restoration that shows is looked at for once the teeth are wet again: its shade, its occlusion, its contacts."""

from __future__ import annotations

from mallet.color.corrected import READ_AS
from mallet.rulebook import Rulebook
from mallet.rulebook.steps import catalog_step
from mallet.stages.assess import history_step
from mallet.stages.choose import shows
from mallet.stages.finish_steps import contact_step, in_turn, occlusion_step, verified
from mallet.stages.site import Site
from mallet.terms.case import Case
from mallet.terms.color_plan import ColorPlan
from mallet.terms.plan import LaterVisit, Target
from mallet.terms.reasons import say
from mallet.tooth import read_tooth

HOURS_A_DAY = 24
# What is read, and how it is off where it is less than predicted, or more.
AXES = (("L*", "darker", "lighter"), ("a*", "less red", "redder"), ("b*", "less yellow", "yellower"))


def is_reviewed(case: Case) -> bool:
    """Tell whether the shade is looked at again: where it is seen from facial in front, and where somebody has read or tried
    it."""
    was_tried = bool(case.shade.target) or case.shade.mock_up
    is_seen = not read_tooth(case.tooth.code).is_posterior and not {"F", "I"}.isdisjoint(
        case.restoration.surfaces
    )
    return shows(case) and (was_tried or is_seen)


def later_visits(site: Site, color: ColorPlan | None) -> list[LaterVisit]:
    """Return the review of what is judged by its shade, `color` being what was predicted; nobody is called back for the
    rest."""
    case, rules = site.case, site.rules
    if not is_reviewed(case):
        return []
    since, until = rules.uses("shade.review_days", "shade.review_by_days")
    predicted = {"predicted": color is not None, "off": color.de00 if color else 0.0}
    look = catalog_step("shade.review", rules, predicted, targets=_readings(color, rules) if color else [])
    steps = [history_step(case, rules), look]
    if site.cavity.opened:
        steps.append(contact_step(rules, is_later=True))
    if not case.is_unbitten:
        steps.append(occlusion_step(case, rules))
    looked, _ = verified(case, steps[-1].id, "shade.review", rules, is_later=True)
    return [
        LaterVisit(
            purpose="review",
            name="Review of shade and occlusion",
            from_h=since.value * HOURS_A_DAY,
            by_h=until.value * HOURS_A_DAY,
            reason=say("shade.review_later", from_d=since.value, by_d=until.value),
            rules=[since, until],
            steps=in_turn([*steps, looked, catalog_step("shade.tell_reviewed", rules)]),
        )
    ]


def _readings(color: ColorPlan, rules: Rulebook) -> list[Target]:
    """Return what an instrument may read of the restoration, against what was predicted."""
    accepted = rules.use("color.acceptable_de00")
    return [
        Target(
            id=name,
            title=axis,
            detail="of the restoration, wet; three readings, the middle one",
            unit="",
            is_height=False,
            interval=0.5,
            value=value,
            low=round(value - accepted.value, 1),
            high=round(value + accepted.value, 1),
            under=f"Compare it with the teeth beside it: {less} than predicted.",
            over=f"Compare it with the teeth beside it: {more} than predicted.",
            rules=[accepted],
        )
        for name, (axis, less, more), value in zip(READ_AS, AXES, color.predicted, strict=True)
    ]
