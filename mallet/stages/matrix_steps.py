"""What the hands do for a band and its wedge."""

from __future__ import annotations

from collections.abc import Sequence

from mallet.cavity.band import Band
from mallet.cavity.neighbours import Beside
from mallet.rulebook import Rulebook
from mallet.stages.hand import hand_step
from mallet.stages.matrix_round import COPPER
from mallet.terms.plan import Step, StepCheck

NAMES = {
    "sectional": "sectional metal band with separating ring",
    "clear": "clear anatomical band",
    "circumferential": "retainer-held circumferential band",
    "copper": COPPER,
}
BANDS = {**NAMES, "sectional": "sectional metal band"}
# Contacts of an adjacent tooth that no band lies against.
SMOOTHED = {"concave": "concave", "too_high": "too high"}


def neighbor_steps(beside: Beside, after: Sequence[str], rules: Rulebook) -> list[Step]:
    """Return the smoothing of an adjacent tooth that no band would lie against."""
    if beside.given.contact not in SMOOTHED:
        return []
    return [
        hand_step(
            id=f"matrix.{beside.side}.smooth",
            title=f"Smooth the contact of {beside.tooth.iso}",
            detail="Only with consent: it cannot be undone. Fine disc, then the finest; clean off what it leaves.",
            rule=rules.use("chair.smooth_s"),
            tray=["fine disc", "finest disc"],
            after=list(after),
            check=StepCheck(
                question="Has the patient agreed, and does the contact run out evenly?",
                remedy="No consent: leave it, and shape a clear band to it by hand.",
                back_to=f"matrix.{beside.side}.smooth",
            ),
        )
    ]


HOW = {
    "sectional": "Center and fold its tab. Burnish it against the contact.",
    "circumferential": "Contour and burnish it against the contacts.",
    "clear": "Hold it against the adjacent tooth; it is not burnished.",
}


def place(band: Band, after: Sequence[str], rules: Rulebook) -> Step:
    """Return how a band is placed."""
    what = "band" if band.name == "round" else f"{band.side} band"
    return hand_step(
        id=band.placed_by,
        title=f"Place the {what}",
        detail=(
            f"{BANDS[band.kind].capitalize()}, {band.height_mm:.1f} mm: {_beyond(rules)} mm past the"
            f" gingival margin, upper edge at the ridge. {HOW[band.kind]}"
        ),
        rule=rules.use("chair.band_s"),
        tray=[
            f"{BANDS[band.kind]} {band.height_mm:.1f} mm",
            *(["burnisher"] if band.is_metal else []),
            "cotton forceps",
        ],
        after=list(after),
    )


def wedged(band: Band, placed: str, rules: Rulebook) -> list[Step]:
    """Return the wedge of a band that was placed, and the test of its seal."""
    side = band.side
    if not band.wedge and not band.beside:
        return [_seal(band, rules, placed)]
    if not band.wedge:
        tie = hand_step(
            id=f"matrix.{side}.tie",
            title=f"Close the {side} band",
            detail="Too narrow for a wedge: ligature, cord or tape at the gingival margin, drawn tight.",
            rule=rules.use("chair.wedge_s"),
            tray=["ligature or tape"],
            after=[placed],
        )
        return [tie, _seal(band, rules, tie.id)]
    ring = " Then the ring, its legs clear of the band, pushed home." if band.has_ring else ""
    wedge = hand_step(
        id=f"matrix.{side}.wedge",
        title=f"Wedge the {side} embrasure",
        detail=f"Wedge {band.wedge.width_mm:.1f} mm. Hold the band while wedging.{ring}",
        rule=rules.use("chair.wedge_s"),
        tray=[f"wedge {band.wedge.width_mm:.1f} mm", *(["ring forceps", "ring"] if ring else [])],
        after=[placed],
        check=StepCheck(
            question="Did the wedge meet resistance?",
            remedy=f"Take the next size, {band.wedge.next_mm:.1f} mm.",
            back_to=f"matrix.{side}.wedge",
        ),
    )
    return [wedge, _seal(band, rules, wedge.id)]


def _seal(band: Band, rules: Rulebook, after: str) -> Step:
    return hand_step(
        id=f"matrix.{band.side}.seal",
        role="seal",
        title=f"Test the {band.side} seal",
        detail="Dry, look and run the probe along the gingival margin.",
        rule=rules.use("chair.seal_test_s"),
        tray=["probe", "air syringe"],
        after=[after],
        check=StepCheck(
            question="Does no fluid come through, and does the probe find no step?",
            remedy="Next wedge size, or seat the band again."
            if band.wedge
            else "Tighten it, or seat the band again.",
            back_to=f"matrix.{band.side}.wedge" if band.wedge else after,
        ),
    )


def _beyond(rules: Rulebook) -> str:
    return f"{rules.value('matrix.beyond_margin_mm'):g}"
