"""Solids that pass through outlines one after the other."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence

import numpy as np
import shapely
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeVertex, BRepBuilderAPI_MakeWire
from OCP.BRepOffsetAPI import BRepOffsetAPI_ThruSections
from OCP.gp import gp_Pnt

from ..errors import CannotBuild
from ..frames import Frame, Triple
from ..sketch.curves import Segment
from ..sketch.regions import Profile
from .along import caps, checked
from .kernel import FACE, listed, mapped, solids_in
from .matching import Section, at_share, matched_corners, one_way_round, section_of
from .measuring import box_of, volume
from .naming import Body, FaceName, named
from .rings import smooth_ring
from .shapes import cut, edge_of, fuse

_TURN = "This loft would pass through itself"


def lofted(
    step: str,
    sections: Sequence[tuple[Profile, Frame]],
    ruled: bool,
    shift: int,
    tips: tuple[Triple | None, Triple | None] = (None, None),
    *,
    closed: bool = False,
) -> Body:
    """Through outlines in their order (at least two, or one and a tip), straight from one to the next or smoothly;
    ``tips``: points before the first and behind the last; ``closed`` (three or more): from the last to the first again.
    Corners are matched so that they turn least; ``shift`` matches each section's corners to those so many farther on.

    Where outlines have different numbers of corners, each gets those of the others.
    """
    holes = {len(p.holes) for p, _ in sections}
    if len(holes) > 1 or (holes != {0} and any(tips)):
        raise CannotBuild("The regions have different numbers of holes: a hole must run all the way.", where="regions")
    outer = _through(step, [section_of(p.outer, f) for p, f in sections], ruled, shift, tips, closed)
    middles = [[section_of(h, f).turned() for h in p.holes] for p, f in sections]  # holes run clockwise
    for hole in middles[0]:
        here, row = hole, [hole]
        for after in middles[1:]:
            here = min(after, key=lambda s: math.dist(s.centre, here.centre))
            row.append(here)
        left = cut(outer, [_through(step, row, ruled, 0, (None, None), closed)], step)
        if len(left) != 1:
            raise CannotBuild("A hole comes out of the loft on the way: draw it farther inside.", where="regions")
        outer = left[0]
    return outer


def first_corners(sections: Sequence[tuple[Profile, Frame]], shift: int, closed: bool) -> list[Triple]:
    """Where the outlines' corners lie that are matched with the first one's first, in their order."""
    outlines = one_way_round([section_of(p.outer, f) for p, f in sections], (None, None), closed)
    return [s.frame.place(*s.chain[0][0].first) for s in matched_corners(outlines, shift)]


def _through(
    step: str,
    sections: list[Section],
    ruled: bool,
    shift: int,
    tips: tuple[Triple | None, Triple | None],
    closed: bool = False,
) -> Body:
    matched = matched_corners(one_way_round(sections, tips, closed), shift)
    return _ring(step, matched, ruled) if closed else _row(step, matched, ruled, tips)


def _row(
    step: str, matched: list[Section], ruled: bool, tips: tuple[Triple | None, Triple | None] = (None, None)
) -> Body:
    """Through matched outlines from the first to the last."""
    maker = BRepOffsetAPI_ThruSections(True, ruled, 1e-6)
    maker.CheckCompatibility(False)
    problem = CannotBuild(
        f"{_TURN}: bring the regions nearer to each other in shape and direction, or match other corners.",
        where="regions",
    )
    rows: list[list[tuple[object, str]]] = []
    if tips[0] is not None:
        maker.AddVertex(BRepBuilderAPI_MakeVertex(gp_Pnt(*tips[0])).Vertex())
    for section in matched:
        wire = BRepBuilderAPI_MakeWire()
        rows.append([])
        for piece, owner in section.chain:
            wire.Add(edge_of(piece, section.frame))
            rows[-1].append((wire.Edge(), owner))
        maker.AddWire(wire.Wire())
    if tips[1] is not None:
        maker.AddVertex(BRepBuilderAPI_MakeVertex(gp_Pnt(*tips[1])).Vertex())
    try:
        maker.Build()
        found = solids_in(maker.Shape()) if maker.IsDone() else []
    except Exception:  # the bindings raise whatever the kernel throws
        found = []
    if len(found) != 1:
        raise problem
    rings = sampled(matched, tips)
    solid = checked(found[0], problem, clear=(ruled or len(rings) == 2) and _simple(rings, matched))
    check_volume(solid, rings, ruled, problem)
    faces = mapped(solid, FACE)
    owners: dict[int, list[str]] = {}
    for row in rows:
        for edge, owner in row:
            for shape in listed(maker.Generated(edge)):
                at = faces.FindIndex(shape)
                if at:
                    owners.setdefault(at, []).append(owner)
    names: dict[int, FaceName] = {at: frozenset({f"{step}:side:{'/'.join(o)}"}) for at, o in owners.items()}
    return named(step, solid, names | caps(step, maker, faces), f"{step}:side")


def _ring(step: str, matched: list[Section], ruled: bool) -> Body:
    """Through matched outlines and on to the first again: straight, a piece each; smoothly, without a seam."""
    problem = CannotBuild(
        f"{_TURN}: bring the regions nearer to each other in shape and direction, or take more of them.",
        where="regions",
    )
    away = [float(((matched[-1].corners() - np.roll(matched[0].corners(), -k, axis=0)) ** 2).sum())
            for k in range(len(matched[0].chain))]  # fmt: skip
    if min(away) < away[0] * 0.999 - 1e-9:
        raise CannotBuild(
            "Once round, the corners of these regions come to lie on others: take more regions, or leave it open.",
            where="regions",
        )
    if not ruled:
        made = smooth_ring(step, matched, problem)
        rings = sampled(matched, (None, None))
        check_volume(checked(made.shape, problem), [*rings, rings[0]], False, problem)
        return made
    pieces = [_row(step, [a, b], True) for a, b in zip(matched, [*matched[1:], matched[0]])]
    whole = fuse([pieces[0]], pieces[1:], step)
    wanted = sum(volume(p.shape) for p in pieces)
    if len(whole) != 1 or abs(volume(whole[0].shape) - wanted) > 1e-6 * wanted:
        raise problem
    return Body(step, whole[0].shape, whole[0].names)


def sampled(sections: Sequence[Section], tips: tuple[Triple | None, Triple | None]) -> list[np.ndarray]:
    """The sampled outlines in their order, matched; a tip is a ring of one place."""
    # what is straight in every section needs no places between its corners
    counts = [1 if all(isinstance(p, Segment) for p, _ in row) else 24 for row in zip(*(s.chain for s in sections))]
    rings = [
        np.array([s.frame.place(*at_share(p, k / n)) for (p, _), n in zip(s.chain, counts) for k in range(n)])
        for s in sections
    ]
    ends = [np.repeat([tip], len(rings[0]), axis=0) if tip is not None else None for tip in tips]
    return [*([ends[0]] if ends[0] is not None else []), *rings, *([ends[1]] if ends[1] is not None else [])]


def _simple(rings: Sequence[np.ndarray], sections: Sequence[Section]) -> bool:
    """Whether a loft that runs straight between parallel outlines surely does not pass through itself: it rises all the
    time, and no cut on the way crosses itself. (What is not parallel nobody knows without looking.)
    """
    n = np.array(sections[0].frame.normal)
    if any(abs(abs(float(n @ np.array(s.frame.normal))) - 1) > 1e-9 for s in sections[1:]):
        return False
    heights = [float(ring[0] @ n) for ring in rings]
    rises = np.diff(heights)
    if not ((rises > 0).all() or (rises < 0).all()):
        return False
    x = np.array(sections[0].frame.x)
    flat = np.column_stack([x, np.cross(n, x)])
    for a, b in itertools.pairwise([ring @ flat for ring in rings]):
        t = np.linspace(0.02, 0.98, 25)[:, None, None]
        if not shapely.is_valid(shapely.polygons((1 - t) * a + t * b)).all():
            return False
    return True


def check_volume(solid: object, rings: Sequence[np.ndarray], ruled: bool, problem: CannotBuild) -> None:
    """The volume against that between sampled outlines joined straight (which a ruled loft is up to how curves are
    run); a smooth one may be fuller or slimmer, but not leave the outlines' box by much.
    """
    middle = np.concatenate(rings).mean(axis=0)
    total = 0.0
    for a, b in itertools.pairwise(rings):
        a, b = a - middle, b - middle
        c, d = np.roll(a, -1, axis=0), np.roll(b, -1, axis=0)
        for p, q, r in ((a, c, d), (a, d, b), (a, c, b), (c, d, b)):
            total += float(np.einsum("ij,ij->i", p, np.cross(q, r)).sum()) / 12
    for ring, sign in ((rings[0], -1.0), (rings[-1], 1.0)):
        own = ring - middle
        hub = own.mean(axis=0)
        total += sign * float(np.einsum("j,ij->", hub, np.cross(own, np.roll(own, -1, axis=0)))) / 6
    got = volume(solid)
    if total <= 0 or ((ruled or len(rings) == 2) and abs(got - total) > 0.02 * total):
        raise problem
    if not 0.25 * total < got < 4 * total:
        raise problem
    if ruled:
        return
    low, high = box_of(solid)
    l, h = np.concatenate(rings).min(axis=0), np.concatenate(rings).max(axis=0)
    if ((l - low > 0.5 * (h - l) + 1e-6) | (high - h > 0.5 * (h - l) + 1e-6)).any():
        raise problem
