"""Builds and previews: what the Bench shows of a part; meshes go to the blob folder."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import asdict
from typing import Any

import numpy as np

from ..core.advice import Advice
from ..core.errors import CannotBuild, Trouble
from ..core.making.context import Context
from ..core.making.references import find_faces
from ..core.making.results import NO_SOLIDS, PartBuild, StepResult
from ..core.mesh.message import message
from ..core.mesh.showing import pack_surface
from ..core.mesh.surface import Surface
from ..core.model.advising import advise, beyond
from ..core.model.document import Model, Part, origin_of
from ..core.model.measurements import Thing, measure
from ..core.plain_json import digest_of
from ..core.solid import meshing
from ..core.solid.digest import digest, pick_of_face
from ..core.solid.measuring import volume
from ..core.solid.morphing import alike, followed
from ..core.solid.naming import Body
from ..core.solid.packing import pack
from ..core.steps.bring_part import blanks_for
from . import answers, kept_answers, requests
from .blobs import Blobs
from .caches import body_key, forget, has_solid, measured, stuff_of
from .jobs import Desk, handles
from .sheets import page_facts

WORST = 0.02  # of a body's volume: a mesh laid over another that is off by more shows something else


@handles(requests.BuildPart)
def build_part(asked: requests.BuildPart, desk: Desk) -> answers.Built:
    """Build a part and put its meshes among the blobs.

    What was answered once is kept there too, for all workers: a part opened again is shown from that, without the
    kernel. ``cold`` in the answer tells that this worker has not the solids themselves yet (see ``warm_part``).
    """
    key = kept_answers.key_of(asked.document, asked.part)
    kept = kept_answers.built(desk.blobs, asked.document, asked.part)
    if asked.afresh:
        for body in (kept or {"bodies": ()})["bodies"]:
            desk.blobs.drop_mesh(body["key"])
        desk.blobs.drop(key)
        forget()
    elif kept is not None:
        return {**kept, "cold": not has_solid(kept["key"])}
    result = _told(desk, asked.document, *desk.built(asked.document, asked.part))
    if not any(barred in step["message"] for barred in desk.barred.values() for step in result["steps"]):
        desk.blobs.keep(result, key)
    return {**result, "cold": False}


@handles(requests.WarmUp)
def warm_up(asked: requests.WarmUp, desk: Desk) -> None:
    """Nothing."""


@handles(requests.WarmPart)
def warm_part(asked: requests.WarmPart, desk: Desk) -> None:
    """Build a part for what will be asked about it next."""
    desk.built(asked.document, asked.part)


@handles(requests.BuildDraft)
def build_draft(asked: requests.BuildDraft, desk: Desk) -> answers.Built:
    """Build a part with a draft step in it, and tell of that step by itself too."""
    model, part, built = desk.built(asked.document, asked.part)
    draft = next(r for r in built.steps if r.step == asked.draft)
    return {
        **_told(desk, asked.document, model, part, built, advised=False),
        "preview": _preview(draft, built, desk.blobs),
    }


def _told(
    desk: Desk, document: str, model: Model, part: Part, built: PartBuild, *, advised: bool = True
) -> answers.Built:
    """What the screen is told of a built part; its meshes are put among the blobs."""
    desk.say("", len(part.steps), len(part.steps))
    advice = advise(model, part, built) if advised else {}
    limits = beyond(model, part, built) if built.failed else {}
    page = None
    if part.sort == "sheet":
        page, more = page_facts(desk, document, model, part, built)
        for step, one in more:
            advice.setdefault(step, []).append(one)
    bodies = [body_facts(body, built.solid_key, desk.blobs, stuff_of(model, part, body)) for body in built.bodies]
    told: answers.Built = {
        "part": part.id,
        "key": built.solid_key,
        "steps": [
            {**facts, "message": " ".join(filter(None, (limits.get(facts["id"]), facts["message"])))}
            if facts["status"] == "failed"
            else facts
            for r in built.steps
            for facts in (_step_facts(r, advice.get(r.step, ()), built.free.get(r.step, "")),)
        ],
        "bodies": bodies,
        "references": [reference_facts(*r, desk.blobs) for r in built.references],
        "paints": _paints(model, part, built.bodies),
        "measurements": [_taken(m.id, m.things, built.bodies) for m in part.measurements],
        "totals": _totals(bodies),
        "hands": {id: asdict(hand) for id, hand in built.hands.items()},
        "pulls": {body: {"from": base, "way": way} for r in built.steps for body, base, way in r.pulls},
    }
    if page is not None:
        told["page"] = page
    return told


@handles(requests.BuildNear)
def build_near(asked: requests.BuildNear, desk: Desk) -> answers.Built:
    """A part as it would be, and where the nodes of the meshes of it as it is lie on that, of the bodies that only have
    other sizes.
    """
    _, _, before = desk.built(asked.document, asked.part)
    model, part, after = desk.built(asked.other, asked.part)
    now = {b.id: b for b in after.bodies}
    morphs = {
        b.id: key for b in before.bodies if b.id in now and (key := _morph(b, before, now[b.id], after, desk.blobs))
    }
    return {**_told(desk, asked.other, model, part, after), "morphs": morphs}


def _morph(body: Body, before: PartBuild, other: Body, after: PartBuild, blobs: Blobs) -> str:
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
    if not blobs.has_mesh(key):
        blobs.keep_mesh(key, message({}, {"positions": positions.ravel(), "lines": lines.ravel()}))
    return key


def _preview(result: StepResult, built: PartBuild, blobs: Blobs) -> answers.PreviewFacts:
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
        "handle": None if result.handle is None else {**result.handle},
        "spots": [{"name": name, "at": at} for name, at in result.spots],
        "change": change,
        "took": list(result.took),
        "along": result.along,
        "worked_on": list(result.worked_on) if len(before) > 1 else [],
        "tools": tools,
        "before": [body_facts(body, built.steps[at - 1].solid_key, blobs) for body in before] if at else [],
    }


def _step_facts(result: StepResult, more: Sequence[Advice] = (), free: str = "") -> answers.StepFacts:
    facts: answers.StepFacts = {
        "id": result.step,
        "status": result.status,
        "message": result.message,
        "where": result.where,
        "free": free,
        "took": list(result.took),
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


def body_facts(body: Body, solid_key: str, blobs: Blobs, stuff: Mapping[str, Any] | None = None) -> answers.BodyFacts:
    key = body_key(body, solid_key)
    m = measured(body, solid_key)
    if not blobs.has_mesh(key):
        size = max(h - l for l, h in zip(*m.box))
        chord = meshing.view_tolerance(size)
        meshing.tessellate(body.shape, chord)
        blobs.keep_mesh(key, pack(body, meshing.extract(body.shape), digest(body), chord))
    facts: answers.BodyFacts = {
        "id": body.id, "key": key, "volume": m.volume, "area": m.area, "centre": m.centre, "box": m.box,
        "moments": m.moments,
    }  # fmt: skip
    facts.update(stuff or {})  # type: ignore[typeddict-item]
    return facts


def reference_facts(step: str, key: str, surface: Surface, blobs: Blobs) -> answers.ReferenceFacts:
    """A surface beside the part: where its triangles are, what it amounts to."""
    mesh_key = digest_of(["reference", key])
    if not blobs.has_mesh(mesh_key):
        blobs.keep_mesh(mesh_key, pack_surface(surface, step))
    return {
        "id": step, "key": mesh_key, "volume": surface.volume, "area": surface.area, "box": surface.box,
        "triangles": len(surface.triangles), "closed": surface.closed, "reference": True,
    }  # fmt: skip


def _paints(model: Model, part: Part, bodies: Sequence[Body]) -> list[answers.PaintFacts]:
    """Colours where they belong now: [{"body", "colour", "face" (0-based) or None}]; lost faces have none."""
    found: list[answers.PaintFacts] = [
        {"body": p.body, "face": None, "colour": p.colour} for p in part.paints if p.body
    ]
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


def _taken(id: str, things: Sequence[Thing], bodies: Sequence[Body]) -> answers.MeasurementFacts:
    """A kept measurement as it is now, or why it cannot be taken."""
    try:
        found = measure(things, bodies)
        return {"id": id, "rows": found["rows"], "lines": found["lines"]}
    except Trouble as problem:
        return {"id": id, "rows": [], "lines": [], "problem": problem.message}


def _totals(bodies: Sequence[answers.BodyFacts]) -> answers.Totals:
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


@handles(requests.HowItStands)
def how_it_stands(asked: requests.HowItStands, desk: Desk) -> dict[str, str]:
    """Where another part stands as seen from a part, where both are put together: what Bring
    part's blanks would say.
    """
    model, _, built = desk.built(asked.document, asked.together)
    motions = []
    for source in (asked.part, asked.other):
        found = next(
            (b.came.motion for b in built.bodies if b.came and b.came.motion and b.came.of.startswith(f"{source}.")),
            None,
        )
        if found is None:
            raise CannotBuild(f"{model.part(source).name} does not stand in {model.part(asked.together).name}.")
        motions.append(np.array(found).reshape(3, 4))
    (turn, shift), (other_turn, other_shift) = ((m[:, :3], m[:, 3]) for m in motions)
    return blanks_for(turn.T @ other_turn, turn.T @ (other_shift - shift))


@handles(requests.SettleDraft)
def settle_draft(asked: requests.SettleDraft, desk: Desk) -> dict[str, Any]:
    """Better defaults for blanks of a draft step that nobody has touched (which way there is material).

    The part is built up to the step, not with it: a step that takes its worker down does so once, in its preview.
    """
    model, part, built = desk.built(asked.document, asked.part, before=asked.step)
    at = part.index(asked.step)
    context = Context(
        model, built.steps[at - 1].left if at else NO_SOLIDS, {r.step: r for r in built.steps[:at]}, part.steps[at],
        lambda other, _: desk.built(asked.document, other)[2],
    )  # fmt: skip
    return part.steps[at].better_defaults(context, asked.touched)


@handles(requests.FindTakeable)
def find_takeable(asked: requests.FindTakeable, desk: Desk) -> list[answers.Takeable]:
    """What an open sketch may take from the solids before it."""
    from ..core.solid.projecting import takeable

    _, part, built = desk.built(asked.document, asked.part)
    at = part.index(asked.step)
    state = built.steps[at].sketch
    bodies = built.steps[at - 1].bodies if at else ()
    if state is None or not bodies:
        return []
    found = takeable(bodies, state.frame)
    by_id = {b.id: b for b in bodies}
    told: list[answers.Takeable] = []
    for one in found:
        entry: answers.Takeable = {"curve": one["curve"], "words": one["words"]}
        if "section" in one:
            entry["face"] = pick_of_face(by_id[one["section"]["body"]], one["section"]["face"])
        else:
            entry["edge"] = one["edge"]
        told.append(entry)
    return told
