"""A crown lofted from handbook dimensions: rings up the axial walls, then over the cusps.

Frame: mm, x mesial, y facial, z occlusal, z = 0 at the facial cementoenamel junction; carries 4 mm of root.
Dimensions: Nelson & Ash (teaching averages). Cusps, grooves and ridges are our own estimates.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import TYPE_CHECKING, Any, Literal

import numpy as np
from numpy.typing import NDArray

from mallet.rulebook import Rulebook
from mallet.tooth.notation import ToothName

if TYPE_CHECKING:
    from scipy.interpolate import PchipInterpolator

Floats = NDArray[np.float64]
Shell = Literal["outer", "dentin", "pulp", "barrel"]

AROUND = 40  # columns; a multiple of 4, so that columns lie exactly on mesial, facial, distal, lingual
LEVELS = 12  # rings up the axial walls
CAP = 10  # rings over the occlusal surface
CUSP_SLOPE = 0.55
RIDGE_SLOPE = 0.6
CUSP_ROUNDING_MM = 0.7
BLEND_PER_MM = 7.0
BARREL_ABOVE_MM = 4.0
# A groove is followed this far to the ridge or rim that it runs to, at so many places.
GROOVE_SHARE = 0.9
GROOVE_PLACES = 21
# Half-widths at the rim over the greatest, mesial and distal, of a crown that does not taper.
TOP = (0.96, 0.95)
# Towards an edge the enamel of both faces all but meets.
MOST_ENAMEL_SHARE = 0.6
MOST_PULP_SHARE = 0.36


@dataclass(frozen=True, eq=False)
class Crown:
    """Rings (R, AROUND, 3) from root to rim, then over the cusps to a center vertex at the top; the tips of
    its cusps (3,) by name, places along its grooves (N, 2) by name, and the cusps below which its canals usually open."""

    tooth: ToothName
    height_mm: float
    mesiodistal_mm: float
    buccolingual_mm: float
    rim_mm: float
    contact_mm: Mapping[str, float]
    cervical_mm: Mapping[str, float]
    cusps: Mapping[str, tuple[float, float, float]]
    grooves: Mapping[str, Floats]
    canals: Sequence[str]
    axial: Floats
    cap: Floats
    centre: Floats

    def vertices(self) -> Floats:
        """Return all vertices, shape (N, 3)."""
        return np.vstack([self.axial.reshape(-1, 3), self.cap.reshape(-1, 3), self.centre[None]])

    def profile(self, side: str) -> Floats:
        """Return the section line at y = 0 from root to center on one side, shape (P, 3)."""
        column = 0 if side == "mesial" else AROUND // 2
        return np.vstack([self.axial[:, column], self.cap[:, column], self.centre[None]])

    def outer_x_mm(self, side: str, z_mm: float) -> float:
        """Return where the outer surface stands at y = 0 on one side at a height (signed x)."""
        column = 0 if side == "mesial" else AROUND // 2
        return float(np.interp(z_mm, self.axial[:, column, 2], self.axial[:, column, 0]))

    def ridge_mm(self, side: str) -> float:
        """Return the height of a side's marginal ridge before cutting."""
        line = self.profile(side)[len(self.axial) - 1 :]
        outer_half = np.abs(line[:, 0]) > 0.5 * np.abs(line[0, 0])
        return float(line[outer_half, 2].max())

    def groove_mm(self, x0_mm: float, x1_mm: float) -> float:
        """Return the lowest height of the central groove between two x positions."""
        mesial, distal = self.profile("mesial"), self.profile("distal")
        line = np.vstack([distal[len(self.axial) :], mesial[len(self.axial) : -1][::-1]])
        order = np.argsort(line[:, 0], kind="stable")
        xs, zs = line[order, 0], line[order, 2]
        inside = zs[(xs > min(x0_mm, x1_mm)) & (xs < max(x0_mm, x1_mm))]
        ends = np.interp([x0_mm, x1_mm], xs, zs)
        return float(min([*inside, *ends]))

    def outline(self, z_mm: float) -> Floats:
        """Return the ring of the axial walls at a height, shape (AROUND, 2)."""
        above = int(np.clip(np.searchsorted(self.axial[:, 0, 2], z_mm), 1, len(self.axial) - 1))
        low, high = self.axial[above - 1], self.axial[above]
        share = np.clip((z_mm - low[0, 2]) / (high[0, 2] - low[0, 2]), 0, 1)
        return np.asarray((low + share * (high - low))[:, :2])

    def side_x_mm(self, side: str, y_mm: float, z_mm: float) -> float:
        """Return where the outer surface stands on one side at a height, off the middle by y (signed x)."""
        ring, quarter = self.outline(z_mm), AROUND // 4
        turned = np.roll(ring, quarter if side == "mesial" else -quarter, axis=0)[: 2 * quarter + 1]
        order = np.argsort(turned[:, 1])
        return float(np.interp(y_mm, turned[order, 1], turned[order, 0]))

    def half_breadth_mm(self, x_mm: float, z_mm: float) -> float:
        """Return the smaller of the facial and lingual distances from y = 0 to the outer surface.

        Zero where the point lies beyond the crown.
        """
        half = AROUND // 2
        ring = self.outline(z_mm)
        facial, lingual = ring[: half + 1][::-1], np.vstack([ring[half:], ring[:1]])
        both = [np.interp(x_mm, line[:, 0], np.abs(line[:, 1]), 0.0, 0.0) for line in (facial, lingual)]
        return float(min(both))


@lru_cache(maxsize=64)
def _crown_of(tooth: ToothName, shell: Shell, rules_key: tuple[float, ...], book: Any) -> Crown:
    jaw = book.value[("deciduous_" if tooth.is_deciduous else "") + ("upper" if tooth.is_upper else "lower")]
    height, md, md_neck, bl, bl_neck, curve_m, curve_d = jaw["dims"][tooth.position - 1]
    shape = book.value["shapes"][jaw["shapes"][tooth.position - 1]]
    lengths = _Lengths(height, md, md_neck, bl, bl_neck, curve_m, curve_d, *rules_key)
    return _loft(tooth, shell, lengths, shape)


@dataclass(frozen=True)
class _Lengths:
    height: float
    md: float
    md_neck: float
    bl: float
    bl_neck: float
    curve_mesial: float
    curve_distal: float
    root: float
    pulp_share: float
    enamel_cusp: float
    enamel_groove: float
    enamel_contact: float
    dentin_occlusal: float


class _ByIdentity:
    """Wraps the crown table so that it can key a cache; the shipped table never changes."""

    def __init__(self, value: Mapping[str, Any]) -> None:
        self.value = value

    def __hash__(self) -> int:
        return id(self.value)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _ByIdentity) and self.value is other.value


RULES = (
    "tooth.root_shown_mm",
    "tooth.pulp_share_of_neck",
    "tooth.enamel_cusp_mm",
    "tooth.enamel_groove_mm",
    "tooth.enamel_contact_mm",
    "tooth.dentin_occlusal_mm",
)
# A deciduous tooth's enamel is all but even.
DECIDUOUS = (
    "tooth.root_shown_mm",
    "tooth.deciduous_pulp_share",
    "tooth.deciduous_enamel_mm",
    "tooth.deciduous_enamel_mm",
    "tooth.deciduous_enamel_mm",
    "tooth.deciduous_dentin_mm",
)


def loft_crown(tooth: ToothName, rules: Rulebook, shell: Shell = "outer") -> Crown:
    """Return a shell of a tooth's handbook crown.

    `outer` is the enamel surface, `dentin` the junction, `pulp` an estimate, and `barrel` the axial
    walls carried straight up from the rim, without cusps.
    """
    key = tuple(rules.value(rule) for rule in (DECIDUOUS if tooth.is_deciduous else RULES))
    return _crown_of(tooth, shell, key, _ByIdentity(rules.crowns))


def _loft(tooth: ToothName, shell: Shell, n: _Lengths, shape: Mapping[str, Any]) -> Crown:
    rim = shape["rim"] * n.height - (n.enamel_groove if shell == "dentin" else 0.0)
    widths = _widths(n, shape, shape["rim"] * n.height)
    levels = _levels(n, shape, rim)
    halves = np.array([[w(z) for w in widths] for z in levels])
    # A front tooth leans over its axis: its rings stand about the middle between its two faces.
    middles = (halves[:, 1] - halves[:, 3]) / 2 if "facial" in shape else np.zeros(len(levels))
    halves[:, 1] -= middles
    halves[:, 3] += middles
    if shell == "dentin":
        halves -= np.minimum(_enamel_at(levels, n, shape)[:, None], MOST_ENAMEL_SHARE * halves)
    rings = [_ring(h, shape["exponent"], z) for h, z in zip(halves, levels, strict=True)]
    axial = np.array(rings)
    axial[:, :, 1] += middles[:, None]
    relief = _Relief(n.height, shape, halves[-1], float(middles[-1]))
    if shell == "barrel":
        lifted = axial[-1] + [0.0, 0.0, BARREL_ABOVE_MM + n.height - rim]
        axial = np.concatenate([axial, lifted[None]])
        cap, centre = _flat_cap(lifted)
    elif shell == "pulp":
        axial, cap, centre = _pulp(relief, n, shape, widths)
    else:
        cap, centre = _cusped_cap(axial[-1], rim, relief, shell == "dentin", n)
        if shell == "dentin" and "facial" in shape:
            # Under an edge dentin ends in a ridge, not in a hollow.
            cap[..., 2], centre[2] = np.maximum(cap[..., 2], rim), max(centre[2], rim)
    return Crown(
        tooth=tooth,
        height_mm=n.height,
        mesiodistal_mm=n.md,
        buccolingual_mm=n.bl,
        rim_mm=rim,
        contact_mm={"mesial": shape["contact"][0] * n.height, "distal": shape["contact"][1] * n.height},
        cervical_mm={"mesial": n.curve_mesial, "distal": n.curve_distal},
        cusps=dict(zip(shape["names"], relief.tips(), strict=True)),
        grooves=_grooves(shape, relief, axial[-1, :, :2]),
        canals=tuple(shape.get("canals", ())),
        axial=axial,
        cap=cap,
        centre=centre,
    )


def _grooves(shape: Mapping[str, Any], relief: _Relief, rim: Floats) -> dict[str, Floats]:
    """Return places along the central groove, ridge to ridge, and along those that run from it over a face, to the rim."""
    if "facial" in shape:
        return {}
    ends = [GROOVE_SHARE * x for x, _, _ in relief.ridges]
    places = {
        "central": np.column_stack(
            [np.linspace(min(ends), max(ends), GROOVE_PLACES), np.zeros(GROOVE_PLACES)]
        )
    }
    for name, u in shape.get("grooves", {}).items():
        way, x = (1.0 if name.endswith("facial") else -1.0), u * relief.half_mm
        face = rim[rim[:, 1] * way > 0]
        end = np.interp(x, *face[np.argsort(face[:, 0])].T)
        places[name] = np.column_stack(
            [np.full(GROOVE_PLACES, x), np.linspace(0.0, GROOVE_SHARE * end, GROOVE_PLACES)]
        )
    return places


def _levels(n: _Lengths, shape: Mapping[str, Any], rim: float) -> Floats:
    """Return ring heights; one at each contact, and where the faces of an anterior tooth stand out farthest, so that
    the handbook widths are met exactly."""
    farthest = [shape[face][0][0] * shape["rim"] for face in ("facial", "lingual") if face in shape]
    contacts = [c * n.height for c in (*shape["contact"], *farthest) if c * n.height < rim - 0.2]
    even = [*np.linspace(-n.root, 0, 5), *np.linspace(0, rim, LEVELS - 4)]
    kept = [z for z in even if all(abs(z - c) > 0.15 for c in contacts)]
    return np.array(sorted({*kept, *contacts, rim}), dtype=np.float64)


def _widths(n: _Lengths, shape: Mapping[str, Any], rim: float) -> list[PchipInterpolator]:
    """Return half-widths over height: mesial, facial, distal, lingual."""

    from scipy.interpolate import PchipInterpolator  # slow to load: not before it is needed

    def curve(neck: float, greatest: float, at: float, top: float) -> PchipInterpolator:
        at = min(at, rim - 0.2)
        return PchipInterpolator([-n.root, 0.0, at, rim], [0.9 * neck, neck, greatest, top])

    (m, d), top = shape["contact"], shape.get("top", TOP)
    if "facial" in shape:
        facial, lingual = (_face(n, shape[face], rim) for face in ("facial", "lingual"))
    else:
        facial = curve(n.bl_neck / 2, n.bl / 2, 0.33 * n.height, shape["table"] * n.bl / 2)
        lingual = curve(n.bl_neck / 2, n.bl / 2, 0.42 * n.height, shape["table"] * n.bl / 2)
    return [
        curve(n.md_neck / 2, n.md / 2, m * n.height, top[0] * n.md / 2),
        facial,
        curve(n.md_neck / 2, n.md / 2, d * n.height, top[1] * n.md / 2),
        lingual,
    ]


def _face(n: _Lengths, places: Sequence[Sequence[float]], rim: float) -> PchipInterpolator:
    """Return how far a face of an anterior tooth stands off its axis over height, through places given as shares of
    the rim's height and of half the faciolingual width."""
    from scipy.interpolate import PchipInterpolator

    at = [-n.root, 0.0, *(z * rim for z, _ in places)]
    return PchipInterpolator(at, [0.45 * n.bl_neck, n.bl_neck / 2, *(y * n.bl / 2 for _, y in places)])


def _enamel_at(levels: Floats, n: _Lengths, shape: Mapping[str, Any]) -> Floats:
    """Return enamel thickness at the axial wall: a knife edge at the neck, full at the contact."""
    contact = shape["contact"][0] * n.height
    xs = [-n.root, 0.0, 0.2 * n.height, contact, n.height]
    thin = min(n.enamel_contact, 0.3 * n.md_neck)
    ys = [0.0, 0.02, 0.5 * thin, thin, 1.1 * thin]
    return np.asarray(np.interp(levels, xs, ys), dtype=np.float64)


def _ring(halves: Floats, exponent: float, z: float) -> Floats:
    """Return a superellipse ring of AROUND points; halves are mesial, facial, distal, lingual."""
    angle = 2 * np.pi * np.arange(AROUND) / AROUND
    c, s = np.cos(angle), np.sin(angle)
    c[np.abs(c) < 1e-12] = 0.0
    s[np.abs(s) < 1e-12] = 0.0
    x = np.sign(c) * np.abs(c) ** (2 / exponent) * np.where(c >= 0, halves[0], halves[2])
    y = np.sign(s) * np.abs(s) ** (2 / exponent) * np.where(s >= 0, halves[1], halves[3])
    return np.column_stack([x, y, np.full(AROUND, z)])


class _Relief:
    """Height of the occlusal surface before it is rounded off toward the rim, which stands about `middle` (y)."""

    def __init__(self, height: float, shape: Mapping[str, Any], halves: Floats, middle: float) -> None:
        self.groove = shape["groove_mm"]
        self.height = height
        u = (halves[0] + halves[2]) / 2
        v = (halves[1] + halves[3]) / 2
        self.half_mm = float(u)
        self.middle = middle
        self.cusps = [(cu * u, middle + cv * v, drop) for cu, cv, drop in shape["cusps"]]
        self.ridges = [(ru * u, rv * v, drop) for ru, rv, drop in shape["ridges"]]
        tips = np.array([[x, y] for x, y, _ in self.cusps])
        self.shift = 0.0
        self.shift = height - float(self(tips).max())

    def __call__(self, xy: Floats) -> Floats:
        """Return heights at points (N, 2): cusps and ridges blended over a groove floor."""
        drops = [np.full(len(xy), self.groove)]
        for x, y, drop in self.cusps:
            away = np.hypot(xy[:, 0] - x, xy[:, 1] - y)
            drops.append(drop + self._slope(y, drop) * _rounded(away, CUSP_ROUNDING_MM))
        for x, half, drop in self.ridges:
            beyond = np.maximum(np.abs(xy[:, 1] - self.middle) - half, 0.0)
            away = np.hypot(xy[:, 0] - x, beyond)
            drops.append(drop + RIDGE_SLOPE * _rounded(away, 0.3))
        blended = -np.log(np.exp(-BLEND_PER_MM * np.array(drops)).sum(axis=0)) / BLEND_PER_MM
        return np.asarray(self.height - blended + self.shift, dtype=np.float64)

    def tips(self) -> list[tuple[float, float, float]]:
        """Return the tips of the cusps, in their order."""
        places = np.array([[x, y] for x, y, _ in self.cusps])
        return [(float(x), float(y), float(z)) for (x, y), z in zip(places, self(places), strict=True)]

    def _slope(self, y: float, drop: float) -> float:
        """Return the slope with which a cusp runs down to the groove floor at y = 0."""
        run = float(_rounded(np.array(abs(y - self.middle)), CUSP_ROUNDING_MM))
        return max(1.15 * (self.groove - drop) / run, CUSP_SLOPE) if run > 0.5 else CUSP_SLOPE


def _rounded(away: Floats, radius: float) -> Floats:
    """Return a distance whose tip is rounded off with a radius."""
    return np.asarray(np.hypot(away, radius) - radius, dtype=np.float64)


def _scales() -> Floats:
    """Return ring scales from rim to center, denser near the rim where the surface rolls over."""
    return np.asarray(1.0 - np.linspace(0.0, 1.0, CAP + 1)[1:] ** 1.35, dtype=np.float64)


def _cusped_cap(
    ring: Floats, rim: float, relief: _Relief, is_dentin: bool, n: _Lengths
) -> tuple[Floats, Floats]:
    """Return rings over the occlusal surface: near the rim it rolls over and never dips below it."""
    rings, middle = [], np.array([0.0, relief.middle])
    for scale in _scales():
        xy = middle + (ring[:, :2] - middle) * scale
        z = relief(xy)
        if is_dentin:
            z = z - _occlusal_enamel(z, relief, n)
        at_edge = np.clip((scale - 0.6) / 0.15, 0, 1)
        z = z + at_edge * (np.maximum(z, rim) - z)
        roll = np.sqrt(1 - np.clip((scale - 0.72) / 0.28, 0, 1) ** 2)
        rings.append(np.column_stack([xy, rim + (z - rim) * roll]))
    cap = np.array(rings)
    if not is_dentin:
        # The highest ring point lies beside the cusp's tip: stretch it to the handbook height.
        cap[..., 2] = rim + (cap[..., 2] - rim) * (relief.height - rim) / (cap[..., 2].max() - rim)
    return cap[:-1], cap[-1].mean(axis=0)


def _occlusal_enamel(z: Floats, relief: _Relief, n: _Lengths) -> Floats:
    share = np.clip((relief.height - z) / relief.groove, 0, 1)
    return np.asarray(n.enamel_cusp + (n.enamel_groove - n.enamel_cusp) * share, dtype=np.float64)


def _flat_cap(ring: Floats) -> tuple[Floats, Floats]:
    middle = np.array([0.0, 0.0, float(ring[0, 2])])
    return (middle + (ring - middle) * 0.5)[None], middle


def _pulp(
    relief: _Relief, n: _Lengths, shape: Mapping[str, Any], widths: Sequence[PchipInterpolator]
) -> tuple[Floats, Floats, Floats]:
    """Return an estimated pulp: a share of the neck's width, its roof below the junction by the
    dentin thickness, with horns under the cusps; in an anterior tooth it narrows with the crown."""
    halves = n.pulp_share * np.array([n.md_neck, n.bl_neck, n.md_neck, n.bl_neck]) / 2
    tips = np.array([[x, y] for x, y, _ in relief.cusps])
    shrink = halves[0] / (n.md_neck / 2)
    covered = n.enamel_groove + n.dentin_occlusal
    groove_roof = relief.height - relief.groove - covered
    levels = np.linspace(-n.root, max(groove_roof - 0.6, -n.root + 1.0), 6)
    rings = np.array([_ring(halves, shape["exponent"], z) for z in levels])
    middle = np.zeros(2)
    if "facial" in shape:
        facial, lingual = widths[1](levels), widths[3](levels)
        most = MOST_PULP_SHARE * (facial + lingual) / 2
        rings[:, :, 1] *= (np.minimum(most, halves[1]) / halves[1])[:, None]
        rings[:, :, 1] += (facial - lingual)[:, None] / 2
        middle[1] = (facial[-1] - lingual[-1]) / 2
    cap = []
    for scale in (0.92, 0.75, 0.55, 0.35, 0.15):
        xy = middle + (rings[-1][:, :2] - middle) * scale
        near = np.min(np.hypot(*(xy[:, None, :] - tips[None] * shrink).transpose(2, 0, 1)), axis=1)
        horn = 0.7 * np.exp(-((near / 0.6) ** 2)) * (len(tips) > 1)
        roll = np.sqrt(1 - np.clip((scale - 0.5) / 0.5, 0, 1) ** 2)
        base = rings[-1][0, 2]
        cap.append(np.column_stack([xy, base + (groove_roof + horn - base) * roll]))
    return rings, np.array(cap), cap[-1].mean(axis=0)
