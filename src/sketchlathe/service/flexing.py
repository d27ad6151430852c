"""The flex test as a study: numbers side by side in patient workers, one line a number as soon as it is known."""

from __future__ import annotations

import threading
from concurrent.futures import ThreadPoolExecutor
from typing import Any

from ..core.errors import BadInput
from ..core.inspect.flexing import Outcome, Reach, corners, reaches, span_of
from ..core.model.document import Model
from ..core.model.knobs import Knob, knobs
from .modelling import Opened
from .studies import Turn

MOST_NUMBERS = 400
MOST_CHOSEN = 12  # in pairs


def asked_of(opened: Opened, part_id: str, raw: dict[str, Any]) -> dict[str, Any]:
    """What a person asks of a flex test: ``numbers`` (ids; none: all), ``spans`` {id: [from, to]} as typed, ``pairs``
    (ids, two and two). Raises ``BadInput``.
    """
    model = opened.model
    known = {k.id: k for k in knobs(model, model.part(part_id))}
    numbers, pairs, spans = raw.get("numbers") or [], raw.get("pairs") or [], raw.get("spans") or {}
    if not (isinstance(numbers, list) and isinstance(pairs, list) and isinstance(spans, dict)):
        raise BadInput("What is to be tried could not be understood.")
    for id in (*numbers, *pairs, *spans):
        if id not in known:
            raise BadInput("One of these numbers is not in this part (any more), or follows from a formula.")
    if not known:
        raise BadInput("There is no number in this part yet that could be varied.")
    if len(pairs) > MOST_CHOSEN:
        raise BadInput(f"At most {MOST_CHOSEN} numbers can be tried in pairs; choose fewer.")
    told = {}
    for id, ends in spans.items():
        if not (isinstance(ends, list) and len(ends) == 2 and all(isinstance(t, str) and len(t) <= 400 for t in ends)):
            raise BadInput("A range is where it begins and where it ends.")
        span_of(known[id], ends[0], ends[1], model)
        told[id] = ends
    return {"numbers": [str(n) for n in numbers][:MOST_NUMBERS], "pairs": [str(p) for p in pairs], "spans": told}


def gone_on(old: dict[str, Any], asked: dict[str, Any]) -> tuple[dict[str, Any], dict[str, Any]]:
    """What is asked, and known, when some numbers of an older flex test are tried anew (``asked["numbers"]``)."""
    again = set(asked["numbers"])
    known = {id: n for id, n in old.get("numbers", {}).items() if id not in again}
    wanted = list(dict.fromkeys([*old.get("order", ()), *asked["numbers"]]))
    spans = {id: ends for id, ends in old["asked"]["spans"].items() if id not in again} | asked["spans"]
    return {**asked, "numbers": wanted, "spans": spans}, {"numbers": known, "builds": old.get("builds", 0)}


def flex(turn: Turn) -> bool:
    """Do what is left of a flex test; True when all is known."""
    model, part = turn.opened.model, turn.opened.model.part(turn.part_id)
    asked, found = turn.asked, turn.found
    wanted = [k for k in knobs(model, part) if not asked["numbers"] or k.id in asked["numbers"]][:MOST_NUMBERS]
    found.setdefault("numbers", {})
    found.setdefault("builds", 0)
    found["order"] = [k.id for k in wanted]
    found["titles"] = {k.id: k.title for k in wanted}
    whole = _tried(turn, turn.opened.id, [])
    if not whole.holds:
        where = model.title_of(whole.step)
        found["warning"] = f"{where} cannot be built as it is: {whole.why} What is said here leaves it out."
    lock = threading.Lock()

    def walk(knob: Knob) -> None:
        low, high = asked["spans"].get(knob.id, ("", ""))
        span = span_of(knob, low, high, model)
        tried = []
        for reach in reaches(knob, span):
            while (value := reach.next()) is not None:
                if turn.ended.is_set():
                    return
                edit = dict(knob.turned(value, model))
                reach.put(_tried(turn, f"{turn.opened.id}{knob.id}", [edit]))
                with lock:
                    found["builds"] += 1
            tried.append(reach)
            if reach.same:
                break
        with lock:
            found["numbers"][knob.id] = _said(knob, tried, model)
            turn.keep()

    with ThreadPoolExecutor(turn.builder.engine.lanes) as pool:
        list(pool.map(walk, [k for k in wanted if k.id not in found["numbers"]]))
    if turn.ended.is_set():
        return False
    return _pairs(turn)


def _tried(turn: Turn, place: str, edits: list[dict[str, Any]]) -> Outcome:
    turn.tickets.add(ticket := f"{turn.id}.{place}")
    return turn.builder.try_edits(turn.opened, turn.part_id, edits, place=place, ticket=ticket)


def _said(knob: Knob, tried: list[Reach], model: Model) -> dict[str, Any]:
    """What is known of one number, for the screen."""
    told = {
        "id": knob.id, "title": knob.title, "step": knob.step, "value": knob.value,
        "said": knob.said(knob.value, model, 5), "same": tried[0].same, "pull": knob.pulled(model),
    }  # fmt: skip
    if not tried[0].same:
        told |= {way: reach.as_json(knob, model) for way, reach in zip(("low", "high"), tried)}
    return told


def _pairs(turn: Turn) -> bool:
    """Numbers two and two at the ends of their ranges."""
    model, found = turn.opened.model, turn.found
    chosen = [(id, n["low"]["at"], n["high"]["at"]) for id in turn.asked["pairs"]
              if not (n := found["numbers"].get(id, {"same": True}))["same"]]  # fmt: skip
    known = found.setdefault("pairs", [])
    for corner in corners(model, model.part(turn.part_id), chosen)[len(known) :]:
        if turn.ended.is_set():
            return False
        edits = [dict(e) for e in corner["edits"]]
        outcome = _tried(turn, turn.opened.id, edits)
        where = model.title_of(outcome.step) if outcome.step else ""
        known.append({**corner, "edits": edits, "holds": outcome.holds, "step": outcome.step, "where": where,
                      "why": outcome.why})  # fmt: skip
        found["builds"] += 1
        turn.keep()
    return True
