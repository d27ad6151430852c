"""Will it print: the check, and the program for the printer."""

from __future__ import annotations

import json
import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from ..core.errors import BadInput, Trouble
from ..core.inspect import fits
from ..core.mesh.showing import pack_surface
from ..core.mesh.surface import Surface
from ..core.model.document import Model, Part
from ..core.model.made_of import made_of, printed, shop_step
from ..core.names import maker, role
from ..core.plain_json import digest_of
from ..core.printing import estimating, gcode, layers, laying, plates, printable, readiness, remedies
from ..core.printing.process import Process, process_of
from ..core.saying import not_whole
from ..core.solid import fitting
from ..core.solid.kernel import FACE, Shape, mapped
from ..core.solid.naming import Body
from ..core.solid.transforms import original_of
from ..core.steps.standard_part import StandardPart
from . import answers, requests
from .blobs import Blobs
from .builds import body_facts, reference_facts
from .caches import measured, stuff_of
from .jobs import Desk, handles


def _raw(part: Part, bodies: Sequence[Body]) -> printable.Printable:
    """A part's triangles as modelled."""
    if not bodies:
        raise Trouble(f"“{part.name}” has no solid yet that is printed: there is nothing to print.")
    return printable.printable(bodies)


def _chosen(ways: Sequence[laying.Laying], name: str) -> laying.Laying:
    """The way to lay a part that was asked for, or as it was modelled."""
    return next((w for w in ways if w.name == name), next(w for w in ways if w.name == "as modelled"))


@dataclass(frozen=True)
class _Laid:
    """What lies on the bed, the ways to lay it and the one that was chosen, the number of the bed (from 1) and of beds;
    where each body lies that may be moved by hand; what is wrong with that.
    """

    part: printable.Printable
    ways: list[answers.WayToLie]
    chosen: str
    bed: int = 1
    beds: int = 1
    lying: tuple[answers.BodyLying, ...] = ()
    amiss: tuple[str, ...] = ()


def _laid(
    model: Model, part: Part, bodies: Sequence[Body], how: Process, lay: str, moved: Mapping[str, plates.Lying] = {}
) -> _Laid:
    """``lay``: the name of a way; "each by itself" may be followed by the number of a bed. ``moved``: where bodies were
    put by hand, by their ids; those that are gone are left out.
    """
    name, _, number = lay.partition("/")
    several = len(bodies) > 1
    if several and (name == plates.BY_ITSELF or (not name and part.sort == "together")):
        ways: list[answers.WayToLie] = [
            {"name": plates.BY_ITSELF, "several": True},
            {"name": "as modelled", "several": False},
        ]
        # equal copies are meshed once and laid alike, however they stand where they are put together
        shapes = [_by_itself(b) for b in bodies]
        meshes = {key: printable.printable([body]) for key, body in reversed(shapes)}
        keys = [key for key, _ in shapes]
        titles = [model.title_of_body(b.id) for b in bodies]
        by_hand = {i: moved[b.id] for i, b in enumerate(bodies) if b.id in moved}
        beds = plates.lay_out([meshes[key] for key in keys], titles, keys, how, by_hand)
        at = min(max(int(number), 1), len(beds)) if number.isdecimal() else 1
        plate = beds[at - 1]
        owners = plate.part.bodies
        lying: list[answers.BodyLying] = [
            {
                "id": bodies[i].id, "title": titles[i], "bed": at, "x": where.x, "y": where.y,
                "turn": math.degrees(where.turn), "triangles": [int(first), int(after - first)],
            }
            for number, (i, where) in enumerate(zip(plate.bodies, plate.lying))
            for first, after in [np.searchsorted(owners, [number, number + 1])]
        ]  # fmt: skip
        amiss = tuple(plates.amiss(plate, titles, how)) if by_hand else ()
        return _Laid(plate.part, ways, plates.BY_ITSELF, at, len(beds), tuple(lying), amiss)
    raw = _raw(part, bodies)
    found = laying.layings(raw, how)
    chosen = _chosen(found, name)
    ways = [
        {"name": w.name, "support": w.support, "height": w.height, "footing": w.footing, "fits": w.fits} for w in found
    ]
    if several:
        ways.insert(0, {"name": plates.BY_ITSELF, "several": True})
    return _Laid(raw.laid(chosen.matrix), ways, chosen.name)


def _moved(raw: Any) -> dict[str, plates.Lying]:
    """Where bodies were put by hand: ``{id: [bed from 1, x, y, degrees]}``. Raises ``BadInput``."""
    try:
        found = {
            str(k): plates.Lying(int(v[0]) - 1, float(v[1]), float(v[2]), math.radians(v[3])) for k, v in raw.items()
        }
    except (AttributeError, TypeError, ValueError, IndexError, OverflowError) as error:
        raise BadInput("Where the bodies lie could not be understood: lay them out anew.") from error
    for at in found.values():
        if not (0 <= at.bed < plates.MOST_BEDS and all(abs(n) <= 4000 for n in (at.x, at.y, at.turn))):
            raise BadInput("A body was put far off the bed: lay them out anew.")
    return found


def _by_itself(body: Body) -> tuple[str, Body]:
    """A body as it was made, before it was brought anywhere; under a key that equal copies share."""
    if body.came is None or not body.came.motion:
        return body.id, body
    return f"{body.came.of} {body.came.state}", replace(body, shape=original_of(body))


def _between(model: Model, bodies: Sequence[Body], line: float) -> list[readiness.Finding]:
    """What is wrong between bodies: they overlap, or come so near that they fuse in printing."""
    found = []
    for pair in fitting.pairs(bodies, line):
        names = f"{model.title_of_body(pair.one.id)} and {model.title_of_body(pair.other.id)}"
        if pair.shared:
            found.append(
                readiness.Finding("bodies", False, f"Overlap: {names}", f"{pair.shared:.3g} mm³ belong to both")
            )
        elif 1e-6 < pair.gap < 0.5 * line:
            text = f"{pair.gap:.2g} mm between them, less than half a line: they may fuse"
            found.append(readiness.Finding("bodies", False, f"Too near: {names}", text))
    return found


@handles(requests.CheckPrint)
def check_print(asked: requests.CheckPrint, desk: Desk) -> answers.PrintChecked:
    """Whether a part prints as laid, ways to lay it, estimate; its triangles and layers are put among the blobs."""
    model, part, built = desk.built(asked.document, asked.part)
    how = process_of(asked.process)

    def at(number: int, title: str) -> None:
        desk.say(title, number, 3)

    at(0, "Trying how to lay it")
    bodies = printed(model, part, built.bodies)
    put = _laid(model, part, bodies, how, asked.lay, _moved(asked.moved))
    laid = put.part
    whole = readiness.Job(laid, how)
    at(1, "Cutting layers")
    cut = whole.layers
    at(2, "Looking for what could go wrong")
    found = [f for one in readiness.CHECKS for f in one(whole)]
    found += [readiness.Finding("lying", False, text, "move it on the bed") for text in put.amiss]
    if lacks := not_whole([model.title_of(r.step) for r in built.failed]):
        found.insert(0, readiness.Finding("whole", False, f"“{part.name}” is {lacks}", "mend the step that failed"))
    if put.chosen != plates.BY_ITSELF:
        found += _between(model, bodies, how.line)
    found += [readiness.Finding("afterwards", True, words, "by hand, after printing", steps=(step,))
              for step, words in built.afterwards]  # fmt: skip
    volumes = [measured(b, built.solid_key).volume for b in bodies]
    mass = sum(v * stuff_of(model, part, b)["density"] for v, b in zip(volumes, bodies))
    takes = estimating.estimate(cut, how, mass / max(sum(volumes), 1e-12))
    key = digest_of(["print", built.solid_key, how.model_dump(), put.chosen, put.bed, put.lying])
    drawn = digest_of(["layers", key])
    if not desk.blobs.has_mesh(key):
        desk.blobs.keep_mesh(key, pack_surface(laid.surface, part.id))
    if not desk.blobs.has_mesh(drawn):
        desk.blobs.keep_mesh(drawn, json.dumps(layers.outlines(cut), separators=(",", ":")).encode())
    return {
        "mesh": key,
        "layers": drawn,
        "heights": [round(float(h), 3) for h in cut.heights],
        "chosen": put.chosen,
        "bed": put.bed,
        "beds": put.beds,
        "bodies": list(put.lying),
        "layings": put.ways,
        "findings": [
            {**f.as_json(), "titles": [model.title_of(s) for s in f.steps], "remedy": remedies.remedy(model, part, f)}
            for f in found
        ],
        "estimate": {
            "seconds": takes.seconds, "grams": takes.grams, "metres": takes.metres, "cost": takes.cost,
            "layers": len(cut.areas), "material": made_of(model, part, bodies),
        },
        "process": how.model_dump(),
        "box": laid.surface.box,
    }  # fmt: skip


@handles(requests.TimeBodies)
def time_bodies(asked: requests.TimeBodies, desk: Desk) -> list[float]:
    """How long groups of bodies take to print, each body as it lies best by itself, s."""
    model, part, built = desk.built(asked.document, asked.part)
    how, bodies = process_of(asked.process), {b.id: b for b in printed(model, part, built.bodies)}
    taken = []
    for number, ids in enumerate(asked.groups):
        desk.say("Reckoning how long it prints", number, len(asked.groups))
        seconds = 0.0
        for body in (bodies[i] for i in ids if i in bodies):
            raw = printable.printable([_by_itself(body)[1]])
            cut = layers.slice_up(raw.laid(laying.layings(raw, how)[0].matrix).surface, how)
            seconds += estimating.estimate(cut, how, stuff_of(model, part, body)["density"]).seconds
        taken.append(seconds)
    return taken


@handles(requests.CheckFit)
def check_fit(asked: requests.CheckFit, desk: Desk) -> answers.FitChecked:
    """How the bodies of a part go together, and how many pairs were not looked at; meshes of what overlaps are put
    among the blobs.
    """
    model, part, built = desk.built(asked.document, asked.part)
    meetings, shared = [], {}
    for number, pair in enumerate(fitting.pairs(built.bodies, max(asked.play, fits.WITHIN))):
        desk.say("Looking where bodies meet", number, number + 1)
        touches = pair.gap < 1e-6 and not pair.shared
        area = fitting.contact(pair.one, pair.other) if touches else 0.0
        snug: tuple[Any, ...] = ()
        if not pair.shared:
            snug = tuple(tuple(s) for s in fitting.snug(pair.one, pair.other, max(asked.play, fits.WITHIN)))
        parted = _parted(model, pair.one, pair.other)
        bought, threads = _from_the_shop(model, part, pair)
        ids = (pair.one.id, pair.other.id)
        meetings.append(fits.Meeting(*ids, pair.shared, pair.gap, pair.ends, area, parted, snug, bought, threads))
        shared[ids] = [
            _overlap(f"{pair.one.id}&{pair.other.id}.{i}", s, built.solid_key, desk.blobs)
            for i, s in enumerate(pair.common)
        ]
    found = fits.findings(model, part, meetings, asked.play)
    return {
        "lacks": not_whole([model.title_of(r.step) for r in built.failed]),
        "findings": [{**f.as_json(), "overlap": shared[f.one, f.other]} for f in found],
        "unseen": fitting.unseen(built.bodies, max(asked.play, fits.WITHIN)),
    }


def _from_the_shop(model: Model, part: Part, pair: fitting.Pair) -> tuple[bool, bool]:
    """Whether both of a pair are bought; whether they share no more than the thread of one cuts into the other."""
    bodies = (pair.one, pair.other)
    steps = [shop_step(model, part, body) for body in bodies]
    if all(steps) or not any(steps) or not pair.shared:
        return all(steps), False
    body, step = next((b, s) for b, s in zip(bodies, steps) if s)
    thread = step.thread() if isinstance(step, StandardPart) else None
    return False, thread is not None and fitting.cuts_in(body, thread, pair.common)


def _parted(model: Model, one: Body, other: Body) -> str:
    """The step that split two bodies from each other, if one did."""
    steps: list[set[str]] = []
    for body in (one, other):
        steps.append({maker(atom) for name in body.names for atom in name if role(atom) == "cut"})
    both = steps[0] & steps[1]
    return next((s.id for p in model.parts for s in p.steps if s.id in both and s.kind == "split"), "")


def _overlap(
    id: str, what: Shape | Surface, solid_key: str, blobs: Blobs
) -> answers.BodyFacts | answers.ReferenceFacts:
    """What two bodies share, for the screen."""
    if isinstance(what, Surface):
        return reference_facts(id, f"{solid_key} {id}", what, blobs)
    return body_facts(Body(id, what, (frozenset({"overlap:face"}),) * mapped(what, FACE).Size()), solid_key, blobs)


@handles(requests.PrintProgram)
def print_program(asked: requests.PrintProgram, desk: Desk) -> bytes:
    """The program for the printer."""
    model, part, built = desk.built(asked.document, asked.part)
    how = process_of(asked.process)
    put = _laid(model, part, printed(model, part, built.bodies), how, asked.lay, _moved(asked.moved))
    if put.amiss:
        raise Trouble(f"{put.amiss[0]}: move it before it is printed.")
    laid, bed, beds = put.part, put.bed, put.beds
    low, high = laid.surface.box
    if any(h - l > room + 1e-6 for l, h, room in zip(low, high, (how.bed_x, how.bed_y, how.bed_z))):
        raise Trouble("The part does not fit the bed as it lies, so it is not sent to the printer.")
    cut = layers.slice_up(laid.surface, how)
    name = model.name if len(model.there) == 1 else f"{model.name}, {part.name}"
    if beds > 1:
        name += f", bed {bed} of {beds}"
    return gcode.gcode(cut, how, f"{name}, revision {asked.revision}").encode("ascii")
