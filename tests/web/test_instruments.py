"""Instruments of the shop by request: each kind tried from its own page, and used where a reading is typed."""

import pytest
from django.urls import reverse

from idlebench.core.board.parts import Fitted
from idlebench.core.simulate.sitting import Sitting
from idlebench.core.simulate.state import read_state
from idlebench.core.simulate.supply import Bench
from idlebench.instruments import BenchServer, Scope
from idlebench.web.proving import services as proving
from idlebench.web.records.models import Instrument, Reading
from idlebench.web.unit.state import unit_state

from .helpers import before_power, discharge, pass_up_to, power_at, settle

pytestmark = pytest.mark.django_db


@pytest.fixture
def bench():
    made = Bench.of(
        "bridge 9V 25VA reservoir C1 regulator VR1 5V 1A", [Fitted(ref="C1", value=4700e-6, volts=25.0)], "T 250mA 250V"
    )
    with BenchServer(Sitting(bench=made, faults=(), state=read_state("mains 230V 50Hz; load rated"))) as server:
        yield server


def hold(client, name, address, kind):
    assert client.post(reverse("instruments"), {"name": name, "address": address, "kind": kind}).status_code == 302
    return Instrument.objects.get(name=name)


def do(client, row, **typed):
    return client.post(reverse("instrument", args=[row.pk]), typed)


def test_a_source_is_tried_set_and_switched_off_and_never_on(client, bench):
    row = hold(client, "Bench supply", bench.address, "source")
    page = client.get(reverse("instrument", args=[row.pk])).content.decode()
    assert "not tried yet" in page and "Switch it off" in page and "Switch it on" not in page
    assert do(client, row, do="try").status_code == 302
    row.refresh_from_db()
    assert "BENCH" in row.identity and "output on" in row.last
    assert do(client, row, do="set", volts="5", limit="1.5").status_code == 422, "its output is on"
    assert do(client, row, do="off").status_code == 302
    assert do(client, row, do="set", volts="5", limit="1.5").status_code == 302
    row.refresh_from_db()
    assert "set to 5 V, limit 1.5 A" in row.last and "output off" in row.last
    for volts, limit in (("", "1"), ("-5", "1"), ("5", "0"), ("5", "lots"), ("900", "1")):
        assert do(client, row, do="set", volts=volts, limit=limit).status_code == 422
    assert do(client, row, do="on").status_code == 302, "an unknown word only tries it"
    row.refresh_from_db()
    assert "output off" in row.last


def test_one_that_does_not_answer_keeps_what_was_known(client, bench):
    row = hold(client, "Scope", "127.0.0.1:9", "scope")
    Instrument.objects.filter(pk=row.pk).update(last="1000 points", identity="X,Y")
    told = do(client, row, do="try")
    assert told.status_code == 422 and "Check that it is on" in told.content.decode()
    row.refresh_from_db()
    assert (row.last, row.identity) == ("1000 points", "X,Y")
    assert do(client, row, do="off").status_code == 422, "a scope has no output"
    assert (
        client.post(reverse("instruments"), {"name": "T", "address": "127.0.0.1:7", "kind": "toaster"}).status_code
        == 422
    )
    assert do(client, row, do="drop").status_code == 302 and not Instrument.objects.exists()


def test_amps_of_a_board_alone_are_read_by_the_bench_supply(client, surveyed, bench):
    unit = surveyed.unit
    unit.job.way = "limited"
    unit.job.save()
    settle(unit)
    alone = next(s for s in unit_state(unit.pk).proof.steps if s.key.startswith("alone."))
    pass_up_to(unit, alone.key)
    discharge(unit)
    proving.take_reading(unit.pk, alone.checks[0].key, "yes")
    before_power(unit)
    power_at(unit, alone.key)
    amps = next(c for c in alone.checks if c.kind == "amps")
    assert "By the bench supply" not in client.get(reverse("power", args=[unit.pk])).content.decode()
    assert client.post(reverse("metered", args=[unit.pk]), {"check": amps.key}).status_code == 422, "none is named"
    row = hold(client, "Bench supply", bench.address, "source")
    assert "By the bench supply" in client.get(reverse("power", args=[unit.pk])).content.decode()
    assert client.post(reverse("metered", args=[unit.pk]), {"check": amps.key}).status_code == 302
    assert 0.02 < Reading.objects.get(key=amps.key).value < 0.2
    state = unit_state(unit.pk)
    assert not state.proof.done(amps), "the simulated bench at an address proves nothing of a machine"
    do(client, row, do="off")
    told = client.post(reverse("metered", args=[unit.pk]), {"check": amps.key})
    assert told.status_code == 422 and "output off" in told.content.decode()
    assert unit_state(unit.pk).live_step == alone.key, "LIVE stays LIVE"


def test_ripple_is_captured_by_the_shops_scope(client, surveyed, bench, monkeypatch):
    settle(surveyed.unit)
    pass_up_to(surveyed.unit, "full")
    power_at(surveyed.unit, "full")
    check = next(c for c in unit_state(surveyed.unit_id).proof.step("full").checks if c.aspect == "ripple")
    address = reverse("scope", args=[surveyed.unit_id])
    assert client.post(address, {"check": check.key, "scope": "1"}).status_code == 422, "none is named"
    hold(client, "Scope", bench.address, "scope")
    told = client.post(address, {"check": check.key, "scope": "1"})
    assert told.status_code == 422 and not Reading.objects.filter(key=check.key).exists(), "its probe is nowhere"

    # the simulated bench is refused by its name at any address; one that says it is a scope is asked
    monkeypatch.setattr("idlebench.core.simulate.scpi.NAME", "WORKSHOP,SCOPE,1,1")
    whole = Scope.trace

    def at_the_rail(self, points=20_000):
        # on the simulated bench a probe is one session's own: the scope's is put there
        self.tell("ROUT:CLOS (@+5V)")
        return whole(self, points)

    monkeypatch.setattr(Scope, "trace", at_the_rail)
    shown = client.post(address, {"check": check.key, "scope": "1"})
    assert shown.status_code == 200 and "20000" in shown.content.decode()
