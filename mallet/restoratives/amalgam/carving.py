"""Carving by reference heights: where each rebuilt cusp, each rebuilt ridge and the groove are carved to."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from mallet.cavity.neighbours import Beside, neighbour_at
from mallet.restoratives.amalgam.form import CarvedMargin
from mallet.rulebook.steps import catalog_step
from mallet.stages.assess import carving_hint
from mallet.stages.heights import SIDES, End, Line, line_of, name_of
from mallet.stages.inputs import input_of
from mallet.stages.site import Site
from mallet.terms.case import Case
from mallet.terms.mouth import CuspHeight
from mallet.terms.pieces import Point
from mallet.terms.plan import Step, Target, Within

Floats = NDArray[np.float64]
HEIGHTS = "reference_heights"
TOO_HIGH = "Take it down before the patient closes: a high cusp breaks."


def carve(site: Site, last_mix: str, carved: CarvedMargin | None) -> Step:
    """Return how it is carved, with the heights to carve to; in time from the last mix's trituration.

    Raises InputError where a height is held against a line that there is not.
    """
    case, rules = site.case, site.rules
    cusps = case.covered_cusps
    time, each = rules.uses("amalgam.carve_s", "amalgam.carve_cusp_s")
    seconds = time.value + len(cusps) * each.value
    since, until = rules.uses("amalgam.carve_from_s", "amalgam.carve_until_s")
    shallower = carved.shallower_mm if carved else 0.0
    targets = targets_of(site, shallower)
    told = {
        "groove": shallower > 0,
        "shallower_mm": shallower,
        "cusps": bool(cusps),
        "short_mm": rules.value("amalgam.cusp_short_mm"),
        # What stands on the card is not told twice; all cusps in one figure do not stand there.
        "heights": carving_hint(case) if case.reference_heights.cusps_mm is not None else "",
        "embrasures": _embrasures(case),
    }
    late = "Late: sharp strokes from tooth to amalgam, or adjust it tomorrow"
    window = Within(
        step=last_mix, seconds=max(until.value - seconds, 0.0), rule=until, text="Carve within", late=late
    )
    return catalog_step(
        "amalgam.carve",
        rules,
        told,
        seconds=seconds,
        seconds_rule=time,
        within=[window],
        no_sooner=[Within(step=last_mix, seconds=since.value, rule=since)],
        targets=targets,
    )


def targets_of(site: Site, shallower_mm: float) -> list[Target]:
    """Return the heights to carve to: cusps against their lines, ridges against those beside them, the groove against the
    ridges, shallower where thin edges ask for it (mm)."""
    if site.cavity.shoulder:
        # A core is cut for its crown: it needs a stop, not its cusps' heights.
        return []
    beside: dict[str, Beside | None] = {
        side: neighbour_at(site.case, site.cavity, side, site.rules) for side in SIDES
    }
    tips = site.cavity.crown.cusps
    cusps = [
        _cusp(site, cusp, line, beside)
        for cusp in site.case.covered_cusps
        if cusp in tips
        and (line := line_of(site.case, cusp, site.rules))
        and _told(site.case, cusp).above_mm is not None
    ]
    ridges = [_ridge(site, side, one) for side in site.cavity.opened if (one := beside[side])]
    return [*cusps, *ridges, *_groove(site, shallower_mm)]


def _cusp(site: Site, cusp: str, line: Line, beside: dict[str, Beside | None]) -> Target:
    """Return what a cusp is carved to: as high against its line as before, less what keeps it from being hit first."""
    case, rules = site.case, site.rules
    short, off = rules.uses("amalgam.cusp_short_mm", "amalgam.height_off_mm")
    told, tip = _told(case, cusp), np.array(site.cavity.crown.cusps[cusp])
    ends = [_tip(site, end, beside) for end in line]
    line_mm = _height_over(ends, tip)
    path = f"{HEIGHTS}.by_cusp.{cusp}"
    above = input_of(case, f"{path}.above_mm", "mm")
    before = float(above.value)
    value = round(before - short.value, 2)
    named = {"value": name_of(line), **({} if told.line else {"provenance": "estimated"})}
    inside = "" if told.inside_mm is None else f", its tip {told.inside_mm:g} mm inside the adjacent faces"
    return Target(
        id=f"cusp.{cusp}",
        title=f"{cusp} cusp",
        detail=f"against {name_of(line)}{inside}",
        unit="mm",
        before=before,
        value=value,
        low=round(value - off.value, 2),
        high=before,
        under=f"Add while it yields, or accept it: over {off.value:g} mm lower than planned.",
        over=TOO_HIGH,
        place=Point(x=tip[0], y=tip[1], z=line_mm + value),
        ends=[Point(x=end[0], y=end[1], z=end[2]) for end in ends],
        rules=[short, off],
        inputs=[above, input_of(case, f"{path}.line", "").model_copy(update=named)],
    )


def _tip(site: Site, end: End, beside: dict[str, Beside | None]) -> Floats:
    if end.where == "own":
        return np.array(site.cavity.crown.cusps[end.cusp])
    tooth = beside[end.where]
    assert tooth is not None, "a line through a tooth that is missing is not offered"
    x, y, z = tooth.crown.cusps[end.cusp]
    return np.array([tooth.dx_mm + (-x if tooth.is_across else x), y, tooth.dz_mm + z])


def _height_over(ends: Sequence[Floats], tip: Floats) -> float:
    """Return the height of a line at the place nearest to a tip, seen from above (mm)."""
    start, end = ends
    along = (end - start)[:2]
    share = float((tip - start)[:2] @ along) / float(along @ along)
    return float(start[2] + share * (end[2] - start[2]))


def _told(case: Case, cusp: str) -> CuspHeight:
    told: CuspHeight = getattr(case.reference_heights.by_cusp, cusp)
    return told


def _ridge(site: Site, side: str, beside: Beside) -> Target:
    """Return what a rebuilt ridge is carved to: as it stood to the one beside it."""
    case, off = site.case, site.rules.use("amalgam.height_off_mm")
    path = f"{HEIGHTS}.{side}_ridge_mm"
    crown, given = site.cavity.crown, input_of(case, path, "mm")
    if given.value is None:
        level = -beside.given.ridge_offset_mm + 0.0
        given = given.model_copy(update={"value": level, "provenance": "estimated"})
    value = float(given.value)
    return Target(
        id=f"ridge.{side}",
        title=f"{side} ridge",
        detail="against the adjacent marginal ridge",
        unit="mm",
        before=value,
        value=value,
        low=round(value - off.value, 2),
        high=round(value + off.value, 2),
        under="Add while it yields, or accept it: a low ridge packs food.",
        over="Carve it down: a high ridge breaks at the first closure.",
        place=Point(x=crown.outer_x_mm(side, crown.rim_mm), y=0.0, z=beside.ridge_mm + value),
        rules=[off],
        inputs=[given],
    )


def _groove(site: Site, shallower_mm: float) -> list[Target]:
    heights = site.case.reference_heights
    if heights.groove_mm is None:
        return []
    off = site.rules.use("amalgam.height_off_mm")
    value = round(min(heights.groove_mm + shallower_mm, 0.0), 1)
    at = heights.groove_from_facial_mm
    return [
        Target(
            id="groove",
            title="central groove",
            detail="under the marginal ridges" + (f", {at:g} mm from the facial tips" if at else ""),
            unit="mm",
            before=heights.groove_mm,
            value=value,
            low=round(value - off.value, 2),
            high=round(value + off.value, 2),
            under="Look how thick the amalgam is left: the groove is deeper than planned.",
            over="Carve it deeper, unless the antagonist's cusp occludes there.",
            rules=[off],
            inputs=[input_of(site.case, f"{HEIGHTS}.groove_mm", "mm")],
        )
    ]


def _embrasures(case: Case) -> str:
    """Return in words which embrasures are to be other than before."""
    told = case.reference_heights.embrasures.model_dump().items()
    changed = [f"{name} {how}" for name, how in told if how != "as_before"]
    return f" Embrasures: {', '.join(changed)}." if changed else ""
