"""What holds the pieces of a split part in place: holes with loose dowels, pegs, or dovetails that slide in."""

from __future__ import annotations

import math

import numpy as np
import shapely

from ..errors import CannotBuild
from ..frames import Frame
from ..sketch.curves import Segment
from ..sketch.regions import Profile
from .measuring import volume
from .naming import Body
from .primitives import cylinder
from .sectioning import section
from .shapes import common, cut, fuse, prism

_RIM = 1.0  # mm of material beside a hole, at least
_LEAN = math.radians(15)  # of the flanks of a dovetail


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


def dovetailed(
    step: str, front: Body, back: Body, plane: Frame, count: int, across: float, deep: float, play: float
) -> tuple[Body, Body]:
    """The side in front with ``count`` tongues that widen to ``across`` mm at ``deep`` mm, and the side behind with
    what they slide into, along the shorter way of the cut face. Tongues are ``play`` narrower and shorter.
    """
    neck = across - 2 * deep * math.tan(_LEAN)
    if neck - play < across / 4:
        raise CannotBuild("So deep, the necks of the tongues get too thin: make them wider or shallower.", where="deep")
    area = _cut_face(front, plane, 1e-4).intersection(_cut_face(back, plane, -1e-4))
    if area.is_empty:
        raise CannotBuild("The sides of this cut do not lie on each other.", where="joint")
    sides = _sides(area)
    (x0, y0, long), (ux, uy), wide = sides
    if long / count < across + _RIM:
        room = math.floor(long / (across + _RIM))
        raise CannotBuild(f"There is room for {room} tongues in the cut face.", where="count")
    u = tuple(ux * a + uy * b for a, b in zip(plane.x, plane.y))
    v = tuple(uy * a - ux * b for a, b in zip(plane.x, plane.y))
    up = -1.0 if float(np.dot(np.cross(v, u), plane.normal)) > 0 else 1.0  # of the frame's y: into the side behind
    tongues: list[Body] = []
    sockets: list[Body] = []
    for k in range(count):
        at = (k + 0.5) * long / count
        frame = Frame(plane.place(x0 + ux * at, y0 + uy * at), u, v)  # type: ignore[arg-type]
        for less, into in ((play, tongues), (0.0, sockets)):
            profile = _tongue(neck - less, across - less, up * (deep - less))
            into.append(prism(f"{step}#{k + 1}", profile, frame, -_RIM, wide + _RIM))
    grown = [piece for tongue in tongues for piece in common(back, [tongue], step)]
    left = cut(back, sockets, step)
    if len(grown) != count or len(left) != 1:
        raise CannotBuild("These tongues would cut the part to pieces: make them smaller or fewer.", where="across")
    whole = fuse([front], grown, step)
    wanted = volume(front.shape) + sum(volume(b.shape) for b in grown)
    if len(whole) != 1 or abs(volume(whole[0].shape) - wanted) > 1e-6 * wanted:
        raise CannotBuild("These tongues do not hang on the side in front: make them smaller or fewer.", where="across")
    return Body(front.id, whole[0].shape, whole[0].names), left[0]


def _tongue(neck: float, wide: float, deep: float) -> Profile:
    """A trapezium from the cut (y = 0) to ``deep`` (signed), mm."""
    corners = [(-neck / 2, 0.0), (neck / 2, 0.0), (wide / 2, deep), (-wide / 2, deep)]
    pieces = [Segment(a, b) for a, b in zip(corners, [*corners[1:], corners[0]])]
    owners = ("neck", "right", "top", "left")
    if deep < 0:
        return Profile(tuple((p.reversed(), o) for p, o in zip(pieces[::-1], owners[::-1])), ())
    return Profile(tuple(zip(pieces, owners)), ())


def _sides(area: shapely.Geometry) -> tuple[tuple[float, float, float], tuple[float, float], float]:
    """The narrowest box round an area: a corner and the length of its longer side, that side's direction, and the
    length of the shorter one, which lies to the right of it.
    """
    corners = shapely.get_coordinates(shapely.oriented_envelope(area))[:4]
    ring = shapely.LinearRing(corners)
    if ring.is_ccw:
        corners = corners[::-1]
    lengths = np.linalg.norm(np.roll(corners, -1, axis=0) - corners, axis=1)
    k = int(np.argmax(np.round(lengths, 9)))
    way = (corners[(k + 1) % 4] - corners[k]) / lengths[k]
    x, y = corners[k]
    return (float(x), float(y), float(lengths[k])), (float(way[0]), float(way[1])), float(lengths[(k + 1) % 4])


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
