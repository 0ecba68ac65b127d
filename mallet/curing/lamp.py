"""The curing light before anything is cured with it: strong enough, and safe for the eyes."""

from __future__ import annotations

from mallet.light.beam import Beam
from mallet.light.eye import direct_seconds, reflected_seconds
from mallet.rulebook import Rulebook
from mallet.terms.plan import Caution, Check, Decision, StageResult
from mallet.terms.reasons import refuse, say, warn, warn_by
from mallet.terms.restoration import FULL, FullOutput, Light, OutputMode, PulsedOutput, RampOutput

# Over which the day's dose is spread for what is looked at all day (ICNIRP 2013).
LONG_DAY_S = 10_000.0


def judge_lamp(beam: Beam, light: Light, rules: Rulebook) -> StageResult:
    """Return the checks of a curing light and what its mode costs; raise NotFeasible for one under the minimum
    output."""
    given = round(beam.contact_mw_cm2, 1)
    least = rules.value("light.minimum_output_mw_cm2")
    if given < least:
        nearest: dict[str, object] = {"light.output_mw_cm2": least}
        raise refuse("light.too_weak", nearest, given=given, needed=least)
    adequate = rules.value("light.adequate_output_mw_cm2")
    use = rules.use("light.adequate_output_mw_cm2")
    cautions = [_eye(beam, light.peak_nm or rules.value("light.peak_nm"), rules)]
    if beam.worst_residual > rules.value("light.residual_share"):
        residual, percent = rules.use("light.residual_share"), round(100 * beam.worst_residual)
        cautions.append(warn_by("caution", "light.residual", residual, percent=percent))
    if given < adequate:
        cautions.append(warn("caution", "light.weak", use.citation, given=given))
    check = Check(
        topic="lamp.output",
        title="Curing light at contact",
        measured=round(given),
        needed=least,
        relation="at_least",
        unit="mW/cm2",
        verdict="pass" if given >= adequate else "caution",
        remedy="Clean the tip, charge the battery, or take another curing light.",
        where="tip",
        rules=rules.uses("light.minimum_output_mw_cm2", "light.adequate_output_mw_cm2"),
    )
    return StageResult(decisions=_mode(light.output_mode), checks=[check], cautions=cautions)


def mode_name(mode: OutputMode) -> str:
    """Return what a curing light's mode is called."""
    match mode:
        case RampOutput():
            return f"ramp, from {100 * mode.start_share:g} % within {mode.rise_s:g} s"
        case PulsedOutput():
            return f"pulses, on for {100 * mode.on_share:g} % of the time"
        case FullOutput():
            return "full output"


def _mode(mode: OutputMode) -> list[Decision]:
    """Return what an output other than the full one means."""
    match mode:
        case FullOutput():
            return []
        case RampOutput():
            lost_s = (1 - mode.start_share) * mode.rise_s / 2
            percent = 100 * mode.start_share
            reason = say("light.ramp", start_percent=percent, rise_s=mode.rise_s, lost_s=lost_s)
        case PulsedOutput():
            reason = say("light.pulsed", on_percent=100 * mode.on_share, times=1 / mode.on_share)
    full = mode_name(FULL)
    return [Decision(topic="lamp.mode", chosen=mode_name(mode), alternatives=[full], reasons=[reason])]


def _eye(beam: Beam, peak_nm: float, rules: Rulebook) -> Caution:
    dose = rules.use("light.eye_dose_j_m2_sr")
    sent_back = 1 - rules.value("light.dentin_absorbed_share")
    caution = warn(
        "caution",
        "light.eye",
        dose.citation,
        # Told as how harsh it is, never as a time that one may look.
        direct_times=LONG_DAY_S / direct_seconds(beam, peak_nm, dose.value),
        reflected_times=LONG_DAY_S / reflected_seconds(beam, peak_nm, dose.value, 0.0, sent_back),
    )
    acting = rules.uses("light.eye_dose_j_m2_sr", "light.peak_nm", "light.dentin_absorbed_share")
    return caution.model_copy(update={"rules": acting, "always": True})
