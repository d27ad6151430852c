"""Builds and previews: what the Bench shows of a part; meshes go to the blob folder."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import asdict
from typing import Any

import numpy as np

from ..core.errors import CannotBuild, Trouble
from ..core.mesh.message import message
from ..core.mesh.showing import pack_surface
from ..core.mesh.surface import Surface
from ..core.model.advice import Advice
from ..core.model.advising import advise
from ..core.model.document import Model, Part, origin_of
from ..core.model.measurements import Thing, measure
from ..core.model.references import find_faces
from ..core.model.results import PartBuild, StepResult, digest_of
from ..core.solid import meshing
from ..core.solid.digest import digest, pick_of_face
from ..core.solid.measuring import volume
from ..core.solid.morphing import alike, followed
from ..core.solid.naming import Body
from ..core.solid.packing import pack
from ..core.steps.bring_part import blanks_for
from . import answers
from .jobs import blob_path, job
from .keeping import body_key, built_part, forget, has_solid, measured, put_blob, stuff_of, write_note

WORST = 0.02  # of a body's volume: a mesh laid over another that is off by more shows something else


@job
def build_part(document: str, part_id: str, blobs: str, barred: dict[str, str], note: str) -> dict[str, Any]:
    """Build a part and put its meshes into ``blobs``.

    What was answered once is kept there too, for all workers: a part opened again is shown from that, without the
    kernel. ``cold`` in the answer tells that this worker has not the solids themselves yet (see ``warm_part``).
    """
    path = answers.path_of(blobs, document, part_id)
    kept = answers.read(path, blobs)
    if kept is not None:
        return {**kept, "cold": not has_solid(kept["key"])}
    result = _build(document, part_id, blobs, barred, "", note)
    if not any(step["message"] in barred.values() for step in result["steps"] if step["message"]):
        answers.write(path, result)
    return {**result, "cold": False}


@job
def build_afresh(document: str, part_id: str, blobs: str, barred: dict[str, str], note: str) -> dict[str, Any]:
    """Build a part from nothing: neither what this worker kept nor what is on disk is believed."""
    path = answers.path_of(blobs, document, part_id)
    for body in (answers.read(path, blobs) or {"bodies": ()})["bodies"]:
        blob_path(blobs, body["key"]).unlink(missing_ok=True)
    path.unlink(missing_ok=True)
    forget()
    return build_part(document, part_id, blobs, barred, note)


@job
def warm_up(note: str) -> None:
    """Nothing: whoever waits for it knows that the worker is there."""


@job
def warm_part(document: str, part_id: str, barred: dict[str, str], note: str) -> None:
    """Build a part for what will be asked about it next."""
    built_part(document, part_id, barred, note)


@job
def build_draft(
    document: str, part_id: str, blobs: str, barred: dict[str, str], draft: str, note: str
) -> dict[str, Any]:
    """Build a part with a draft step in it, and tell of that step by itself too."""
    return _build(document, part_id, blobs, barred, draft, note)


def _build(document: str, part_id: str, blobs: str, barred: dict[str, str], draft: str, note: str) -> dict[str, Any]:
    model, part, built = built_part(document, part_id, barred, note)
    write_note(note, {"step": "", "key": "", "number": len(part.steps), "count": len(part.steps)})
    advised = {} if draft else advise(model, part, built)
    bodies = [body_facts(body, built.solid_key, blobs, stuff_of(model, part, body)) for body in built.bodies]
    result: dict[str, Any] = {
        "part": part.id,
        "key": built.solid_key,
        "steps": [_step_facts(r, advised.get(r.step, ())) for r in built.steps],
        "bodies": bodies,
        "references": [reference_facts(*r, blobs) for r in built.references],
        "paints": _paints(model, part, built.bodies),
        "measurements": [_taken(m.id, m.things, built.bodies) for m in part.measurements],
        "totals": _totals(bodies),
        "hands": {id: asdict(hand) for id, hand in built.hands.items()},
        "pulls": {body: {"from": base, "way": way} for r in built.steps for body, base, way in r.pulls},
    }
    if draft:
        result["preview"] = _preview(next(r for r in built.steps if r.step == draft), built, blobs)
    return result


@job
def build_near(
    document: str, part_id: str, blobs: str, other: str, barred: dict[str, str], note: str
) -> dict[str, Any]:
    """A part as it would be (``other``: the document after some edits), and where the nodes of the meshes of it as it
    is lie on that: ``morphs`` {body: key of a blob}, of the bodies that only have other sizes.
    """
    _, _, before = built_part(document, part_id, barred, note)
    _, _, after = built_part(other, part_id, barred, note)
    told = _build(other, part_id, blobs, barred, "", note)
    now = {b.id: b for b in after.bodies}
    told["morphs"] = {
        b.id: key for b in before.bodies if b.id in now and (key := _morph(b, before, now[b.id], after, blobs))
    }
    return told


def _morph(body: Body, before: PartBuild, other: Body, after: PartBuild, blobs: str) -> str:
    """The key under which the places are kept; empty where the bodies are not alike, or the mesh does not fit."""
    if body.shape.IsSame(other.shape) or not alike(body, other):
        return ""
    facts = body_facts(body, before.solid_key, blobs)
    meshing.tessellate(body.shape, meshing.view_tolerance(max(h - l for l, h in zip(*facts["box"]))))
    positions, lines = followed(body.shape, other.shape)
    encloses = Surface(positions.astype(np.float64), meshing.extract(body.shape, edges=False).triangles).volume
    exact = measured(other, after.solid_key).volume
    if abs(encloses - exact) > WORST * exact:
        return ""
    key = digest_of(["morph", facts["key"], body_key(other, after.solid_key)])
    if not (path := blob_path(blobs, key)).exists():
        put_blob(path, message({}, {"positions": positions.ravel(), "lines": lines.ravel()}))
    return key


def _preview(result: StepResult, built: PartBuild, blobs: str) -> dict[str, Any]:
    """The new shape by itself, its handle, and how much it adds or takes away."""
    at = [r.step for r in built.steps].index(result.step)
    before = built.steps[at - 1].bodies if at else ()
    change = 0.0
    if result.status == "ok":
        was, now = (sum(volume(b.shape) for b in bodies) for bodies in (before, result.bodies))
        change = now - was if abs(now - was) > 1e-9 * max(was, now) else 0.0
    tools = [body_facts(body, f"tool-{result.key}", blobs) for body in result.tools]
    return {
        "status": result.status,
        "message": result.message,
        "where": result.where,
        "handle": result.handle,
        "spots": [{"name": name, "at": at} for name, at in result.spots],
        "change": change,
        "worked_on": list(result.worked_on) if len(before) > 1 else [],
        "tools": tools,
        "before": [body_facts(body, built.steps[at - 1].solid_key, blobs) for body in before] if at else [],
    }


def _step_facts(result: StepResult, more: Sequence[Advice] = ()) -> dict[str, Any]:
    facts: dict[str, Any] = {
        "id": result.step,
        "status": result.status,
        "message": result.message,
        "where": result.where,
        "free": result.free,
        "advice": [a.as_json() for a in (*result.advice, *more)],
        "blame": [b for b in result.blame if isinstance(b, dict) and "at" in b],
    }
    if result.sketch is not None:
        facts["frame"] = result.sketch.frame.as_json()
    elif result.datum is not None:
        d = result.datum
        facts["datum"] = {
            **(d.frame.as_json() if d.frame else {"origin": list(d.origin)}),
            **({"direction": list(d.direction)} if d.direction else {}),
        }
    if result.moved:
        facts["moved"] = dict(result.moved)
    return facts


def body_facts(body: Body, solid_key: str, blobs: str, stuff: Mapping[str, Any] | None = None) -> dict[str, Any]:
    key = body_key(body, solid_key)
    m = measured(body, solid_key)
    path = blob_path(blobs, key)
    if not path.exists():
        size = max(h - l for l, h in zip(*m.box))
        chord = meshing.view_tolerance(size)
        meshing.tessellate(body.shape, chord)
        put_blob(path, pack(body, meshing.extract(body.shape), digest(body), chord))
    return {
        "id": body.id, "key": key, "volume": m.volume, "area": m.area, "centre": m.centre, "box": m.box,
        "moments": m.moments, **(stuff or {}),
    }  # fmt: skip


def reference_facts(step: str, key: str, surface: Surface, blobs: str) -> dict[str, Any]:
    """A surface beside the part: where its triangles are, what it amounts to."""
    mesh_key = digest_of(["reference", key])
    path = blob_path(blobs, mesh_key)
    if not path.exists():
        put_blob(path, pack_surface(surface, step))
    return {
        "id": step, "key": mesh_key, "volume": surface.volume, "area": surface.area, "box": surface.box,
        "triangles": len(surface.triangles), "closed": surface.closed, "reference": True,
    }  # fmt: skip


def _paints(model: Model, part: Part, bodies: Sequence[Body]) -> list[dict[str, Any]]:
    """Colours where they belong now: [{"body", "colour", "face" (0-based) or None}]; lost faces have none."""
    found: list[dict[str, Any]] = [{"body": p.body, "face": None, "colour": p.colour} for p in part.paints if p.body]
    for body in bodies:
        # a brought body has the colour it has where it comes from, unless it was given one here
        source, there = origin_of(model, part, body)
        if source is not part and all(p["body"] != body.id for p in found):
            found += [{"body": body.id, "face": None, "colour": p.colour} for p in source.paints if p.body == there]
    for paint in part.paints:
        if paint.face is not None:
            try:
                faces = find_faces(paint.face, bodies).faces
            except CannotBuild:
                continue
            found += [{"body": f.body.id, "face": f.index, "colour": paint.colour} for f in faces]
    return found


def _taken(id: str, things: Sequence[Thing], bodies: Sequence[Body]) -> dict[str, Any]:
    """A kept measurement as it is now, or why it cannot be taken."""
    try:
        return {"id": id, **measure(things, bodies)}
    except Trouble as problem:
        return {"id": id, "rows": [], "lines": [], "problem": problem.message}


def _totals(bodies: list[dict[str, Any]]) -> dict[str, Any]:
    total = sum(b["volume"] for b in bodies)
    low = [min((b["box"][0][i] for b in bodies), default=0.0) for i in range(3)]
    high = [max((b["box"][1][i] for b in bodies), default=0.0) for i in range(3)]
    centre = [sum(b["centre"][i] * b["volume"] for b in bodies) / total if total else 0.0 for i in range(3)]
    return {
        "volume": total,
        "area": sum(b["area"] for b in bodies),
        "mass": sum(b["volume"] * b["density"] / 1000.0 for b in bodies),
        "centre": centre,
        "box": [low, high],
    }


@job
def how_it_stands(
    document: str, together: str, part_id: str, other: str, barred: dict[str, str], note: str
) -> dict[str, str]:
    """Where another part stands as seen from a part, where both are put together: what Bring part's blanks would say."""
    model, _, built = built_part(document, together, barred, note)
    motions = []
    for source in (part_id, other):
        found = next(
            (b.came.motion for b in built.bodies if b.came and b.came.motion and b.came.of.startswith(f"{source}.")),
            None,
        )
        if found is None:
            raise CannotBuild(f"{model.part(source).name} does not stand in {model.part(together).name}.")
        motions.append(np.array(found).reshape(3, 4))
    (turn, shift), (other_turn, other_shift) = ((m[:, :3], m[:, 3]) for m in motions)
    return blanks_for(turn.T @ other_turn, turn.T @ (other_shift - shift))


@job
def settle_draft(
    document: str, part_id: str, step_id: str, touched: list[str], barred: dict[str, str], note: str
) -> dict[str, Any]:
    """Better defaults for blanks of a draft step that nobody has touched (which way there is material).

    The part is built up to the step, not with it: a step that takes its worker down does so once, in its preview.
    """
    _, part, built = built_part(document, part_id, barred, note, before=step_id)
    at = part.index(step_id)
    before = built.steps[at - 1].bodies if at else ()
    return part.steps[at].better_defaults(before, {r.step: r for r in built.steps[:at]}, touched)


@job
def find_takeable(document: str, part_id: str, step_id: str, barred: dict[str, str], note: str) -> list[dict[str, Any]]:
    """What an open sketch may take from the solids before it."""
    from ..core.solid.taking import takeable

    _, part, built = built_part(document, part_id, barred, note)
    at = part.index(step_id)
    state = built.steps[at].sketch
    bodies = built.steps[at - 1].bodies if at else ()
    if state is None or not bodies:
        return []
    found = takeable(bodies, state.frame)
    by_id = {b.id: b for b in bodies}
    for entry in found:
        section = entry.pop("section", None)
        if section is not None:
            entry["face"] = pick_of_face(by_id[section["body"]], section["face"])
    return found
