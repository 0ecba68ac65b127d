"""What amalgam is done at a visit of its own: the band off a core that has set, a polish where one is wanted."""

from __future__ import annotations

from mallet.restoratives.amalgam.stock import asked_of
from mallet.rulebook.steps import catalog_step
from mallet.stages.assess import history_step
from mallet.stages.finish_steps import contact_step, in_turn, verified
from mallet.stages.isolate import numb_step
from mallet.stages.site import Site
from mallet.terms.plan import LaterVisit
from mallet.terms.reasons import say


def later_visits(site: Site) -> list[LaterVisit]:
    """Return the visits after the one at which it is placed."""
    if site.cavity.shoulder:
        return [_band_off(site)]
    return [_polish(site)] if asked_of(site.case).polish == "after_24_h" else []


def _band_off(site: Site) -> LaterVisit:
    case, rules = site.case, site.rules
    since, until = rules.uses("matrix.copper_amalgam_h", "amalgam.band_off_by_h")
    names = ("band_slit", "look_core", "crown_cut", "tell_crown")
    return LaterVisit(
        purpose="band_off",
        name="Band off, crown preparation",
        from_h=since.value,
        by_h=until.value,
        reason=say("amalgam.second_visit", from_h=since.value, by_h=until.value),
        rules=[since, until],
        steps=in_turn(
            [
                history_step(case, rules),
                numb_step(case, site.cavity.tooth, rules),
                *(catalog_step(f"amalgam.{name}", rules) for name in names),
            ]
        ),
    )


def _polish(site: Site) -> LaterVisit:
    case, rules = site.case, site.rules
    since = rules.use("amalgam.polish_after_h")
    steps = [history_step(case, rules), catalog_step("amalgam.polish", rules)]
    if site.cavity.opened:
        steps.append(contact_step(rules, is_later=True))
    if not case.is_unbitten:
        steps.append(catalog_step("amalgam.bite", rules))
    looked, _ = verified(case, steps[-1].id, "finish.polish", rules, is_later=True)
    return LaterVisit(
        purpose="polish",
        name="Polish",
        from_h=since.value,
        reason=say("amalgam.polish_later", hours=since.value),
        rules=[since],
        steps=in_turn([*steps, looked, catalog_step("amalgam.tell_polished", rules)]),
    )
