"""The suspects page: from a failed reading with nothing retyped, signs and readings in its address, and what cannot be."""

import pytest
from django.db.models import F
from django.urls import reverse

from idlebench.core.prove import interlocks
from idlebench.core.simulate.readings import Asked
from idlebench.web.proving import clue_keeping
from idlebench.web.proving import services as proving
from idlebench.web.proving.faulting import Case
from idlebench.web.proving.suspects import _leads
from idlebench.web.records.models import Part, Reading, Swap, Unit
from idlebench.web.survey.services import paste
from idlebench.web.unit.state import unit_state
from tests import typed as enter

from .helpers import discharge, make_idle, pass_up_to, power_at, settle

pytestmark = pytest.mark.django_db


@pytest.fixture
def board(surveyed):
    surveyed.supply_model = "bridge 9V 25VA reservoir C1 regulator VR1 5V 1A"
    surveyed.save()
    settle(surveyed.unit)
    return surveyed


def ask(client, unit, **typed):
    return client.get(reverse("suspects", args=[unit.pk]), typed)


def test_a_failed_reading_leads_there_with_nothing_to_retype(client, board):
    unit = board.unit
    pass_up_to(unit, "full")
    power_at(unit, "full")
    checks = {c.aspect: c for c in unit_state(unit.pk).proof.step("full").checks if c.rail == "+5 V"}
    proving.take_reading(unit.pk, checks["volts"].key, "0")
    page = client.get(reverse("power", args=[unit.pk])).content.decode()
    assert reverse("suspects", args=[unit.pk]) in page
    before = Reading.objects.count()
    told = ask(client, unit)
    first = {s.ref for s in told.context["found"].suspects[:4]}
    assert "VR1" in first and "+5 V dc 0 V" in told.content.decode()
    # the volts before the regulator part the two at once
    more = ask(client, unit, read="C1 dc 14.1")
    assert more.context["found"].suspects[0].words == "VR1 dead" and more.context["found"].suspects[0].share > 0.7
    assert Reading.objects.count() == before, "nothing is kept"


def test_readings_from_before_a_swap_are_left_out_and_said(client, board):
    unit = board.unit
    pass_up_to(unit, "feed")
    assert ask(client, unit).context["told"].readings
    board.rails += " tol 6"
    from idlebench.web.intake import services as intake

    facts = {f.name: getattr(board, f.name) for f in board._meta.fields if f.name not in ("id", "unit")}
    intake.change_board(board, facts)
    told = ask(client, unit).context["told"]
    # what was read of the fuse with everything off is as true as before
    assert not [r for r in told.readings if r.state.on] and told.left_out


def test_a_blown_fuse_opens_the_page_and_the_second_shuts_power_until_its_cause_is_known(client, board):
    unit = board.unit
    board.others = "F1 fuse T 630mA 250V 5x20"
    board.save()
    pass_up_to(unit, "limited")
    went = client.post(reverse("fuse", args=[board.pk]), {"ref": "F1"})
    assert went.url.startswith(reverse("suspects", args=[unit.pk])) and unit.clues.get().text == "fuse gone"
    page = client.get(went.url)
    assert page.status_code == 200 and {"D1", "C1", "F1"} & {s.ref for s in page.context["found"].suspects[:3]}

    def shut():
        return {r.rule for r in interlocks.power(unit_state(unit.pk).proof, "limited")}

    assert "blown" not in shut()
    client.post(reverse("fuse", args=[board.pk]), {"ref": "F1"})
    assert "blown" in shut()
    # moved to another unit, it takes what blew along
    other = Unit.objects.create(job=unit.job, name="B")
    discharge(unit)
    assert client.post(reverse("move_board", args=[board.pk]), {"unit": other.pk}).status_code == 302
    assert "blown" in {r.rule for r in interlocks.power(unit_state(other.pk).proof, "limited")}
    discharge(other)
    client.post(reverse("move_board", args=[board.pk]), {"unit": unit.pk})
    assert "blown" in shut()
    assert client.post(reverse("fuse", args=[board.pk]), {"ref": "F1", "cause": "?"}).status_code == 422
    client.post(reverse("fuse", args=[board.pk]), {"ref": "F1", "cause": "bridge D1 shorted"})
    assert "blown" not in shut()


def test_signs_from_nothing_and_what_cannot_be(client, board):
    unit = board.unit
    assert "No reading and no symptom" in ask(client, unit).content.decode()
    dead = ask(client, unit, seen="dead\nfuse whole")
    assert dead.status_code == 200 and dead.context["next"]
    for typed, words in (
        ({"seen": "dead\nripple +5V"}, "dead, and ripple"), ({"seen": "rail low +12V"}, "a rail that the supply makes"),
        ({"read": "C1"}, "line 1"), ({"read": "C1 dc lots"}, "line 1"), ({"read": "C77 dc 3"}, "line 1"), ({"read": "C1 dc 1\n" * 60}, "60 lines"),
    ):  # fmt: skip
        told = ask(client, unit, **typed)
        assert told.status_code == 422 and words in told.content.decode(), typed


def test_a_part_nobody_listed_is_said_in_words_with_the_way_to_list_it(client, board):
    """The usual reference is only a guess: another part may bear it on this board."""
    failed_at_full(board)
    told = ask(client, board.unit)
    row = next(r for r in told.context["rows"] if r.suspect.ref == "T1")
    assert row.called == "the transformer" and "The transformer" in told.content.decode()
    listing = reverse("survey", args=[board.pk]) + "?typed=T1%20transformer%20&amp;typing=1"
    assert listing in told.content.decode()
    assert 'value="T1 transformer "' in client.get(listing.replace("&amp;", "&")).content.decode()
    make_idle()
    client.post(reverse("survey", args=[board.pk]), {"line": "T1 transformer"})
    rows = ask(client, board.unit).context["rows"]
    assert {r.suspect.ref: r.called for r in rows}["T1"] == ""


def test_the_leads_go_to_what_the_part_has(client, surveyed):
    client.post(reverse("survey", args=[surveyed.pk]), {"line": "Q7 transistor"})
    board = next(b for b in unit_state(surveyed.unit.pk).boards if b.row.pk == surveyed.pk)
    assert _leads(board, Asked(point="Q7", what="diode", typed="Q7")).black == "Q7 emitter or source"
    assert _leads(board, Asked(point="Q1", what="diode", typed="Q1"), "the switch transistor").red.startswith(
        "Q1 collector or drain"
    )
    assert _leads(board, Asked(point="D4", what="diode", typed="D4")).black == "D4 cathode"


def test_without_a_model_it_says_what_to_type(client, surveyed):
    assert "Type them at Intake" in ask(client, surveyed.unit).content.decode()
    surveyed.supply_model = "bridge 9V 25VA store C77 regulator VR1 5V 1A"
    surveyed.save()
    assert ask(client, surveyed.unit).status_code in (200, 422)


def hidden(board, truth):
    """Tried on the simulated bench, with something wrong that nobody knows."""
    board.unit.job.meter = "stand-in"
    board.unit.job.save()
    board.truth = truth
    board.save()


def failed_at_full(board):
    """Full mains, the rail read by hand as the simulated meter would show a dried store of the new part."""
    unit = board.unit
    pass_up_to(unit, "full")
    power_at(unit, "full")
    checks = {c.aspect: c for c in unit_state(unit.pk).proof.step("full").checks if c.rail == "+5 V"}
    proving.take_reading(unit.pk, checks["volts"].key, "0")
    return {name: check.key for name, check in checks.items()}


def post(client, name, unit, **typed):
    return client.post(reverse(f"suspects_{name}", args=[unit.pk]), typed)


def test_an_answer_on_the_page_moves_the_shares_is_kept_and_may_be_taken_back(client, board):
    unit = board.unit
    failed_at_full(board)
    before = ask(client, unit).context
    first = before["next"][0]
    assert first.typed and not first.shut and first.leads.black and first.leads.red
    assert post(client, "read", unit, board=board.pk, point="C1 dc", value="14.1").status_code == 302
    after = ask(client, unit).context
    assert (
        after["found"].suspects[0].words == "VR1 dead"
        and after["found"].suspects[0].share > before["found"].suspects[0].share
    )
    assert "C1 dc 14.1 V" in {r.words for r in after["readings"]}
    # what was asked already is not asked again
    assert "C1 dc" not in {n.typed for n in after["next"]}
    clue = unit.clues.get()
    assert clue.step == "full" and "C1 dc" in unit.entries.first().text
    post(client, "drop", unit, board=board.pk, clue=clue.pk)
    assert ask(client, unit).context["found"].suspects[0].share == pytest.approx(before["found"].suspects[0].share)
    assert post(client, "drop", unit, board=board.pk, clue=clue.pk).status_code == 409


def test_readings_that_cannot_be_or_may_not_be_taken_now_are_refused(client, board):
    """The unit has power: nothing is read cold, nothing on the mains side, and nothing that is no number."""
    failed_at_full(board)
    for point, value, status in (
        ("C1 dc", "lots", 422), ("C77 dc", "3", 422), ("C1", "", 422), ("C1 dc", "", 422), ("C1 esr", "0.2", 409), ("mains dc", "3", 409),
    ):  # fmt: skip
        answered = post(client, "read", board.unit, board=board.pk, point=point, value=value)
        assert answered.status_code == status, (point, value)
    assert not board.unit.clues.exists()


def test_a_refused_reading_leaves_all_that_was_typed_in_the_form(client, board):
    failed_at_full(board)
    asked = ask(client, board.unit).context["next"][0].typed
    typed = {"board": board.pk, "sign": ["fuse whole"], "seen": "ripple +5V"}
    for read, status in (("C1 dc 14.1\nC77 dc 3", 422), ("C1 esr 0.2", 409)):
        told = post(client, "tell", board.unit, **typed, read=read)
        page = told.content.decode()
        assert told.status_code == status, told.context["complaint"]
        assert "ripple +5V</textarea>" in page and f"{read}</textarea>" in page
        assert 'value="fuse whole" checked' in page and not board.unit.clues.exists()
    told = post(client, "read", board.unit, board=board.pk, point=asked, value="14..1")
    assert told.status_code == 422 and 'value="14..1"' in told.content.decode()


def test_cold_readings_wait_for_idle_and_for_empty_stores(client, board):
    unit = board.unit
    failed_at_full(board)
    make_idle()
    typed = {"board": board.pk, "point": "C1 esr", "value": "0.2"}
    refused = post(client, "read", unit, **typed)
    assert refused.status_code == 409 and "discharged" in refused.content.decode()
    live = post(client, "read", unit, board=board.pk, point="C1 dc", value="14")
    assert live.status_code == 409 and "no power" in live.content.decode()
    discharge(unit)
    assert post(client, "read", unit, **typed).status_code == 302
    # another supply's number, and none at all
    assert post(client, "read", unit, board=10**9, point="C1 esr", value="0.2").status_code == 422
    assert post(client, "read", unit, board="x", point="C1 esr", value="0.2").status_code == 422


def test_signs_are_ticked_kept_once_and_go_when_they_are_not_ticked_any_more(client, board):
    unit = board.unit
    page = post(client, "tell", unit, board=board.pk, sign=["crackle", "hum"], seen="ripple +5V\nsmoke C1")
    assert page.status_code == 302 and {c.text for c in unit.clues.all()} == {
        "crackle",
        "hum",
        "ripple +5 V",
        "smoke C1",
    }
    shown = ask(client, unit)
    html = shown.content.decode()
    assert {"crackle", "hum"} <= shown.context["ticked"] and "smoke C1" in html
    assert any("a reservoir that dried" in line for s in shown.context["found"].suspects for line in s.speaks_for)
    post(client, "tell", unit, board=board.pk, sign=["hum"], seen="ripple +5V")
    assert {c.text for c in unit.clues.filter(dropped=None)} == {"hum", "ripple +5 V"}
    against = post(client, "tell", unit, board=board.pk, sign=["dead"], seen="ripple +5V")
    assert against.status_code == 422 and "dead, and ripple" in against.content.decode()
    assert {c.text for c in unit.clues.filter(dropped=None)} == {"hum", "ripple +5 V"}, "nothing is half kept"
    # of several readings one that cannot be read leaves all of them, and the signs, as they were
    bad = post(client, "tell", unit, board=board.pk, sign=["crackle"], seen="", read="C1 esr 0.2\nC1 esr lots")
    assert bad.status_code == 422 and "line 2" in bad.content.decode()
    assert {c.text for c in unit.clues.filter(dropped=None)} == {"hum", "ripple +5 V"}


def test_the_least_of_a_rail_is_weighed_as_it_was_read_with_its_loads_stepping(client, board):
    unit = board.unit
    failed_at_full(board)
    post(client, "read", unit, board=board.pk, point="+5V lowest", value="4.9")
    told = ask(client, unit).context
    (one,) = [r for r in told["readings"] if r.asked.what == "lowest" and r.value == 4.9]
    assert one.state.step == "all" and "+5 V lowest" not in {n.typed for n in told["next"]}


def test_a_mend_at_its_pad_makes_no_dried_part_new():
    from idlebench.core.simulate.truth import changed

    truth = "C19 cap 20u\nJ2 joint 0.4"
    assert changed(truth, "lifted pad from C19 + to C20 +", mend=True) == truth
    assert changed(truth, "J2 pins made new", mend=True) == "C19 cap 20u\n# changed: J2 joint 0.4"
    assert changed(truth, "C19: GP in").startswith("# changed: C19")


def test_symptoms_as_told_and_a_failed_cold_check_lead_there(client, board):
    unit = board.unit
    unit.symptoms = "Dead since the storm, the fuse is whole. Owner says the picture shakes."
    unit.save()
    told = client.get(reverse("intake", args=[unit.pk])).content.decode()
    assert "?seen=dead%3Bfuse%20whole%3Bpicture%20shakes" in told
    there = ask(client, unit, seen="dead;fuse whole;picture shakes")
    assert there.status_code == 200 and there.context["ticked"] == {"dead", "fuse whole", "picture shakes"}
    assert not unit.clues.exists(), "looked at, not kept"
    discharge(unit)
    state = unit_state(unit.pk)
    short = next(c for c in state.proof.steps[0].checks if c.key.startswith("cold.rail.") and c.rail == "+5 V")
    proving.take_reading(unit.pk, short.key, "0.1")
    cold = client.get(reverse("cold", args=[unit.pk])).content.decode()
    assert "which parts explain it" in cold
    found = ask(client, unit).context["found"]
    assert found.suspects[0].words == "+5 V shorted" and any("100 mΩ" in line for line in found.suspects[0].speaks_for)


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
    assert post(client, "tell", unit, board="", sign=["xyzzy"]).status_code == 422
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


SWITCHING = """
C7 100u 400V 18x35 bulk at 30,30
C14 1000u 10V 10x20 converter output at 60,30 leaking
C15 1000u 10V 10x20 converter output at 70,30 leaking
C16 470u 25V 10x20 converter output at 80,30 leaking
C18 470u 25V 10x20 converter output at 90,30 leaking
""".strip()


@pytest.fixture
def bare(surveyed):
    """A switching supply of which nobody typed the lines."""
    board = enter.add_board(
        surveyed.unit,
        {"name": "PS-9", "supply": "switching", "width": "120", "height": "80", "rails": "+5V 3A\n+12V 1A"},
    )
    paste(board, SWITCHING, good_rows=False)
    # the other supply is none
    surveyed.supply = ""
    surveyed.save()
    return board


def test_a_supply_without_lines_is_assumed_and_said_so(client, bare):
    unit = bare.unit
    told = ask(client, unit, seen="it is dead, nothing happens")
    page = " ".join(told.content.decode().split())
    assert "The supply of PS-9 is assumed: a flyback converter behind C7 on the mains" in page
    refs = list(dict.fromkeys(s.ref for s in told.context["found"].suspects))
    assert set(refs[:4]) == {"C14", "C15", "C16", "C18"}, refs
    # kept, started and dropped as with typed lines
    assert post(client, "tell", unit, board=bare.pk, sign=["dead"]).status_code == 302
    first = ask(client, unit).context["rows"][0].suspect
    assert post(client, "take", unit, board=bare.pk, suspect=first.words).status_code == 302
    # and nothing is proven, foreseen or chosen by it
    state = unit_state(unit.pk)
    own = next(b for b in state.boards if b.row.pk == bare.pk)
    assert not own.supply and not own.assumed
    assert not next(b for b in state.facts if b.name == "PS-9").modelled


def test_a_failed_check_of_a_part_names_it_among_the_suspects(client, board):
    unit = board.unit
    board.others = "VR1 regulator 7805 1A at 100,30"
    board.save()
    discharge(unit)
    check = next(c for c in unit_state(unit.pk).proof.steps[0].checks if c.point == "VR1, pin to pin")
    proving.take_reading(unit.pk, check.key, "0.3")
    told = ask(client, unit)
    first = told.context["found"].suspects[0]
    assert first.ref == "VR1" and any("VR1, pin to pin: 300 mΩ" in line for line in first.speaks_for)
    # accepted with a reason it would weigh no more; here it guards nobody but the regulator
    if not check.safety:
        proving.override(unit.pk, check.key, "the coil beside it reads so")
        assert ask(client, unit).context.get("nothing")


def test_an_esr_far_over_its_limit_in_circuit_counts(client, board):
    unit = board.unit
    surveying = board.parts.get(ref="C1")
    Part.objects.filter(pk=surveying.pk).update(esr=2.2, esr_frequency=100e3, in_circuit=True)
    Swap.objects.filter(part=surveying).delete()
    Unit.objects.filter(pk=unit.pk).update(turn=F("turn") + 1)
    told = ask(client, unit, seen="ripple +5V")
    first = told.context["found"].suspects[0]
    assert first.ref == "C1" and any("times its limit" in line for line in first.speaks_for)
