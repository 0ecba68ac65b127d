"""Isolation: the dam goes on before the tooth is opened, and off before the bite is checked."""

from __future__ import annotations

from mallet.rulebook import Rulebook
from mallet.terms.mouth import Patient
from mallet.terms.plan import StageResult, Step, StepCheck
from mallet.terms.reasons import warn
from mallet.tooth import ToothName


def isolate(tooth: ToothName, patient: Patient, rules: Rulebook) -> StageResult:
    """Return the steps that keep the field dry."""
    behind = tooth.neighbour("distal") or tooth
    latex = "latex" in patient.allergies
    cautions = [warn("caution", "alert.latex", "Patient's history")] if latex else []
    dam = Step(
        id="isolate.dam",
        stage="isolate",
        title="Rubber dam on",
        detail=f"Clamp on {behind.iso}; ligate at the gingival margin of {tooth.iso}. Replace a torn dam.",
        actor="both",
        seconds=rules.value("chair.dam_s"),
        seconds_rule=rules.use("chair.dam_s"),
        tray=[
            "dam without latex, punched" if latex else "dam, punched",
            f"clamp for {behind.iso}",
            "clamp forceps",
            "floss",
        ],
        check=StepCheck(
            question="Is the field dry and the margin seen all round?",
            remedy="Ligate again, evert the edge, stop any bleeding before going on.",
            back_to="isolate.dam",
        ),
    )
    return StageResult(steps=[dam], cautions=cautions)
