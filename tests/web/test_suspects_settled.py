"""Suspects once something was done about them: causes, ruled out, what the shop learned."""

from __future__ import annotations

import pytest
from django.urls import reverse

from idlebench.web.proving import clue_keeping
from idlebench.web.proving import services as proving
from idlebench.web.proving.faulting import Case
from idlebench.web.records.models import Unit
from idlebench.web.unit.state import unit_state

from .helpers import discharge, make_idle, pass_up_to, power_at
from .test_suspects import ask, failed_at_full, hidden, post

pytestmark = pytest.mark.django_db


def test_a_suspect_is_the_cause_only_once_it_was_worked_on_and_its_rail_passed_since(client, board):
    unit = board.unit
    keys = failed_at_full(board)
    post(client, "read", unit, board=board.pk, point="C1 dc", value="14.1")
    taken = post(client, "take", unit, board=board.pk, suspect="VR1 dead")
    assert taken.status_code == 302
    cause = unit.causes.get()
    assert (cause.place, cause.rails, cause.outcome) == ("regulator or switch", "+5 V", "")
    assert post(client, "take", unit, board=board.pk, suspect="VR1 dead").status_code == 409, "taken on twice"
    assert post(client, "take", unit, board=board.pk, suspect="Z9 dead").status_code == 422

    def confirm():
        return post(client, "settle", unit, board=board.pk, cause=cause.pk, what="confirm")

    assert "Nothing was done to VR1" in confirm().content.decode()
    make_idle()
    discharge(unit)
    # another part's mend does not count for it
    client.post(reverse("mend", args=[board.pk]), {"mend": "R7 resoldered"})
    assert confirm().status_code == 409
    client.post(reverse("mend", args=[board.pk]), {"mend": "VR1 changed for a new one"})
    refused = confirm()
    assert refused.status_code == 409 and "read and passed" in refused.content.decode()
    pass_up_to(unit, "full")
    power_at(unit, "full")
    proving.take_reading(unit.pk, keys["volts"], "4.2")
    assert "still fails" in confirm().content.decode()
    proving.take_reading(unit.pk, keys["volts"], "5.0")
    assert confirm().status_code == 302
    cause.refresh_from_db()
    assert cause.outcome == "confirmed" and "VR1" in cause.words and confirm().status_code == 409
    # and is the shop's own figure from now on
    told = ask(client, unit, seen="hum")
    html = told.content.decode()
    assert "VR1" in html and "confirmed" in html
    state = unit_state(unit.pk)
    shop = Case(state, state.board(board.pk)).shop
    assert shop.says("regulator or switch", "VR1") == "this shop: 1 of 1 causes found stood in such a place"


def test_what_was_ruled_out_weighs_little_and_asks_for_a_reason(client, board):
    unit = board.unit
    failed_at_full(board)
    first = ask(client, unit).context["found"].suspects[0]
    post(client, "take", unit, board=board.pk, suspect=first.words)
    cause = unit.causes.get()
    rule = {"board": board.pk, "cause": cause.pk, "what": "rule out"}
    assert post(client, "settle", unit, **rule, words="no").status_code == 422
    assert post(client, "settle", unit, **rule, words="works on another board").status_code == 302
    after = {s.words: s.share for s in ask(client, unit).context["found"].suspects}
    assert after.get(first.words, 0.0) < 0.1 < first.share
    # another unit's cause cannot be settled through this one
    other = Unit.objects.create(job=unit.job, name="B")
    assert post(client, "settle", other, **rule, words="works on another board").status_code == 409


def test_what_the_shop_found_becomes_the_priors_of_parts_alike():
    from idlebench.core.board.parts import Fitted
    from idlebench.core.faults.hypotheses import hypotheses
    from idlebench.core.faults.outcome import Past, Shop, traits_of
    from idlebench.core.simulate.supply import Bench

    parts = [
        Fitted(ref="C14", value=2200e-6, volts=10.0, series="GP 85", ambient=65.0),
        Fitted(ref="C15", value=2200e-6, volts=10.0, series="LZ 105", ambient=40.0),
        Fitted(ref="C7", value=220e-6, volts=400.0),
    ]
    lines = "bridge mains 10ohm store C7 converter flyback 30W eff 0.78 at 42k fuse T1.6A\nrail +5V 3A duty 0.47 stores C14,C15"
    bench = Bench.of(lines, parts)
    traits = tuple((p.ref, traits_of(p, 2026, 1985)) for p in parts)
    assert dict(traits)["C14"].heat == "over 60 °C" and dict(traits)["C14"].age == "over 30 years"

    def share(shop, ref):
        return sum(h.prior for h in hypotheses(bench, shop) if h.ref == ref)

    plain, own = Shop((), traits), Shop((Past("output store", "dried", dict(traits)["C14"]),) * 6, traits)
    assert share(plain, "C14") == pytest.approx(share(plain, "C15"))
    assert share(own, "C14") > 1.3 * share(own, "C15") and sum(
        h.prior for h in hypotheses(bench, own)
    ) == pytest.approx(1.0)
    assert "this shop: 6 of 6 causes found stood in such a place, of these 6 GP 85" in own.says("output store", "C14")
    assert plain.says("output store", "C14") == ""


def test_without_lines_the_table_speaks(client, surveyed):
    unit = surveyed.unit
    Unit.objects.filter(pk=unit.pk).update(symptoms="")
    shown = ask(client, unit, seen="no sound")
    assert shown.status_code == 200 and shown.context["rows"][0].look
    assert post(client, "tell", unit, board="", sign=["no sound"]).status_code == 302
    assert post(client, "tell", unit, board="", sign=["sings"]).status_code == 422
    first = ask(client, unit).context["rows"][0].suspect
    assert post(client, "take", unit, board="", suspect=first.words).status_code == 302
    cause = unit.causes.get()
    assert not cause.rails
    settle_it = {"cause": cause.pk, "what": "confirm", "words": "sound is back"}
    assert post(client, "settle", unit, **settle_it).status_code == 409, "nothing was done to it"


def test_the_stand_in_answers_and_its_answers_count_for_no_machine(client, board):
    unit = board.unit
    hidden(board, "VR1 dead")
    failed_at_full(board)
    assert post(client, "read", unit, board=board.pk, point="C1 dc", by="meter").status_code == 302
    clue = unit.clues.get()
    assert clue.simulated and ask(client, unit).context["found"].suspects[0].words == "VR1 dead"
    unit.job.meter = ""
    unit.job.save()
    told = ask(client, unit).context
    assert any("simulated bench" in line for line in told["left_out"])
    assert post(client, "read", unit, board=board.pk, point="C1 ripple", by="meter").status_code == 422


def test_parts_as_they_were_measured_explain_it_before_anything_else_is_suspected(client, surveyed):
    """A reservoir kept in by the shop's policy and measured at a third of its value: the ripple needs no other fault."""
    from idlebench.web.proving.suspects import look

    surveyed.supply_model = "bridge 9V 25VA reservoir C1 regulator VR1 5V 1A"
    surveyed.save()
    row = surveyed.parts.get(ref="C1")
    row.capacitance, row.esr, row.esr_frequency = row.value / 4, 0.9, 120.0
    row.save()
    state = unit_state(surveyed.unit.pk)
    board = state.board(surveyed.pk)
    from idlebench.core.faults.suspects import Inquiry
    from idlebench.core.simulate.readings import Asked
    from idlebench.web.unit.expecting import bench_of, known_of

    live = clue_keeping.live_state(state, board)
    gives = Inquiry(bench=bench_of(known_of(state, board))).predicted(
        live, Asked(point="C1", what="ripple", typed="C1")
    )[0]
    told = look(Case(state, board), "", f"C1 ripple {gives:.4g}")
    assert told["measured"] and told["found"].suspects[0].ref == "C1"
    assert "with a new one" in told["found"].suspects[0].speaks_for[0]
