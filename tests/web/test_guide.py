"""The guide in the product: every page opens, is found, and is reached from its stage."""

import re
from pathlib import Path

import pytest
from django.urls import reverse

pytestmark = pytest.mark.django_db

PAGES = sorted(path.stem for path in (Path(__file__).parents[2] / "docs" / "guide").glob("*.md"))


@pytest.mark.parametrize("name", PAGES)
def test_a_page_opens_with_its_pictures_and_tables(client, name):
    there = client.get(reverse("guide_page", args=[name]))
    page = there.content.decode()
    source = (Path(__file__).parents[2] / "docs" / "guide" / f"{name}.md").read_text("utf-8")
    assert there.status_code == 200 and f"<h1>{source.splitlines()[0][2:]}</h1>" in page
    assert page.count("<img") == source.count("](../screenshots/") and page.count("<table>") >= source.count(
        "\n| --- |"
    )
    for picture in re.findall(r'src="(/static/build/guide/[^"]+)"', page):
        sent = client.get(picture)
        sent.close()
        assert sent.status_code == 200, picture


def test_no_other_page_is_there(client):
    assert client.get("/guide/nothing/").status_code == 404
    first = client.get(reverse("guide"))
    assert first.status_code == 200 and first.context["page"]["name"] == "index"


def test_it_is_found_by_its_words(client):
    found = client.get("/find/?q=systemd", headers={"HX-Request": "true"}).content.decode()
    assert reverse("guide_page", args=["keeping"]) in found


@pytest.mark.parametrize(
    ("stage", "page"),
    [
        ("intake", "intake"),
        ("cold", "cold-checks"),
        ("power", "first-power"),
        ("handover", "hand-over"),
        ("gather", "gather"),
    ],
)
def test_each_stage_leads_to_its_page(client, surveyed, stage, page):
    shown = client.get(reverse(stage, args=[surveyed.unit_id])).content.decode()
    assert f'href="{reverse("guide_page", args=[page])}" data-in-list="H"' in shown


def test_every_room_has_a_page(client, surveyed):
    for url in (
        "/",
        "/gather/",
        "/calendar/",
        "/procedures/",
        "/shelf/",
        "/reckoner/",
        "/practice/",
        "/ledger/",
        "/devices/",
        "/backups/",
    ):
        (link,) = re.findall(r'href="([^"]+)" data-in-list="H"', client.get(url).content.decode())
        page = client.get(link)
        assert page.status_code == 200 and page.context["page"]["title"], (url, link)
