"""What holds the pieces of a split part in place: holes with loose dowels, or pegs."""

from __future__ import annotations

import math

import numpy as np
import shapely

from ..errors import CannotBuild
from .blocks import cylinder
from .frames import Frame
from .measuring import volume
from .naming import Body
from .sectioning import section
from .shapes import common, cut, fuse

_RIM = 1.0  # mm of material beside a hole, at least


def joined(
    step: str, front: Body, back: Body, plane: Frame, count: int, across: float, deep: float, play: float, *, pegs: bool
) -> tuple[Body, Body, list[Body]]:
    """Both sides of a cut with ``count`` holes ``across`` wide and ``deep`` each (mm), and the dowels that lie in them;
    or the side behind with pegs, and holes in front only. Dowels and pegs are ``play`` thinner and shorter.
    """
    places = places_in(front, back, plane, count, across)
    n = plane.normal
    ahead = [Frame(plane.place(*p), plane.x, n) for p in places]
    behind = [Frame(plane.place(*p, -deep), plane.x, n) for p in places]
    thin = (across - play) / 2
    front = _drilled(step, front, [cylinder(f"{step}#{k}", f, across / 2, deep) for k, f in enumerate(ahead, 1)])
    if pegs:
        long = deep - play
        roots = [cylinder(f"{step}#{k}", Frame(plane.place(*p, -deep), plane.x, n), thin, deep + long)
                 for k, p in enumerate(places, 1)]  # fmt: skip
        inside = sum(volume(b.shape) for b in common(back, roots, step))
        _check_depth(inside, count * math.pi * thin * thin * deep)
        (whole,) = fuse([back], roots, step)
        return front, Body(back.id, whole.shape, whole.names), []
    back = _drilled(step, back, [cylinder(f"{step}#{k}", f, across / 2, deep) for k, f in enumerate(behind, 1)])
    loose = []
    for k, p in enumerate(places, 1):
        foot = Frame(plane.place(*p, -deep + play / 2), plane.x, n)
        loose.append(cylinder(f"{step}.{k}", foot, thin, 2 * deep - play))
    return front, back, loose


def _drilled(step: str, body: Body, holes: list[Body]) -> Body:
    left = cut(body, holes, step)
    wanted = sum(volume(h.shape) for h in holes)
    if len(left) != 1:
        raise CannotBuild("These holes cut the part to pieces: make them smaller.", where="across")
    _check_depth(volume(body.shape) - volume(left[0].shape), wanted)
    return left[0]


def _check_depth(got: float, wanted: float) -> None:
    if abs(got - wanted) > 1e-6 * wanted:
        raise CannotBuild(
            "The material beside the cut is too thin for so deep holes: make them shallower.", where="deep"
        )


def places_in(front: Body, back: Body, plane: Frame, count: int, across: float) -> list[tuple[float, float]]:
    """Places in a cut face for holes, far from each other and with material all round: first the farthest out along the
    face, then ever the one farthest from those before. Raises ``CannotBuild`` where there is no room.
    """
    area = _cut_face(front, plane, 1e-4).intersection(_cut_face(back, plane, -1e-4))
    room = area.buffer(-(across / 2 + max(_RIM, across / 4)))
    if room.is_empty:
        raise CannotBuild(
            f"The cut face is too narrow for holes {across:.4g} mm wide with material round them.", where="across"
        )
    spots = _spread(room)
    centre = np.array(area.centroid.coords[0])
    if count == 1:
        inner = shapely.maximum_inscribed_circle(room)
        return [tuple(map(float, shapely.get_coordinates(inner)[0]))]  # type: ignore[list-item]
    out = [spots[int(np.argmax(np.linalg.norm(spots - centre, axis=1)))]]
    while len(out) < count:
        near = np.min([np.linalg.norm(spots - p, axis=1) for p in out], axis=0)
        best = int(np.argmax(near))
        if near[best] < across + _RIM:
            raise CannotBuild(f"There is room for {len(out)} holes in the cut face.", where="count")
        out.append(spots[best])
    return [(float(p[0]), float(p[1])) for p in out]


def _spread(room: shapely.Geometry) -> np.ndarray:
    """Places all over an area: its corners and a grid (n, 2)."""
    x0, y0, x1, y1 = room.bounds
    step = max(x1 - x0, y1 - y0, 1e-6) / 48
    xs, ys = (np.arange(a, b + step / 2, step) for a, b in ((x0, x1), (y0, y1)))
    grid = np.array([(x, y) for x in xs for y in ys])
    inside = shapely.contains_xy(room, grid[:, 0], grid[:, 1])
    return np.concatenate([shapely.get_coordinates(room), grid[inside]])


def _cut_face(body: Body, plane: Frame, off: float) -> shapely.Geometry:
    """What a side shows a hair off the plane, in the plane's coordinates."""
    found = section(body, Frame(plane.place(0, 0, off), plane.x, plane.normal))
    if found is None:
        return shapely.Polygon()
    places = np.array([plane.flat(tuple(p)) for p in found.positions.astype(float)])
    return shapely.union_all(shapely.polygons(places[np.array(found.triangles).reshape(-1, 3)]), grid_size=1e-5)
