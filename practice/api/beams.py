"""A curing light's beam as it is told: what was read, what it must give, how long it takes by distance, what is to be minded."""

from __future__ import annotations

from ninja import Schema

from mallet.light.beam import Beam
from mallet.light.upkeep import DISTANCES_MM, Wanted, safety_of, seconds_table
from mallet.rulebook import Rulebook
from mallet.terms.pieces import RuleUse
from practice.equipment.models import Light
from practice.equipment.services import masses_of

CURVE_MM = [0.5 * i for i in range(25)]


class ResidualOut(Schema):
    """A reading of the newest day beside the fitted beam; `off` is the share that it lies above."""

    distance_mm: float
    measured_mw_cm2: float
    fitted_mw_cm2: float
    off: float


class PointOut(Schema):
    distance_mm: float
    irradiance_mw_cm2: float


class WantedOut(Schema):
    contact_mw_cm2: float
    mass: str | None
    rules: list[RuleUse]


class RowOut(Schema):
    mass: str
    depth_mm: float
    seconds: list[float | None]


class TableOut(Schema):
    """Seconds by composite and by the distance from tip to surface; None where one exposure is not enough."""

    distances_mm: list[float]
    rows: list[RowOut]
    rules: list[RuleUse]


class SafetyOut(Schema):
    """Seconds a day that an eye may look without a shield, and the least rise of the pulp's temperature under one long
    exposure in contact with a bare floor, heat running off on all sides."""

    direct_s: float
    reflected_s: float
    eye_rules: list[RuleUse]
    exposure_s: float
    dentin_mm: float
    warms_k: float
    careful_from_k: float
    heat_rules: list[RuleUse]


class BeamOut(Schema):
    contact_mw_cm2: float
    exponent: float
    residuals: list[ResidualOut]
    curve: list[PointOut]
    wanted: WantedOut
    table: TableOut
    safety: SafetyOut


def beam_out(light: Light, beam: Beam, wanted: Wanted, rules: Rulebook) -> BeamOut:
    """Return a curing light's beam with what it must give."""
    rows = seconds_table(beam, masses_of(light.practice), light.time_steps_s, rules)
    return BeamOut(
        contact_mw_cm2=beam.contact_mw_cm2,
        exponent=beam.exponent,
        residuals=[
            ResidualOut(**vars(r), off=r.measured_mw_cm2 / r.fitted_mw_cm2 - 1) for r in beam.residuals
        ],
        curve=[PointOut(distance_mm=z, irradiance_mw_cm2=beam.on_axis_mw_cm2(z)) for z in CURVE_MM],
        wanted=WantedOut(
            contact_mw_cm2=wanted.contact_mw_cm2,
            mass=wanted.mass,
            rules=rules.uses(
                "light.minimum_output_mw_cm2",
                "light.deep_floor_mm",
                "light.longest_exposure_s",
                "light.conversion_factor",
            ),
        ),
        table=TableOut(
            distances_mm=list(DISTANCES_MM),
            rows=[RowOut(mass=r.mass, depth_mm=r.depth_mm, seconds=list(r.seconds)) for r in rows],
            rules=rules.uses(
                "light.conversion_factor",
                "light.least_exposure_s",
                "light.longest_exposure_s",
                "light.irradiance_cap_mw_cm2",
            ),
        ),
        safety=_safety(light, beam, rules),
    )


def _safety(light: Light, beam: Beam, rules: Rulebook) -> SafetyOut:
    eye = ["light.eye_dose_j_m2_sr", "light.dentin_absorbed_share"]
    return SafetyOut(
        **vars(safety_of(beam, light.peak_nm, rules)),
        careful_from_k=rules.value("light.pulp_rise_k"),
        eye_rules=rules.uses(*eye, *([] if light.peak_nm else ["light.peak_nm"])),
        heat_rules=rules.uses(
            "light.pulp_rise_k",
            "light.longest_exposure_s",
            "light.dentin_absorbed_share",
            "light.dentin_conductivity_w_mk",
            "light.dentin_diffusivity_mm2_s",
        ),
    )
