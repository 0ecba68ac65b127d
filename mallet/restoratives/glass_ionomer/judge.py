"""Where glass ionomer serves, and where it is asked too much of: load, overbite, what holds it."""

from __future__ import annotations

from mallet.rulebook import Rulebook
from mallet.rulebook.parts import part_name
from mallet.terms.case import Case
from mallet.terms.parts import CuspReduction, IncisalFracture, LingualDovetail, PinHole, Shoulder
from mallet.terms.plan import Caution
from mallet.terms.reasons import refuse, warn
from mallet.tooth import read_tooth

AUTHORITY = "Textbooks of operative dentistry (from memory)"


def judge_load(case: Case) -> list[Caution]:
    """Return what the load on it asks for; raise NotFeasible where it would not bear it.

    Where nothing bites, and in a primary tooth under ordinary load, nothing is said.
    """
    held = [part.kind for part in case.preparation.parts if isinstance(part, PinHole | Shoulder)]
    if held:
        raise refuse("ionomer.parts", part=part_name(held[0]))
    findings, edge = case.findings, isinstance(case.face_part, IncisalFracture)
    covers = any(isinstance(part, CuspReduction) for part in case.preparation.parts)
    load = case.load
    bears = edge or case.face_part is None
    if covers or (bears and load == "heavy"):
        raise refuse("ionomer.load", what="A reduced cusp" if covers else "Heavy load")
    if edge and findings.overbite == "deep":
        return [warn("caution", "ionomer.deep_bite", AUTHORITY)]
    is_primary = read_tooth(case.tooth.code).is_deciduous
    is_groove = {part.kind for part in case.preparation.parts} == {"sealant_groove"}
    if bears and load == "normal" and not is_primary and not is_groove:
        return [warn("caution", "ionomer.under_load", AUTHORITY)]
    return []


def judge_notch(case: Case, rules: Rulebook) -> list[Caution]:
    """Return that a broken edge has nothing that holds glass ionomer, where its notch is missing or too small."""
    if not isinstance(case.face_part, IncisalFracture):
        return []
    use = rules.use("ionomer.notch_mm")
    notches = [part for part in case.preparation.parts if isinstance(part, LingualDovetail)]
    if any(min(part.width_mm, part.height_mm) >= use.value for part in notches):
        return []
    caution = warn("caution", "ionomer.no_notch", use.citation, least_mm=use.value)
    return [caution.model_copy(update={"rules": [use]})]
