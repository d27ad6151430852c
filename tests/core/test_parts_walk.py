"""Models of several parts, changed at random: nothing breaks, warm equals cold, and what is stored reads again."""

from __future__ import annotations

import random

import pytest
from tests.core.test_parts import Parts

from sketchlathe.core.errors import Trouble
from sketchlathe.core.exchange.modelfile import dump_model, load_model
from sketchlathe.core.making.results import BuildCache
from sketchlathe.core.model.building import build
from sketchlathe.core.solid.digest import digest, pick_of_face
from sketchlathe.core.solid.measuring import box_of, volume


class Walker(Parts):
    """A hand that does something at random; what is refused says so and changes nothing."""

    def __init__(self, seed: int) -> None:
        super().__init__()
        self.rng = random.Random(seed)
        self.older = [self.model]
        self.at = "p1"
        self.step("block", width="20 mm", depth="15 mm", height="6 mm")

    def any_part(self):
        return self.rng.choice([p.id for p in self.model.there])

    def size(self):
        return f"{self.rng.uniform(2, 40):.2f} mm"

    def face_pick(self, part):
        bodies = self.built(part).bodies
        body = self.rng.choice(bodies)
        return body, {"face": pick_of_face(body, self.rng.randrange(len(body.names)))}

    def act(self):
        part = self.at = self.any_part()
        steps = self.model.part(part).steps
        what = self.rng.choice(
            ["block", "block", "part", "together", "bring", "bring", "bring", "place", "place", "copy", "move",
             "delete", "body", "leave", "skip", "size", "size", "back", "drop"]
        )  # fmt: skip
        if what == "block":
            shape = self.rng.choice(["box", "cylinder", "sphere"])
            self.step("block", shape=shape, x=self.size(), z=self.size(), diameter=self.size(), result="separate")
        elif what in ("part", "together"):
            self.do("add_part", sort="part" if what == "part" else "together")
        elif what == "bring":
            self.step("bring_part", part=self.any_part(), x=self.size(), tilt=f"{self.rng.randrange(0, 360, 30)} deg")
        elif what == "place":
            _, a = self.face_pick(part)
            _, b = self.face_pick(part)
            how = self.rng.choice(["against", "flush", "on", "touching", "parallel", "square", "angle"])
            self.step("place", a=a, b=self.rng.choice([b, {"axis": "z"}, {"plane": "top"}]), how=how, gap=self.size())
        elif what == "copy":
            self.do("copy_part", part=part)
        elif what == "move":
            self.do("move_part", part=part, to=self.rng.randrange(4))
        elif what == "delete":
            self.do("delete_part", part=part, **{self.rng.choice(["with_users", "leave_users"]): True})
        elif what == "body":
            ids = [b.id for b in self.built(part).bodies]
            self.do("part_of_body", part=part, body=ids[0], others=ids[1:])
        elif what == "leave":
            self.step("leave_out", bodies=[self.rng.choice(self.built(part).bodies).id])
        elif what == "skip":
            self.do("skip_step", step=self.rng.choice(steps).id, skipped=self.rng.random() < 0.5)
        elif what == "size":
            step = self.rng.choice(steps)
            self.do("set_fields", step=step.id, fields={"x": self.size()})
        elif what == "drop":
            self.do("delete_step", step=self.rng.choice(steps).id, leave_users=True)
        else:
            self.model = self.rng.choice(self.older[-6:])
        self.older.append(self.model)


def facts(built):
    steps = [(r.status, r.message, r.free) for r in built.steps]
    boxes = [tuple(round(v, 6) for corner in box_of(b.shape) for v in corner) for b in built.bodies]
    return steps, [(b.id, b.names, round(volume(b.shape), 6), box) for b, box in zip(built.bodies, boxes)]


@pytest.mark.parametrize("seed", range(10))
def test_parts_changed_at_random(seed):
    walker = Walker(seed)
    done = 0
    for _ in range(45):
        before = walker.model
        if len(walker.model.parts) > 9:
            walker.model = walker.older[0]
        try:
            walker.act()
            done += 1
        except Trouble as problem:
            assert problem.message.endswith((".", "?", "!")) and "None" not in problem.message, problem.message
            walker.model = before
        except IndexError:
            continue  # there was nothing to choose from
        walker.at = walker.any_part()
        built = walker.built()
        for result in built.steps:
            assert result.status != "failed" or result.message, "what failed says why"
    assert done > 12
    assert load_model(dump_model(walker.model)).as_json() == walker.model.as_json()
    for part in walker.model.parts:
        assert len({s.id for p in walker.model.parts for s in p.steps}) == sum(len(p.steps) for p in walker.model.parts)
        digested = facts(walker.built(part.id))
        assert digested == facts(build(walker.model, part, BuildCache())), "warm equals cold"
        for body in walker.built(part.id).bodies:
            assert len(digest(body).faces) == len(body.names)


def test_parts_brought_many_times_over_many_storeys_end(monkeypatch):
    """Each storey brings the one below six times: walked or built once for every way down, this would never end."""
    monkeypatch.setattr("sketchlathe.core.steps.bring_part.MOST_BODIES", 60)
    hand = Parts()
    hand.step("block", width="5 mm", depth="5 mm", height="5 mm")
    below = "p1"
    for _ in range(25):
        hand.at = hand.new(sort="together")
        for k in range(6):
            hand.step("bring_part", part=below, x=f"{10 * k} mm")
        below = hand.at
    told = [r.message for r in hand.built().steps if r.status == "failed"]
    assert told and all("cannot be brought" in m or "60 bodies" in m for m in told)
    # a hundred parts in one line are built as well
    hand = Parts()
    hand.step("block", width="5 mm", depth="5 mm", height="5 mm")
    for _ in range(98):
        below, hand.at = hand.at, hand.new(sort="together")
        hand.step("bring_part", part=below)
    assert [round(volume(b.shape)) for b in hand.built().bodies] == [125]
