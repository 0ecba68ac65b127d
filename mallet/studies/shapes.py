"""Solids of a worked plan as files that other programs read: STL and PLY, millimeters.

Points are in the tooth's frame (x mesial, y facial, z occlusal); teeth of quadrants 2, 4, 6 and 8 are mirrored,
so that a print of one is the tooth as it stands in the mouth.
"""

from __future__ import annotations

from typing import Literal, get_args

import numpy as np
from manifold3d import Manifold

from mallet.restoratives.worked import Worked
from mallet.terms.errors import InputError

Format = Literal["stl", "ply"]
# What is cut into dentin for hold, each a hollow of its own.
HOLDS = ("slot", "pin_hole", "retention_groove", "pulp_chamber", "face_box")


def solids_of(worked: Worked) -> dict[str, Manifold]:
    """Return the solids of a plan by name: the tooth before and after cutting, what is estimated within it, what
    fills it, whole and by increments, and what stands around it."""
    rules = worked.rules
    cavity = worked.cavity
    named = {
        "before": cavity.outer.solid,
        "after": cavity.remaining_tooth,
        "restoration": cavity.filling,
        "dentin": cavity.shell(rules, "dentin"),
        **({"pulp": cavity.pulp} if cavity.pulp else {}),
    }
    named |= {f"base.{base.tool.index}": base.solid for base in cavity.bases}
    named |= {"base.chamber": cavity.chamber} if cavity.chamber else {}
    named |= {f"pin.{one.index}": one.pin.solid for one in cavity.features if one.pin}
    named |= {f"hold.{one.index}": one.taken for one in cavity.features if one.kind in HOLDS}
    named |= {one.id: one.solid for one in worked.built.placed}
    named |= {f"band.{band.side}": band.solid.solid for band in worked.bands}
    named = {name: cavity.access.in_tooth(solid) for name, solid in named.items()}
    return named | {f"adjacent.{beside.side}": beside.solid for beside in worked.neighbours}


def shape_file(worked: Worked, name: str, format: str) -> bytes:
    """Return one solid of a plan as a binary file; raise InputError for an unknown name or format."""
    solids = solids_of(worked)
    if name not in solids:
        raise InputError.at("shape", name, f"one of {', '.join(solids)}")
    if format not in get_args(Format):
        raise InputError.at("format", format, " or ".join(get_args(Format)))
    # Half a second to load, which only files are worth.
    import trimesh

    mesh = solids[name].to_mesh64()
    vertices = np.asarray(mesh.vert_properties)[:, :3]
    faces = np.asarray(mesh.tri_verts).astype(np.int64)
    if worked.cavity.tooth.mirrored_when_drawn:
        # What is mirrored turns its inside out unless its faces run the other way.
        vertices, faces = vertices * [-1, 1, 1], faces[:, ::-1]
    made = trimesh.Trimesh(vertices, faces, process=False).export(file_type=format)
    assert isinstance(made, bytes)
    return made
