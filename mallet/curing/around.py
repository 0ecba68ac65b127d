"""What stands around the restoration when it is lit: what blocks light, what lets some through, and what a tip can
rest on."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from manifold3d import Manifold
from numpy.typing import NDArray

from mallet.cavity.access import OCCLUSAL
from mallet.cavity.band import Band
from mallet.cavity.measures import Contacts
from mallet.cavity.preparation import Cavity
from mallet.cavity.rays import Scene
from mallet.light.aims import STRAIGHT, Aim, Field, Hold, aim_from_behind, side_aims
from mallet.light.beam import Beam
from mallet.light.field import BARE, FINE, Filling, Grain, Passing, irradiance_mw_cm2, passing_of
from mallet.rulebook import Rulebook
from mallet.terms.parts import Side

Floats = NDArray[np.float64]
TOOTH_CONTRAST = 0.2
SUNK_INTO_WALLS = ("retention_groove", "lingual_dovetail")


@dataclass(frozen=True)
class Surroundings:
    """What stands around the restoration: what blocks rays from where it opens to, what a tip can rest on
    (N, 3), how that is held, and the bands. From the side the tooth lets some light through; there only
    metal and adjacent teeth block. What has no wall behind it is held there by an index or a strip, what is built up
    all round by a form. `once_off` is what stands there once the bands are off, where they come off before all is placed.
    `sunk` are tags of what is cut into walls, past which light from above goes by, `open_faces` those of boxes in a face, which
    is open to light from there; `behind` is
    what a tip can rest on at the side away from where the cavity opens to (N, 3)."""

    blockers: Scene
    skyline: Floats
    banded: Scene
    beside: Scene
    tooth: tuple[Filling, ...]
    hold: Hold = STRAIGHT
    is_held_behind: bool = False
    is_in_form: bool = False
    is_open_behind: bool = False
    clear_sides: frozenset[Side] = frozenset()
    has_tunnel: bool = False
    sunk: frozenset[int] = frozenset()
    open_faces: frozenset[int] = frozenset()
    behind: Floats | None = None
    passing: Passing = BARE
    once_off: Surroundings | None = None

    def at(self, is_banded: bool) -> Surroundings:
        """Return what stands there while the bands do, or once they are off."""
        return self if is_banded or self.once_off is None else self.once_off

    def field(self, points: Floats, aim: Aim, placed: Sequence[Filling], grain: Grain = FINE) -> Floats:
        """Return irradiance (N,) at points from an aim, through what is placed, with what the cavity's walls return.

        From the side nothing is returned: what stands in the way there is no wall of the cavity.
        """
        if aim.is_side:
            finer, media = replace(grain, contrast=TOOTH_CONTRAST), [*placed, *self.tooth]
            return irradiance_mw_cm2(points, aim.tip, self.beside, media, finer, self.passing.past_no_walls)
        return irradiance_mw_cm2(points, aim.tip, self.blockers, placed, grain, self.passing)

    def is_lit_round(self, side: Side | None, faces: Contacts) -> bool:
        """Tell whether light from all sides is tried for an increment: behind a clear band, in a tunnel, in a form, sunk
        into a wall, in a box in a face, or where the cavity opens on the other face too."""
        if self.is_open_behind:
            return True
        is_sunk = not (self.sunk | self.open_faces).isdisjoint(faces.tooth.tags.tolist())
        is_behind_clear = side in self.clear_sides or (self.has_tunnel and bool(self.clear_sides))
        return is_sunk or self.is_in_form or is_behind_clear

    def aims_round(self, first: Aim, points: Floats, beam: Beam) -> list[Aim]:
        """Return the aims at points (N, 3) from all sides: from where the cavity opens to, and from facial and lingual
        or, of what is entered from a face, from the other one. What is undercut is lit through tooth from there
        too."""
        if self.hold.access is not OCCLUSAL:
            return [first, aim_from_behind(points, self.behind, beam, self.hold)]
        first = replace(first, is_side=bool(self.sunk))
        return [first, *side_aims(points, self.skyline, beam, self.hold)]

    def through(self, placed: Sequence[Filling]) -> Field:
        """Return the field through what is placed."""
        return lambda points, aim, grain: self.field(points, aim, placed, grain)


def surroundings(
    cavity: Cavity,
    bands: Sequence[Band],
    neighbours: Sequence[Manifold],
    beam: Beam,
    rules: Rulebook,
    hold: Hold = STRAIGHT,
) -> Surroundings:
    """Return what blocks light and what a tip can stand on: tooth, metal bands and adjacent teeth."""
    metal = [band.solid.solid for band in bands if band.is_metal]
    # Rays rise from the cavity to a tip whose middle stands over it.
    x0, y0, lowest, x1, y1, highest = cavity.filling.bounding_box()
    r = beam.radius_mm + hold.aside_mm
    reach = ((x0 - r, y0 - r, lowest), (x1 + r, y1 + r, np.inf))
    within = ((x0, y0, lowest), (x1, y1, highest))
    blockers = Scene(cavity.remaining_tooth, *cavity.laid, *metal, *neighbours, reach=reach, seen_from=within)
    clear = [band for band in bands if not band.is_metal]
    is_in_form = bool(cavity.stump)
    sunk = frozenset(one.cut.tag for one in cavity.features if one.kind in SUNK_INTO_WALLS)
    open_faces = frozenset(one.cut.tag for one in cavity.features if one.kind == "face_box")
    is_open_behind = bool(cavity.from_face and cavity.from_face.is_through)
    shines_through = clear or is_in_form or sunk or open_faces or is_open_behind
    standing = [cavity.outer.solid, *(band.solid.solid for band in bands), *neighbours]
    corners = np.concatenate([np.asarray(s.to_mesh64().vert_properties)[:, :3] for s in standing])
    # A tip rests on crowns, never on roots; from a face on whatever of that face stands out.
    skyline = corners[corners[:, 2] > 0]
    return Surroundings(
        blockers,
        skyline,
        Scene(*(band.solid.solid for band in bands)),
        beside=Scene(*metal, *cavity.pins, *neighbours) if shines_through else Scene(),
        tooth=_as_medium(cavity, rules) if shines_through else (),
        hold=hold,
        is_held_behind=is_open_behind
        or bool(cavity.from_face and cavity.from_face.kind == "incisal_fracture"),
        is_in_form=is_in_form,
        is_open_behind=is_open_behind,
        clear_sides=frozenset(band.side for band in clear),
        has_tunnel=bool(cavity.tunnels),
        sunk=sunk,
        open_faces=open_faces,
        behind=corners[corners[:, 2] < 0],
        passing=passing_of(rules),
    )


def _as_medium(cavity: Cavity, rules: Rulebook) -> tuple[Filling, ...]:
    """Return what is left of the tooth as it weakens light: enamel throughout, and what dentin adds; a base
    counts as the dentin that it stands for."""
    enamel = rules.value("light.enamel_attenuation_per_mm")
    added = rules.value("light.dentin_attenuation_per_mm") - enamel
    dentin = cavity.remaining_tooth ^ cavity.shell(rules, "dentin")
    bases = [base.solid for base in cavity.bases]
    return Filling(Scene(cavity.remaining_tooth, *bases), enamel), Filling(Scene(dentin, *bases), added)
