"""Faces of a body changed where they are: leaned, taken away, pushed. What the kernel calls
done is checked by volume.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

from OCP.BRepAlgoAPI import BRepAlgoAPI_Defeaturing
from OCP.BRepOffset import BRepOffset_MakeOffset, BRepOffset_Skin
from OCP.BRepOffsetAPI import BRepOffsetAPI_DraftAngle
from OCP.GeomAbs import GeomAbs_Intersection
from OCP.gp import gp_Dir, gp_Pln, gp_Pnt
from OCP.TopoDS import TopoDS

from ..errors import CannotBuild
from ..frames import Frame
from .kernel import FACE, Shape, is_tight, is_valid, listed, mapped, solids_in
from .measuring import area_and_centre, volume
from .naming import Body, FaceName, apart, carried, named


def drafted(step: str, body: Body, faces: Sequence[int], plane: Frame, angle: float) -> Body:
    """Faces (0-based) leaned by ``angle`` (rad) about where they meet a plane: positive makes the body narrower before
    the plane. Raises ``CannotBuild`` where a face cannot lean, or would pass what lies beyond it.
    """
    own = apart(body)
    maker = BRepOffsetAPI_DraftAngle(own.shape)
    there = mapped(own.shape, FACE)
    neutral = gp_Pln(gp_Pnt(*plane.origin), gp_Dir(*plane.normal))
    for index in faces:
        maker.Add(TopoDS.Face(there.FindKey(index + 1)), gp_Dir(*plane.normal), angle, neutral)
        if not maker.AddDone():
            raise CannotBuild(
                "One of these faces cannot lean: only flat and round ones can, and those beside fillets lean before the"
                " fillets are made.",
                where="faces",
            )
    steep = CannotBuild("Leaned so far, faces pass each other: take a smaller angle.", where="angle")
    solid = _one_solid(maker, steep)
    before, after = volume(body.shape), volume(solid)
    areas = sum(area_and_centre(there.FindKey(i + 1))[0] for i in faces)
    reach = max(_reach(body, plane), 1e-6)
    if (
        not is_tight(solid, [body.shape])
        or abs(after - before) > areas * reach * math.tan(abs(angle)) * 1.5 + 1e-9 * before
    ):
        raise steep
    result = mapped(solid, FACE)
    names = carried([own], maker, result)
    for i in faces:
        for face in listed(maker.Generated(there.FindKey(i + 1))):
            if at := result.FindIndex(face):
                names[at] = names.get(at, frozenset()) | own.names[i]
    return named(body.id, solid, names, f"{step}:leaned")


def _reach(body: Body, plane: Frame) -> float:
    """How far a body reaches from a plane, mm."""
    from .measuring import rough_box

    low, high = rough_box(body.shape)
    return max(
        abs(plane.height((x, y, z))) for x in (low[0], high[0]) for y in (low[1], high[1]) for z in (low[2], high[2])
    )


def without_faces(step: str, body: Body, faces: Sequence[int]) -> Body:
    """A body healed over faces (0-based) that are taken away: those around them are run on until they meet. Raises
    ``CannotBuild`` where they do not (the kernel then gives the body back unchanged and calls it done).
    """
    own = apart(body)
    there = mapped(own.shape, FACE)
    maker = BRepAlgoAPI_Defeaturing()
    maker.SetShape(own.shape)
    for index in faces:
        maker.AddFaceToRemove(TopoDS.Face(there.FindKey(index + 1)))
    maker.SetRunParallel(False)
    maker.SetToFillHistory(True)
    problem = CannotBuild(
        "The faces around do not close over what is taken away: pick all faces of the hole, boss or rounding.",
        where="faces",
    )
    solid = _one_solid(maker, problem)
    if not all(maker.IsDeleted(there.FindKey(i + 1)) for i in faces) or not is_tight(solid, [body.shape]):
        raise problem
    return named(body.id, solid, carried([own], maker, mapped(solid, FACE)), f"{step}:healed")


def pushed(step: str, body: Body, faces: Sequence[int], by: float) -> Body:
    """Faces (0-based) moved outwards by ``by`` mm (inwards if negative), square to themselves; round ones change their
    radius, those beside follow. The volume must change by about their area times the way.
    """
    own = apart(body)
    there = mapped(own.shape, FACE)
    maker = BRepOffset_MakeOffset()
    maker.Initialize(own.shape, 0.0, 1e-6, BRepOffset_Skin, False, False, GeomAbs_Intersection, False, False)
    for index in faces:
        maker.SetOffsetOnFace(TopoDS.Face(there.FindKey(index + 1)), by)
    problem = CannotBuild(
        "Moved so far, these faces lose the faces beside them: take a smaller distance. (Beside a rounding, push "
        "before it"
        " is rounded.)",
        where="by",
    )
    try:
        maker.MakeOffsetShape()
        found = solids_in(maker.Shape()) if maker.IsDone() else []
    except Exception:  # the bindings raise whatever the kernel throws
        found = []
    if len(found) != 1 or not is_valid(found[0]) or not is_tight(found[0], [body.shape]):
        raise problem
    solid = found[0] if volume(found[0]) > 0 else TopoDS.Solid(found[0].Reversed())
    change = volume(solid) - volume(body.shape)
    result = mapped(solid, FACE)
    names: dict[int, FaceName] = {}
    moved = 0.0
    for i in range(1, there.Size() + 1):
        for face in [there.FindKey(i), *listed(maker.Generated(there.FindKey(i)))]:
            if at := result.FindIndex(face):
                names[at] = names.get(at, frozenset()) | own.names[i - 1]
                if i - 1 in faces:
                    moved += area_and_centre(face)[0]
    still = sum(area_and_centre(there.FindKey(i + 1))[0] for i in faces)
    # between the area at the start and at the end, with room for what leans
    least, most = sorted((min(still, moved) * by, max(still, moved) * by))
    slack = 0.35 * max(abs(least), abs(most)) + 1e-6 * abs(volume(body.shape))
    if not least - slack <= change <= most + slack or not moved:
        raise problem
    return named(body.id, solid, names, f"{step}:moved")


def _one_solid(maker: object, problem: CannotBuild) -> Shape:
    """The one sound solid a maker gives; else the problem is raised."""
    try:
        maker.Build()  # type: ignore[attr-defined]
        found = solids_in(maker.Shape()) if maker.IsDone() else []  # type: ignore[attr-defined]
    except Exception:  # the bindings raise whatever the kernel throws
        found = []
    if len(found) != 1 or not is_valid(found[0]) or volume(found[0]) <= 0:
        raise problem
    return found[0]
