"""What every page owes to those who hear it or go by keyboard: labels, twins of drawings, one key each."""

from collections import Counter
from html.parser import HTMLParser

import pytest
from django.db import IntegrityError, transaction

from idlebench.core.prove import Check
from idlebench.core.wording import on_screen
from idlebench.web.records.models import PowerSession, Unit
from idlebench.web.ui.templatetags import bench

pytestmark = pytest.mark.django_db


class Page(HTMLParser):
    """Collects what the tests ask about from a page."""

    def __init__(self, html: str) -> None:
        super().__init__()
        self.ids: list[str] = []
        self.labels: list[str] = []
        self.controls: list[dict[str, str]] = []
        self.svgs: list[dict[str, str]] = []
        self.depth = 0
        self.keys: list[dict[str, str]] = []
        self.posts = 0
        self.tokens = 0
        self.feed(html)

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        found = {name: value or "" for name, value in attrs}
        if "id" in found:
            self.ids.append(found["id"])
        if tag == "label" and "for" in found:
            self.labels.append(found["for"])
        if tag in ("input", "textarea", "select") and found.get("type") not in ("hidden", "checkbox"):
            self.controls.append(found)
        if tag == "svg":
            self.depth += 1
            if self.depth == 1:
                self.svgs.append(found)
        if "data-key" in found:
            self.keys.append({"tag": tag, **found})
        self.posts += tag == "form" and found.get("method") == "post"
        self.tokens += found.get("name") == "csrfmiddlewaretoken"

    def handle_endtag(self, tag: str) -> None:
        self.depth -= tag == "svg"


@pytest.fixture
def pages(demo_pages):
    return {url: Page(html) for url, (html, _) in demo_pages.items()}


def test_markup_of_every_page(pages):
    assert sum(len(page.svgs) for page in pages.values()) > 200, "drawings were looked at"
    assert sum(len(page.controls) for page in pages.values()) > 200, "fields were looked at"
    for url, page in pages.items():
        twice = [i for i, n in Counter(page.ids).items() if n > 1]
        assert not twice, (url, "ids that stand twice", twice)
        assert set(page.labels) <= set(page.ids), (url, "labels of nothing", set(page.labels) - set(page.ids))
        for control in page.controls:
            named = control.get("aria-label") or control.get("id") in page.labels
            assert named, (url, "a field without a name", control)
        for svg in page.svgs:
            assert svg.get("aria-label") and svg.get("role") in ("img", "group"), (
                url,
                "a drawing without its words",
                svg,
            )
        assert page.posts == page.tokens, (url, "a form without its token")


def test_every_key_says_what_it_does(pages):
    for url, page in pages.items():
        for control in page.keys:
            if url.endswith("handover.html"):
                continue
            assert control.get("data-says"), (url, control)
            assert len(control["data-key"]) == 1 or control["data-key"] in ("Enter", "Delete"), (url, control)


def test_no_two_controls_answer_to_one_key(pages):
    """But for runs of fields, where the first that is open is meant."""
    for url, page in pages.items():
        # a control in the bar may be another's twin: the same act, said in the same words
        meant = {(c["data-key"], c["data-says"]) for c in page.keys if c["tag"] != "input"}
        keys = Counter(key for key, _ in meant)
        twice = {k for k, n in keys.items() if n > 1 and not k.isdigit()}
        assert not twice, (url, twice)


@pytest.mark.parametrize(
    ("verdict", "shape"),
    [("fits", "filled"), ("sound", "filled"), ("keep", "filled"), ("repair", "filled"), ("look twice", "half"), ("doubtful", "half"), ("wait", "half"),
     ("fails", "struck"), ("replace", "struck"), ("donor", "struck"), ("not yet", "unset"), ("not seen", "unset")],
)  # fmt: skip
def test_state_is_a_shape_before_it_is_a_colour(verdict, shape):
    drawn = bench.gable(verdict)
    assert f'class="gable {shape}"' in drawn and f'aria-label="{on_screen(verdict)}"' in drawn


def test_addresses_of_reckonings_carry_their_inputs():
    url = bench.reckon_url("new_esr", value=1e-4, volts=10.0, frequency=None)
    assert url == "/reckoner/new_esr/?value=0.0001&volts=10"
    check = Check(
        key="k",
        step="s",
        kind="dc_volts",
        point="p",
        ask="a",
        reckoning="discharge",
        inputs=(("value", 2.2e-4), ("volts", 325.0)),
    )
    assert bench.check_url(check) == "/reckoner/discharge/?value=0.00022&volts=325"


def test_filters_write_units():
    assert bench.unit(None, "V") == "–" == bench.unit("", "V")
    assert bench.volts(11.944) == "11.94 V" and bench.unit(0.05, "V") == "50 mV"
    assert bench.role_title("bulk") == "reservoir capacitor" and bench.role_title("none") == "none"


def test_two_live_units_cannot_stand_in_the_database(unit):
    PowerSession.objects.create(unit=unit, step="full", title="x", began="2026-01-01T00:00Z")
    other = Unit.objects.create(job=unit.job, name="B")
    with pytest.raises(IntegrityError), transaction.atomic():
        PowerSession.objects.create(unit=other, step="full", title="x", began="2026-01-01T00:00Z")
    PowerSession.objects.update(ended="2026-01-01T00:01Z")
    PowerSession.objects.create(unit=other, step="full", title="x", began="2026-01-01T00:02Z")
