"""The door: this machine walks in, another device is paired by a code, looks or works, and is ended."""

import re
from datetime import timedelta

import pytest
import zxingcpp
from django.test import Client
from django.urls import get_resolver, reverse
from django.utils import timezone
from PIL import Image

from idlebench.core.refusal import BadInput
from idlebench.web.devices import services
from idlebench.web.records.models import Device, Entry, Instrument, PairingCode, Reading, Unit, WrongCode
from idlebench.web.ui.codes import code_for

from .helpers import discharge

pytestmark = pytest.mark.django_db
PHONE, OTHER = "192.168.7.31", "192.168.7.66"


@pytest.fixture
def phone(settings):
    """A browser on another device of the workshop's network."""
    settings.ADDRESS = "192.168.7.20"
    settings.ALLOWED_HOSTS = [*settings.ALLOWED_HOSTS, "192.168.7.20"]
    return Client(REMOTE_ADDR=PHONE, SERVER_NAME="192.168.7.20", SERVER_PORT="8000")


def paired(phone: Client, may: str, name: str = "Mara's phone") -> Device:
    code = services.make_code(may)
    assert phone.post(reverse("pair"), {"code": code.digits, "name": name}).status_code == 302
    return Device.objects.get(name=name, ended=None)


def every_address(unit):
    """Every address of the program, with keys that are there."""
    board = unit.boards.first()
    part = board.parts.first()
    keys = {"int": unit.pk, "unit": unit.pk, "board": board.pk, "part": part.pk}
    found = []
    for pattern in _patterns(get_resolver()):
        filled = pattern
        for spot, value in (
            ("<int:pk>", str(keys["unit" if "unit/" in pattern else "board" if "board/" in pattern else "int"])),
            ("<kind:kind>", "unit"), ("<backup:name>", "a.zip"), ("<str:name>", "discharge"), ("<slug:name>", "discharge"),
        ):  # fmt: skip
            filled = filled.replace(spot, value)
        found.append("/" + filled)
    assert len(found) > 60
    return found


def _patterns(resolver, before=""):
    for one in resolver.url_patterns:
        here = before + str(one.pattern)
        yield from _patterns(one, here) if hasattr(one, "url_patterns") else [here]


def test_this_machine_is_asked_nothing(client, surveyed):
    assert client.get(reverse("bench")).status_code == 200
    assert client.post(reverse("intake", args=[surveyed.unit_id]), {"serial": "7"}).status_code == 302
    assert Entry.objects.first().device == "", "the log calls this machine by no name"


@pytest.mark.parametrize("header", ["X-Forwarded-For", "X-Real-IP", "Forwarded", "Via"])
def test_what_is_handed_on_from_elsewhere_is_not_from_this_machine(client, surveyed, header):
    seen = client.get(reverse("bench"), headers={header: "192.168.7.31"})
    assert seen.status_code == 302 and seen.url == reverse("pair")


def test_a_stranger_sees_nothing_and_writes_nothing_on_any_address(phone, surveyed):
    for address in every_address(surveyed.unit):
        if address == reverse("pair"):
            continue
        seen = phone.get(address)
        assert seen.status_code == 302 and seen.url == reverse("pair"), address
        written = phone.post(address, {"name": "x", "do": "end"})
        assert written.status_code == 403 and "Tide clock" not in written.content.decode(), address
        assert phone.put(address).status_code == 403 and phone.delete(address).status_code == 403
    assert not Device.objects.exists() and Unit.objects.count() == 1


def test_a_device_that_looks_sees_every_page_and_writes_on_none(phone, surveyed):
    paired(phone, "look")
    before = list(Entry.objects.values_list("text", flat=True))
    for address in every_address(surveyed.unit):
        if address == reverse("pair"):
            continue
        seen = phone.get(address)
        assert seen.status_code in (200, 302, 404, 405) or "No access from here" in seen.content.decode(), address
        written = phone.post(address, {"name": "x"})
        assert written.status_code == 403 and "may only read" in written.content.decode(), address
    assert list(Entry.objects.values_list("text", flat=True)) == before


def test_work_is_given_and_every_line_and_reading_says_who_did_it(client, phone, surveyed):
    device = paired(phone, "look")
    page = reverse("intake", args=[surveyed.unit_id])
    assert phone.post(page, {"serial": "7"}).status_code == 403
    assert client.post(reverse("device", args=[device.pk]), {"do": "work"}).status_code == 302
    assert phone.post(page, {"serial": "7"}).status_code == 302
    assert Entry.objects.first().device == "Mara's phone"
    done = phone.post(reverse("reading", args=[surveyed.unit_id]), {"r:cold.mains": "231"})
    assert done.status_code == 302
    assert Reading.objects.get().device == "Mara's phone"
    assert "Mara&#x27;s phone" in client.get(reverse("ledger")).content.decode()


def test_an_ended_device_is_out_at_once(client, phone, surveyed):
    device = paired(phone, "work")
    assert phone.get(reverse("bench")).status_code == 200
    assert client.post(reverse("device", args=[device.pk]), {"do": "end"}).status_code == 302
    assert phone.get(reverse("bench")).status_code == 302
    assert phone.post(reverse("intake", args=[surveyed.unit_id]), {"serial": "7"}).status_code == 403
    assert client.post(reverse("device", args=[device.pk]), {"do": "work"}).status_code == 404, "it does not come back"
    assert "Ended: Mara" in client.get(reverse("devices")).content.decode()


@pytest.mark.parametrize("name", ["make_code", "device", "instruments", "instrument", "make_backup", "restore"])
def test_only_this_machine_pairs_restores_and_names_instruments(phone, name):
    device = paired(phone, "work")
    meter = Instrument.objects.create(name="LCR", address="127.0.0.1:5025")
    args = {"device": [device.pk], "instrument": [meter.pk]}.get(name, [])
    response = phone.post(reverse(name, args=args), {"may": "work", "do": "end", "name": "x", "address": "127.0.0.1:1"})
    assert response.status_code == 403 and "own machine only" in response.content.decode()
    device.refresh_from_db()
    assert device.ended is None and Instrument.objects.count() == 1 and PairingCode.objects.count() == 1


def test_a_code_is_good_once(phone, settings):
    code = services.make_code("look")
    paired_ = phone.post(reverse("pair"), {"code": f"{code.digits[:3]} {code.digits[3:]}", "name": "One"})
    assert paired_.status_code == 302
    again = Client(REMOTE_ADDR=OTHER).post(reverse("pair"), {"code": code.digits, "name": "Two"})
    assert again.status_code == 422 and Device.objects.count() == 1


def test_a_code_is_good_for_ten_minutes(phone):
    code = services.make_code("look")
    PairingCode.objects.update(made=timezone.now() - timedelta(minutes=10, seconds=1))
    assert phone.post(reverse("pair"), {"code": code.digits, "name": "Late"}).status_code == 422
    assert not Device.objects.exists()


def test_a_new_code_ends_the_one_before(phone):
    first, _ = services.make_code("work"), services.make_code("look")
    assert phone.post(reverse("pair"), {"code": first.digits, "name": "Late"}).status_code == 422
    assert not Device.objects.exists()


def test_wrong_codes_are_slowed_and_shut_an_address_out_not_the_code(client, phone):
    code = services.make_code("work")
    wrong = f"{(int(code.digits) + 1) % 1_000_000:06d}"
    statuses = [phone.post(reverse("pair"), {"code": wrong, "name": "G"}).status_code for _ in range(6)]
    assert statuses == [422, 422, 422, 429, 429, 429], "after a few it has to wait"
    assert "Wait" in phone.post(reverse("pair"), {"code": code.digits, "name": "G"}).content.decode()
    assert WrongCode.objects.count() == 3, "what is not tried is no try"
    WrongCode.objects.update(at=timezone.now() - timedelta(minutes=30))
    for _ in range(2):
        phone.post(reverse("pair"), {"code": wrong, "name": "G"})
        WrongCode.objects.update(at=timezone.now() - timedelta(minutes=30))
    shut = phone.post(reverse("pair"), {"code": code.digits, "name": "G"})
    assert (
        shut.status_code == 429
        and "Wait 30 min" in shut.content.decode()
        and WrongCode.objects.count() == services.TRIES
    )
    for n in range(10):
        Client(REMOTE_ADDR=f"192.168.7.{100 + n}").post(reverse("pair"), {"code": wrong, "name": "G"})
    page = client.get(reverse("devices")).content.decode()
    assert "192.168.7.109" in page and "an address is blocked for 1 hour" in page
    late = Client(REMOTE_ADDR="192.168.7.9").post(reverse("pair"), {"code": code.digits, "name": "G"})
    assert late.status_code == 302 and Device.objects.exists(), "nobody spends another's code"


def test_waiting_ends(phone):
    for _ in range(3):
        WrongCode.objects.create(address=PHONE, at=timezone.now() - timedelta(seconds=services.FIRST_WAIT + 1))
    code = services.make_code("look")
    assert phone.post(reverse("pair"), {"code": code.digits, "name": "Patient"}).status_code == 302
    assert [device.name for device in Device.objects.all()] == ["Patient"]


@pytest.mark.parametrize("name", ["", " ", "x" * 41, "<script>", "a\nb\x00"])
def test_a_device_needs_a_plain_name(phone, name):
    code = services.make_code("look")
    assert phone.post(reverse("pair"), {"code": code.digits, "name": name}).status_code == 422
    assert not Device.objects.exists()
    assert phone.post(reverse("pair"), {"code": code.digits, "name": "Plain"}).status_code == 302, (
        "the code is still good"
    )


def test_two_devices_have_two_names(phone):
    paired(phone, "look", "Mara")
    code = services.make_code("look")
    other = Client(REMOTE_ADDR=OTHER)
    assert other.post(reverse("pair"), {"code": code.digits, "name": "mara"}).status_code == 422
    assert other.post(reverse("pair"), {"code": code.digits, "name": "Jon"}).status_code == 302
    assert sorted(device.name for device in Device.objects.all()) == ["Jon", "Mara"]


def test_the_drawn_code_is_read_by_another_library_and_pairs(client, phone):
    response = client.post(reverse("make_code"), {"may": "look"}, SERVER_PORT="8000")
    assert response.status_code == 200 and response["Cache-Control"] == "no-store"
    found = read_back(response.context["drawn"])
    assert found.startswith("http://192.168.7.20:8000/pair/?t=")
    page = phone.get(found.removeprefix("http://192.168.7.20:8000"))
    assert "The code is correct" in page.content.decode() and not Device.objects.exists(), (
        "reading it alone pairs nothing"
    )
    typed = {"code": page.context["typed"]["code"], "name": "By camera", "drawn": "1"}
    assert typed["code"] == response.context["code"].replace(" ", "")
    assert phone.post(reverse("pair"), typed).status_code == 302
    assert Device.objects.get().name == "By camera"


def read_back(svg: str) -> str:
    """What another library reads from a code that is shown, off a picture that is dark where its path draws."""
    size = int(re.search(r'viewBox="0 0 (\d+) ', svg)[1])
    path = re.search(r' d="([^"]+)"', svg)[1]
    picture = Image.new("L", (size * 8, size * 8), 255)
    x = y = 0.0
    for letter, numbers in re.findall(r"([MmhHvVlLzZ])([^A-Za-z]*)", path):
        values = [float(n) for n in re.findall(r"-?[\d.]+", numbers)]
        if letter == "M":
            x, y = values
        elif letter == "m":
            x, y = x + values[0], y + values[1]
        elif letter == "h":
            picture.paste(0, (int(x * 8), int((y - 0.5) * 8), int((x + values[0]) * 8), int((y + 0.5) * 8)))
            x += values[0]
    return zxingcpp.read_barcode(picture).text


@pytest.mark.parametrize("address", ["http://192.168.7.20:8000/unit/31/", "http://10.0.0.2:8000/b/7/"])
def test_a_label_s_code_is_read_back(address):
    assert read_back(code_for(address)) == address


def test_without_an_address_nobody_is_let_in_and_the_page_says_how(client):
    assert "idlebench serve --address" in client.get(reverse("devices")).content.decode()


def test_a_tampered_or_old_drawn_code_gives_no_digits(phone):
    code = services.make_code("work")
    assert services.digits_of(code.token) == code.digits
    assert services.digits_of(code.token[:-2] + "xx") == services.digits_of("") == services.digits_of("a:b:c") == ""


def test_codes_are_not_kept_as_they_are_shown():
    code = services.make_code("work")
    kept = " ".join(str(v) for v in PairingCode.objects.values_list().get())
    assert code.digits not in kept


@pytest.mark.parametrize(
    "address",
    ["8.8.8.8:80", "example.org:5025", "224.0.0.1:5025", "0.0.0.0:5025", "http://127.0.0.1/", "127.0.0.1", "127.0.0.1:0",
     "TCPIP::1.1.1.1::5025::SOCKET", "169.254.169.254x:1", "", "127.0.0.1:5025\n10.0.0.1:1"],
)  # fmt: skip
def test_only_addresses_of_the_workshop_s_own_network_are_held(client, address):
    response = client.post(reverse("instruments"), {"name": "LCR", "address": address})
    assert response.status_code == 422 and not Instrument.objects.exists()
    assert "workshop" in response.content.decode()


def test_a_meter_that_is_not_named_here_is_not_connected_to(client, surveyed):
    discharge(surveyed.unit)
    job = surveyed.unit.job
    job.meter = "192.168.7.99:5025"
    job.save()
    response = client.post(reverse("measure", args=[surveyed.pk]), {"part": "C2", "reading": "", "left": "0"})
    assert response.status_code == 422 and "named under Devices" in response.content.decode()


def test_nothing_is_said_of_what_a_stranger_answers():
    from idlebench.instruments.meter import parsed_identity

    assert (
        parsed_identity("SSH-2.0-server\r\n")
        == parsed_identity("<html>secret</html>")
        == parsed_identity("x" * 300)
        == ""
    )


def test_work_can_only_be_look_or_work(client):
    with pytest.raises(BadInput, match="look or work"):
        services.make_code("admin")
