"""What the supply will do, before a part is taken; and the parts that cure a rail, taken together."""

import json
import re
from html import unescape

import pytest
from django.urls import reverse

from idlebench.core.refusal import BadInput, Blocked
from idlebench.web.choose import predicting, services
from idlebench.web.records.models import Board, CatalogueItem
from idlebench.web.unit.state import board_state

pytestmark = pytest.mark.django_db


@pytest.fixture
def board(demo):
    return Board.objects.get(unit__name="B", name="PS-2")


def page(client, board, place):
    """What the page of a place asks for once it stands."""
    return client.get(reverse("choose_needles", args=[board.pk]), {"place": place})


def test_the_page_stands_before_the_supply_is_calculated(client, board, monkeypatch):
    def never(*_: object) -> None:
        raise AssertionError("the page itself simulates nothing")

    monkeypatch.setattr("idlebench.web.choose.supplying.reckoned", never)
    text = client.get(reverse("choose", args=[board.pk]), {"place": "C18"}).content.decode()
    assert f'hx-get="{reverse("choose_needles", args=[board.pk])}?place=C18"' in text
    assert "choose/needles" not in client.get(reverse("choose", args=[board.pk]), {"place": "C2"}).content.decode()


def cards(client, board, place):
    return client.get(reverse("choose", args=[board.pk]), {"place": place}).context["cards"]


def test_the_rails_move_with_each_candidate_before_it_is_taken(client, board):
    answer = page(client, board, "C18")
    rows, moves = answer.context["predicted"], answer.context["moves"]
    assert rows[0].figure.name == "Ripple on +5 V" and rows[0].state == "failed", "what fails comes first"
    assert len(moves) == len(cards(client, board, "C18"))
    at = [row.figure.name for row in rows].index("Ripple on +12 V")
    needles = {one[at]["at"] for one in moves if one[at]}
    assert len(needles) > 2, "parts of another ESR move the needle elsewhere"
    # what stands on the page is the first candidate's, and its words are those the page would show for it
    assert moves[0][at]["after"] == rows[at].after
    sent = json.loads(unescape(re.search(r'data-moves="([^"]*)"', answer.content.decode())[1]))
    assert sent == moves
    # taken, it is what was told
    services.take(board.pk, "C18", cards(client, board, "C18")[0]["c"].part.part)
    assert (
        next(r for r in page(client, board, "C18").context["predicted"] if r.figure.name == "Ripple on +12 V").after
        == rows[at].after
    )


def test_the_parts_that_cure_a_rail_are_taken_together(client, board):
    state, found = board_state(board.pk)
    (offer,) = predicting.of_place(state, found, "C18")
    assert offer.cure.rail == "+5 V" and offer.cure.standing == ("C14",) and offer.cure.ripple < offer.cure.limit
    answer = page(client, board, "C18")
    assert offer.needs in answer.content.decode()
    ref, item, seen = offer.wanted[0]
    sent = client.post(
        reverse("choose_pair", args=[board.pk]), {"ref": ref, "item": item, "seen": seen, "place": "C18"}
    )
    assert sent.status_code == 302 and board_state(board.pk)[1].find("C15").choice.item == item
    after = page(client, board, "C18").context
    assert after["offers"] == [] and all(row.state == "passed" for row in after["predicted"])


def test_all_of_a_pair_or_none(board, client):
    good = predicting.of_place(*board_state(board.pk), "C18")[0].wanted[0]
    was = board_state(board.pk)[1].find("C15").settled_as
    # the second is too large for its place
    bad = CatalogueItem.objects.filter(kind="wet", value__gte=0.009, diameter__gte=18).first().part
    with pytest.raises(Blocked):
        services.take_together(board.pk, [good, ("C18", bad, "")])
    assert board_state(board.pk)[1].find("C15").settled_as == was, "nothing was half taken"
    # one that was seen otherwise, one that is soldered in, a place twice, none
    with pytest.raises(Blocked, match="decided meanwhile"):
        services.take_together(board.pk, [(good[0], good[1], "another part")])
    with pytest.raises(Blocked, match="swapped"):
        services.take_together(board.pk, [("C14", good[1], "")])
    for wanted in ([good, good], []):
        with pytest.raises(BadInput, match="each place once"):
            services.take_together(board.pk, wanted)
    odd = client.post(reverse("choose_pair", args=[board.pk]), {"ref": ["C15", "C18"], "item": good[1]})
    assert odd.status_code in (400, 422) and "Check the page again" in odd.content.decode()
    assert board_state(board.pk)[1].find("C15").settled_as == was


def test_the_supply_page_shows_its_rails_first_with_the_cure(client, board):
    text = client.get(reverse("supply", args=[board.pk])).content.decode()
    assert text.index("What the supply will do") < text.index("Strip of")
    assert "Ripple on +5 V" in text and "Use it for +5 V" in text
    for anchor in re.findall(r'href="#([\w-]+)"', text):
        assert f'id="{anchor}"' in text, anchor
