"""Every page answers, within its queries, with a policy that lets nothing inline run."""

import re

import pytest
from django.urls import reverse
from django.utils.html import escape

from idlebench.core.calculators import REGISTRY
from idlebench.web.records.models import Unit

from .conftest import all_pages

pytestmark = pytest.mark.django_db


def test_every_page_of_the_demo_answers_within_18_queries(demo_pages):
    assert len(demo_pages) > 100
    for page, (_, queries) in demo_pages.items():
        # a sheet tells photos, causes and mends of the whole unit
        assert queries <= (20 if page.endswith(".html") else 18), page


def test_no_inline_script_or_handler_anywhere(demo_pages):
    for page, (html, _) in demo_pages.items():
        assert not re.search(r"<script(?![^>]* src=)", html), page
        assert not re.search(r"\son[a-z]+=", html), page
        assert " style=" not in html and "javascript:" not in html, page
        assert not re.findall(r'(?:src|href|action)="https?://', html), page


def test_content_security_policy(client):
    policy = client.get("/").headers["Content-Security-Policy"]
    assert "script-src 'self'" in policy and "default-src 'none'" in policy
    assert "unsafe" not in policy and "http" not in policy


def test_an_empty_bench_says_what_to_do_first(client):
    html = client.get("/").content.decode()
    assert "No unit is on the bench yet" in html and "demo" in html
    assert client.post("/demo/").status_code == 302
    assert Unit.objects.count() == 5
    client.post("/demo/")
    assert Unit.objects.count() == 5, "loaded once only"


def test_the_demo_is_in_the_middle_of_the_work(demo, client):
    html = client.get("/").content.decode()
    assert html.count("handed over") == 1
    a, b, c, *_ = Unit.objects.all()
    assert [board.parts.count() for board in b.boards.all()] == [18, 41]
    assert a.handed_over and not b.handed_over and not c.boards.get().parts.exists()
    looks = b.boards.get(name="MB-80").parts
    assert looks.filter(looks="leaking").count() >= 2
    survey = client.get(reverse("survey", args=[b.boards.get(name="MB-80").pk]) + "?part=C34").content.decode()
    assert "tenfold slip" in survey, "the misread code"
    survey = client.get(reverse("survey", args=[b.boards.get(name="MB-80").pk]) + "?part=C35").content.decode()
    assert "looks like a dry part" in survey, "the dressed-up wet part"


@pytest.mark.parametrize(
    "page",
    ["/unit/999/", "/unit/999/cold/", "/board/999/survey/", "/board/999/choose/", "/nowhere/", "/reckoner/nothing/"],
)
def test_what_is_not_there_is_said(client, db, page):
    response = client.get(page)
    assert response.status_code == 404 and b"nothing at this address" in response.content


@pytest.mark.parametrize("page", ["/part/1/place/", "/board/1/choose/take/", "/unit/1/power/on/", "/idle/"])
def test_changes_need_a_post(client, db, page):
    refused = client.get(page)
    assert refused.status_code == 405 and refused["Allow"] == "POST"


def test_changes_need_the_token(db, unit):
    from django.test import Client

    strict = Client(enforce_csrf_checks=True)
    assert strict.post(reverse("intake", args=[unit.pk]), {"serial": "1"}).status_code == 403
    assert Unit.objects.get(pk=unit.pk).serial != "1"


def test_find(demo, client):
    html = client.get("/find/?q=C22", headers={"HX-Request": "true"}).content.decode()
    assert "C22 100 µF" in html and "<html" not in html
    assert "Discharging a capacitor" in client.get("/find/?q=discharging").content.decode()
    assert "Nothing found" in client.get("/find/?q=zzzz").content.decode()


@pytest.mark.parametrize("name", REGISTRY)
def test_a_reckoning_has_its_inputs_in_its_address(client, db, name):
    item = REGISTRY[name]
    page = reverse("reckoning", args=[name])
    whole = client.get(page, item.defaults()).content.decode()
    assert escape(item.title) in whole and "reading" in whole
    part = client.get(page, item.defaults(), headers={"HX-Request": "true", "HX-Target": "result"})
    assert page in part.headers["HX-Replace-Url"] and b"<html" not in part.content
    first = item.inputs[0]
    bad = client.get(page, {first.name: "@@"})
    assert bad.status_code == 422 and first.name in bad.content.decode()


def test_html_in_any_text_stays_text(client, surveyed):
    evil = "<img src=x onerror=alert(1)>"
    unit = surveyed.unit
    client.post(reverse("intake", args=[unit.pk]), {"serial": evil[:60], "symptoms": evil, "missing": evil})
    client.post(reverse("survey", args=[surveyed.pk]), {"line": f"C9 10u 16V note {evil}"})
    client.post(
        reverse("board_facts", args=[surveyed.pk]),
        {"name": evil, "title": evil, "fuse": evil, "rails": "+5 V 2 A min 0.5 A", "supply": "switching"},
    )
    client.post(reverse("new_board", args=[unit.pk]), {"name": "B", "chips": f"U2 {evil.replace(' ', '_')} gnd 1"})
    for page in [
        *all_pages(),
        f"{reverse('survey', args=[surveyed.pk])}?part=C9",
        f"/find/?q={evil}",
        f"/shelf/?q={evil}",
    ]:
        html = client.get(page).content.decode()
        assert "<img" not in html, page


def test_the_theme_follows_the_machine_until_somebody_says_otherwise(client, db):
    assert 'data-theme="auto"' in client.get("/").content.decode()
    for said, shown in (("dark", "dark"), ("light", "light"), ("mauve", "auto")):
        client.cookies["theme"] = said
        assert f'data-theme="{shown}"' in client.get("/").content.decode()


def test_neighbouring_pages_agree_on_what_is_left(demo_pages):
    """Each page of a unit tells the same of every stage, and the Bench tells it in the same numbers."""
    told, pages = {}, 0
    for html, _ in demo_pages.values():
        of = re.search(r"· job (\d+) · unit\s+(\S+?)</span>", html)
        left = re.findall(r'class="station [^"]*"></span>([^<]+)<small>([^<]*)</small>', html)
        if of and left:
            pages += 1
            told.setdefault(of.groups(), set()).add(tuple((name, words.strip()) for name, words in left))
    assert pages > 40 and {name for _, name in told} == {"A", "B", "C", "F", "M"}
    assert all(len(each) == 1 for each in told.values()), told
    bench, open_units = demo_pages["/"][0], 0
    for row in re.split(r'href="[^"]*">Unit ', bench)[1:]:
        name, number = row.split(",")[0], re.search(r"job (\d+) ·", row)[1]
        left = re.findall(r'<i class="[^"]*"></i>([^<]+)<small\s+class="num">([^<]*)</small>', row)
        if left:
            open_units += 1
            (known,) = told[number, name]
            assert [(n, w.strip("–")) for n, w in left] == [(n, w.strip("–")) for n, w in known], name
    assert open_units == 4
