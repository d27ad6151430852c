"""What differs between two states, in words and in material; what brings the older back; variants."""

import math
import random

import numpy as np
import pytest
from tests.hand import ORIGIN, Hand, box, clamp, plate

from sketchlathe.core.errors import BadInput, Refused
from sketchlathe.core.inspect.parts_list import parts_list
from sketchlathe.core.mesh.booleans import triangles_compared
from sketchlathe.core.mesh.surface import Surface
from sketchlathe.core.model.building import build
from sketchlathe.core.model.comparing import conflicts, differences, unchanged
from sketchlathe.core.model.document import read_model
from sketchlathe.core.model.variants import as_csv, is_taken, read_table, table_of
from sketchlathe.core.solid.comparing import compared
from sketchlathe.core.solid.measuring import measures
from sketchlathe.core.steps.base import plain_sentence


def _bracket() -> tuple[Hand, dict[str, str]]:
    """A plate with a parameter, a hole held by two dimensions, a rounded corner."""
    m = Hand()
    m.do("add_parameter", name="w", formula="40")
    s = m.sketch()
    m.draw(s, "rectangle", ORIGIN, (40, 20), sizes=("w", "20"))
    base = m.step("extrude", regions=m.regions(s), distance="10")
    hole = m.sketch()
    m.draw(hole, "circle", (10, 10), (13, 10), sizes=("6",))
    centre = f"{m.curves(hole)[0].id}.centre"
    for way, at in (("across", "10"), ("along", "10")):
        m.do("add_dimension", sketch=hole, on=["origin", centre], at=[5, 5], way=way, value=at)
    cut = m.step("extrude", regions=m.regions(hole), distance="30", result="cut")
    fillet = m.step("fillet", edges=m.edges((40, 0, 5)), radius="2")
    return m, {"sketch": s, "base": base, "hole": hole, "cut": cut, "fillet": fillet}


def _said(old: Hand | object, new: Hand) -> list[str]:
    before = old if not isinstance(old, Hand) else old.model
    return [d.text for d in differences(before, before.parts[0], new.model, new.model.parts[0], kin=True)]


def test_nothing_differs_from_itself() -> None:
    m, _ = _bracket()
    part = m.model.parts[0]
    assert differences(m.model, part, m.model, part, kin=True) == []
    assert unchanged(part, part, kin=True) == len(part.steps)


def test_each_change_is_named_once_and_brought_back() -> None:
    m, ids = _bracket()
    old, before = m.model, m.volume()
    m.do("set_parameter", name="w", formula="50")
    m.dimension("10", "16")
    m.do("set_fields", step=ids["base"], fields={"distance": "12"})
    m.do("delete_step", step=ids["fillet"])
    bevel = m.step("chamfer", edges=m.edges((25, 0, 12)), size="1")
    m.do("rename_step", step=ids["cut"], name="bolt hole")
    found = differences(old, old.parts[0], m.model, m.model.parts[0], kin=True)
    texts = [d.text for d in found]
    assert "w: 40 mm became 50 mm" in texts
    assert "Extrude 1: distance: 10 mm became 12 mm" in texts
    assert "Fillet 1 is gone" in texts
    assert "Chamfer 1 is new" in texts
    assert any("10 mm became 16 mm" in t for t in texts)
    assert any("was called Extrude 2" in f"{d.text} {d.detail}" for d in found)
    drawing = next(d for d in found if d.key == f"s:{ids['hole']}:drawing")
    assert [d.mark for d in drawing.sketches[1]] == ["moved"]
    assert "by up to 6 mm" in drawing.text
    for difference in reversed(found):
        for edit in difference.edits:
            m.do(**edit)
    assert _said(old, m) == []
    assert m.volume() == pytest.approx(before, rel=1e-12)
    assert m.model.find_step(bevel) is None


def test_a_step_that_stands_on_what_is_gone_is_not_brought_back_alone() -> None:
    m, ids = _bracket()
    old = m.model
    m.do("delete_step", step=ids["hole"], with_users=True)
    found = {d.key: d for d in differences(old, old.parts[0], m.model, m.model.parts[0], kin=True)}
    with pytest.raises(Refused, match="bring that back first"):
        m.do(**found[f"s:{ids['cut']}"].edits[0])
    m.do(**found[f"s:{ids['hole']}"].edits[0])
    m.do(**found[f"s:{ids['cut']}"].edits[0])
    assert _said(old, m) == []
    read_model(m.model.as_json())


def test_another_order_is_said() -> None:
    m, ids = _bracket()
    old = m.model
    m.do("move_step", step=ids["fillet"], to=2)
    assert _said(old, m) == ["Fillet 1 stands at another place"]


def test_models_without_kinship_are_paired_by_kind() -> None:
    one, other = plate("60", "40", "5"), plate("60", "40", "7")
    found = differences(one.model, one.model.parts[0], other.model, other.model.parts[0], kin=False)
    assert [d.text for d in found] == ["Extrude 1: distance: 5 mm became 7 mm"]
    assert found[0].edits == ()


def test_what_was_changed_on_both_sides_is_a_conflict() -> None:
    base, ids = _bracket()
    mine, theirs = Hand(base.model), Hand(base.model)
    mine.do("set_fields", step=ids["base"], fields={"distance": "14"})
    mine.do("set_parameter", name="w", formula="44")
    theirs.do("set_fields", step=ids["base"], fields={"distance": "9"})
    changes = differences(base.model, base.model.parts[0], mine.model, mine.model.parts[0], kin=True)
    clash = conflicts(base.model, theirs.model, "p1", changes)
    assert clash == {f"s:{ids['base']}": "Extrude 1: distance: 10 mm became 9 mm"}


# gone and come against closed formulas


@pytest.mark.parametrize("seed", range(6))
def test_gone_and_come_of_plates_with_a_moved_hole(seed) -> None:
    rng = random.Random(seed)
    h, r, x, rise = rng.uniform(4, 9), rng.uniform(2, 3), rng.uniform(8, 12), rng.uniform(1, 5)
    shift = rng.uniform(0.3, 1.8) * r

    def made(at: float, tall: float):
        m = Hand()
        m.prism("top", box(0, 0, 40, 20), distance=f"{tall}")
        s = m.sketch()
        m.draw(s, "circle", (at, 10), (at + r, 10), sizes=(f"{2 * r!r}",))
        m.step("extrude", regions=m.regions(s), distance="40", other="40", result="cut")
        return m.build().bodies

    d = shift
    lens = 2 * r * r * math.acos(d / (2 * r)) - d / 2 * math.sqrt(4 * r * r - d * d)
    moon = math.pi * r * r - lens
    found = compared(made(x, h), made(x + shift, h + rise))
    assert found.exact
    assert found.gone_volume == pytest.approx(moon * h, rel=1e-6)
    assert found.come_volume == pytest.approx(moon * h + (800 - math.pi * r * r) * rise, rel=1e-6)


def test_equal_parts_have_nothing_gone_and_nothing_come() -> None:
    one, other = plate("60", "40", "5"), plate("60", "40", "5")
    found = compared(one.build().bodies, other.build().bodies)
    assert (found.gone, found.come, found.exact) == ((), (), True)
    assert compared((), other.build().bodies).come_volume == pytest.approx(12000, rel=1e-9)


def _block(low: tuple[float, ...], high: tuple[float, ...]) -> Surface:
    corners = np.array([[(low, high)[i >> k & 1][k] for k in range(3)] for i in range(8)], float)
    faces = [(0, 2, 3), (0, 3, 1), (4, 5, 7), (4, 7, 6), (0, 1, 5), (0, 5, 4), (2, 6, 7), (2, 7, 3), (0, 4, 6),
             (0, 6, 2), (1, 3, 7), (1, 7, 5)]  # fmt: skip
    return Surface(corners, np.array(faces))


def test_surfaces_of_triangles_are_compared_too() -> None:
    gone, come = triangles_compared(_block((0, 0, 0), (10, 10, 10)), _block((5, 0, 0), (25, 10, 10)))
    assert gone.volume == pytest.approx(500)
    assert come.volume == pytest.approx(1500)
    with pytest.raises(BadInput, match="not a closed surface"):
        open_one = _block((0, 0, 0), (1, 1, 1))
        triangles_compared(Surface(open_one.positions, open_one.triangles[:-2]), open_one)


# variants


def test_variants_come_from_a_table_and_go_back_into_one() -> None:
    m, ids = _bracket()
    m.do("bring_variants", part="p1", table="variant;w;without;material\nshort;30;;PETG\nplain;;Fillet 1;\n")
    short, plain = m.model.variants
    assert (short.values, short.materials, plain.skipped) == ({"w": "30 mm"}, {"p1": "petg"}, {ids["fillet"]: True})
    text = as_csv(table_of(m.model, "p1"))
    other = Hand(m.model)
    other.do("bring_variants", part="p1", table=text)
    assert other.model.variants == m.model.variants
    m.do("take_variant", variant=short.id)
    assert is_taken(m.model, m.model.variants[0])
    assert not is_taken(m.model, m.model.variants[1])
    assert m.volume() == pytest.approx(30 * 20 * 10 - math.pi * 90 - (4 - math.pi) * 10, rel=1e-9)
    m.do("set_variant", variant=short.id, head="w", text="")
    assert m.model.variants[0].values == {}
    read_model(m.model.as_json())


@pytest.mark.parametrize(
    ("table", "says"),
    [
        ("variant,zz\na,1", "“zz” is no parameter"),
        ("variant", "line of headings"),
        ("variant,w\na,2*", r"Row 1 \(a\): w:"),
        ("variant,w\na,3 deg", r"Row 1 \(a\)"),
        ("variant,w,w\na,3,4", "same heading"),
        ("variant,w\na,3,4", "3 columns"),
        ("variant,material\na,unobtainium", "no material"),
        ("variant,without\na,Lathe 9", "no step called"),
        ("variant,w\n" + "\n".join(f"v{i},{i + 1}" for i in range(10_000)), "at most 200"),
    ],
)
def test_a_bad_table_is_refused_whole(table, says) -> None:
    m, _ = _bracket()
    before = m.model
    with pytest.raises(BadInput, match=says):
        m.do("bring_variants", part="p1", table=table)
    assert m.model is before


def test_variants_are_named_apart_and_follow_parameters() -> None:
    m, _ = _bracket()
    m.do("add_parameter", name="h", formula="w / 4")
    for _ in range(2):
        m.do("add_variant")
    m.do("add_variant", like=m.model.variants[0].id)
    assert [v.name for v in m.model.variants] == ["Variant 1", "Variant 2", "Variant 1 again"]
    with pytest.raises(BadInput, match="already"):
        m.do("set_variant", variant=m.model.variants[0].id, head="variant", text="Variant 2")
    m.do("rename_parameter", name="w", to="width")
    assert m.model.variants[0].values == {"width": "40 mm", "h": "width / 4"}
    m.do("set_variant", variant=m.model.variants[0].id, head="h", text="9")
    m.do("delete_variant", variant=m.model.variants[1].id)
    assert read_table(as_csv(table_of(m.model, "p1"))).rows[0] == ("Variant 1", "40 mm", "9 mm")


def test_a_table_of_variants_is_no_formula_of_a_spreadsheet() -> None:
    m, _ = _bracket()
    m.do("add_variant")
    m.do("set_variant", variant=m.model.variants[0].id, head="variant", text='=HYPERLINK("http://x.example")')
    text = as_csv(table_of(m.model, "p1"))
    assert not any(line.startswith(("=", '"=')) for line in text.splitlines())
    assert read_table(text).rows[0][0] == '=HYPERLINK("http://x.example")'


def test_a_part_is_brought_as_a_variant() -> None:
    m = clamp()
    m.do("bring_variants", table="variant,w\nwide,80\n")
    wide = m.model.variants[0].id
    m.do("add_part", sort="together")
    together = m.model.parts[-1].id
    for variant in ("", wide, wide):
        m.do("add_step", part=together, step="bring_part", fields={"part": "p1", "variant": variant, "y": "50 mm"})
    built = build(m.model, m.model.part(together), m.cache)
    hole = math.pi * 45
    assert [measures(b.shape).volume for b in built.bodies] == pytest.approx([4000 - hole, 8000 - hole, 8000 - hole])
    assert "as wide" in plain_sentence(m.model.part(together).steps[1], m.model)
    facts = {"brought": "p1", "material": "pla", "density": 1.2, "volume": 1.0, "box": [[0, 0, 0], [1, 1, 1]]}
    listed = parts_list(m.model, m.model.part(together), [{"id": b.id, **facts} for b in built.bodies])
    assert [(e.name, e.count) for e in listed] == [("Part 1", 1), ("Part 1, wide", 2)]
    m.do("delete_variant", variant=wide)
    built = build(m.model, m.model.part(together), m.cache)
    assert [r.status for r in built.steps] == ["ok", "failed", "failed"]
    assert "choose another" in built.steps[1].message
