"""What a band and its wedge are held against."""

from __future__ import annotations

from mallet.cavity.band import Band, Wedge
from mallet.cavity.preparation import Cavity
from mallet.rulebook import Rulebook
from mallet.terms.plan import Check


def matrix_checks(cavity: Cavity, band: Band, rules: Rulebook) -> list[Check]:
    """Return the checks of one band and its wedge."""
    where = f"{band.side} box"
    reach = band.bottom_mm + band.height_mm
    ridge = band.beside.ridge_mm if band.beside else cavity.crown.ridge_mm(band.side)
    checks = [
        Check(
            topic=f"band.{band.side}",
            title=f"Band {band.height_mm:.1f} mm reaches the ridge",
            measured=round(reach - ridge, 2),
            needed=0.0,
            relation="at_least",
            unit="mm",
            verdict="pass" if reach >= ridge - 1e-6 else "fail",
            remedy="Take the next higher band.",
            where=where,
            rules=rules.uses(
                "matrix.beyond_margin_mm",
                "matrix.above_ridge_mm",
                *([] if band.item else ["matrix.band_step_mm"]),
            ),
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
            title=f"Wedge {wedge.width_mm:.1f} mm for a gap of {wedge.gap_mm:.1f} mm",
            measured=round(wedge.width_mm, 2),
            needed=widest,
            relation="at_most",
            unit="mm",
            verdict="pass" if wedge.width_mm <= widest + 1e-9 else "caution",
            remedy="Two wedges from both sides, or a contoured circumferential band.",
            where=where,
            rules=rules.uses(
                "matrix.rebound_mm",
                "matrix.widest_wedge_mm",
                *([] if wedge.item else ["matrix.wedge_step_mm"]),
            ),
        ),
        _rebound(band, wedge, rules),
        Check(
            topic=f"wedge_top.{band.side}",
            title="Wedge stays below the contact",
            measured=round(top, 2),
            needed=round(contact, 2),
            relation="at_most",
            unit="mm",
            verdict="pass" if top <= contact else "caution",
            remedy="A lower wedge: this one would push the band in at the contact.",
            where=where,
            rules=rules.uses() if wedge.item else rules.uses("matrix.wedge_height_share"),
        ),
    ]


def _rebound(band: Band, wedge: Wedge, rules: Rulebook) -> Check:
    """Return by how much the teeth spring back into the band's place and beyond: what presses at the contact."""
    rebound = wedge.width_mm - wedge.gap_mm - band.thickness_mm
    tight = rules.value("matrix.tight_rebound_mm")
    least = rules.value("matrix.rebound_mm")
    if rebound < least - 1e-9:
        return Check(
            topic=f"contact.{band.side}",
            title="Contact once the band is off",
            measured=round(rebound, 2),
            needed=least,
            relation="at_least",
            unit="mm overlap",
            verdict="caution",
            remedy="Take the next wider wedge: the contact may stay open.",
            where=f"{band.side} contact",
            rules=rules.uses("matrix.rebound_mm"),
        )
    return Check(
        topic=f"contact.{band.side}",
        title="Contact once the band is off",
        measured=round(rebound, 2),
        needed=tight,
        relation="at_most",
        unit="mm overlap",
        verdict="pass" if rebound <= tight + 1e-9 else "caution",
        remedy="Take a narrower wedge; else contact saw, waxed floss, then strip: it may be too tight for floss.",
        where=f"{band.side} contact",
        rules=rules.uses("matrix.rebound_mm", "matrix.tight_rebound_mm"),
    )
