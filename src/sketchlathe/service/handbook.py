"""Looking up in the handbook: by PostgreSQL's full text, so that words are found in all their forms."""

from __future__ import annotations

from sqlalchemy import text

from ..core.model.document import Model, read_model
from ..handbook.pages import Page, pages
from ..store import Database
from . import shelf
from .exercises import project_called

MOST = 30
_FOUND = text("""
    with page(n, title, words, lead, body) as (
        select * from unnest(cast(:numbers as int[]), cast(:titles as text[]), cast(:words as text[]),
                             cast(:leads as text[]), cast(:bodies as text[]))
    ), told as (
        select n, setweight(to_tsvector('english', title), 'A') || setweight(to_tsvector('english', words), 'B')
                  || setweight(to_tsvector('english', lead), 'C')
                  || setweight(to_tsvector('english', body), 'D') as vector from page
    )
    select n from told, websearch_to_tsquery('english', :sought) as query
    where vector @@ query order by ts_rank('{0.02, 0.1, 0.6, 1}', vector, query) desc, n limit :most
""")


def find(database: Database, sought: str) -> list[Page]:
    """Pages in which some words are found, best first; those whose title begins like them before all."""
    there = list(pages().values())
    words = " ".join(sought.replace("\0", " ").split())[:200]
    if not words:
        return []
    with database.transaction() as session:
        rows = session.execute(
            _FOUND,
            {
                "numbers": list(range(len(there))), "titles": [p.title for p in there],
                "words": [p.search for p in there], "leads": [p.lead for p in there], "bodies": [p.text for p in there],
                "sought": words, "most": MOST,
            },
        ).scalars()  # fmt: skip
        found = [there[n] for n in rows]
    rest = [p for p in there if p not in found]
    begun = [p for p in rest if p.title.lower().startswith(words.lower())]
    # full text leaves out words like “between”, which some things are called by
    called = [p for p in rest if p not in begun and words.lower() in p.search.lower().split()]
    return [*begun, *found, *called][:MOST]


def open_sample(database: Database, person_id: str, page: Page) -> str:
    """A copy of a page's model on somebody's Shelf, in a project of its own; its id. Raises ``TooFull``."""
    model: Model = read_model(page.model).changed(name=page.title)
    with database.transaction() as session:
        project = project_called(session, person_id, "From the handbook")
        return shelf.add_model(session, person_id, project.id, model, "Opened from the handbook").id
