"""Sheets: what views take beside the kernel's own way, a sheet beside building its part, whether words overlap."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import combinations

from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt
from OCP.HLRAlgo import HLRAlgo_Projector
from OCP.HLRBRep import HLRBRep_Algo, HLRBRep_HLRToShape
from tests.batteries import formulas
from tests.batteries.making import Sizes
from tests.hand import Hand

from sketchlathe.core.inspect.sheet_page import page_of
from sketchlathe.core.making.results import BuildCache
from sketchlathe.core.model.building import build
from sketchlathe.core.model.edits import apply_edit, parse_edit
from sketchlathe.core.sheet.page import meet
from sketchlathe.core.sheet.puts import SIDES
from sketchlathe.core.solid.hidden_lines import _lately, seen

from .measuring import Figure, ratio
from .solids import twelve_steps


def _sheet_of(hand: Hand) -> tuple[object, str]:
    model = apply_edit(hand.model, parse_edit({"kind": "add_part", "sort": "sheet", "of": "p1"}))
    return model, model.parts[-1].id


def _clashes(hand: Hand) -> int:
    """Words that overlap on the usual sheet of a part; as many as it has steps where it cannot be laid out."""
    model, at = _sheet_of(hand)
    page = page_of(model, build(model, model.part(at), BuildCache()))  # type: ignore[attr-defined,arg-type]
    texts = [t for t in page.drawn.texts if t.words]
    return sum(meet(a.box(0.0), b.box(0.0)) for a, b in combinations(texts, 2))


def figures(quick: bool) -> Iterator[Figure]:
    """sheet.views_ratio, sheet.after_change_ratio, sheet.clashes."""
    m = twelve_steps()
    bodies = m.build().bodies

    def kernel() -> None:
        for side in ("front", "above", "left", "corner"):
            frame = SIDES[side]
            algo = HLRBRep_Algo()
            for body in bodies:
                algo.Add(body.shape)
            axes = gp_Ax2(gp_Pnt(0, 0, 0), gp_Dir(*frame.normal), gp_Dir(*frame.x))
            algo.Projector(HLRAlgo_Projector(axes))
            algo.Update()
            algo.Hide()
            HLRBRep_HLRToShape(algo).VCompound()

    def views() -> None:
        _lately.clear()
        for side in ("front", "above", "left", "corner"):
            seen(bodies, SIDES[side])

    rounds = 3 if quick else 9
    yield Figure("sheet.views_ratio", ratio(views, kernel, rounds), 1.3)
    model, at = _sheet_of(m)

    def whole() -> None:
        cache = BuildCache()
        build(model, model.part("p1"), cache)  # type: ignore[attr-defined,arg-type]

    def with_sheet() -> None:
        cache = BuildCache()
        page_of(model, build(model, model.part(at), cache))  # type: ignore[attr-defined,arg-type]

    yield Figure("sheet.after_change_ratio", ratio(with_sheet, whole, rounds), 2)
    count = 0
    makers = formulas.PARTS[:6] if quick else formulas.PARTS
    for make in makers:
        hand, _ = make(Sizes(f"{make.__name__}0"))
        count += _clashes(hand)
    yield Figure("sheet.clashes", count, 1)
