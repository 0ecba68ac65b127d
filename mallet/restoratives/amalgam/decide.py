"""What was decided for amalgam, in words: what goes under it, how many mixes, which nibs; and what is wanted from stock."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence

from mallet.condensing.nibs import Packing
from mallet.restoratives.amalgam.mixes import Mixing
from mallet.restoratives.amalgam.stock import Kit, asked_of
from mallet.rulebook import Rulebook
from mallet.stages.site import Site
from mallet.terms.case import Case
from mallet.terms.pieces import Reason
from mallet.terms.plan import Check, Decision, Want
from mallet.terms.reasons import say

UNDER = {"varnish": "varnish", "sealer": "dentin sealer", "nothing": "nothing"}


def pressure_of(kit: Kit) -> str:
    """Return the rule of the pressure that an alloy wants under the nib."""
    return "amalgam.pressure_spherical_mpa" if kit.is_spherical else "amalgam.pressure_mpa"


def zones_told(zones: int) -> str:
    """Return how many zones, in words."""
    return f"{zones} zone{'s' if zones > 1 else ''}"


def mixes_told(mixing: Mixing) -> str:
    """Return how many mixes, in words."""
    count = len(mixing.mixes)
    return f"{count} mix{'es' if count > 1 else ''}"


def under_it(case: Case) -> Decision:
    """Return what goes on dentin before the amalgam."""
    asked = asked_of(case).under
    why = {
        "varnish": say("amalgam.varnish"),
        "sealer": say("amalgam.sealer"),
        "nothing": say("amalgam.bare"),
    }
    return Decision(
        topic="bond.under",
        chosen=UNDER[asked],
        alternatives=[name for way, name in UNDER.items() if way != asked],
        reasons=[why[asked]],
    )


def mixes_of(site: Site, kit: Kit, mixing: Mixing) -> Decision:
    """Return how many capsules of which size are opened, and why."""
    rules, capsule = site.rules, kit.capsules[0][1]
    named = asked_of(site.case).capsule
    if named:
        why = say("amalgam.named", name=named)
    elif kit.is_from_stock:
        why = say("amalgam.from_stock", name=", ".join(one.name for _, one in kit.capsules))
    else:
        why = say("amalgam.handbook", alloy_mg=capsule.alloy_mg, share=capsule.mercury_share)
    volume = site.cavity.filling.volume()
    reasons: list[Reason] = [
        why,
        say("amalgam.need", volume=volume, need=mixing.need_mm3, given=mixing.volume_mm3),
    ]
    if site.case.pairs_of_hands == "one":
        saved = sum(mix.capsule.trituration_s for mix in mixing.mixes)
        reasons.append(say("amalgam.one_hand", saved=saved))
    spare = rules.use("amalgam.spare_share")
    if mixing.volume_mm3 < mixing.need_mm3 * (1 + spare.value):
        reasons.append(say("amalgam.spare"))
    sizes = Counter(mix.capsule.alloy_mg for mix in mixing.mixes)
    told = " and ".join(f"{count} of {mg:g} mg" for mg, count in sorted(sizes.items(), reverse=True))
    return Decision(
        topic="build.mixes",
        chosen=f"{mixes_told(mixing)}: {told}",
        alternatives=[],
        reasons=reasons,
        rules=[*rules.uses("amalgam.surplus_share", "amalgam.density_mg_mm3"), spare],
    )


def nibs_of(kit: Kit, packings: Sequence[Packing], rules: Rulebook) -> Decision:
    """Return which nibs condense it."""
    nibs = sorted({packing.nib_mm for packing in packings})
    told = ", ".join(f"{nib:g}" for nib in nibs)
    return Decision(
        topic="build.condensation",
        chosen=f"nibs of {told} mm",
        alternatives=[],
        reasons=[say("amalgam.spherical" if kit.is_spherical else "amalgam.small_first")],
        rules=rules.uses(pressure_of(kit)),
    )


def in_time(mixing: Mixing, rules: Rulebook) -> list[Check]:
    """Return whether each mix can be placed before it is too old; one check for the slowest."""
    at = max(range(len(mixing.mixes)), key=lambda i: mixing.placing_s[i] - mixing.limits_s[i])
    order, placing, limit = mixing.mixes[at].order, mixing.placing_s[at], mixing.limits_s[at]
    return [
        Check(
            topic="build.mix_in_time",
            title=f"Mix {order} placed in time",
            measured=round(placing),
            needed=limit,
            relation="at_most",
            unit="s",
            verdict="pass" if not mixing.late else "fail",
            remedy="Open smaller capsules, or have help: what is older than that does not bond to itself.",
            where="from the end of trituration",
            rules=rules.uses("amalgam.working_s", "amalgam.carry_s", "amalgam.thrust_s"),
        )
    ]


def wants_of(case: Case, mixing: Mixing) -> list[Want]:
    """Return the capsules wanted from stock, where the practice keeps any."""
    if not case.stock:
        return []
    found = []
    for (name, lot, is_known), count in Counter(
        (mix.capsule.name, mix.capsule.lot, mix.at is not None) for mix in mixing.mixes
    ).items():
        text = f"amalgam capsule, {count}"
        found.append(Want(kind="capsule", text=text, name=name if is_known else None, lot=lot))
    return found


def varnish_of(case: Case, kit: Kit) -> list[Want]:
    """Return the varnish wanted from stock, where the practice keeps any."""
    if not case.stock or asked_of(case).under != "varnish":
        return []
    known = kit.varnish in case.stock
    lot = kit.varnish.lot if known else None
    return [Want(kind="varnish", text="cavity varnish", name=kit.varnish.name if known else None, lot=lot)]
