"""The margin of a preparation, by material: enamel that nothing bears, and what amalgam or gold would ask for."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from mallet.cavity.margins import Margin, margin_of
from mallet.cavity.preparation import Cavity
from mallet.rulebook import Rulebook
from mallet.stages.least import at_least
from mallet.terms.case import Case
from mallet.terms.parts import HOLDING, OcclusalBox, ProximalBox, ProximalCavity
from mallet.terms.pieces import Point, Reason
from mallet.terms.plan import Check, Decision
from mallet.terms.reasons import say

# An edge this short is none that an instrument finds.
SHARP_SHARE, BLUNT_SHARE = 0.04, 0.96
HELD = ("slot", "pin_hole", "retention_groove")


def judge_margin(case: Case, cavity: Cavity, rules: Rulebook) -> tuple[list[Check], list[Decision]]:
    """Return whether the enamel along the margin is borne, and whether the preparation would take another
    material."""
    whole = margin_of(cavity.filling, cavity.outer.tag, cavity.cut_tags)
    margin = whole.where(_in_enamel(cavity, whole, rules))
    if not len(margin.lengths_mm):
        return [], []
    has_box = bool(cavity.occlusal or cavity.boxes)
    # What is condensed has a form of its own for its boxes.
    is_apart = bool(cavity.stump or cavity.shoulder) or (has_box and case.restoration.is_condensed)
    # Beside the contact of an anterior tooth enamel may stand for its looks; told walls go straight in, cut ones square to the face.
    is_apart |= isinstance(case.face_part, ProximalCavity) and case.restoration.is_bonded
    checks = [] if is_apart else [_enamel_edge(cavity, margin, rules)]
    # What has no box was cut for resin.
    amalgam = (
        [_as_amalgam(case, cavity, margin, rules)] if has_box and not case.restoration.is_condensed else []
    )
    return checks, amalgam


def _in_enamel(cavity: Cavity, margin: Margin, rules: Rulebook) -> np.ndarray:
    """Tell which pieces of a margin lie above the cementoenamel junction, which rises toward both sides."""
    at = cavity.access.points_in_tooth(margin.middles)
    half = cavity.crown.mesiodistal_mm / 2
    rises = np.where(at[:, 0] > 0, cavity.crown.cervical_mm["mesial"], cavity.crown.cervical_mm["distal"])
    return np.asarray(at[:, 2] > rises * (np.abs(at[:, 0]) / half) ** 2)


def _enamel_edge(cavity: Cavity, margin: Margin, rules: Rulebook) -> Check:
    sharpest = margin.least(SHARP_SHARE)
    x, y, z = cavity.access.points_in_tooth(margin.middles[[sharpest]])[0]
    return at_least(
        "prepare.enamel_edge",
        "Enamel edge, where sharpest",
        round(float(margin.tooth_deg[sharpest])),
        "prepare.enamel_edge_deg",
        rules,
        remedy="Unsupported: plane it off with a hatchet or margin trimmer, its bevel away from the wall.",
        where=_where(x, y),
        unit="degrees",
        place=Point(x=float(x), y=float(y), z=float(z)),
    )


def _where(x: float, y: float) -> str:
    along = "mesial" if x > 0 else "distal"
    return f"margin, {along} and {'facial' if y > 0 else 'lingual'}"


def _as_amalgam(case: Case, cavity: Cavity, margin: Margin, rules: Rulebook) -> Decision:
    """Return what the same preparation would lack for amalgam and for gold foil."""
    lacks = _lacks_for_amalgam(case, cavity, margin, rules)
    bevel = rules.use("prepare.gold_bevel_deg")
    used = ["prepare.amalgam_margin_least_deg", "prepare.amalgam_margin_most_deg", "prepare.amalgam_depth_mm"]
    return Decision(
        topic="prepare.otherwise",
        chosen=f"amalgam criteria not met: {len(lacks)}" if lacks else "its shape would take amalgam",
        alternatives=[],
        reasons=[*lacks, say("prepare.for_gold", bevel_deg=bevel.value)],
        rules=[*rules.uses(*used), bevel],
    )


def _lacks_for_amalgam(case: Case, cavity: Cavity, margin: Margin, rules: Rulebook) -> list[Reason]:
    low, high = (rules.value(f"prepare.amalgam_margin_{end}_deg") for end in ("least", "most"))
    thin = rules.value("prepare.amalgam_depth_mm")
    # What is left to amalgam at its margin is the rest of the half turn.
    blunt, sharp = (180.0 - float(margin.tooth_deg[margin.least(s)]) for s in (SHARP_SHARE, BLUNT_SHARE))
    lacks = []
    if sharp < low - 0.5:
        lacks.append(say("prepare.amalgam_thin_edge", angle_deg=round(sharp), least_deg=low))
    if blunt > high + 0.5:
        lacks.append(say("prepare.amalgam_bare_enamel", angle_deg=round(blunt), most_deg=high))
    depths = [part.depth_mm for part in case.preparation.parts if isinstance(part, OcclusalBox)]
    if depths and min(depths) < thin:
        lacks.append(say("prepare.amalgam_shallow", depth_mm=min(depths), least_mm=thin))
    held = sum(one.kind in HELD for one in cavity.features)
    opens = _opens_deg(case)
    if len(cavity.covered) > held:
        lacks.append(say("prepare.amalgam_unheld", cusps=len(cavity.covered), held=held))
    elif opens > 0 and not held:
        lacks.append(say("prepare.amalgam_opens", opens_deg=opens))
    return lacks


def _opens_deg(case: Case) -> float:
    boxes: Sequence[OcclusalBox | ProximalBox] = [
        part for part in case.preparation.parts if isinstance(part, OcclusalBox | ProximalBox)
    ]
    return max((part.wall_deg(wall) for part in boxes for wall in HOLDING), default=0.0)
