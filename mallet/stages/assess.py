"""Know the tooth: what stops a filling before it is chosen."""

from __future__ import annotations

from mallet.terms.mouth import Findings
from mallet.terms.reasons import refuse


def diagnosis_gate(findings: Findings) -> None:
    """Raise NotFeasible where it is in doubt which tooth it is, or whether its pulp will live."""
    if not findings.surely_this_tooth:
        raise refuse("assess.which_tooth", {"findings.surely_this_tooth": True})
    if findings.pulp == "in_doubt":
        raise refuse("assess.pulp_in_doubt", {"findings.pulp": "sound"})
    if findings.pulp == "irreversible":
        raise refuse("assess.pulp_irreversible")
