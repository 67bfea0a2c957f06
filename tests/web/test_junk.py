"""Whatever is sent, the answer is never a 500, and nothing is half-written."""

from functools import cache

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.urls import get_resolver, reverse

from idlebench.web.records.models import Board, Choice, Job, Part, PowerSession, Reading, Swap, Unit
from idlebench.web.ui import tasks

pytestmark = pytest.mark.django_db

FIELDS = [
    "line", "lines", "place", "item", "x", "y", "looks", "key", "step", "check", "reason", "part", "pieces", "name", "machine", "made", "units", "unit", "owner",
    "policy", "school", "way", "mains_volts", "mains_frequency", "meter_frequency", "supply", "width", "height", "expected", "fuse", "source_volts", "source_va",
    "rails", "chips", "serial", "symptoms", "missing", "note", "zones", "others", "found", "repairs", "dates", "meter", "has_tube", "ref", "verdict", "seen",
    "to", "more", "reading", "left", "in_circuit", "pixels", "millimetres", "side", "photo", "spot", "words", "do", "radial", "power", "worth", "damage", "r:cold.look.loose", "r:nothing",
]  # fmt: skip


@pytest.fixture(autouse=True)
def tasks_only_begun(monkeypatch):
    """Long work is begun and not done: in a thread of its own it would wait for this test's transaction."""
    monkeypatch.setattr(tasks, "_run", lambda task, work: setattr(task, "state", tasks.DONE))


@cache
def addresses() -> tuple[str, ...]:
    """Every address of the app, with the first row of each kind where it asks for one."""
    found = []
    for name in get_resolver().reverse_dict:
        if not isinstance(name, str):
            continue
        for args in ([], [1], ["discharge"], [1, 1], [1, 1, "done"]):
            try:
                found.append(reverse(name, args=args))
                break
            except Exception:
                continue
    return tuple(sorted(set(found)))


#: Made anew from the whole unit or shelf whatever is asked, at half a second each: these two are sent junk once.
MADE_WHOLE = (".pdf", "catalogue.csv")


def junk_goes_to(junk: str) -> list[str]:
    return [url for url in addresses() if junk == "-1" or not url.endswith(MADE_WHOLE)]


def counted() -> dict[str, int]:
    return {m.__name__: m.objects.count() for m in (Job, Unit, Board, Part, Choice, Swap, Reading, PowerSession)}


def test_no_address_is_left_out():
    """Every pattern with a name is sent junk, but for those that ask for a word or two rows."""
    named = {name for name in get_resolver().reverse_dict if isinstance(name, str)}
    reached = {get_resolver().resolve(url).url_name for url in addresses()}
    assert named - reached <= {"policy", "policy_drop", "underlay", "remove", "backup_file"}, named - reached


#: What could break a form, and what could come out again of an address. Any text at all is read in tests/core.
IN_FORMS = ["", "\x00", "-1", "1e999", "x" * 5000]
IN_ADDRESSES = ["", "\x00", "-1", "9" * 40, "<script>alert(1)</script>", "../../etc/passwd"]


@pytest.mark.parametrize("junk", IN_FORMS, ids=lambda j: ascii(j)[:16])
def test_junk_in_every_field_of_every_form(client, surveyed, junk):
    client.raise_request_exception = False
    for url in junk_goes_to(junk):
        response = client.post(url, dict.fromkeys(FIELDS, junk))
        assert response.status_code < 500, (url, junk)
    assert not PowerSession.objects.exists() and not Swap.objects.exists()


@pytest.mark.parametrize("junk", IN_ADDRESSES, ids=lambda j: ascii(j)[:16])
def test_junk_in_every_address(client, surveyed, junk):
    client.raise_request_exception = False
    for url in junk_goes_to(junk):
        response = client.get(
            url,
            dict.fromkeys(
                [
                    "part",
                    "place",
                    "step",
                    "q",
                    "page",
                    "said",
                    "line",
                    "value",
                    "text",
                    "width",
                    "side",
                    "photo",
                    "heat",
                    "copy_to",
                    "typed",
                    "last",
                    "out",
                ],
                junk,
            ),
        )
        assert response.status_code < 500, (url, junk)
        assert b"<script>alert" not in response.content, url


@pytest.mark.parametrize("pk", ["0", "99999999", "9" * 25])
def test_numbers_that_are_nobodys(client, surveyed, pk):
    client.raise_request_exception = False
    for url in addresses():
        if "/1/" in url:
            for method in (client.get, client.post):
                assert method(url.replace("/1/", f"/{pk}/")).status_code in (404, 405, 422), url


@pytest.mark.parametrize(
    "data",
    [
        b"\x89PNG\r\n\x1a\n" + bytes(200),
        b"PK\x03\x04" + bytes(300),
        b'"' * 999,
        b"ref,value\n" + b"=cmd(),1u\n",
        b"\xff\xfe" + "ref,value".encode("utf-16-le"),
    ],
)
def test_files_that_are_no_tables(client, surveyed, data):
    client.raise_request_exception = False
    before = counted()
    for name, args in (("survey_load", [surveyed.pk]), ("shelf_load", [])):
        response = client.post(reverse(name, args=args), {"file": SimpleUploadedFile("x.csv", data)})
        assert response.status_code == 422, (name, data[:20])
    assert counted() == before


def test_a_form_of_many_thousand_fields_is_refused(client, surveyed):
    response = client.post(reverse("reading", args=[surveyed.unit.pk]), {f"r:{i}": "1" for i in range(3000)})
    assert response.status_code in (400, 413)


def test_a_body_of_many_megabytes_is_refused(client, surveyed):
    response = client.post(reverse("survey", args=[surveyed.pk]), {"line": "x" * 14_000_000})
    assert response.status_code in (400, 413, 422)


def test_another_host_is_refused(client, db):
    refused = client.get("/", headers={"Host": "example.test"})
    assert refused.status_code == 400 and b"Idle Bench" not in refused.content, "nothing of the bench is told"


def test_the_tables_still_stand(client, surveyed):
    test_junk = "'; DROP TABLE survey_part; --"
    client.get(f"/find/?q={test_junk}")
    assert "survey_part" in connection.introspection.table_names()
