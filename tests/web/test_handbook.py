"""The handbook is open to everybody; what it shows can be opened as a copy of one's own."""

from __future__ import annotations

import re

import pytest
from tests.web.test_pages import Visitor, member  # noqa: F401

from sketchlathe.handbook.pages import pages


@pytest.fixture
def reader(app) -> Visitor:
    """Somebody who has no account."""
    return Visitor(app)


def test_every_page_answers_and_leads_to_pages_that_are_there(reader) -> None:
    front = reader.client.get("/handbook").get_data(as_text=True)
    named = set(re.findall(r'href="(/handbook/[^"?]+)"', front))
    assert len(named) == len(pages())
    seen: set[str] = set()
    for address in sorted(named):
        answer = reader.client.get(address)
        assert answer.status_code == 200, address
        text = answer.get_data(as_text=True)
        seen |= set(re.findall(r'(?:href|src)="(/(?:handbook|s)/[^"?]+)"', text))
        assert "{step:" not in text and "<h1>" in text
    for address in sorted(seen - named):
        assert reader.client.get(address).status_code == 200, address
    assert reader.client.get("/handbook/step/no-such").status_code == 404
    assert reader.client.get("/handbook/guide/fillet").status_code == 404


def test_what_is_looked_up_is_found_by_the_words_people_use(reader) -> None:
    def found(words: str) -> list[str]:
        text = reader.client.get("/handbook", query_string={"q": words}).get_data(as_text=True)
        return re.findall(r'<li><a href="(/handbook/[^"]+)"><b>', text)

    for words, wanted in (
        ("why is my sketch not held", "/handbook/guide/why-is-it-not-held"),
        ("lid", "/handbook/guide/a-lid-that-fits"),
        ("rounded", "/handbook/step/fillet"),
        ("STL", "/handbook/file/stl"),
        ("tangent", "/handbook/hold/tangent"),
        ("polyg", "/handbook/draw/polygon"),
        ("draft", "/handbook/step/draft"),
    ):
        assert wanted in found(words)[:4], words
    # a step is found by each of the words that find it on the Bench
    for (sort, slug), page in pages().items():
        for word in page.search.split() if sort == "step" else ():
            assert f"/handbook/step/{slug}" in found(word) or len(found(word)) == 30, (slug, word)
    for nothing in ("", "   ", "qqqzzz", "'; drop table models; --", "a:b|c & !", "\u0000", "x" * 5000):
        answer = reader.client.get("/handbook", query_string={"q": nothing})
        assert answer.status_code in (200, 422)


def test_a_page_s_model_is_opened_as_a_copy_of_one_s_own(app, member) -> None:  # noqa: F811
    text = member.client.get("/handbook/step/shell").get_data(as_text=True)
    assert "Open this" in text and "Open this" not in member.client.get("/handbook/draw/circle").get_data(as_text=True)
    answer = member.post("/handbook/step/shell/open")
    assert answer.status_code == 303
    page = member.client.get(answer.headers["Location"]).get_data(as_text=True)
    assert "<h1><button" in page and ">Shell</button>" in page
    # also for somebody who has thrown all projects away
    there = set(re.findall(r"project=(\w{32})", member.client.get("/").get_data(as_text=True)))
    assert len(there) >= 2
    for project in there:
        member.post(f"/projects/{project}/bin")
    assert member.post("/handbook/step/fillet/open").status_code == 303
    assert Visitor(app).post("/handbook/step/shell/open").status_code in (302, 400, 401)
