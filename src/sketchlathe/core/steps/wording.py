"""How the content of a blank is said in words."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Any

from ..blanks import AxisRef, Blank, CurvePick, FacePick, PlaneRef, RegionPick, ThingPick
from ..errors import Trouble
from ..names import ROLES, innermost, maker, member, role, source

if TYPE_CHECKING:
    from ..model.document import Model
    from .base import Step

PLANE_WORDS = {"top": "top plane", "front": "front plane", "right": "right plane"}


def _formula(value: Any, blank: Blank, model: Model) -> str:
    return str(value) or ("none" if blank.optional else "…")


def _choice(value: Any, blank: Blank, model: Model) -> str:
    return blank.words.get(str(value), str(value))


def _plane(value: PlaneRef | None, blank: Blank, model: Model) -> str:
    if value is None:
        return "…"
    if value.plane:
        return PLANE_WORDS[value.plane]
    if value.datum:
        return model.title_of(value.datum)
    return say_face(value.face.atoms, model) if value.face else "…"


def say_face(atoms: tuple[str, ...], model: Model) -> str:
    """A face in words, from how it came to be: "end face of Extrude 2"."""
    atom = atoms[0]
    word = ROLES.get(role(atom), "face") + (" face" if role(atom) in ("start", "end", "cut") else "")
    made, first = model.find_step(maker(atom)), model.find_step(innermost(atom))
    own = first.face_words().get(f"{role(atom)}:{source(atom).rstrip(')')}", "") if first is not None else ""
    whose = made.body_word(model, f"{member(atom)}.") if made is not None and made.brings() else ""
    return f"{own or word} of {whose or model.title_of(maker(atom))}"


def _regions(value: tuple[Any, ...], blank: Blank, model: Model) -> str:
    if not value:
        return "…"
    said = []
    for kind, one, many in ((RegionPick, "region", "regions"), (CurvePick, "open chain", "open chains")):
        picks = [p for p in value if isinstance(p, kind)]
        if picks:
            sketches = dict.fromkeys(p.sketch for p in picks)
            count = one if len(picks) == 1 else f"{len(picks)} {many}"
            said.append(f"{count} of {' and '.join(model.title_of(s) for s in sketches)}")
    faces = [p for p in value if isinstance(p, FacePick)]
    if faces:
        said.append(say_face(faces[0].atoms, model) if len(faces) == 1 else f"{len(faces)} faces")
    return " and ".join(said)


def _empty(blank: Blank) -> str:
    """What a blank says while nothing is picked."""
    return blank.nothing or ("nothing" if blank.optional else "…")


def _curve(value: CurvePick | None, blank: Blank, model: Model) -> str:
    return model.title_of(value.sketch) if value else "…"


def _counted(one: str, many: str) -> Callable[[Any, Blank, Model], str]:
    def say(value: Any, blank: Blank, model: Model) -> str:
        if not value:
            return _empty(blank)
        return f"1 {one}" if len(value) == 1 else f"{len(value)} {many}"

    return say


def _faces(value: tuple[FacePick, ...], blank: Blank, model: Model) -> str:
    if len(value) == 1:
        return f"the {say_face(value[0].atoms, model)}"
    return _counted("face", "faces")(value, blank, model)


def _edges(value: tuple[Any, ...], blank: Blank, model: Model) -> str:
    """Edges, and all edges of faces."""
    faces = [p for p in value if isinstance(p, FacePick)]
    edges = len(value) - len(faces)
    if not value:
        return _empty(blank)
    said = ["1 edge" if edges == 1 else f"{edges} edges"] if edges else []
    if faces:
        said.append(
            f"all edges of the {say_face(faces[0].atoms, model)}"
            if len(faces) == 1
            else f"all edges of {len(faces)} faces"
        )
    return " and ".join(said)


def _path(value: tuple[Any, ...], blank: Blank, model: Model) -> str:
    """Sketches whose curves it follows, and edges."""
    if not value:
        return _empty(blank)
    sketches = dict.fromkeys(p.sketch for p in value if isinstance(p, CurvePick))
    edges = sum(not isinstance(p, CurvePick) for p in value)
    said = [model.title_of(s) for s in sketches]
    said += [] if not edges else ["an edge" if edges == 1 else f"{edges} edges"]
    return " and ".join(said)


def _bodies(value: tuple[str, ...], blank: Blank, model: Model) -> str:
    if not value:
        return blank.nothing or ("all bodies" if blank.optional else "…")
    return model.title_of_body(value[0]) if len(value) == 1 else f"{len(value)} bodies"


def _axis(value: AxisRef, blank: Blank, model: Model) -> str:
    said = _axis_as_picked(value, blank, model)
    return f"{said}, reversed" if value.reversed else said


def _axis_as_picked(value: AxisRef, blank: Blank, model: Model) -> str:
    if value.axis:
        return f"the {value.axis} axis"
    if value.datum:
        return model.title_of(value.datum)
    if value.sketch and value.point:
        try:
            at = model.sketch_step(value.sketch).sketch.name_of(value.point)
            return f"the axis through the {at.removeprefix('the ')} of {model.title_of(value.sketch)}"
        except Trouble:
            return f"a lost point of {model.title_of(value.sketch)}"
    if value.sketch and value.line:
        try:
            return f"{model.sketch_step(value.sketch).sketch.name_of(value.line)} of {model.title_of(value.sketch)}"
        except Trouble:
            return f"a lost line of {model.title_of(value.sketch)}"
    if value.edge:
        return "an edge"
    if value.face:
        return f"the axis of the {say_face(value.face.atoms, model)}"
    return _empty(blank)


def _thing(value: ThingPick, blank: Blank, model: Model) -> str:
    if value.face:
        return f"the {say_face(value.face.atoms, model)}"
    if value.edge:
        what = "a corner" if value.at else f"the {value.spot} of an edge" if value.spot else "an edge"
        return f"{what} of the {say_face(value.edge.first, model)}"
    if value.datum:
        return model.title_of(value.datum)
    if value.plane:
        return f"the {PLANE_WORDS[value.plane]}"
    if value.axis:
        return f"the {value.axis} axis"
    return "the origin" if value.origin else _empty(blank)


def _steps(value: tuple[str, ...], blank: Blank, model: Model) -> str:
    return " and ".join(model.title_of(v) for v in value) if value else "…"


def _part(value: str, blank: Blank, model: Model) -> str:
    return next((p.name for p in model.parts if p.id == value), "a part that is gone" if value else "…")


def _variant(value: str, blank: Blank, model: Model) -> str:
    return next((v.name for v in model.variants if v.id == value), "a variant that is gone" if value else "it is now")


def _text(value: Any, blank: Blank, model: Model) -> str:
    return f"“{value}”" if value else _empty(blank)


_SAY: dict[str, Callable[[Any, Blank, Model], str]] = {
    "length": _formula,
    "angle": _formula,
    "count": _formula,
    "choice": _choice,
    "plane": _plane,
    "regions": _regions,
    "curve": _curve,
    "path": _path,
    "text": _text,
    "members": _text,
    "faces": _faces,
    "edges": _edges,
    "points": _counted("point", "points"),
    "bodies": _bodies,
    "axis": _axis,
    "steps": _steps,
    "thing": _thing,
    "part": _part,
    "variant": _variant,
}


def say_blank(step: Step, field: str, model: Model) -> str:
    """The words in one blank of a step."""
    blank = step.blanks()[field]
    return _SAY[blank.type](getattr(step, field), blank, model)


_TAKES = {
    "length": "a length or a formula of at most 400 characters",
    "angle": "an angle or a formula of at most 400 characters",
    "count": "a whole number or a formula of at most 400 characters", "regions": "closed regions, picked in a sketch",
    "plane": "a plane or a flat face", "text": "a text", "members": "numbers of members",
    "faces": "faces, picked in the view", "edges": "edges, picked in the view",
    "bodies": "bodies of the part", "axis": "an axis: a line, an edge, a round face or an axis of the origin",
    "points": "points of sketches", "steps": "steps of the part", "curve": "a curve of a sketch",
    "path": "curves of sketches or edges that follow each other",
    "thing": "a face, an edge, a corner, a datum, or a plane, an axis or the point of the origin",
    "part": "another part of the model",
    "variant": "a variant of the model",
}  # fmt: skip


def what_it_takes(blank: Blank) -> str:
    """What fills a blank, in words."""
    if blank.type == "choice":
        words = [w for w in blank.words.values() if w]
        return f"one of: {', '.join(words)}"
    if blank.only == "body":
        return "a face, an edge or a corner of a body"
    if blank.only == "edge":
        return "an edge, picked in the view"
    return _TAKES[blank.type]
