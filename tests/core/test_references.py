"""Picked faces that are split, joined, twinned or taken away."""

import pytest
from tests.conftest import Hand, plate

from sketchlathe.core.blanks import FacePick
from sketchlathe.core.errors import CannotBuild
from sketchlathe.core.making.references import find_faces


def pick(hand: Hand, normal: tuple[float, float, float]) -> FacePick:
    return FacePick.model_validate(hand.face(normal))


def test_a_face_cut_in_two_means_both_and_says_so() -> None:
    hand = plate("60", "40", "10")
    top = pick(hand, (0, 0, 1))
    s = hand.sketch(hand.face((0, 0, 1)))
    hand.draw(s, "rectangle", (20, -5), (30, 45))
    hand.step("extrude", regions=hand.regions(s), distance="4", way="backwards", result="cut")
    found = find_faces(top, hand.build().bodies)
    assert len(found.faces) == 2
    assert "2 pieces" in found.advice
    # a sketch on it still has its one plane
    again = hand.step("sketch", plane={"face": top.model_dump(mode="json")})
    result = next(r for r in hand.build().steps if r.step == again)
    assert result.status == "ok"
    assert result.sketch.frame.origin == pytest.approx((0, 0, 10))


def test_one_of_two_pieces_is_told_by_what_is_around_it() -> None:
    hand = plate("60", "40", "10")
    s = hand.sketch(hand.face((0, 0, 1)))
    hand.draw(s, "rectangle", (20, -5), (30, 45))
    slot = hand.step("extrude", regions=hand.regions(s), distance="4", way="backwards", result="cut")
    body = hand.build().bodies[0]
    from sketchlathe.core.solid.digest import around_faces, digest

    tops = [i for i, f in enumerate(digest(body).faces) if f.frame and f.frame.normal[2] > 0.9 and f.centre[2] > 9]
    assert len(tops) == 2
    near = {i: (around, centre) for i, around, centre in around_faces(body, tops)}
    left = min(tops, key=lambda i: near[i][1][0])
    other = max(tops, key=lambda i: near[i][1][0])
    stored = FacePick(
        atoms=tuple(sorted(body.names[left])),
        neighbours=tuple(sorted(near[left][0])),
        siblings=(tuple(sorted(near[other][0])),),
        centre=near[left][1],
    )
    width = next(k.id for k in hand.steps[0].sketch.constraints if k.kind == "distance")
    hand.do("set_dimension", sketch=hand.steps[0].id, id=width, value="90")
    found = find_faces(stored, hand.build().bodies)
    assert len(found.faces) == 1
    assert found.faces[0].centre[0] < 0.3
    assert found.advice == ""
    hand.do("skip_step", step=slot, skipped=True)
    whole = find_faces(stored, hand.build().bodies)
    assert len(whole.faces) == 1
    assert whole.advice


def test_faces_that_are_joined_are_found_with_advice() -> None:
    hand = plate("60", "40", "10")
    side = pick(hand, (0, -1, 0))
    s = hand.sketch()
    hand.draw(s, "rectangle", (60, 0), (80, 40), sizes=("20", "40"))
    hand.step("extrude", regions=hand.regions(s), distance="10")
    found = find_faces(side, hand.build().bodies)
    assert len(found.faces) == 1
    assert "joined" in found.advice


def test_a_face_that_is_gone_is_never_guessed() -> None:
    hand = plate("60", "40", "10")
    top = pick(hand, (0, 0, 1))
    with pytest.raises(CannotBuild, match="no solid here yet"):
        find_faces(top, ())
    other = plate("60", "40", "10")
    stranger = FacePick(atoms=("s999:end",))
    with pytest.raises(CannotBuild, match="makes nothing any more"):
        find_faces(stranger, other.build().bodies)


def test_every_face_has_a_name_after_every_operation() -> None:
    hand = plate("60", "40", "10")
    for i, (result, way) in enumerate([("add", "forwards"), ("cut", "backwards"), ("overlap", "backwards")]):
        s = hand.sketch(hand.face((0, 0, 1)))
        hand.draw(s, "rectangle", (2 + i, 2), (50 - i, 38))
        hand.step("extrude", regions=hand.regions(s), distance=f"{5 - i}", way=way, result=result)
        for body in hand.build().bodies:
            assert all(body.names)
            assert all(":" in atom for name in body.names for atom in name)


def test_what_is_picked_comes_with_the_mesh_and_means_that_very_face_or_edge() -> None:
    from sketchlathe.core.blanks import EdgePick
    from sketchlathe.core.making.edge_references import find_edges

    hand = plate("60", "40", "10")
    s = hand.sketch(hand.face((0, 0, 1)))
    hand.draw(s, "circle", (20, 20), (26, 20))
    hand.step("extrude", regions=hand.regions(s), distance="4", way="backwards", result="cut")
    body = hand.build().bodies[0]
    header = hand.packed()
    assert len(header["edges"]) == 15 and all("pick" in e for e in header["edges"])
    for index, edge in enumerate(header["edges"]):
        found = find_edges(EdgePick.model_validate(edge["pick"]), [body])
        assert [e.index for e in found.edges] == [index] and not found.advice
    for index, face in enumerate(header["faces"]):
        faces = find_faces(FacePick.model_validate(face["pick"]), [body])
        assert [f.index for f in faces.faces] == [index]
    # the wall of the hole is the third step's, of the circle that was drawn
    wall = next(f for f in header["faces"] if f["form"] == "cylindrical")
    assert wall["made"][0]["by"] == hand.steps[-1].id and wall["made"][0]["role"] == "side"
