"""Matrix and wedge: a band that spans from below the margin to the ridge, and what closes it."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

from mallet.cavity.band import COLUMNS_EACH_WAY, HALF_ROUND, Band, BandKind, Wedge, band_solid
from mallet.cavity.neighbours import Beside
from mallet.cavity.preparation import Cavity
from mallet.cavity.tool import Tool
from mallet.rulebook import Rulebook
from mallet.rulebook.steps import catalog_step
from mallet.stages.adjacent import adjacent
from mallet.stages.matrix_checks import matrix_checks
from mallet.stages.matrix_round import copper_decision, copper_steps
from mallet.stages.matrix_steps import BANDS, NAMES, place, wedged
from mallet.stages.matrix_stock import nearest_first, take_band, take_wedge
from mallet.terms.case import Case
from mallet.terms.parts import Side
from mallet.terms.pieces import Reason
from mallet.terms.plan import Caution, Decision, Miss, StageResult, Step, Want
from mallet.terms.reasons import say, warn_by
from mallet.terms.stock import MatrixBand, Ring, StockItem, WedgeItem
from mallet.tooth import loft_crown

PRACTICE = "Common practice, no source"
# How much of a wedge stands below the gingival floor.
BELOW_FLOOR_SHARE = 0.25
USUAL_MM = {"clear": "matrix.clear_band_mm", "copper": "matrix.copper_band_mm"}


def fit_matrix(
    case: Case,
    cavity: Cavity,
    neighbours: list[Beside],
    after: Sequence[str],
    rules: Rulebook,
) -> tuple[list[Band], StageResult]:
    """Return a band for each opening beside the tooth, with its wedge, and what the plan says of them; `after` are
    the steps that must be done before a band stands. A copper band goes all round: each side has its half.

    Bands and wedges are those in stock; where none there would do, sizes go by the usual steps.
    """
    bands, decisions, checks, wants = [], [], [], []
    cautions: list[Caution] = []
    steps: list[Step] = []
    stock = case.stock
    asked = case.techniques.band
    sites = _sites(cavity, neighbours, asked, rules, is_condensed=case.restoration.is_condensed)
    for site in sites:
        beside = site.beside
        band, reasons, missed = _band(cavity, site, stock, rules, is_lit=not case.restoration.is_condensed)
        bands.append(band)
        decisions.append(_decision(band, [*reasons, *_from_stock(band, stock)], missed))
        checks += matrix_checks(cavity, band, rules)
        of_beside = adjacent(beside, after, rules) if beside else StageResult()
        cautions += of_beside.cautions
        checks += of_beside.checks
        ready = [s.id for s in of_beside.steps] or after
        steps += of_beside.steps
        placed = next((s.id for s in steps if s.id == band.placed_by), None)
        if band.kind == "copper":
            decisions += [] if placed else [copper_decision(case, rules)]
            steps += [] if placed else copper_steps(case, band.height_mm, ready, rules)
        elif not placed:
            steps.append(place(band, ready, rules))
        steps += wedged(band, band.placed_by, rules)
        wants += [want for want in _wants(band, stock, placed is not None) if want not in wants]
    # What is bonded is shaped by hand there.
    steps += _backed(cavity, bands, after, rules) if case.restoration.is_condensed else []
    cautions += _forces(bands, stock, rules)
    return bands, StageResult(decisions=decisions, checks=checks, steps=steps, wants=wants, cautions=cautions)


def _backed(cavity: Cavity, bands: Sequence[Band], after: Sequence[str], rules: Rulebook) -> list[Step]:
    """Return what closes boxes in a face: the band that goes round, backed there, or else a strip of its own."""
    placed = [band.placed_by for band in bands[:1]] or list(after)
    how = {"how": "band" if bands else "strip", "strip": not bands}
    faces = [one.where.partition(" ")[0] for one in cavity.features if one.kind == "face_box"]
    return [catalog_step("matrix.face_box", rules, {**how, "face": face}, after=placed) for face in faces]


def _openings(cavity: Cavity) -> list[Tool]:
    """Return what a band closes: boxes, the ends of tunnels, and a shoulder at either side."""
    if cavity.shoulder is None:
        ends = [replace(t, side=t.under, floor_mm=t.opens_mm) for t in cavity.tunnels]
        return [*cavity.boxes, *ends]
    lowest = cavity.shoulder.mouth[2]
    like = cavity.tools[0]
    openings = []
    sides: tuple[Side, ...] = ("mesial", "distal")
    for side in sides:
        box = cavity.box(side)
        floor = min(lowest, box.floor_mm) if box else lowest
        openings.append(replace(box or like, side=side, floor_mm=floor))
    return openings


@dataclass(frozen=True)
class _Site:
    """An opening that a band closes, with the tooth beside it: its kind of band and why, and from where to where that
    reaches; the cusps that are gone there."""

    box: Tool
    beside: Beside | None
    kind: BandKind
    reasons: list[Reason]
    bottom_mm: float
    top_mm: float
    span_mm: float
    gone: list[str]

    @property
    def side(self) -> Side:
        return self.box.side or "mesial"


def _may_be_another(cavity: Cavity, side: Side, beside: Beside | None) -> bool:
    """Tell whether another kind of band would stand at a side: not where only one goes round, or through a tunnel."""
    tunnel = any(one.under == side for one in cavity.tunnels)
    return not (cavity.shoulder or tunnel or beside is None or _gone_at(cavity, side))


def _sites(
    cavity: Cavity,
    neighbours: Sequence[Beside],
    asked: Literal["by_cavity", "sectional", "circumferential", "clear"],
    rules: Rulebook,
    *,
    is_condensed: bool,
) -> list[_Site]:
    """Return the openings with their kinds of band. What goes round the tooth is one band, as high as the higher side
    wants it."""
    openings = _openings(cavity)
    sites = []
    for box in openings:
        side: Side = box.side or "mesial"
        beside = next((n for n in neighbours if n.side == side), None)
        kind, reasons = _kind(cavity, side, beside, len(openings), is_condensed=is_condensed)
        yields = asked == "clear" and is_condensed
        if asked != "by_cavity" and asked != kind and not yields and _may_be_another(cavity, side, beside):
            kind, reasons = asked, [say("band.asked")]
        gone = _gone_at(cavity, side)
        own_ridge = cavity.crown.ridge_mm(side)
        built = [cavity.crown.cusps[cusp][2] for cusp in gone]
        ridge = beside.ridge_mm if beside else own_ridge
        top = max(ridge, own_ridge - 0.5, *built) + rules.value("matrix.above_ridge_mm")
        bottom = box.floor_mm - rules.value("matrix.beyond_margin_mm")
        sites.append(_Site(box, beside, kind, reasons, bottom, top, top - bottom, gone))
    if not any(site.kind == "circumferential" for site in sites):
        return sites
    span = max(site.top_mm for site in sites) - min(site.bottom_mm for site in sites)
    why = next(site.reasons for site in sites if site.kind == "circumferential")
    return [
        replace(
            site,
            kind="circumferential",
            span_mm=span,
            reasons=list(site.reasons if site.kind == "circumferential" else why),
        )
        for site in sites
    ]


def _band(
    cavity: Cavity, site: _Site, stock: Sequence[StockItem], rules: Rulebook, *, is_lit: bool
) -> tuple[Band, list[Reason], list[Miss]]:
    side, kind, beside, reasons = site.side, site.kind, site.beside, list(site.reasons)
    step = rules.value("matrix.band_step_mm")
    item, missed = take_band(stock, kind, site.span_mm)
    height = item.height_mm if item else math.ceil(round(site.span_mm / step, 6)) * step
    usual = rules.value(USUAL_MM.get(kind, "matrix.sectional_band_mm"))
    thickness = item.thickness_mm if item else usual
    if beside and not site.gone:
        reasons.append(say("band.level", tooth=beside.tooth.iso))
    if kind != "clear" and is_lit:
        reasons.append(say("light.after_band"))
    barrel = loft_crown(cavity.tooth, rules, "barrel")
    columns = HALF_ROUND if kind == "copper" else COLUMNS_EACH_WAY
    solid = band_solid(barrel, side, site.bottom_mm, site.top_mm, thickness, columns)
    wedge, too_small = _wedge(cavity, site.box, beside, thickness, stock, rules)
    too_small = too_small if wedge else []
    band = Band(side, kind, site.bottom_mm, site.top_mm, height, thickness, solid, wedge, beside, item)
    return band, reasons, nearest_first([*missed, *too_small])


def _kind(
    cavity: Cavity, side: Side, beside: Beside | None, openings: int, *, is_condensed: bool
) -> tuple[BandKind, list[Reason]]:
    if cavity.shoulder:
        return "copper", [say("band.copper")]
    if any(tunnel.under == side for tunnel in cavity.tunnels):
        return "clear", [say("band.tunnel")]
    if gone := _gone_at(cavity, side):
        return "circumferential", [say("band.cusp_covered", cusps=" and the ".join(gone))]
    if beside is None:
        return "circumferential", [say("band.no_neighbour", side=side)]
    if is_condensed:
        return "circumferential", [say("band.condensed")]
    if beside.given.rotated:
        return "clear", [say("band.rotated", tooth=beside.tooth.iso)]
    return "sectional", [say("band.sectional" if openings == 1 else "band.sectional_each")]


def _gone_at(cavity: Cavity, side: Side) -> list[str]:
    """Return the cusps that were taken down at a side of the tooth; of two in all, each stands at both."""
    return sorted(c for c in cavity.covered if c in ("facial", "lingual") or c[:4] == side[:4])


def _wedge(
    cavity: Cavity,
    box: Tool,
    beside: Beside | None,
    thickness: float,
    stock: Sequence[StockItem],
    rules: Rulebook,
) -> tuple[Wedge | None, list[Miss]]:
    """Return the narrowest wedge in stock that fills the gap and parts the teeth, and those that do not."""
    if beside is None:
        return None, []
    measured = beside.given.gap_mm
    gap = beside.gap_mm(cavity.crown, box.floor_mm) if measured is None else measured
    separation = thickness + rules.value("matrix.rebound_mm")
    step = rules.value("matrix.wedge_step_mm")
    least = rules.value("matrix.least_wedge_mm")
    usual = max(math.ceil(round((gap + separation) / step, 6)) * step, least)
    room = (cavity.crown.contact_mm[box.side or "mesial"] - box.floor_mm) / (1 - BELOW_FLOOR_SHARE)
    item, missed = take_wedge(stock, max(gap + separation, least), room)
    width = item.width_mm if item else usual
    if width - gap - thickness > rules.value("matrix.tight_rebound_mm") and gap + separation < least:
        # The narrowest that there is would force the teeth apart.
        return None, missed
    height = item.height_mm if item else width * rules.value("matrix.wedge_height_share")
    widths = [one.width_mm for one in stock if isinstance(one, WedgeItem)]
    wider = min((other for other in widths if other > width + 1e-9), default=width + step)
    base = box.floor_mm - BELOW_FLOOR_SHARE * height
    return Wedge(width, height, gap, separation, base, wider, item), missed


def _forces(bands: Sequence[Band], stock: Sequence[StockItem], rules: Rulebook) -> list[Caution]:
    """Return where ring and wedge part the teeth so strongly that the contact may be tight for floss."""
    ring, most = _ring(stock), rules.use("matrix.tight_force_n")
    found = []
    for band in bands:
        wedge = (band.wedge.item.force_n if band.wedge and band.wedge.item else None) or 0.0
        force = (ring.force_n if ring and band.has_ring else 0.0) + wedge
        if force > most.value:
            found.append(warn_by("caution", "matrix.strong", most, side=band.side, force_n=force))
    return found


def _ring(stock: Sequence[StockItem]) -> Ring | None:
    """Return the strongest ring in stock, whichever comes first there."""
    rings = [one for one in stock if isinstance(one, Ring)]
    return max(rings, key=lambda one: (one.force_n, one.name), default=None)


def _wants(band: Band, stock: Sequence[StockItem], is_placed: bool) -> list[Want]:
    wants = [] if is_placed else [_want("band", f"{BANDS[band.kind]}, {band.height_mm:.1f} mm", band.item)]
    if band.wedge:
        wants.append(_want("wedge", f"wedge, {band.wedge.width_mm:.1f} mm", band.wedge.item))
    if band.has_ring:
        wants.append(_want("ring", "separating ring", _ring(stock)))
    return wants


def _want(kind: str, text: str, item: MatrixBand | WedgeItem | Ring | None) -> Want:
    return Want(kind=kind, text=text, name=item.name if item else None, lot=item.lot if item else None)


def _from_stock(band: Band, stock: Sequence[StockItem]) -> list[Reason]:
    """Return what stock had to say: what was taken, and that nothing there would do."""
    if not stock:
        return []
    taken = [band.item, *([band.wedge.item] if band.wedge else [])]
    return [say("shelf.taken", name=item.name) if item else say("shelf.none") for item in taken]


def _decision(band: Band, reasons: list[Reason], missed: list[Miss]) -> Decision:
    if band.wedge:
        width = f", wedge {band.wedge.width_mm:.1f} mm"
        gap, parted = round(band.wedge.gap_mm, 2), round(band.wedge.separation_mm, 2)
        reasons = [*reasons, say("wedge.by_gap", gap_mm=gap, separation_mm=parted)]
    else:
        width = ", no wedge"
        reasons = [*reasons, say("wedge.too_narrow" if band.beside else "wedge.none")]
    others = [name for kind, name in NAMES.items() if kind != band.kind and kind != "copper"]
    chosen = f"{NAMES[band.kind]}, {band.height_mm:.1f} mm{width}"
    topic = f"matrix.{band.side}"
    return Decision(topic=topic, chosen=chosen, alternatives=others, reasons=reasons, missed=missed)
