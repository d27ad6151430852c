"""A body as one binary message: JSON header, then 8-byte aligned arrays. The browser reads it without copying.

Header keys: ``arrays`` {name: [type, count, offset]}, ``faces``, ``edges``, ``vertices``. See docs/ARCHITECTURE.md.
"""

from __future__ import annotations

import numpy as np

from ..mesh.message import message
from ..names import made
from .digest import Digest, normalised
from .edges import named_edges, picks_of, smooth_seams
from .measuring import rough_box
from .meshing import Mesh
from .naming import Body, FaceName


def pack(body: Body, mesh: Mesh, facts: Digest, chord: float = 0.0) -> bytes:
    """Mesh and what can be picked of it. Layout: uint32 header length, header, padding, arrays.

    With the chord tolerance (mm) of the mesh the header tells its ``volume`` and, as ``slack``, how far from the
    exact one that may be (mm³): a chord's height over all that is not flat. Whoever shows both numbers can tell when
    something is wrong.
    """
    arrays = {
        "positions": mesh.positions.ravel(),
        "normals": np.round(mesh.normals.ravel() * 127).astype(np.int8),
        "triangles": mesh.triangles.ravel(),
        "lines": mesh.lines.ravel(),
    }
    header: dict[str, object] = {"body": body.id}
    siblings: dict[FaceName, list[int]] = {}
    for i, f in enumerate(facts.faces):
        siblings.setdefault(f.name, []).append(i)
    low, high = rough_box(body.shape)
    header["faces"] = [
        {
            "at": [int(first), int(count)],
            "pick": {
                "atoms": sorted(f.name),
                "neighbours": sorted(f.neighbours),
                "siblings": [sorted(facts.faces[j].neighbours) for j in siblings[f.name] if j != i],
                "centre": _short(normalised(f.centre, low, high)),
            },
            "made": [made(atom) for atom in sorted(f.name)],
            "form": f.form,
            "centre": _short(f.centre),
            "area": round(f.area, 6),
            **({"frame": f.frame.as_json()} if f.frame else {}),
            **({"radius": round(f.radius, 6)} if f.radius else {}),
        }
        for i, (f, (first, count)) in enumerate(zip(facts.faces, mesh.faces))
    ]
    seams, picks = smooth_seams(body), picks_of(named_edges(body))
    header["edges"] = [
        {
            "at": [int(first), int(count)],
            "form": e.form,
            "length": round(e.length, 6),
            "faces": list(e.faces),
            "ends": list(e.ends) if e.forward else [e.ends[1], e.ends[0]],
            **({"radius": round(e.radius, 6)} if e.radius else {}),
            **({"seam": True} if i in seams else {}),
            **({"pick": picks[i]} if i in picks else {}),
        }
        for i, (e, (first, count)) in enumerate(zip(facts.edges, mesh.edges))
    ]
    if chord:
        header["volume"] = _volume(mesh)
        curved = sum(f.area for f in facts.faces if f.form != "flat")
        header["slack"] = chord * curved + 1e-4 * abs(_volume(mesh)) + 1e-6
    header["vertices"] = [_short(v) for v in facts.vertices]
    header["box"] = [_short(low), _short(high)]
    return message(header, arrays)


def _volume(mesh: Mesh) -> float:
    """What the triangles enclose, mm³ (the divergence theorem, about their middle)."""
    places = np.asarray(mesh.positions, float).reshape(-1, 3)
    a, b, c = (places - places.mean(axis=0))[np.asarray(mesh.triangles).reshape(-1, 3)].transpose(1, 0, 2)
    return float(np.einsum("ij,ij->", a, np.cross(b, c)) / 6)


def _short(p: tuple[float, float, float]) -> list[float]:
    return [round(v, 6) for v in p]
