"""Cutting as steps of the run: access, boxes, caries, walls, each with its bur and its time."""

from __future__ import annotations

from mallet.cavity.preparation import Cavity
from mallet.rulebook import Rulebook
from mallet.rulebook.steps import catalog_step
from mallet.terms.case import Case
from mallet.terms.parts import CuspReduction, FaceBox, OcclusalBox, ProximalBox, ProximalCavity, Tunnel
from mallet.terms.plan import Step
from mallet.terms.stock import Bur

# Why a tooth is treated without any caries in it, unless some is found.
WITHOUT_CARIES = ("fracture", "wear", "cracked_cusp", "deep_fissures")
LARGEST_ROUND_SHARE = 2 / 3
# A part that opens beside the tooth: its step, and the shape of its bur.
CUT_BESIDE = {
    "proximal_box": ("box", "straight_fissure"),
    "proximal_cavity": ("cavity", "round"),
    "tunnel": ("tunnel", "round"),
}


def has_caries(case: Case) -> bool:
    """Tell whether caries is taken out: where it was found, and unless told otherwise wherever a tooth is not treated for
    something else."""
    if case.findings.caries_found is not None:
        return case.findings.caries_found
    return case.findings.cause not in WITHOUT_CARIES


def cut(case: Case, cavity: Cavity, endpoint: str, after: str, rules: Rulebook) -> list[Step]:
    """Return the steps that open and cut the cavity, in their order; what breaks or wears off is not cut."""
    steps: list[Step] = []

    def add(name: str, **told: object) -> None:
        before = steps[-1].id if steps else after
        steps.append(catalog_step(f"prepare.{name}", rules, told, after=[before]))

    parts = case.preparation.parts
    opened = [part for part in parts if isinstance(part, OcclusalBox | ProximalBox | ProximalCavity | Tunnel)]
    if has_caries(case) and opened:
        shape, where = "round" if case.face_part else "pear", "tunnel" if cavity.tunnels else "lesion"
        add("access", bur_shape=shape, where=where, bur=_bur(case, shape))
    for part in parts:
        if isinstance(part, ProximalBox | ProximalCavity | Tunnel):
            name, shape = CUT_BESIDE[part.kind]
            is_through = isinstance(part, ProximalCavity) and part.through
            told = {**part.model_dump(), "reach": "through" if is_through else "wall"}
            if isinstance(part, Tunnel):
                told["leans_deg"] = next(one.leans_deg for one in cavity.tunnels if one.under == part.side)
                add(name, **told, bur=_no_wider(case, part.diameter_mm))
            else:
                add(name, **told, bur=_bur(case, shape))
    for i, part in enumerate(parts):
        if isinstance(part, FaceBox):
            told = part.model_dump(exclude={"kind"})
            add("face_box", at=i, bur=_bur(case, "straight_fissure"), **told)
    for part in parts:
        if isinstance(part, OcclusalBox):
            add("occlusal", **part.model_dump(), bur=_bur(case, "pear"))
        if isinstance(part, CuspReduction):
            add("cusps", tip_mm=part.tip_mm, in_groove_mm=part.in_groove_mm)
    if has_caries(case):
        add("caries", endpoint=endpoint, bur=_round(case, cavity))
    for tunnel in cavity.tunnels:
        # What cannot be seen from above is looked for apart, and each answer kept.
        for what in ("caries", "margin", "ridge"):
            add(f"tunnel_{what}", side=tunnel.under, least_mm=rules.value("prepare.tunnel_ridge_mm"))
    if opened:
        add("walls")
    return steps


def _bur(case: Case, shape: str) -> str:
    """Return the bur of a shape in stock by name, else what it is."""
    named = next((one.name for one in case.stock if isinstance(one, Bur) and one.shape == shape), None)
    return named or f"{shape.replace('_', ' ')} bur"


def _round(case: Case, cavity: Cavity) -> str:
    """Return the largest round bur in stock that is no wider than two thirds of the narrowest part."""
    widths = [min(t.floor[1] - t.floor[0], t.floor[3] - t.floor[2]) for t in cavity.tools]
    most = LARGEST_ROUND_SHARE * min(widths, default=2.0)
    return _no_wider(case, most)


def _no_wider(case: Case, most_mm: float) -> str:
    """Return the largest round bur in stock that is no wider than that by name, else what it is."""
    fitting = [
        one for one in case.stock if isinstance(one, Bur) and one.shape == "round" and one.head_mm <= most_mm
    ]
    largest = max(fitting, key=lambda one: (one.head_mm, one.name), default=None)
    return largest.name if largest else "round bur"
