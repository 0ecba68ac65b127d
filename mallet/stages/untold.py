"""What a case leaves untold: the sizes that the solids go by all the same, and what is listed as assumed."""

from __future__ import annotations

from mallet.rulebook import Rulebook
from mallet.terms.case import Case
from mallet.terms.mouth import TAKEN
from mallet.terms.parts import (
    CervicalLesion,
    CuspReduction,
    IncisalFracture,
    OcclusalBox,
    Part,
    PinHole,
    ProximalBox,
    ProximalCavity,
    Slot,
)
from mallet.terms.plan import Assumption

# What is cut to the measure of a rule, where nobody tells one.
Told = dict[str, tuple[float, str, str]]


def with_untold(case: Case, rules: Rulebook) -> tuple[Case, list[Assumption]]:
    """Return the case with the sizes that are cut although nobody told them, marked as estimated, and all that was
    assumed of it."""
    parts, missing, known = [], _defaults(case), dict(case.provenance)
    for i, part in enumerate(case.preparation.parts):
        cut = _cut_untold(part, case, rules)
        for name, (value, unit, why) in {**cut, **_not_told(part)}.items():
            path = f"preparation.parts[{i}].{name}"
            missing.append(Assumption(path=path, value=value, unit=unit, provenance="estimated", why=why))
        known |= {f"preparation.parts[{i}].{name}": "estimated" for name in cut}
        parts.append(part.model_copy(update={name: told[0] for name, told in cut.items()}))
    preparation = case.preparation.model_copy(update={"parts": parts})
    return case.model_copy(update={"preparation": preparation, "provenance": known}), missing


def _defaults(case: Case) -> list[Assumption]:
    asked = case.restoration
    missing = [
        Assumption(
            path=f"restoration.{name}", value=getattr(asked, name), unit="", provenance="handbook", why=why
        )
        for name, why in asked.untold.items()
    ]
    for name in case.findings.not_told:
        value, why = getattr(case.findings, name), f"not recorded, assumed: {TAKEN[name]}"
        path = f"findings.{name}"
        missing.append(Assumption(path=path, value=value, unit="", provenance="estimated", why=why))
    return missing


def _cut_untold(part: Part, case: Case, rules: Rulebook) -> Told:
    """Return the sizes of a part that the steps cut to a rule's measure."""
    match part:
        case IncisalFracture() if part.bevel_mm is None:
            return {"bevel_mm": (rules.value("prepare.edge_bevel_mm"), "mm", "as the steps cut it")}
        case CervicalLesion() if (
            part.bevel_mm is None and case.techniques.cervical_margin == "roughen_and_bevel"
        ):
            return {"bevel_mm": (rules.value("prepare.neck_bevel_mm"), "mm", "as the steps cut it")}
    return {}


def _not_told(part: Part) -> Told:
    """Return what a part leaves to its default, with its unit and why it is taken so."""
    given = part.model_fields_set
    match part:
        case CuspReduction() if part.groove_mm is None:
            return {"groove_mm": (part.tip_mm, "mm", "as much as at the tips")}
        case OcclusalBox() | ProximalBox() | ProximalCavity() if "wall_divergence_deg" not in given:
            return {"wall_divergence_deg": (part.wall_divergence_deg, "deg", "ordinary divergence of a box")}
        case Slot() | PinHole() if "inset_mm" not in given:
            return {"inset_mm": (part.inset_mm, "mm", "just inside the dentinoenamel junction")}
    return {}
