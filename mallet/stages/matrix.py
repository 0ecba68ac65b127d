"""Matrix and wedge: a band that spans from below the margin to the ridge, and what closes it."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

from mallet.cavity.band import band_solid
from mallet.cavity.neighbours import Beside
from mallet.cavity.preparation import Cavity, Tool
from mallet.cavity.solids import Tagged
from mallet.rulebook import Rulebook
from mallet.terms.case import Side
from mallet.terms.plan import Check, Decision, Reason, StageResult, Step, StepCheck
from mallet.terms.reasons import say
from mallet.tooth import loft_crown

BandKind = Literal["sectional", "clear", "circumferential"]
NAMES = {
    "sectional": "sectional metal band with separating ring",
    "clear": "clear anatomical band",
    "circumferential": "retainer-held circumferential band",
}


@dataclass(frozen=True)
class Wedge:
    """A wedge at the gingival margin; widths and heights in mm."""

    width_mm: float
    height_mm: float
    gap_mm: float
    separation_mm: float
    base_mm: float


@dataclass(frozen=True)
class Band:
    """A band over one box, as it stands: from bottom to top in the tooth's frame."""

    side: Side
    kind: BandKind
    bottom_mm: float
    top_mm: float
    height_mm: float
    thickness_mm: float
    solid: Tagged
    wedge: Wedge | None
    beside: Beside | None

    @property
    def is_metal(self) -> bool:
        return self.kind != "clear"


def fit_matrix(cavity: Cavity, neighbours: list[Beside], rules: Rulebook) -> tuple[list[Band], StageResult]:
    """Return a band for each box, with its wedge, and what the plan says of them."""
    bands, decisions, checks, steps = [], [], [], []
    for box in cavity.boxes:
        beside = next((n for n in neighbours if n.side == box.side), None)
        band, reasons = _band(cavity, box, beside, rules)
        bands.append(band)
        decisions.append(_decision(band, reasons))
        checks += _checks(cavity, band, rules)
        steps += _steps(band, rules)
    return bands, StageResult(decisions=decisions, checks=checks, steps=steps)


def _band(cavity: Cavity, box: Tool, beside: Beside | None, rules: Rulebook) -> tuple[Band, list[Reason]]:
    side: Side = box.side or "mesial"
    kind, reasons = _kind(side, beside)
    thickness = rules.value("matrix.clear_band_mm" if kind == "clear" else "matrix.sectional_band_mm")
    bottom = box.floor_mm - rules.value("matrix.beyond_margin_mm")
    own_ridge = cavity.crown.ridge_mm(side)
    ridge = beside.ridge_mm if beside else own_ridge
    wanted = max(ridge, own_ridge - 0.5) + rules.value("matrix.above_ridge_mm")
    step = rules.value("matrix.band_step_mm")
    height = math.ceil(round((wanted - bottom) / step, 6)) * step
    if beside:
        reasons.append(say("band.level", tooth=beside.tooth.iso))
    if kind != "clear":
        reasons.append(say("light.after_band"))
    barrel = loft_crown(cavity.tooth, rules, "barrel")
    solid = band_solid(barrel, side, bottom, wanted, thickness)
    wedge = _wedge(cavity, box, beside, thickness, rules)
    band = Band(side, kind, bottom, wanted, height, thickness, solid, wedge, beside)
    return band, reasons


def _kind(side: Side, beside: Beside | None) -> tuple[BandKind, list[Reason]]:
    if beside is None:
        return "circumferential", [say("band.no_neighbour", side=side)]
    if beside.given.rotated:
        return "clear", [say("band.rotated", tooth=beside.tooth.iso)]
    return "sectional", [say("band.sectional")]


def _wedge(
    cavity: Cavity, box: Tool, beside: Beside | None, thickness: float, rules: Rulebook
) -> Wedge | None:
    """Return the narrowest wedge on the shelf that fills the gap and parts the teeth."""
    if beside is None:
        return None
    gap = beside.gap_mm(cavity.crown, box.floor_mm)
    separation = thickness + rules.value("matrix.rebound_mm")
    step = rules.value("matrix.wedge_step_mm")
    width = math.ceil(round((gap + separation) / step, 6)) * step
    height = width * rules.value("matrix.wedge_height_share")
    return Wedge(width, height, gap, separation, box.floor_mm - 0.25 * height)


def _decision(band: Band, reasons: list[Reason]) -> Decision:
    if band.wedge:
        width = f", wedge {band.wedge.width_mm:.1f} mm"
        gap, parted = round(band.wedge.gap_mm, 2), round(band.wedge.separation_mm, 2)
        reasons = [*reasons, say("wedge.by_gap", gap_mm=gap, separation_mm=parted)]
    else:
        width = ", no wedge"
        reasons = [*reasons, say("wedge.none")]
    others = [NAMES[k] for k in ("sectional", "clear", "circumferential") if k != band.kind]
    chosen = f"{NAMES[band.kind]}, {band.height_mm:.1f} mm{width}"
    return Decision(topic=f"matrix.{band.side}", chosen=chosen, alternatives=others, reasons=reasons)


def _checks(cavity: Cavity, band: Band, rules: Rulebook) -> list[Check]:
    where = f"{band.side} box"
    reach = band.bottom_mm + band.height_mm
    ridge = band.beside.ridge_mm if band.beside else cavity.crown.ridge_mm(band.side)
    checks = [
        Check(
            topic=f"band.{band.side}",
            title=f"Band {band.height_mm:.1f} reaches the ridge",
            measured=round(reach - ridge, 2),
            needed=0.0,
            relation="at_least",
            unit="mm",
            verdict="pass" if reach >= ridge - 1e-6 else "fail",
            remedy="Take the next higher band.",
            where=where,
            rules=rules.uses("matrix.beyond_margin_mm", "matrix.above_ridge_mm", "matrix.band_step_mm"),
        )
    ]
    if band.wedge and band.beside:
        checks += _wedge_checks(cavity, band, band.wedge, rules)
    return checks


def _wedge_checks(cavity: Cavity, band: Band, wedge: Wedge, rules: Rulebook) -> list[Check]:
    where = f"{band.side} embrasure"
    contact = cavity.crown.contact_mm[band.side]
    top = wedge.base_mm + wedge.height_mm
    widest = rules.value("matrix.widest_wedge_mm")
    return [
        Check(
            topic=f"wedge.{band.side}",
            title=f"Wedge {wedge.width_mm:.1f} for a gap of {wedge.gap_mm:.1f}",
            measured=round(wedge.width_mm, 2),
            needed=widest,
            relation="at_most",
            unit="mm",
            verdict="pass" if wedge.width_mm <= widest + 1e-9 else "caution",
            remedy="Two wedges from both sides, or a contoured circumferential band.",
            where=where,
            rules=rules.uses("matrix.wedge_step_mm", "matrix.rebound_mm", "matrix.widest_wedge_mm"),
        ),
        Check(
            topic=f"wedge_top.{band.side}",
            title="Wedge stays below the contact",
            measured=round(top, 2),
            needed=round(contact, 2),
            relation="at_most",
            unit="mm",
            verdict="pass" if top <= contact else "caution",
            remedy="A lower wedge: this one would press the band in at the contact.",
            where=where,
            rules=rules.uses("matrix.wedge_height_share"),
        ),
    ]


def _steps(band: Band, rules: Rulebook) -> list[Step]:
    side = band.side
    tray = [f"{NAMES[band.kind]} {band.height_mm:.1f} mm", "burnisher", "cotton forceps"]
    place = Step(
        id=f"matrix.{side}.band",
        stage="matrix",
        title=f"Place the {side} band",
        detail=(
            f"{NAMES[band.kind].capitalize()}, {band.height_mm:.1f} mm: {_beyond(rules)} mm past the"
            " gingival margin, upper edge at the ridge. Burnish it against the contact."
        ),
        actor="dentist",
        seconds=rules.value("chair.band_s"),
        seconds_rule=rules.use("chair.band_s"),
        tray=tray,
        after=["prepare.verify"],
    )
    if not band.wedge:
        return [place, _seal(band, rules, place.id)]
    ring = ", separating ring" if band.kind == "sectional" else ""
    wedge = Step(
        id=f"matrix.{side}.wedge",
        stage="matrix",
        title=f"Wedge the {side} embrasure",
        detail=(
            f"Wedge {band.wedge.width_mm:.1f} mm{ring}. Hold the band while wedging."
            " If it slides in without resistance, take the next size."
        ),
        actor="dentist",
        seconds=rules.value("chair.wedge_s"),
        seconds_rule=rules.use("chair.wedge_s"),
        tray=[f"wedge {band.wedge.width_mm:.1f} mm", *(["ring forceps", "ring"] if ring else [])],
        after=[place.id],
        check=StepCheck(
            question="Did the wedge meet resistance?",
            remedy=f"Take the next size, {band.wedge.width_mm + rules.value('matrix.wedge_step_mm'):.1f} mm.",
            back_to=f"matrix.{side}.wedge",
        ),
    )
    return [place, wedge, _seal(band, rules, wedge.id)]


def _seal(band: Band, rules: Rulebook, after: str) -> Step:
    return Step(
        id=f"matrix.{band.side}.seal",
        stage="matrix",
        title=f"Test the {band.side} seal",
        detail="Dry, look and run the probe along the gingival margin.",
        actor="dentist",
        seconds=rules.value("chair.seal_test_s"),
        seconds_rule=rules.use("chair.seal_test_s"),
        tray=["probe", "air syringe"],
        after=[after],
        check=StepCheck(
            question="No fluid comes through and the probe finds no step?",
            remedy="Next wedge size, or seat the band again.",
            back_to=f"matrix.{band.side}.wedge" if band.wedge else f"matrix.{band.side}.band",
        ),
    )


def _beyond(rules: Rulebook) -> str:
    return f"{rules.value('matrix.beyond_margin_mm'):g}"
