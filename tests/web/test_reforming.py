"""A guided reforming run by request: it stops in time, and closes with a logged discharge."""

from datetime import timedelta

import pytest
import time_machine
from django.urls import reverse
from django.utils import timezone

from idlebench.web.records.models import Entry, Part, ReformRun
from idlebench.web.survey.services import add_line, paste
from idlebench.web.unit.state import board_state

pytestmark = pytest.mark.django_db


@pytest.fixture
def old(surveyed):
    """A sound-looking reservoir, 4700 µF 16 V."""
    return add_line(surveyed, "C9 4700u 16V 18x35 p7.5 bulk sound")


def do(client, part, what, typed="", **extra):
    return client.post(reverse("reform", args=[part.pk]), {"do": what, "typed": typed, **extra})


def test_a_run_that_reforms(client, old, one_clock):
    with time_machine.travel("2026-03-01 10:00:00+00:00", tick=False) as clock:
        assert do(client, old, "begin", "330").status_code == 302
        for step in range(5):
            volts = 3.2 * (step + 1)
            for text, minutes in (("3m", 2), ("0.3m", 2), ("0.3m", 30 if step == 4 else 5)):
                clock.shift(60 * minutes)
                across = f"{volts - (1.0 if text == '3m' else 0.1):.2f}"
                assert do(client, old, "current", text, across=across).status_code == 302, step
    run = ReformRun.objects.get()
    assert run.outcome == "done" and run.readings.count() == 15
    assert [r.step for r in run.readings.all()] == [step for step in range(5) for _ in range(3)]
    page = client.get(reverse("reform", args=[old.pk])).content.decode()
    assert "it has reformed" in page and "Current over minutes. allowed:" in page
    assert do(client, old, "current", "1m").status_code == 409, "no more current once it is over"
    charged = do(client, old, "discharge", "14")
    assert charged.status_code == 409 and "14 V is left" in charged.content.decode()
    do(client, old, "discharge", "0.4")
    old.refresh_from_db()
    assert old.reformed and old.leakage == pytest.approx(0.3e-3)
    assert any("discharged to 400 mV" in e.text for e in Entry.objects.filter(kind="reform"))


def test_a_clock_set_ahead_hurries_no_reforming(client, old):
    """An hour by the wall clock, and nothing by the one that only counts."""
    do(client, old, "begin", "330")
    with time_machine.travel(timezone.now() + timedelta(hours=1)):
        do(client, old, "current", "3m")
    assert ReformRun.objects.get().readings.get().minutes < 1


def test_a_rising_current_stops_the_run_and_condemns_the_part(client, old, surveyed):
    do(client, old, "begin", "330")
    do(client, old, "current", "900u")
    impossible = do(client, old, "current", "90m")
    assert impossible.status_code == 422 and "gives no more" in impossible.content.decode()
    do(client, old, "current", "1.3m")
    assert ReformRun.objects.get().outcome == "stop"
    assert "The current rose, 900 µA to 1.3 mA" in client.get(reverse("reform", args=[old.pk])).content.decode()
    do(client, old, "discharge", "2")
    verdict = board_state(surveyed.pk)[1].find("C9").verdict
    assert verdict.name == "replace" and "leaks 1.3 mA" in verdict.leading


def test_a_reformed_part_is_judged_by_three_times_the_leakage(surveyed, old):
    Part.objects.filter(pk=old.pk).update(leakage=1.5e-3)
    assert board_state(surveyed.pk)[1].find("C9").verdict.name == "replace"
    Part.objects.filter(pk=old.pk).update(reformed=True)
    assert board_state(surveyed.pk)[1].find("C9").verdict.name == "sound"


def test_a_warm_can_stops(client, old):
    do(client, old, "begin", "330")
    do(client, old, "current", "2m", warm="on")
    assert ReformRun.objects.get().outcome == "stop"


def test_a_run_left_off_changes_nothing_on_the_part(client, old):
    do(client, old, "begin", "330")
    do(client, old, "current", "1.3m")
    assert do(client, old, "discharge", "1").status_code == 409, "volts are still on"
    do(client, old, "stop")
    do(client, old, "discharge", "1")
    old.refresh_from_db()
    assert old.leakage is None and not old.reformed
    assert do(client, old, "begin", "330").status_code == 302, "and it may begin again"


@pytest.mark.parametrize(
    ("typed", "said"),
    [
        ("90", "100 Ω to"),
        ("1k", "100 Ω to 354 Ω"),
        ("20k", "100 Ω to"),
        ("lots", "a value in Ω"),
        ("", "a value in Ω"),
    ],
)
def test_a_resistor_that_cannot_be(client, old, typed, said):
    response = do(client, old, "begin", typed)
    assert response.status_code == 422 and said in response.content.decode()
    assert not ReformRun.objects.exists()


def test_what_is_not_reformed(client, surveyed, old):
    film, leaking = Part.objects.get(ref="C3"), Part.objects.get(ref="C1")
    assert do(client, film, "begin", "1k").status_code == 409
    assert "only a sound part is reformed" in do(client, leaking, "begin", "1k").content.decode()
    assert do(client, old, "current", "1m").status_code == 422, "no run is open"
    do(client, old, "begin", "330")
    assert do(client, old, "begin", "330").status_code == 409
    assert do(client, old, "dance").status_code == 422
    assert do(client, old, "current", "a lot").status_code == 422


def test_a_part_that_cannot_be_reformed_has_a_page_that_says_why(client, surveyed):
    for line, words in (
        ("C31 10u", "known volts"), ("C32 100n 63V film", "Only an electrolytic"), ("C33 10u 16V 5x11 looks burst", "C33 is burst. Replace it"),
    ):  # fmt: skip
        paste(surveyed, line, good_rows=False)
        part = surveyed.parts.get(ref=line.split()[0])
        page = client.get(reverse("reform", args=[part.pk]))
        assert page.status_code == 200 and words in page.content.decode() and 'id="reform"' not in page.content.decode()
        assert do(client, part, "begin", "2k2").status_code in (409, 422) and not ReformRun.objects.exists()


def test_a_dead_short_is_told_and_two_readings_at_once_pass_nothing(client, old, one_clock):
    with time_machine.travel("2026-03-01 10:00:00+00:00", tick=False) as clock:
        do(client, old, "begin", "330")
        for _ in range(3):
            assert do(client, old, "current", "0.3m", across="3.1").status_code == 302
        assert {r.step for r in ReformRun.objects.get().readings.all()} == {0} and not ReformRun.objects.get().outcome
        do(client, old, "stop")
        do(client, old, "discharge", "0.2")
        do(client, old, "begin", "330")
        refused = do(client, old, "current", "0.3m", across="0")
        assert refused.status_code == 422 and "add up to the 3.2 V" in refused.content.decode()
        assert 'value="0.3m"' in refused.content.decode(), "what was typed stays"
        do(client, old, "current", "9.6m", across="0.02")
        clock.shift(6 * 60)
        do(client, old, "current", "9.6m", across="0.02")
    assert ReformRun.objects.last().outcome == "stop"
    assert "it is a short" in client.get(reverse("reform", args=[old.pk])).content.decode()
