"""What the hands do for amalgam: seal the dentin, triturate, condense zone by zone, overfill, burnish."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from mallet.cavity.preparation import Cavity
from mallet.condensing.nibs import Packing, force_n, thrusts
from mallet.condensing.zones import Zone
from mallet.restoratives.amalgam.mixes import Mix, Mixing, Portion
from mallet.restoratives.amalgam.stock import Kit, asked_of
from mallet.rulebook import Rulebook
from mallet.rulebook.steps import catalog_step
from mallet.stages.asks import title_of_item
from mallet.stages.site import Site
from mallet.terms.plan import InputUse, Rhythm, Step, Within

GRAVITY = 9.81
HOW = {"hollows": "hollows", "cusps": "cusps"}


def sealing(site: Site, kit: Kit) -> list[Step]:
    """Return how the cavity is rinsed and its dentin sealed, before a band stands."""
    rules, under = site.rules, asked_of(site.case).under
    rinse = catalog_step("amalgam.rinse", rules, after=list(site.dry))
    if under == "nothing":
        return [rinse]
    if under == "sealer":
        return [rinse, catalog_step("amalgam.sealer", rules, after=[rinse.id])]
    varnish = kit.varnish
    seconds = varnish.coats * (rules.value("amalgam.varnish_s") + varnish.dry_s)
    use = rules.use("amalgam.varnish_s")
    told = {"name": varnish.name, "coats": varnish.coats, "dry_s": varnish.dry_s}
    seal = catalog_step("amalgam.varnish", rules, told, after=[rinse.id], seconds=seconds, seconds_rule=use)
    return [rinse, seal]


def condensing(
    site: Site,
    kit: Kit,
    zones: Sequence[Zone],
    packings: Sequence[Packing],
    mixing: Mixing,
    over: Overfill,
) -> list[Step]:
    """Return the steps of every mix and of all its zones, up to the burnished overfill."""
    rules = site.rules
    steps: list[Step] = []
    last = list(site.ready)
    before = last
    for mix in mixing.mixes:
        triturated = _mix(mix, len(mixing.mixes), before, rules)
        told = {"order": mix.order, "carrier": kit.carrier.name}
        looked = catalog_step("amalgam.look", rules, told, after=[triturated.id, *last])
        steps += [triturated, looked]
        last = [looked.id]
        for portion in (one for one in mixing.portions if one.mix == mix.order):
            packing = packings[portion.zone]
            seconds = portion.seconds(rules)
            left_s = mixing.limits_s[mix.order - 1] - seconds
            window = _within(triturated, left_s, rules, is_late=mix.order in mixing.late)
            steps.append(_condense(zones[portion.zone], packing, portion, kit, seconds, last, window, rules))
            # The next mix is triturated while the last zone of this one is condensed.
            before, last = last, [steps[-1].id]
    is_late = len(mixing.mixes) in mixing.late
    window = _within(triturated, mixing.limits_s[-1] - over.seconds, rules, is_late=is_late)
    steps.append(_overfill(over, kit, zones, last, window, rules))
    for name in ("burnish", *(["ridge"] if site.bands else [])):
        steps.append(catalog_step(f"amalgam.{name}", rules, after=[steps[-1].id]))
    return steps


def _within(triturated: Step, seconds: float, rules: Rulebook, *, is_late: bool) -> list[Within]:
    """Return by when a step of a mix begins; of one that cannot be placed in time a check of its own tells."""
    if is_late:
        return []
    return [
        Within(
            step=triturated.id,
            seconds=max(seconds, 0.0),
            rule=rules.use("amalgam.working_s"),
            text="Mix to be condensed within",
            late="Too old: discard this mix, take a fresh capsule",
        )
    ]


def _mix(mix: Mix, count: int, after: Sequence[str], rules: Rulebook) -> Step:
    capsule = mix.capsule
    told = {
        "order": mix.order,
        "count": count,
        "name": capsule.name,
        "alloy_mg": capsule.alloy_mg,
        "trituration_s": capsule.trituration_s,
    }
    time: dict[str, Any] = {"seconds": capsule.trituration_s}
    if mix.at is None:
        time["seconds_rule"] = rules.use("amalgam.trituration_s")
    else:
        title = title_of_item(capsule.name, "trituration_s")
        path, value = f"stock[{mix.at}].trituration_s", capsule.trituration_s
        time["seconds_input"] = InputUse(path=path, title=title, value=value, unit="s", provenance="handbook")
    return catalog_step("amalgam.mix", rules, told, after=list(after), **time)


def _condense(
    zone: Zone,
    packing: Packing,
    portion: Portion,
    kit: Kit,
    seconds: float,
    after: Sequence[str],
    window: Sequence[Within],
    rules: Rulebook,
) -> Step:
    told = {
        "zone": zone.id,
        "part": f".{portion.first}" if portion.first > 1 else "",
        "name": zone.name,
        "layers": _which(portion, packing),
        "first": portion.first,
        "last": portion.first + portion.pieces - 1,
        "nib_mm": packing.nib_mm,
        "force_n": packing.force_n,
        "kilograms": packing.force_n / GRAVITY,
        "count": portion.thrusts,
        "how": "corners" if zone.id.endswith(".floor") else HOW.get(zone.id, "floor"),
        "carrier": kit.carrier.name,
        "filled": portion.loads,
        "loads": _counted(portion.loads, "load"),
    }
    return catalog_step(
        "amalgam.condense",
        rules,
        told,
        seconds=round(seconds, 1),
        seconds_rule=rules.use("amalgam.thrust_s"),
        after=list(after),
        within=list(window),
        increment=portion.zone + 1,
        rhythm=Rhythm(count=portion.thrusts, per_minute=60 / rules.value("amalgam.thrust_s")),
    )


def _which(portion: Portion, packing: Packing) -> str | None:
    """Return how it is told what of a zone is condensed; None for all of it."""
    if portion.pieces == portion.of:
        return None
    if portion.of > packing.layers:
        return "part"
    return "one" if portion.pieces == 1 else "several"


def _counted(count: int, what: str) -> str:
    return f"{count} {what}{'' if count == 1 else 's'}"


@dataclass(frozen=True)
class Overfill:
    """How a restoration is overfilled: with the largest nib that was used, over all of its ground."""

    nib_mm: float
    force_n: float
    count: int
    seconds: float


def overfill_of(
    cavity: Cavity, packings: Sequence[Packing], pressure_mpa: float, rules: Rulebook
) -> Overfill:
    """Return how a cavity is overfilled, at a pressure under the nib."""
    nib = max(packing.nib_mm for packing in packings)
    force = min(force_n(pressure_mpa, nib), rules.value("amalgam.hand_limit_n"))
    count = thrusts(float(cavity.filling.project().area()), nib, rules)
    seconds = count * rules.value("amalgam.thrust_s") + rules.value("amalgam.carry_s")
    return Overfill(nib, force, count, round(seconds, 1))


def _overfill(
    over: Overfill,
    kit: Kit,
    zones: Sequence[Zone],
    after: Sequence[str],
    window: Sequence[Within],
    rules: Rulebook,
) -> Step:
    told = {
        "overfill_mm": rules.value("amalgam.overfill_mm"),
        "nib_mm": over.nib_mm,
        "force_n": over.force_n,
        "count": over.count,
        "carrier": kit.carrier.name,
    }
    return catalog_step(
        "amalgam.overfill",
        rules,
        told,
        seconds=over.seconds,
        seconds_rule=rules.use("amalgam.thrust_s"),
        after=list(after),
        within=list(window),
        increment=len(zones),
        rhythm=Rhythm(count=over.count, per_minute=60 / rules.value("amalgam.thrust_s")),
    )
