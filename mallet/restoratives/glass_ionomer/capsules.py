"""The capsules that a restoration takes: how many, when each is mixed, and until when it can be worked."""

from __future__ import annotations

from collections.abc import Sequence

from mallet.stages.inputs import input_of, part_inputs
from mallet.stages.ionomer import Chosen
from mallet.stages.site import Site
from mallet.terms.plan import Figure, InputUse, Step, Supply


def package_inputs(site: Site, chosen: Chosen) -> list[InputUse]:
    """Return what the package in stock says of its times and volume."""
    if chosen.at is None:
        return []
    stocked = site.case.stock[chosen.at]
    return [
        input_of(site.case, f"stock[{chosen.at}].{name}", unit)
        for name, unit in (("working_s", "s"), ("set_s", "s"), ("volume_mm3", "mm3"))
        if getattr(stocked, name) is not None
    ]


def capsules_figure(site: Site, chosen: Chosen, count: int, steps: Sequence[str]) -> Figure:
    """Return how many capsules are opened, for which steps."""
    volume = site.cavity.filling.volume()
    return Figure(
        id="capsules",
        title="Capsules",
        value=count,
        unit="",
        detail=f"{chosen.capsule_mm3:g} mm\u00b3 each, for {volume:.0f} mm\u00b3 and a surplus",
        how="The volume of the cavity with a surplus, over what one capsule gives; one is mixed at a time.",
        rules=site.rules.uses("ionomer.surplus_share", "ionomer.capsule_mm3"),
        inputs=[*part_inputs(site.case), *package_inputs(site, chosen)],
        steps=list(steps),
    )


def supplies_of(
    chosen: Chosen, steps: Sequence[Step], mixed: Sequence[tuple[str, Sequence[int]]]
) -> list[Supply]:
    """Return each capsule with when it is mixed, and until when it can be worked; `mixed` tells each by the step that mixes
    it and the increments that it is placed in."""
    ends = {step.id: step.end_s for step in steps}
    return [
        Supply(
            kind="capsule",
            name=chosen.item.name,
            lot=chosen.item.lot,
            count=1,
            starts_s=ends[step_id],
            expires_s=ends[step_id] + chosen.item.working_s,
            increments=list(orders),
        )
        for step_id, orders in mixed
    ]
