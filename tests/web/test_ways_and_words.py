"""Nobody is stuck, and no page speaks like a programmer."""

import re

import pytest
from django.core import signing
from django.urls import reverse

from idlebench.core.board.parts import Fitted
from idlebench.core.judge.verdict import judge
from idlebench.core.refusal import BadInput
from idlebench.web.ledger.sheets import sheet
from idlebench.web.proving import services as proving
from idlebench.web.records.models import Unit
from idlebench.web.swap import services as swapping
from idlebench.web.unit.state import unit_state

from .helpers import before_power, discharge, make_idle, pass_up_to, power_at, settle
from .test_junk import addresses

pytestmark = pytest.mark.django_db

#: What only a programmer says, as whole words or as they stand.
PROGRAMMERS = (
    r"\bJSON\b", r"\bNone\b", r"\bnull\b", r"\bTrue\b", r"\bFalse\b", r"\bNaN\b", r"\bboolean\b", r"\binteger\b", r"\bfloat\b", r"\bstring\b",
    r"\bregex\b", r"\bexception\b", r"\btraceback\b", r"\bdatabase\b", r"\bSQL\b", r"\bHTTP\b", r"\bURL\b", r"\bAPI\b", r"\bPOST\b", r"\bid=\d",
    r"\bref:", r"\bpieces:", r"this program", r"read “", r"\b1 (lines|parts|units|kinds|readings|steps|places)\b", r" is 1 times ",
    r"\bmains_x\b", r"\bmains_y\b", r"\bconverter_output\b", r"\bregulator_output\b", r"\brail_volts\b", r"\d\.\d{5,}", r"\{\{", r"\{%", r"&lt;",
)  # fmt: skip


def words_of(html: str) -> str:
    """The text of a page as it is read: no marks, no scripts, nothing inside fields."""
    html = re.sub(r"<(script|style|template)\b.*?</\1>", " ", html, flags=re.S)
    return re.sub(r"\s+", " ", re.sub(r"<[^>]+>", " ", html))


@pytest.mark.parametrize("bench", ["demo", "unit"])
def test_no_page_speaks_like_a_programmer(client, request, bench):
    request.getfixturevalue(bench)
    said = []
    for url in addresses():
        # what licences say is in their authors' words
        if url.endswith((".pdf", ".csv", ".jpg", ".svg", "profile/", "licences/")):
            continue
        answer = client.get(url)
        if answer.status_code not in (200, 405) or "text/html" not in answer.headers.get("Content-Type", ""):
            continue
        text = words_of(answer.content.decode())
        said += [
            (url, found[0], text[max(0, found.start() - 40) : found.end() + 40])
            for p in PROGRAMMERS
            if (found := re.search(p, text))
        ]
    assert not said, said[:8]


def test_a_complaint_in_plain_words():
    assert (
        BadInput("5 A", "a value in V, such as 16", field="+5 V").plain
        == "+5 V: “5 A” does not go here: it takes a value in V, such as 16."
    )
    assert (
        BadInput("", "a reason in a few words", field="reason").plain
        == "Nothing was typed: it takes a reason in a few words."
    )


def test_just_over_is_not_one_times():
    part = Fitted(ref="C1", value=22e-6, volts=16, esr=14.8)
    assert "just over the strict limit" in judge(part, year=2026).leading


# every refusal leads on


def test_a_posted_address_opened_by_hand_leads_somewhere(client, surveyed):
    for url in addresses():
        answer = client.get(url)
        if answer.status_code == 405:
            html = answer.content.decode()
            assert "only receives what a page sends" in html and "To the Bench" in html, url
    html = client.get(reverse("choose_take", args=[surveyed.pk])).content.decode()
    assert f'href="{reverse("survey", args=[surveyed.pk])}"' in html
    assert client.get(f"/board/{surveyed.pk}/choose/take/").status_code == 405


def test_a_refusal_leads_back_to_the_page_it_came_from(client, surveyed):
    came = f"http://testserver{reverse('choose', args=[surveyed.pk])}?place=C2"
    for name, facts in (("swap_done", {"place": "C2"}), ("choose_take", {"place": "C2", "item": "no such"})):
        answer = client.post(reverse(name, args=[surveyed.pk]), facts, HTTP_REFERER=came)
        assert answer.status_code in (409, 422)
        assert f'href="{reverse("choose", args=[surveyed.pk])}?place=C2"' in answer.content.decode()
    elsewhere = client.post(
        reverse("swap_done", args=[surveyed.pk]), {"place": "C2"}, HTTP_REFERER="http://elsewhere.example/x"
    )
    assert (
        "elsewhere" not in elsewhere.content.decode()
        and reverse("survey", args=[surveyed.pk]) in elsewhere.content.decode()
    )


def test_a_page_that_was_open_too_long_leads_on(surveyed):
    from django.test import Client

    answer = Client(enforce_csrf_checks=True).post(reverse("choose_all", args=[surveyed.pk]))
    assert (
        answer.status_code == 403
        and "open too long" in answer.content.decode()
        and "To the Bench" in answer.content.decode()
    )


def test_there_is_a_favicon(client):
    answer = client.get("/favicon.ico")
    assert answer.status_code == 302 and answer.url.endswith("ui/icon.svg")


def test_a_reading_refused_on_swap_is_told_on_swap(client, surveyed):
    pass_up = unit_state(surveyed.unit_id).proof.discharges[0]
    facts = {"back": surveyed.pk, "step": "cold", f"r:{pass_up.key}": "lots"}
    answer = client.post(reverse("reading", args=[surveyed.unit_id]), facts)
    assert answer.status_code == 302 and answer.url.startswith(reverse("swap", args=[surveyed.pk]))
    html = client.get(answer.url).content.decode()
    assert "<h1>Swap" in html
    assert "“lots” does not go here" in html and 'value="lots"' in html


def test_no_address_puts_words_into_the_apps_mouth(client, surveyed):
    forged = client.get(
        reverse("swap", args=[surveyed.pk]), {"not": signing.dumps({"key": "x", "why": "Power on now"}, salt="other")}
    )
    assert forged.status_code == 200 and "Power on now" not in forged.content.decode()


# the sheet


def test_the_sheet_tells_what_failed_and_what_was_done(client, surveyed):
    unit = surveyed.unit
    Unit.objects.filter(pk=unit.pk).update(found="rust under the lid", repairs="fuse holder bridged once")
    settle(unit)
    pass_up_to(unit, "full")
    before_power(unit)
    power_at(unit, "full")
    proving.take_reading(unit.pk, "up.full.+5-v.ripple", "120m")
    make_idle()
    discharge(unit)
    swapping.mend(surveyed.pk, "J4 reflowed")
    pass_up_to(unit, "")
    told = sheet(unit_state(unit.pk))
    bad = next(f for f in told.failed if f.reading.key == "up.full.+5-v.ripple")
    assert bad.done == "PS-1: J4 reflowed" and bad.then.passed
    html = client.get(reverse("handover", args=[unit.pk])).content.decode()
    for words in ("rust under the lid", "fuse holder bridged once", "Readings that failed, 1", "J4 reflowed", "120 mV"):
        assert words in html


def test_the_way_up_is_shown_while_it_is_shut(client, surveyed):
    html = client.get(reverse("power", args=[surveyed.unit_id])).content.decode()
    for words in (
        "All power-up steps, with the checks of each step",
        "dummy load on +5 V",
        "limiter lamp",
        "4.75 V to 5.25 V",
        "plug to MB-80",
    ):
        assert words in html, words
