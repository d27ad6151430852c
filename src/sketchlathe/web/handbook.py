"""The handbook: open to everybody, at its own address and beside the work."""

from __future__ import annotations

import re

from flask import Blueprint, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue
from flask_login import login_required
from markupsafe import Markup, escape

from ..core.errors import NotFound
from ..handbook.pages import SORTS, Page, pages
from ..service import handbook as service
from .replies import database, me

blueprint = Blueprint("handbook", __name__, url_prefix="/handbook")


def _page(sort: str, slug: str) -> Page:
    found = pages().get((sort, slug))
    if found is None:
        raise NotFound("The handbook has no such page.")
    return found


def _address(page: Page) -> str:
    return url_for("handbook.page", sort=page.sort, slug=page.slug)


def _linked(body: str) -> Markup:
    """A guide's text, in which ``{step:fillet}`` is a link to that page."""

    def link(found: re.Match[str]) -> str:
        other = _page(found[1], found[2])
        return f'<a href="{escape(_address(other))}">{escape(other.title)}</a>'

    return Markup(re.sub(r"\{(\w+):(\w+)\}", link, body))


def _by_sort() -> dict[str, dict[str, list[Page]]]:
    """Pages by sort and group, in order."""
    found: dict[str, dict[str, list[Page]]] = {sort: {} for sort in SORTS}
    for page in pages().values():
        found[page.sort].setdefault(page.group, []).append(page)
    return found


@blueprint.get("")
def contents() -> ResponseReturnValue:
    """What there is, or what was found."""
    sought = request.args.get("q", "")[:200]
    found = service.find(database(), sought) if sought.strip() else None
    return render_template(
        "handbook.html", sorts=SORTS, by_sort=_by_sort(), sought=sought, found=found, address=_address
    )


@blueprint.get("/<any(guide, step, draw, hold, file):sort>/<slug>")
def page(sort: str, slug: str) -> ResponseReturnValue:
    """One page, with its neighbours beside it."""
    shown = _page(sort, slug)
    return render_template(
        "handbook_page.html", page=shown, body=_linked(shown.body), sorts=SORTS, groups=_by_sort()[sort],
        address=_address, sought="",
    )  # fmt: skip


@blueprint.post("/<any(step):sort>/<slug>/open")
@login_required
def open_it(sort: str, slug: str) -> ResponseReturnValue:
    """The model that a page shows, as a copy of one's own."""
    shown = _page(sort, slug)
    if not shown.model:
        raise NotFound("There is no model on this page.")
    return redirect(url_for("bench.page", model_id=service.open_sample(database(), me(), shown)), 303)
