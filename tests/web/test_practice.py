"""The practice room: it changes no figure of the shop, keeps what was done, and two people do not overwrite each other."""

import pytest
from django.urls import reverse

from idlebench.core.practice.machines import KINDS
from idlebench.core.refusal import BadInput, Blocked
from idlebench.web.practice import services
from idlebench.web.records import models
from idlebench.web.records.models import PracticeRun

pytestmark = pytest.mark.django_db


def go(row, *moves):
    for move in moves:
        services.do(row.pk, move, str(len(services.sit(row.pk).run.said)))
    return services.sit(row.pk).run


def counted():
    """Rows of every table but the practice machines."""
    found = {}
    for name in models.__all__:
        model = getattr(models, name)
        if isinstance(model, type) and hasattr(model, "objects") and model is not PracticeRun:
            found[name] = model.objects.count()
    return found


@pytest.mark.parametrize("kind", KINDS)
def test_each_machine_is_cured_through_the_page_by_its_advice_and_no_figure_of_the_shop_moves(client, surveyed, kind):
    before = counted()
    client.post(reverse("practice_begin"), {"kind": kind, "seed": "lamp"})
    row = PracticeRun.objects.get()
    for _ in range(40):
        run = services.sit(row.pk).run
        step = run.advice()
        if run.done or step is None:
            break
        sent = {"move": step.move, "after": str(len(run.said)), "place": "C1"}
        assert client.post(reverse("practice_move", args=[row.pk]), sent).status_code == 302, step.move
    run = services.sit(row.pk).run
    assert run.passed and PracticeRun.objects.get().ended is not None
    page = client.get(reverse("practice_machine", args=[row.pk])).content.decode()
    assert (
        "the cause is found, nobody was hurt" in page
        and run.machine.lesson.split(":")[0].replace("'", "&#x27;") in page
    )
    assert counted() == before


def test_a_machine_left_in_the_middle_is_taken_up_again(client, shelf):
    row = services.begin("hum", "7")
    go(row, "empty", "look C1", "power lamp dummy")
    run = services.sit(row.pk).run
    assert run.power == "lamp" and len(run.said) == 3
    assert run.machine.title in client.get(reverse("practice")).content.decode()
    assert "on, behind the lamp" in client.get(reverse("practice_machine", args=[row.pk])).content.decode()


def test_of_two_people_one_is_told(client, shelf):
    row = services.begin("hum", "7")
    go(row, "empty")
    services.do(row.pk, "look C1", "1")
    with pytest.raises(Blocked, match="has changed since you saw it"):
        services.do(row.pk, "power full board", "1")
    response = client.post(reverse("practice_move", args=[row.pk]), {"move": "power full board", "after": "1"})
    assert response.status_code == 409 and "Somebody did something to it" in response.content.decode()
    assert [s.move for s in services.sit(row.pk).run.said] == ["empty", "look C1"]


@pytest.mark.parametrize("move", ["", "jump", "power", "swap C1 with", "read C99 dc", "\x00", "<b>", "x" * 300])
def test_a_move_that_cannot_be_is_said_and_nothing_is_kept(client, shelf, move):
    row = services.begin("hum", "7")
    response = client.post(reverse("practice_move", args=[row.pk]), {"move": move, "after": "0"})
    assert response.status_code == 422 and 'class="wrong said"' in response.content.decode()
    row.refresh_from_db()
    assert row.kept == {}


def test_a_seed_that_cannot_be_begins_nothing(client, shelf):
    for seed in ("", "x" * 70):
        assert client.post(reverse("practice_begin"), {"kind": "hum", "seed": seed}).status_code == 422
    assert client.post(reverse("practice_begin"), {"kind": "no", "seed": "1"}).status_code == 422
    assert not PracticeRun.objects.exists()
    with pytest.raises(BadInput):
        services.begin("hum", "")
    assert client.get(reverse("practice_machine", args=[9])).status_code == 404


def test_brought_up_the_wrong_way_on_purpose_is_said_and_counted(client, shelf):
    row = services.begin("kitchen", "3")
    run = go(row, "read C1 esr", "power full board", "power off")
    assert len(run.harm) == 2 and run.burst == run.machine.cause
    page = client.get(reverse("practice_machine", args=[row.pk])).content.decode()
    assert "bursts" in page and "hit your face" in page
    run = go(row, "say C1", "done")
    page = client.get(reverse("practice_machine", args=[row.pk])).content.decode()
    assert "not found" in page and not run.passed


def test_a_hint_is_counted_and_a_machine_is_put_away(client, shelf):
    row = services.begin("amber", "7")
    run = go(row, "hint", "hint")
    # asked twice of the same state it counts once
    assert run.hints == 1 and not run.moves and run.said[0].text.startswith("empty:")
    client.post(reverse("practice_drop", args=[row.pk]))
    assert not PracticeRun.objects.exists()


def test_a_machine_that_another_version_kept_breaks_no_page(client, shelf):
    row = services.begin("hum", "7")
    PracticeRun.objects.filter(pk=row.pk).update(kept={"said": "x"})
    other = services.begin("hum", "8")
    PracticeRun.objects.filter(pk=other.pk).update(kind="no such kind")
    assert client.get(reverse("practice")).status_code == 200
    for pk in (row.pk, other.pk):
        assert client.get(reverse("practice_machine", args=[pk])).status_code == 404
        assert client.post(reverse("practice_move", args=[pk]), {"move": "empty", "after": "0"}).status_code == 404
    client.post(reverse("practice_drop", args=[row.pk]))
    assert PracticeRun.objects.count() == 1


def test_hints_have_an_end(shelf):
    row = services.begin("hum", "7")
    PracticeRun.objects.filter(pk=row.pk).update(
        kept={**services.sit(row.pk).run.as_json(), "said": [["look C1", "C1", ""]] * 500}
    )
    with pytest.raises(BadInput, match="moves and hints"):
        services.do(row.pk, "hint", "500")


def test_a_guided_machine_shows_each_step_with_its_reason_and_does_it_by_one_press(client, shelf):
    answer = client.post(reverse("practice_begin"), {"guided": "1", "seed": "3"})
    row = PracticeRun.objects.get()
    url = answer.url
    for _ in range(60):
        page = client.get(url)
        step = page.context["step"]
        if step is None:
            break
        html = page.content.decode()
        assert (
            step.why in html.replace("&#x27;", "'")
            and "Do this step: " in html
            and "Find the fault, repair the machine" in html
        )
        move = {"move": step.move, "after": page.context["after"]}
        assert client.post(reverse("practice_move", args=[row.pk]), move).status_code == 302
    run = services.sit(row.pk).run
    assert run.passed and run.hints == 0
    assert "guided: every step was" in " ".join(client.get(url).content.decode().split())
    room = client.get(reverse("practice")).content.decode()
    assert run.machine.told in room.replace("&#x27;", "'") and "guided" in room


def test_a_hint_is_done_by_one_press_and_gone_after_another_move(client, shelf):
    row = services.begin("hum", "1")
    url = reverse("practice_machine", args=[row.pk])
    assert client.get(url).context["step"] is None
    client.post(reverse("practice_move", args=[row.pk]), {"move": "hint", "after": "0"})
    assert 'value="empty"' in client.get(url).content.decode() and client.get(url).context["step"].move == "empty"
    client.post(reverse("practice_move", args=[row.pk]), {"move": "look C1", "after": "1"})
    assert client.get(url).context["step"] is None
