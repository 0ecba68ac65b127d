"""Finishing amalgam: band off, overhang probed, carved while it yields, occlusion checked softly, polished later or not."""

from __future__ import annotations

from collections.abc import Sequence

from mallet.restoratives.amalgam.carving import carve
from mallet.restoratives.amalgam.form import CarvedMargin
from mallet.restoratives.amalgam.stock import asked_of
from mallet.rulebook import Rulebook
from mallet.rulebook.steps import catalog_step
from mallet.stages.finish_steps import contact_step, verified
from mallet.stages.isolate import field_off
from mallet.stages.matrix_off import shaping_off
from mallet.stages.site import Site
from mallet.terms.case import Case
from mallet.terms.pieces import Reason
from mallet.terms.plan import Decision, StageResult, Step, Target
from mallet.terms.reasons import say, signed

POLISHED = {
    "none": "not polished",
    "after_24_h": "second visit, after 24 h",
    "same_visit": "same visit",
}


def finish(site: Site, last: str, last_mix: str, carved: CarvedMargin | None) -> StageResult:
    """Return the steps once it is overfilled and burnished, `last` being that step's id; carving is over in time from the
    last mix's trituration."""
    case, rules = site.case, site.rules
    if site.cavity.shoulder:
        return _core(site, last, last_mix, carved)
    steps: list[Step] = list(shaping_off(site, last))

    def then(step: Step) -> None:
        steps.append(step.model_copy(update={"after": [steps[-1].id if steps else last]}))

    has_face_box = any(one.kind == "face_box" for one in site.cavity.features)
    if has_face_box and not site.bands:
        then(catalog_step("matrix.face_box_off", rules))
    if site.cavity.opened or has_face_box:
        then(catalog_step("amalgam.overhang", rules))
    carving = carve(site, last_mix, carved)
    then(carving)
    then(catalog_step("amalgam.postcarve", rules))
    if site.cavity.opened:
        then(contact_step(rules))
    then(field_off(case, last, rules))
    if not case.is_unbitten:
        then(catalog_step("amalgam.bite", rules))
        if site.cavity.opened:
            then(catalog_step("amalgam.contact_again", rules))
    asked = asked_of(case).polish
    if asked == "same_visit":
        then(catalog_step("amalgam.polish", rules))
    looked, _ = verified(case, steps[-1].id, "finish.trim", rules)
    told = {
        "cold": case.tooth.vitality == "vital",
        "polish": asked == "after_24_h",
    }
    steps += [looked, catalog_step("amalgam.tell", rules, told, after=[looked.id])]
    return StageResult(
        says="band off, probe for overhang, carve, occlusion",
        decisions=[*_carving(carving.targets, carved, rules), _polish(case, rules), _advice(rules)],
        steps=steps,
    )


def _loosened(site: Site, after: str) -> list[Step]:
    """Return how wedges and ligatures come out where the band itself stays on."""
    wedged = sum(1 for one in site.bands if one.wedge)
    told = {
        "ties": any(one.is_tied for one in site.bands),
        "wedges": "several" if wedged > 1 else "one" if wedged else None,
    }
    return [catalog_step("amalgam.wedges_out", site.rules, told, after=[after])] if any(told.values()) else []


def _core(site: Site, last: str, last_mix: str, carved: CarvedMargin | None) -> StageResult:
    """Return how a core is carved in its copper band, which stays on until it bears being cut."""
    case, rules = site.case, site.rules
    off = rules.uses("matrix.copper_amalgam_h", "amalgam.band_off_by_h")
    hours = {"from_h": off[0].value, "by_h": off[1].value}
    carving = carve(site, last_mix, carved).model_copy(update={"after": [last]})
    stop = catalog_step("amalgam.one_stop", rules, after=[carving.id])
    loose = _loosened(site, stop.id)
    field = field_off(case, (loose[-1] if loose else stop).id, rules)
    looked, _ = verified(case, field.id, "finish.trim", rules)
    tell = catalog_step("amalgam.tell_core", rules, hours, after=[looked.id])
    second = Decision(
        topic="finish.second_visit",
        chosen=f"band off after {hours['from_h']:g} to {hours['by_h']:g} h",
        alternatives=["band off at once"],
        reasons=[say("amalgam.second_visit", **hours)],
        rules=off,
    )
    return StageResult(
        says="carved in the band, one stop; band off at the second visit",
        decisions=[second, _advice(rules)],
        steps=[carving, stop, *loose, field, looked, tell],
    )


def _polish(case: Case, rules: Rulebook) -> Decision:
    asked, use = asked_of(case).polish, rules.use("amalgam.polish_after_h")
    why = {
        "none": say("amalgam.polish_never"),
        "after_24_h": say("amalgam.polish_later", hours=use.value),
        "same_visit": say("amalgam.polish_now", hours=use.value),
    }
    return Decision(
        topic="finish.polish",
        chosen=POLISHED[asked],
        alternatives=[name for way, name in POLISHED.items() if way != asked],
        reasons=[why[asked]],
        rules=[use],
    )


def _advice(rules: Rulebook) -> Decision:
    """Return what the patient is told of the first day, by how strong it is by then."""
    early, later = rules.uses("amalgam.strength_1h_mpa", "amalgam.strength_24h_mpa")
    return Decision(
        topic="finish.advice",
        chosen="soft food today, not on this side for 24 h",
        alternatives=[],
        reasons=[say("amalgam.fresh", early=early.value, later=later.value)],
        rules=[early, later],
    )


def _carving(targets: Sequence[Target], carved: CarvedMargin | None, rules: Rulebook) -> Sequence[Decision]:
    """Return what is carved otherwise than it was, or to a measured height, and why."""
    shallower = carved.shallower_mm if carved else 0.0
    chosen = [f"{target.title} {signed(target.value)} mm" for target in targets]
    reasons: list[Reason] = []
    used = {use.rule: use for target in targets for use in target.rules}
    if any(target.ends for target in targets):
        reasons.append(say("amalgam.carve_short", mm=rules.value("amalgam.cusp_short_mm")))
    if shallower > 0:
        least = rules.use("amalgam.margin_carved_deg")
        used[least.rule] = least
        chosen.append(f"groove {shallower:.1f} mm shallower")
        reasons.append(say("amalgam.carve_flat", mm=shallower, least=least.value))
    if not chosen:
        return []
    return [
        Decision(
            topic="finish.carving",
            chosen=", ".join(chosen),
            alternatives=["the tooth's own slopes"] if shallower > 0 else [],
            reasons=reasons,
            rules=list(used.values()),
        )
    ]
