"""The capsules that a restoration takes: how many, when each is mixed, and until when it can be worked."""

from __future__ import annotations

from collections.abc import Sequence

from mallet.stages.inputs import input_of, part_inputs
from mallet.stages.ionomer import Chosen, capsule_rules
from mallet.stages.site import Site
from mallet.terms.plan import Figure, InputUse


def package_inputs(site: Site, chosen: Chosen) -> list[InputUse]:
    """Return what the package in stock says of its times and volume."""
    if chosen.at is None:
        return []
    stocked = site.case.stock[chosen.at]
    return [
        input_of(site.case, f"stock[{chosen.at}].{name}", unit)
        for name, unit in (("working_s", "s"), ("set_s", "s"), ("volume_mm3", "mm3"), ("depth_mm", "mm"))
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
        rules=site.rules.uses("ionomer.surplus_share", *capsule_rules(chosen)),
        inputs=[*part_inputs(site.case), *package_inputs(site, chosen)],
        steps=list(steps),
    )
