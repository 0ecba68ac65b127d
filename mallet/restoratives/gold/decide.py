"""What was decided for direct gold, in words: varnish and bevel, pellets, heat, mallet; and what is wanted from stock."""

from __future__ import annotations

from collections.abc import Sequence

from mallet.restoratives.gold.pellets import Pellets
from mallet.restoratives.gold.stock import IN_BULK, Kit, Piece, asked_of
from mallet.rulebook import Rulebook
from mallet.terms.case import Case
from mallet.terms.plan import Caution, Decision, Want
from mallet.terms.reasons import say, warn

PRACTICE = "Common practice, no source"
HEAT = {
    "flame": "flame, pellet by pellet",
    "electric_low": "electric, 340 to 370 \u00b0C",
    "electric_high": "electric, 454 \u00b0C",
}
MALLET = {"hand": "by hand, the assistant taps", "pneumatic": "pneumatic", "electric": "electric"}


def in_order(pellets: Pellets) -> list[tuple[str, int]]:
    """Return how many of each size, the first placed first."""
    return list(pellets.by_size.items())


def order_of(case: Case) -> Decision:
    """Return which comes first, varnish or bevel."""
    ways = {"after_varnish": "varnish, then the bevel", "before_varnish": "bevel, then the varnish"}
    asked = asked_of(case).bevel
    return Decision(
        topic="bond.order",
        chosen=ways[asked],
        alternatives=[name for way, name in ways.items() if way != asked],
        reasons=[say("gold.bevel_last" if asked == "after_varnish" else "gold.bevel_first")],
    )


def bevel_first(case: Case) -> list[Caution]:
    """Return what a bevel cut before the varnish asks for."""
    return (
        [warn("caution", "gold.varnished_bevel", PRACTICE)]
        if asked_of(case).bevel == "before_varnish"
        else []
    )


def gold_of(case: Case, kit: Kit, pellets: Sequence[Pellets], rules: Rulebook) -> Decision:
    """Return which pellets of which gold, and why."""
    told = ", then ".join(f"{count} of {name}" for one in pellets for name, count in in_order(one))
    by_itself = say("gold.handbook") if kit.pieces[0].at is None else say("gold.from_stock")
    reasons = [say("gold.named") if asked_of(case).gold else by_itself]
    if kit.is_covered:
        reasons.append(say("gold.covered", mm=rules.value("gold.cover_mm"), form=kit.form))
    return Decision(
        topic="build.pellets",
        chosen=told,
        alternatives=[],
        reasons=reasons,
        rules=rules.uses("gold.surplus_share", "gold.spread_share", *kit.rules),
    )


def heat_of(case: Case, rules: Rulebook) -> Decision:
    """Return how gold is cleaned."""
    asked = asked_of(case).heat
    used = (
        ["gold.heat_flame_s", "gold.clean_flame_s"]
        if asked == "flame"
        else [IN_BULK[asked], "gold.clean_bulk_s"]
    )
    return Decision(
        topic="build.heat",
        chosen=HEAT[asked],
        alternatives=[name for way, name in HEAT.items() if way != asked],
        reasons=[say("gold.heat_flame" if asked == "flame" else "gold.heat_bulk"), say("gold.heat_too")],
        rules=rules.uses(*used),
    )


def mallet_of(case: Case) -> Decision:
    """Return how it is condensed."""
    asked = asked_of(case).mallet
    return Decision(
        topic="build.mallet",
        chosen=MALLET[asked],
        alternatives=[name for way, name in MALLET.items() if way != asked],
        reasons=[say("gold.mallet")],
    )


def by_hand(case: Case) -> list[Caution]:
    """Return that a hand mallet wants another hand, and what a flame is kept away from."""
    asked, found = asked_of(case), []
    if asked.mallet == "hand" and case.pairs_of_hands == "one":
        found.append(warn("caution", "gold.alone", PRACTICE))
    if asked.heat == "flame":
        found.append(warn("note", "gold.flame", PRACTICE))
    return found


def wants_of(case: Case, kit: Kit, pellets: Sequence[Pellets]) -> list[Want]:
    """Return the gold and the tools wanted from stock, where the practice keeps any."""
    if not case.stock:
        return []
    counted: dict[str, tuple[Piece, int]] = {}
    for piece in (piece for one in pellets for piece in one.order):
        counted[piece.name] = (piece, counted.get(piece.name, (piece, 0))[1] + 1)
    found = [
        Want(
            kind="gold",
            text=f"{piece.form}, {count} pellets",
            name=None if piece.at is None else name,
            lot=piece.lot,
        )
        for name, (piece, count) in counted.items()
    ]
    asked = asked_of(case)
    found.append(Want(kind="mallet", text=f"{asked.mallet} mallet", name=kit.mallet))
    found.append(
        Want(
            kind="annealer",
            text="alcohol burner" if asked.heat == "flame" else "electric annealer",
            name=kit.annealer,
        )
    )
    return found


def varnish_of(case: Case, kit: Kit) -> list[Want]:
    """Return the varnish wanted from stock, where the practice keeps any."""
    if not case.stock:
        return []
    is_known = kit.varnish in case.stock
    name, lot = (kit.varnish.name, kit.varnish.lot) if is_known else (None, None)
    return [Want(kind="varnish", text="cavity varnish", name=name, lot=lot)]
