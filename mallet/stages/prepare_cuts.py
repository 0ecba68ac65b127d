"""Cutting as steps of the run: access, boxes, caries, walls, each with its bur and its time."""

from __future__ import annotations

from collections.abc import Callable

from mallet.cavity.preparation import Cavity
from mallet.rulebook import Rulebook
from mallet.stages.hand import hand_step
from mallet.terms.case import Case
from mallet.terms.parts import CuspReduction, OcclusalBox, Part, ProximalBox, ProximalCavity, Tunnel
from mallet.terms.plan import Step
from mallet.terms.stock import Bur

# Why a tooth is treated without any caries in it, unless some is found.
WITHOUT_CARIES = ("fracture", "wear", "cracked_cusp")
LARGEST_ROUND_SHARE = 2 / 3


def has_caries(case: Case) -> bool:
    """Tell whether caries is taken out: where it was found, and unless told otherwise wherever a tooth is not treated for
    something else."""
    if case.findings.caries_found is not None:
        return case.findings.caries_found
    return case.findings.cause not in WITHOUT_CARIES


def cut(case: Case, cavity: Cavity, endpoint: str, after: str, rules: Rulebook) -> list[Step]:
    """Return the steps that open and cut the cavity, in their order; what breaks or wears off is not cut."""
    steps: list[Step] = []

    def add(name: str, title: str, detail: str, rule: str, tray: list[str]) -> None:
        before = steps[-1].id if steps else after
        told = {"actor": "both", "tray": [*tray, "water spray", "high suction"], "after": [before]}
        steps.append(
            hand_step(id=f"prepare.{name}", title=title, detail=detail, rule=rules.use(rule), **told)
        )

    parts = case.preparation.parts
    opened = [part for part in parts if isinstance(part, OcclusalBox | ProximalBox | ProximalCavity | Tunnel)]
    if has_caries(case) and opened:
        where = (
            "from the marginal ridge" if cavity.tunnels else "straight over the lesion, no farther than it"
        )
        shape, told = ("round", "Round") if case.face_part else ("pear", "Pear-shaped")
        add("access", "Open the tooth", f"{told} bur, {where}.", "prepare.access_s", [_bur(case, shape)])
    for part in parts:
        _cut_beside(case, part, add)
    for part in parts:
        _cut_above(case, part, add)
    if has_caries(case):
        detail = f"Slow large round bur, light pressure, then spoon: {endpoint}. One light pass more once it feels hard."
        add(
            "caries",
            "Remove the caries",
            detail,
            "prepare.caries_s",
            [_round(case, cavity), "spoon excavator", "probe"],
        )
    if opened:
        detail = "Plane unsupported enamel with a hatchet, its bevel away from the wall; round inner angles."
        add(
            "walls",
            "Smooth walls and margins",
            detail,
            "prepare.walls_s",
            ["hatchet", "margin trimmer", "fine diamond"],
        )
    return steps


def _cut_beside(case: Case, part: Part, add: Callable[..., None]) -> None:
    """Add how a part beside the tooth is cut."""
    match part:
        case ProximalBox():
            size = f"{part.height_mm:g} mm high, {part.width_mm:g} mm wide, {part.axial_depth_mm:g} mm deep"
            detail = f"{size}. A guard on the adjacent tooth; open the contact just enough."
            add(
                f"box.{part.side}",
                f"Cut the {part.side} box",
                detail,
                "prepare.box_s",
                [_bur(case, "straight_fissure"), "guard"],
            )
        case ProximalCavity():
            size = f"{part.height_mm:g} mm high, {part.depth_mm:g} mm deep, {part.faciolingual_mm:g} mm from {part.face}"
            add(
                f"cavity.{part.side}",
                f"Cut the {part.side} cavity",
                f"{size}. A strip guards the adjacent tooth.",
                "prepare.box_s",
                [_bur(case, "round"), "metal strip"],
            )
        case Tunnel():
            detail = f"Under the {part.side} ridge, {part.diameter_mm:g} mm wide; round bur no wider than the tunnel."
            add(f"tunnel.{part.side}", "Cut the tunnel", detail, "prepare.box_s", [_bur(case, "round")])


def _cut_above(case: Case, part: Part, add: Callable[..., None]) -> None:
    """Add how a part of the occlusal surface is cut."""
    if isinstance(part, OcclusalBox):
        size = f"{part.depth_mm:g} mm deep, {part.width_mm:g} mm wide"
        add(
            "occlusal",
            "Cut the occlusal part",
            f"{size}, no wider than the lesion.",
            "prepare.occlusal_s",
            [_bur(case, "pear")],
        )
    if isinstance(part, CuspReduction):
        size = f"{part.tip_mm:g} mm at the cusp tips, {part.in_groove_mm:g} mm in the groove"
        add(
            "cusps",
            "Take the cusps down",
            f"{size}, along their slopes; cut a millimeter, measure, deepen.",
            "prepare.cusps_s",
            ["cylinder diamond", "periodontal probe with millimeters"],
        )


def _bur(case: Case, shape: str) -> str:
    """Return the bur of a shape in stock by name, else what it is."""
    named = next((one.name for one in case.stock if isinstance(one, Bur) and one.shape == shape), None)
    return named or f"{shape.replace('_', ' ')} bur"


def _round(case: Case, cavity: Cavity) -> str:
    """Return the largest round bur in stock that is no wider than two thirds of the narrowest part."""
    widths = [min(t.floor[1] - t.floor[0], t.floor[3] - t.floor[2]) for t in cavity.tools]
    most = LARGEST_ROUND_SHARE * min(widths, default=2.0)
    fitting = [
        one for one in case.stock if isinstance(one, Bur) and one.shape == "round" and one.head_mm <= most
    ]
    largest = max(fitting, key=lambda one: (one.head_mm, one.name), default=None)
    return largest.name if largest else "round bur"
