"""What shaped a restoration comes off again, by its own kind."""

from __future__ import annotations

from collections.abc import Sequence

from mallet.cavity.band import Band
from mallet.rulebook import Rulebook
from mallet.stages.hand import hand_step
from mallet.stages.site import Site
from mallet.terms.plan import Step


def form_off(after: str, rules: Rulebook) -> Step:
    """Return how a crown form comes off."""
    return hand_step(
        id="matrix.form.off",
        title="Strip crown form off",
        detail="Slit it with a pointed probe on the lingual side and peel it off.",
        rule=rules.use("matrix.form_off_s"),
        tray=["pointed probe"],
        after=[after],
    )


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
    wedged = [one for one in bands if one.name == band.name and one.wedge]
    wedge = "Wedges out; " if len(wedged) > 1 else "Wedge out; " if wedged else ""
    if band.kind == "copper":
        title, how, rule, tray = (
            "Copper band off",
            "slit it on one side and peel it off.",
            "matrix.copper_off_s",
            ["bur, fissure"],
        )
    elif band.kind == "circumferential":
        title, how, rule, tray = (
            "Band off",
            "loosen the retainer, then draw the band sideways: the ridge stays.",
            "chair.band_off_s",
            [],
        )
    elif band.kind == "clear":
        title, how, rule, tray = (
            f"{band.side.capitalize()} band off",
            "loosen it, then draw it sideways: the ridge stays.",
            "chair.band_off_s",
            [],
        )
    else:
        ring = "ring off first. " if band.has_ring else ""
        wedge, how = (f"{ring}{wedge}".capitalize(), "then the band, sideways: the ridge stays.")
        title, rule, tray = (
            f"{band.side.capitalize()} band off",
            "chair.band_off_s",
            ["ring forceps"] if ring else [],
        )
    return hand_step(
        id=f"matrix.{band.name}.off",
        title=title,
        detail=(f"{wedge}{how}" if wedge else how.capitalize()),
        rule=rules.use(rule),
        tray=[*tray, "cotton forceps"],
        after=[after],
    )
