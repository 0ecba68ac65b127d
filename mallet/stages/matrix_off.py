"""What shaped a restoration comes off again, by its own kind."""

from __future__ import annotations

from collections.abc import Sequence

from mallet.cavity.band import Band
from mallet.rulebook import Rulebook
from mallet.rulebook.steps import catalog_step
from mallet.stages.site import Site
from mallet.terms.plan import Step


def form_off(after: str, rules: Rulebook) -> Step:
    """Return how a crown form comes off."""
    return catalog_step("matrix.form_off", rules, after=[after])


def shaping_off(site: Site, last: str) -> list[Step]:
    """Return how all that shaped a restoration comes off again, the first after a step."""
    steps: list[Step] = []

    def then(step: Step) -> None:
        steps.append(step.model_copy(update={"after": [steps[-1].id if steps else last]}))

    if site.cavity.stump:
        then(form_off(last, site.rules))
    for step in site.life.off if site.life else []:
        then(step)
    taken: set[str] = set()
    for band in site.bands:
        if band.name not in taken:
            taken.add(band.name)
            then(band_off(band, site.bands, last, site.rules))
    return steps


def band_off(band: Band, bands: Sequence[Band], after: str, rules: Rulebook) -> Step:
    """Return how a band comes off, by its kind: only what was placed is taken off."""
    same = [one for one in bands if one.name == band.name]
    wedged = sum(1 for one in same if one.wedge)
    told = {
        "name": band.name,
        "side": band.side,
        "ties": any(one.is_tied for one in same),
        "wedges": "several" if wedged > 1 else "one" if wedged else None,
        "ring": band.has_ring,
        "ring_forceps": band.has_ring,
    }
    return catalog_step(f"matrix.{band.kind}_off", rules, told, after=[after])
