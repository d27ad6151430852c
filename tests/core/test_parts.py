"""Several parts in one model: made, copied, brought into each other; a loop is refused, what is gone is said."""

from __future__ import annotations

import json

import pytest
from tests.hand import Hand

from sketchlathe.core.errors import BadInput, Refused
from sketchlathe.core.exchange.modelfile import dump_model, load_model
from sketchlathe.core.model.building import build
from sketchlathe.core.model.document import read_model
from sketchlathe.core.model.made_of import key_for
from sketchlathe.core.solid.measuring import box_of, volume

PLATE = [(0, 0), (40, 0), (40, 30), (0, 30)]


class Parts(Hand):
    """A hand that works on a part by its id."""

    at = "p1"

    def step(self, kind, **fields):
        known = {s.id for p in self.model.parts for s in p.steps}
        self.do("add_step", part=self.at, step=kind, fields=fields)
        return next(s.id for p in self.model.parts for s in p.steps if s.id not in known)

    def built(self, part=None):
        return build(self.model, self.model.part(part or self.at), self.cache)

    build = built

    def new(self, **fields):
        known = {p.id for p in self.model.parts}
        self.do("add_part", **fields)
        return next(p.id for p in self.model.parts if p.id not in known)


@pytest.fixture
def hand():
    """A plate of 40 x 30 x 5 in the first part, called Plate."""
    hand = Parts()
    hand.do("rename_part", part="p1", name="Plate")
    hand.prism("top", PLATE, distance="5 mm")
    return hand


def bring(hand, **fields):
    """A part of parts together with one step that brings the first part."""
    hand.at = hand.new(sort="together")
    return hand.step("bring_part", part="p1", **fields)


def test_parts_are_named_ordered_and_deleted(hand):
    second, third = hand.new(name="Lid"), hand.new()
    assert [p.name for p in hand.model.parts] == ["Plate", "Lid", "Part 1"]
    hand.do("move_part", part=third, to=0)
    assert [p.id for p in hand.model.parts] == [third, "p1", second]
    hand.do("delete_part", part=third)
    hand.do("delete_part", part=second)
    with pytest.raises(Refused, match="at least one part"):
        hand.do("delete_part", part="p1")


def test_a_brought_part_stands_where_it_is_put_and_follows(hand):
    step = bring(hand, x="100 mm", z="7 mm", turn="90 deg")
    (body,) = hand.built().bodies
    low, high = box_of(body.shape)
    assert (low, high) == (pytest.approx((70, 0, 7), abs=1e-6), pytest.approx((100, 40, 12), abs=1e-6))
    assert volume(body.shape) == pytest.approx(6000)
    hand.do("set_fields", step=hand.model.parts[0].steps[1].id, fields={"distance": "8 mm"})
    assert volume(hand.built().bodies[0].shape) == pytest.approx(9600)
    assert hand.model.title_of_body(body.id) == "Plate"
    assert hand.model.title_of(step) == "Bring part 1"


def test_copies_in_a_row_have_names_of_their_own(hand):
    bring(hand, count="3", apart="50 mm")
    bodies = hand.built().bodies
    assert [round(box_of(b.shape)[0][0], 6) for b in bodies] == [0, 50, 100]
    assert [hand.model.title_of_body(b.id) for b in bodies] == ["Plate 1", "Plate 2", "Plate 3"]
    assert len({name for b in bodies for name in b.names}) == sum(len(b.names) for b in bodies)
    hand.step("bring_part", part="p1")
    assert [hand.model.title_of_body(b.id) for b in hand.built().bodies][2:] == ["Plate 1.3", "Plate 2"]


def test_materials_and_colours_come_along(hand):
    hand.do("set_material", part="p1", material="steel")
    bring(hand)
    (body,) = hand.built().bodies
    assert key_for(hand.model, hand.model.part(hand.at), body.id) == "steel"
    hand.do("set_material", part=hand.at, material="pla", body=body.id)
    assert key_for(hand.model, hand.model.part(hand.at), body.id) == "pla", "its own comes first"


def test_a_change_that_is_not_the_parts_builds_nothing_again(hand):
    bring(hand)
    hand.built()
    asked = []
    other = hand.new(name="Other")
    hand.do("add_step", part=other, step="block", fields={})
    build(hand.model, hand.model.part(hand.at), hand.cache, progress=lambda *a: asked.append(a))
    assert asked == []


def test_a_part_cannot_follow_itself(hand):
    bring(hand)
    top = hand.at
    hand.at = hand.new(name="Outer")
    hand.step("bring_part", part=top)
    outer, hand.at = hand.at, "p1"
    with pytest.raises(BadInput, match="Plate follows Outer follows Together follows Plate"):
        hand.step("bring_part", part=outer)
    with pytest.raises(BadInput, match="Plate follows Plate"):
        hand.step("bring_part", part="p1")
    # nor can a file be read in which one does
    raw = json.loads(dump_model(hand.model))
    raw["parts"][0]["steps"].append({"kind": "bring_part", "id": "s900", "part": outer})
    raw["next_id"] = 901
    with pytest.raises(BadInput, match="cannot follow itself"):
        read_model(raw)


def test_deleting_a_part_that_is_brought_asks_and_then_says_so(hand):
    step = bring(hand)
    with pytest.raises(Refused, match="“Plate” is brought into Together"):
        hand.do("delete_part", part="p1")
    before = hand.model
    hand.do("delete_part", part="p1", leave_users=True)
    result = hand.built().steps[0]
    assert result.status == "ok", "it keeps its last shape"
    assert result.advice[0].text == "Plate was deleted: it keeps its last shape here."
    assert [p.name for p in hand.model.there] == ["Together"]
    assert load_model(dump_model(hand.model)).as_json() == hand.model.as_json()
    for edit in result.advice[0].edits:
        hand.do(**edit)
    assert [p.name for p in hand.model.there] == ["Plate", "Together"] and not hand.built().steps[0].advice
    # once nothing follows it any more it goes for good
    hand.do("delete_part", part="p1", leave_users=True)
    hand.do("delete_step", step=step)
    assert [p.id for p in hand.model.parts] == [hand.at]
    hand.model = before
    hand.do("delete_part", part="p1", with_users=True)
    assert hand.model.find_step(step) is None


def test_a_part_that_cannot_be_built_says_why_where_it_is_brought(hand):
    hand.do("set_fields", step=hand.model.parts[0].steps[1].id, fields={"regions": []})
    bring(hand)
    result = hand.built().steps[0]
    assert result.status == "failed"
    assert result.message.startswith("Plate cannot be brought: ")
    empty = hand.new(name="Nothing")
    hand.do("set_fields", step=result.step, fields={"part": empty})
    assert hand.built().steps[0].message == "Nothing cannot be brought: it has no solid yet."


def test_a_copied_part_has_ids_of_its_own_and_the_same_shape(hand):
    hand.do("add_parameter", name="s2", formula="5 mm")  # named like a step
    hand.do("set_fields", step=hand.model.parts[0].steps[1].id, fields={"distance": "s2 + 1 mm"})
    hand.step("fillet", edges=hand.edges((0, 0, 3)), radius="2 mm")
    hand.do("copy_part", part="p1")
    old, new = hand.model.parts
    assert new.name == "Plate 2"
    assert not {s.id for s in old.steps} & {s.id for s in new.steps}
    assert new.steps[1].distance == "s2 + 1 mm"
    volumes = [volume(hand.built(p.id).bodies[0].shape) for p in (old, new)]
    assert volumes[0] == pytest.approx(volumes[1], rel=1e-12)
    # they change apart
    hand.do("set_fields", step=new.steps[2].id, fields={"radius": "3 mm"})
    again = [volume(hand.built(p.id).bodies[0].shape) for p in hand.model.parts]
    assert again[0] == pytest.approx(volumes[0]) and again[1] < volumes[1]
    assert load_model(dump_model(hand.model)).as_json() == hand.model.as_json()


def test_a_body_becomes_a_part_and_the_picture_stays(hand):
    other = hand.round("top", 80, 0, 6, distance="20 mm", result="separate")
    before = sorted((box_of(b.shape), round(volume(b.shape), 6)) for b in hand.built().bodies)
    first = next(b.id for b in hand.built().bodies if b.id != other)
    hand.do("part_of_body", part="p1", body=other, others=[first], name="Pin")
    after = sorted((box_of(b.shape), round(volume(b.shape), 6)) for b in hand.built().bodies)
    assert [v for _, v in after] == [v for _, v in before]
    for (was, _), (now, _) in zip(before, after):
        assert now[0] == pytest.approx(was[0], abs=1e-6) and now[1] == pytest.approx(was[1], abs=1e-6)
    pin = next(p for p in hand.model.parts if p.name == "Pin")
    assert [round(volume(b.shape)) for b in hand.built(pin.id).bodies] == [2262]
    # it is changed there, and here it follows
    step = next(s for s in pin.steps if s.kind == "extrude" and s.result == "separate")
    hand.do("set_fields", step=step.id, fields={"distance": "30 mm"})
    assert sorted(round(volume(b.shape)) for b in hand.built("p1").bodies) == [3393, 6000]


def test_what_is_there_to_work_with_is_left_out(hand):
    hand.at = hand.new(name="Cover")
    brought = hand.step("bring_part", part="p1")
    hand.step("block", width="10 mm", depth="10 mm", height="2 mm", z="5 mm", result="separate")
    ids = [b.id for b in hand.built().bodies]
    hand.step("leave_out", bodies=[i for i in ids if i.startswith(brought)])
    assert [round(volume(b.shape)) for b in hand.built().bodies] == [200]
    hand.step("leave_out", bodies=[i for i in ids if not i.startswith(brought)])
    assert "would leave nothing" in hand.built().steps[-1].message


def test_a_cover_that_cannot_be_made_is_not_the_tray_it_was_made_on(hand):
    """Its sketch fails, so does what stands on it; the tray is left out all the same, and nothing is left."""
    hand.at = hand.new(name="Cover")
    brought = hand.step("bring_part", part="p1")
    hand.step("block", width="10 mm", depth="10 mm", height="2 mm", z="5 mm", result="separate")
    made = hand.model.part(hand.at).steps[-1].id
    ids = [b.id for b in hand.built().bodies]
    out = hand.step("leave_out", bodies=[i for i in ids if i.startswith(brought)])
    assert [round(volume(b.shape)) for b in hand.built().bodies] == [200]
    good = hand.model
    hand.do("set_fields", step=made, fields={"width": "0 mm"})
    built = hand.built()
    assert [r.status for r in built.steps] == ["ok", "failed", "ok"]
    assert built.bodies == () and [r.step for r in built.failed] == [made]
    # both picked, one of them unmade: what is there goes
    hand.do("set_fields", step=out, fields={"bodies": ids})
    assert hand.built().bodies == ()
    # who brings the cover is told why there is none
    hand.at = hand.new(name="Both", sort="together")
    hand.step("bring_part", part=hand.model.parts[-2].id)
    last = hand.built().steps[-1]
    assert last.status == "failed" and "Cover cannot be brought" in last.message
    hand.model = good
    hand.at = hand.model.parts[-1].id
    assert [round(volume(b.shape)) for b in hand.built().bodies] == [200]  # warm as cold


def test_placed_among_parts_and_picked_again_after_a_change(hand):
    bring(hand)
    hand.step("bring_part", part="p1", x="100 mm")
    from tests.core.test_place_step import face

    first, second = (s.id for s in hand.model.part(hand.at).steps)
    hand.step("place", a=face(hand, second, way=(0, 0, -1)), how="against", b=face(hand, first, way=(0, 0, 1)))
    low = lambda: max(box_of(b.shape)[0][2] for b in hand.built().bodies)  # noqa: E731
    assert low() == pytest.approx(5, abs=1e-6)
    hand.do("set_fields", step=hand.model.parts[0].steps[1].id, fields={"distance": "9 mm"})
    assert low() == pytest.approx(9, abs=1e-6)


def test_a_model_of_version_1_opens():
    hand = Hand()
    hand.prism("top", PLATE, distance="5 mm")
    raw = hand.model.as_json()
    raw["version"] = 1
    for part in raw["parts"]:
        del part["sort"]
    model = read_model(raw)
    assert model.version == 2 and model.parts[0].sort == "part"
    assert Hand(model).volume() == pytest.approx(6000)


@pytest.fixture
def kit():
    """Three plates in a row, one lying on its edge, and a pin: two shapes, four copies."""
    hand = Parts()
    hand.do("rename_part", part="p1", name="Plate")
    hand.prism("top", PLATE, distance="5 mm")
    pin = hand.at = hand.new(name="Pin")
    hand.round("top", 0, 0, 4, distance="20 mm")
    hand.at = hand.new(sort="together")
    hand.step("bring_part", part="p1", count="2", apart="60 mm")
    hand.step("bring_part", part="p1", y="100 mm", turn="30 deg", tilt="90 deg")
    hand.step("bring_part", part=pin, x="-20 mm")
    hand.step("move", bodies=[hand.built().bodies[-1].id], dx="0 mm", dy="0 mm", dz="7 mm")
    return hand


def taken_out(hand, kind):
    from sketchlathe.core.exchange import FORMATS, Export

    built = hand.built()
    return FORMATS[kind]().write(Export(hand.model, hand.model.part(hand.at), built.bodies, built=built))


def boxes(bodies):
    return sorted(tuple(round(v, 4) for corner in box_of(b.shape) for v in corner) for b in bodies)


def test_3mf_has_an_object_a_shape_and_a_build_item_a_copy(kit):
    import io
    import re
    import zipfile

    import numpy as np

    with zipfile.ZipFile(io.BytesIO(taken_out(kit, "3mf"))) as archive:
        text = archive.read("3D/3dmodel.model").decode()
    objects = dict(re.findall(r'<object id="(\d+)"[^>]*name="([^"]*)"', text))
    assert sorted(objects.values()) == ["Pin", "Plate"]
    places = {}
    for id in objects:
        inside = re.search(rf'<object id="{id}".*?</object>', text, re.S).group()
        found = re.findall(r'<vertex x="([^"]+)" y="([^"]+)" z="([^"]+)"', inside)
        places[id] = np.array(found, dtype=float)
    seen = []
    items = re.findall(r"<item ([^>]*)/>", text)
    assert len(items) == 4
    for item in items:
        of = re.search(r'objectid="(\d+)"', item).group(1)
        motion = re.search(r'transform="([^"]+)"', item)
        m = np.array(motion.group(1).split(), dtype=float).reshape(4, 3) if motion else np.eye(4, 3)
        points = places[of] @ m[:3] + m[3]
        seen.append(tuple(round(float(v), 3) for v in (*points.min(axis=0), *points.max(axis=0))))
    for got, exact in zip(sorted(seen), boxes(kit.built().bodies)):
        assert got == pytest.approx(exact, abs=0.02)


def test_step_is_an_assembly_that_shares_equal_shapes(kit):
    from sketchlathe.core.solid.stepfile import read_step

    data = taken_out(kit, "step")
    text = data.decode("latin-1")
    assert text.count("MANIFOLD_SOLID_BREP(") == 2, "two shapes"
    assert text.count("NEXT_ASSEMBLY_USAGE_OCCURRENCE(") == 4, "four copies"
    for name in ("Plate", "Pin", "Together", "Plate 1.1"):
        assert f"'{name}'" in text
    solids, notes = read_step(data, "kit.step")
    assert not notes
    back = sorted(tuple(round(v, 4) for corner in box_of(s.shape) for v in corner) for s in solids)
    for got, exact in zip(back, boxes(kit.built().bodies), strict=True):
        assert got == pytest.approx(exact, abs=1e-3)
    # a part by itself is written as before: no assembly
    kit.at = "p1"
    assert "NEXT_ASSEMBLY_USAGE_OCCURRENCE(" not in taken_out(kit, "step").decode("latin-1")


def test_a_copy_that_is_changed_shares_its_shape_no_more(kit):
    first = kit.built().bodies[0]
    kit.step("move", how="scale", bodies=[first.id], factor="2")
    from sketchlathe.core.exchange.base import Export, alike

    built = kit.built()
    groups = alike(Export(kit.model, kit.model.part(kit.at), built.bodies, built=built))
    assert sorted(len(g.bodies) for g in groups) == [1, 1, 2]


def test_a_hundred_copies_and_no_more(hand):
    bring(hand, count="100", apart="50 mm")
    assert len(hand.built().bodies) == 100
    hand.do("set_fields", step=hand.model.part(hand.at).steps[0].id, fields={"count": "101"})
    assert "1 to 100 copies" in hand.built().steps[0].message


def test_copies_in_a_ring_are_of_their_part(hand):
    """Three pins round an axis: made of what the pin is made of, one line in the list, one shape in files."""
    from sketchlathe.core.exchange.base import Export, alike
    from sketchlathe.core.inspect.parts_list import parts_list
    from sketchlathe.workers.caches import stuff_of

    pin = hand.at = hand.new(name="Pin")
    hand.round("top", 0, 0, 4, distance="20 mm")
    hand.do("set_material", part=pin, material="steel")
    hand.at = hand.new(sort="together")
    hand.step("bring_part", part="p1")
    brought = hand.step("bring_part", part=pin, x="15 mm", z="5 mm")
    body = next(b.id for b in hand.built().bodies if b.id.startswith(brought))
    hand.step("pattern", what="some", bodies=[body], form="round", axis={"axis": "z"}, count="3", unite="separate")
    hand.step("mirror", what="some", bodies=[body], plane={"plane": "top"}, unite="separate")
    built, part = hand.built(), hand.model.part(hand.at)
    assert [r.message for r in built.steps if r.status != "ok"] == []
    facts = [
        {"id": b.id, "volume": volume(b.shape), "box": box_of(b.shape), **stuff_of(hand.model, part, b)}
        for b in built.bodies
    ]
    pins = [f for f in facts if f.get("brought") == pin]
    assert len(pins) == 4 and {f["material"] for f in pins} == {"steel"}
    entries = parts_list(hand.model, part, facts)
    assert [(e.name, e.count) for e in entries] == [("Plate", 1), ("Pin", 4)]
    groups = alike(Export(hand.model, part, built.bodies, built=built))
    assert sorted(len(g.bodies) for g in groups) == [1, 1, 3], "the mirrored one is another shape"


def test_a_part_of_parts_together_is_brought_whole(hand):
    bring(hand, count="2", apart="60 mm")
    inner = hand.at
    hand.at = hand.new(name="Box of plates", sort="together")
    hand.step("bring_part", part=inner, z="30 mm")
    bodies = hand.built().bodies
    assert [round(box_of(b.shape)[0][2], 6) for b in bodies] == [30, 30]
    assert {b.came.of for b in bodies} == {bodies[0].came.of}, "both are the plate, brought by whatever"
    hand.do("set_material", part="p1", material="steel")
    assert key_for(hand.model, hand.model.part(hand.at), bodies[0]) == "steel"


def linked(hand, part, source, revision=1):
    from sketchlathe.core.model.linking import standalone

    there = standalone(source.model, source.model.part(part))
    known = {p.id for p in hand.model.parts}
    hand.do(
        "link_part", data=there.model_dump(mode="json"), part=next((p.id for p in hand.model.parts if p.linked), ""),
        source={"model": "other", "name": "Other", "revision": revision, "part": part},
    )  # fmt: skip
    return next((p.id for p in hand.model.parts if p.id not in known), None)


def test_a_part_of_another_model_comes_with_its_numbers_and_is_brought_up_to_date(hand):
    other = Parts()
    for name, formula in (("wide", "30 mm"), ("lean", "10 deg")):
        other.do("add_parameter", name=name, formula=formula)
    s = other.sketch("top")
    other.draw(s, "rectangle", (0.0, 0.0, "origin", "origin"), (30, 20), sizes=("wide", "wide / 2 + 5 mm"))
    top = other.step("extrude", regions=other.regions(s), distance="wide / 10")
    other.step("fillet", edges=other.edges((0, 0, 1.5)), radius="wide / 15")
    here = linked(hand, "p1", other)
    part = hand.model.part(here)
    assert part.steps[1].distance == "3 mm" and part.steps[2].radius == "2 mm"
    wanted = volume(other.built("p1").bodies[0].shape)
    assert volume(hand.built(here).bodies[0].shape) == pytest.approx(wanted, rel=1e-9)
    assert not {s.id for s in part.steps} & {s.id for s in hand.model.part("p1").steps}
    # it cannot be changed here
    with pytest.raises(Refused, match="comes from “Other”: change it there"):
        hand.do("set_fields", step=part.steps[1].id, fields={"distance": "9 mm"})
    # what was picked of it stays picked when it is brought up to date
    hand.at = hand.new(sort="together")
    hand.step("bring_part", part=here)
    hand.step("bring_part", part="p1", x="80 mm", z="30 mm")
    from tests.core.test_place_step import face

    first, second = (s.id for s in hand.model.part(hand.at).steps)
    hand.step("place", a=face(hand, second, way=(0, 0, -1)), how="against", b=face(hand, first, way=(0, 0, 1)))
    other.do("set_parameter", name="wide", formula="60 mm")
    other.do("set_fields", step=top, fields={"distance": "wide / 5"})
    linked(hand, "p1", other, 3)
    again = hand.model.part(here)
    assert again.linked.revision == 3 and [s.id for s in again.steps] == [s.id for s in part.steps]
    result = hand.built().steps[-1]
    assert result.status == "ok", result.message
    assert max(box_of(b.shape)[0][2] for b in hand.built().bodies) == pytest.approx(12, abs=1e-6)
    # made this model's own it can be changed
    hand.do("unlink_part", part=here)
    hand.do("set_fields", step=part.steps[1].id, fields={"distance": "9 mm"})


def test_a_part_that_brings_others_is_not_linked():
    other = Parts()
    other.prism("top", PLATE, distance="5 mm")
    bring(other)
    from sketchlathe.core.model.linking import standalone

    with pytest.raises(Refused, match="brings other parts"):
        standalone(other.model, other.model.part(other.at))


def test_a_copy_is_the_same_picture_wherever_the_others_are_moved_to(hand):
    from sketchlathe.workers.caches import body_key

    first, second = bring(hand), hand.step("bring_part", part="p1", y="50 mm")
    hand.step("place", a={"face": _any_face(hand, second)}, how="parallel", b={"plane": "top"})

    def keys():
        built = hand.built()
        return {b.id.partition(".")[0]: body_key(b, built.solid_key) for b in built.bodies}

    before = keys()
    hand.do("set_fields", step=first, fields={"x": "7 mm"})
    moved = keys()
    assert moved[first] != before[first] and moved[second] == before[second]
    hand.do("set_fields", step=hand.model.parts[0].steps[1].id, fields={"distance": "6 mm"})
    changed = keys()
    assert changed[first] != moved[first] and changed[second] != moved[second], "another plate is another picture"


def _any_face(hand, step):
    from sketchlathe.core.solid.digest import pick_of_face

    body = next(b for b in hand.built().bodies if b.id.startswith(step))
    return pick_of_face(body, 0)


@pytest.mark.parametrize("seed", range(6))
def test_what_stands_in_the_blanks_is_the_motion(hand, seed):
    """Any rigid motion, said as turn, tilt and roll, puts the part where the motion does."""
    import numpy as np
    from scipy.spatial.transform import Rotation

    from sketchlathe.core.steps.bring_part import blanks_for

    turn = Rotation.random(random_state=seed).as_matrix()
    shift = np.random.default_rng(seed).normal(0, 50, 3)
    bring(hand, **blanks_for(turn, shift))
    (body,) = hand.built().bodies
    got = np.array(body.came.motion).reshape(3, 4)
    assert got[:, :3] == pytest.approx(turn, abs=1e-9) and got[:, 3] == pytest.approx(shift, abs=1e-9)


def test_where_another_part_stands_is_seen_from_this_one(hand, tmp_path):
    from sketchlathe.workers import Blobs
    from sketchlathe.workers.builds import how_it_stands
    from sketchlathe.workers.jobs import Desk
    from sketchlathe.workers.requests import HowItStands

    lid = hand.at = hand.new(name="Lid")
    hand.step("block", width="40 mm", depth="30 mm", height="3 mm")
    hand.at = top = hand.new(sort="together")
    hand.step("bring_part", part="p1", x="10 mm", turn="90 deg")
    hand.step("bring_part", part=lid, x="10 mm", z="5 mm", turn="90 deg")
    import json

    document = Blobs(tmp_path).keep_document(json.dumps(hand.model.as_json()))
    asked = HowItStands(document=document, part=lid, together=top, other="p1")
    fields = how_it_stands(asked, Desk(Blobs(tmp_path)))
    # seen from the lid the plate lies 5 mm below, not turned
    assert {k: float(v.split()[0]) for k, v in fields.items()} == pytest.approx(
        {"x": 0, "y": 0, "z": -5, "turn": 0, "tilt": 0, "roll": 0}, abs=1e-9
    )
    hand.at = lid
    hand.step("bring_part", part="p1", **fields)
    assert box_of(hand.built().bodies[-1].shape)[0][2] == pytest.approx(-5, abs=1e-6)


def test_where_a_parameter_is_used_says_in_which_part(hand):
    from sketchlathe.core.model.edits.parameters import uses_of

    hand.do("add_parameter", name="high", formula="5 mm")
    first = hand.model.parts[0].steps[1].id
    hand.do("set_fields", step=first, fields={"distance": "high"})
    assert uses_of(hand.model, "high") == ["Extrude 1"]
    hand.at = hand.new(name="Lid")
    hand.step("block", height="high / 2")
    assert uses_of(hand.model, "high") == ["Extrude 1 of Plate", "Block 1 of Lid"]
