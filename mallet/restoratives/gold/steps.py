"""What the hands do with direct gold: heat it, step it zone by zone, pellet by pellet."""

from __future__ import annotations

from collections.abc import Sequence

from mallet.restoratives.gold.passes import Stepping
from mallet.restoratives.gold.stock import IN_BULK, Kit, asked_of
from mallet.restoratives.gold.zones import Zone
from mallet.rulebook import Rulebook
from mallet.rulebook.steps import catalog_step
from mallet.stages.site import Site
from mallet.terms.plan import Pieces, Rhythm, Step, Within

HOW = {
    "floor": "start",
    "point": "start",
    "walls": "walls",
    "axial": "axial",
    "middle": "middle",
    "contour": "contour",
}
LOCKED = "point"


def heating(site: Site, kit: Kit, count: int) -> list[Step]:
    """Return the step that cleans all gold at once; in the flame each pellet is cleaned as it is wanted."""
    asked, rules = asked_of(site.case), site.rules
    if asked.heat == "flame":
        return []
    use = rules.use(IN_BULK[asked.heat])
    told = {"program": asked.heat, "count": count, "name": kit.pieces[0].name}
    fields = {"seconds": use.value, "seconds_rule": use, "after": ["prepare.enter"]}
    return [catalog_step("gold.heat", rules, told, **fields)]


def stepping(
    site: Site, kit: Kit, zones: Sequence[Zone], packed: Sequence[Stepping], heated: Sequence[Step]
) -> list[Step]:
    """Return a step for each zone that takes any gold, in order."""
    rules = site.rules
    steps: list[Step] = []
    last = [*site.ready, "prepare.verify", *(step.id for step in heated)]
    count = sum(len(one.pellets) for one in packed)
    done, in_flame = 0, not heated
    for order, (zone, one) in enumerate(zip(zones, packed, strict=True), 1):
        if one.pellets:
            pieces = Pieces(
                name="pellet",
                first=done + 1,
                count=len(one.pellets),
                of=count,
                passes=one.passes,
                strokes=one.steps_a_pass,
                heat_s=rules.value("gold.heat_flame_s") if in_flame else None,
                clean_s=rules.value("gold.clean_flame_s") if in_flame else None,
            )
            within = _within(heated, rules) if not steps else []
            steps.append(_step(site, kit, zone, one, pieces, order, [*last], within))
            last = [steps[-1].id]
            done += len(one.pellets)
    return steps


def _within(heated: Sequence[Step], rules: Rulebook) -> list[Within]:
    """Return by when gold that was heated in bulk is begun with."""
    use = rules.use("gold.clean_bulk_s")
    return [
        Within(step=step.id, seconds=use.value, rule=use, text="Gold clean for", late="Heat it again")
        for step in heated
    ]


def _step(
    site: Site,
    kit: Kit,
    zone: Zone,
    one: Stepping,
    pieces: Pieces,
    order: int,
    after: Sequence[str],
    within: Sequence[Within],
) -> Step:
    case, rules, asked = site.case, site.rules, asked_of(site.case)
    is_locked = zone.id == LOCKED
    told = {
        "zone": zone.id,
        "name": zone.name,
        "doing": HOW[zone.id],
        "pieces": _counted(pieces),
        "heat": asked.heat == "flame",
        "clean_s": rules.value("gold.clean_flame_s"),
        "nib_mm": one.nib_mm,
        "force_n": one.force_n,
        "line": zone.line,
        "passes": one.passes,
        "how": HOW[zone.id],
        "mallet": asked.mallet,
        "product": one.pellets[0].name,
        "first": "build.floor.step",
    }
    taps = asked.mallet == "hand" and case.pairs_of_hands == "two"
    return catalog_step(
        "gold.step_locked" if is_locked else "gold.step",
        rules,
        told,
        seconds=round(one.seconds, 1),
        seconds_rule=rules.use("gold.step_s"),
        actor="both" if taps or asked.heat == "flame" else "dentist",
        after=list(after),
        within=list(within),
        increment=order,
        rhythm=Rhythm(count=one.strokes, per_minute=60 / rules.value("gold.step_s"), pieces=pieces),
    )


def _counted(pieces: Pieces) -> str:
    last = pieces.first + pieces.count - 1
    of = f" of about {pieces.of}. "
    return f"Pellet {last}{of}" if pieces.count == 1 else f"Pellets {pieces.first} to {last}{of}"
