"""Pairing a device: a code shown on this machine, once, for ten minutes; wrong ones slowed and kept."""

from __future__ import annotations

import hmac
import re
import secrets
from dataclasses import dataclass
from datetime import datetime, timedelta
from hashlib import sha256

from django.conf import settings
from django.contrib.auth import get_user_model, login
from django.contrib.auth.models import AbstractBaseUser
from django.contrib.sessions.models import Session
from django.core import signing
from django.db import transaction
from django.http import HttpRequest
from django.utils import timezone

from idlebench.core.refusal import BadInput, Block, Blocked
from idlebench.instruments import KINDS, SWITCHED, Source, read_address, tried

from ..records.models import Device, Instrument, PairingCode, WrongCode

#: How long a code is good; after how many wrong ones an address is shut out, and how long.
GOOD_FOR, TRIES, SHUT_OUT = timedelta(minutes=10), 5, timedelta(hours=1)
#: After so many wrong codes from one address it waits; each further one doubles the wait up to the longest, s.
FREE, FIRST_WAIT, LONGEST_WAIT = 2, 5.0, 900.0
#: Wrong codes that are kept for the page.
KEPT = 200
_SALT = "pairing"


@dataclass(frozen=True)
class Code:
    """A code as it is shown: six digits, and the token that the drawn code carries. Only its fingerprint is kept."""

    digits: str
    token: str
    row: PairingCode


def _mark(digits: str) -> str:
    return hmac.new(settings.SECRET_KEY.encode(), digits.encode(), sha256).hexdigest()


@transaction.atomic
def make_code(may: str) -> Code:
    """Make a code that gives a device look or work; older ones are spent.

    Raises:
        BadInput: neither of the two.
    """
    _known(may)
    spend_codes()
    digits = f"{secrets.randbelow(1_000_000):06d}"
    row = PairingCode.objects.create(mark=_mark(digits), may=may)
    return Code(digits, signing.dumps([row.pk, digits], salt=_SALT), row)


def spend_codes() -> None:
    """No code that was shown so far is good any more."""
    PairingCode.objects.filter(spent=None).update(spent=timezone.now())


def _known(may: str) -> None:
    if may not in (Device.LOOK, Device.WORK):
        raise BadInput(may, "look or work", field="may")


def digits_of(token: str) -> str:
    """The digits that a drawn code carries, "" where it is not one of ours."""
    try:
        _, digits = signing.loads(token, salt=_SALT, max_age=GOOD_FOR)
        return str(digits)
    except (signing.BadSignature, ValueError, TypeError):
        return ""


def wait_for(address: str) -> float:
    """How long an address has to wait until it may try a code again, s. Nobody elsewhere waits for it, and the code stays good."""
    now = timezone.now()
    wrong = WrongCode.objects.filter(address=address[:60], at__gt=now - SHUT_OUT).order_by("-at")
    count = wrong.count()
    if count >= TRIES:
        return (wrong.first().at + SHUT_OUT - now).total_seconds()
    if count <= FREE:
        return 0.0
    wait = min(FIRST_WAIT * 2 ** (count - FREE - 1), LONGEST_WAIT)
    return max(0.0, wait - (now - wrong.first().at).total_seconds())


def pair(request: HttpRequest, typed: str, name: str) -> Device:
    """Take a code from a device and log it in under a name.

    Raises:
        BadInput: a wrong or spent code, or no name that can be taken. Blocked: too many wrong codes came from there.
    """
    address = request.META.get("REMOTE_ADDR", "")
    if wait := wait_for(address):
        left = f"{wait / 60:.0f} min" if wait > 90 else f"{wait:.0f} s"
        raise Blocked("Not paired", (Block("slowed", "Too many wrong codes came from here.", f"Wait {left}."),))
    name = " ".join(name.split())
    if not re.fullmatch(r"[\w .,'’()-]{1,40}", name):
        raise BadInput(name, "a name of at most 40 letters, such as Mara's phone", field="name")
    digits = re.sub(r"[\s-]", "", typed)
    with transaction.atomic():
        row = PairingCode.objects.filter(spent=None, made__gt=timezone.now() - GOOD_FOR).order_by("-pk").first()
        good = row is not None and hmac.compare_digest(row.mark, _mark(digits))
        if good and Device.objects.filter(ended=None, name__iexact=name).exists():
            raise BadInput(name, "a name that no paired device has", "Use another name.", field="name")
        if good:
            row.spent = timezone.now()
            row.save(update_fields=["spent"])
            user = get_user_model().objects.create_user(f"device-{secrets.token_hex(8)}")
            device = Device.objects.create(user=user, name=name, may=row.may)
        else:
            _wrong(address)
    if not good:
        raise BadInput(
            "a wrong code" if digits else "", "the six digits that the workshop's machine shows now",
            "A code works once, for ten minutes. Make a new code.", field="code",
        )  # fmt: skip
    login(request, user, backend="django.contrib.auth.backends.ModelBackend")
    Device.objects.filter(pk=device.pk).update(session=request.session.session_key or "")
    return device


def _wrong(address: str) -> None:
    """Keep a wrong code."""
    WrongCode.objects.create(address=address[:60])
    last = WrongCode.objects.values_list("pk", flat=True)[KEPT : KEPT + 1]
    if last:
        WrongCode.objects.filter(pk__lte=last[0]).delete()


@transaction.atomic
def allow(device: Device, may: str) -> None:
    """Say what a device may do from now on."""
    _known(may)
    Device.objects.filter(pk=device.pk, ended=None).update(may=may)


@transaction.atomic
def end(device: Device) -> None:
    """End a device: its session is gone at once."""
    device.refresh_from_db()
    Session.objects.filter(session_key=device.session).delete()
    device.user.is_active = False
    device.user.save(update_fields=["is_active"])
    device.ended, device.session = timezone.now(), ""
    device.save(update_fields=["ended", "session"])


def device_of(user: AbstractBaseUser) -> Device | None:
    """The paired device behind a login, None for none or one that was ended. That it was seen is noted once a minute."""
    device = Device.objects.filter(user_id=user.pk, ended=None).first() if user.is_authenticated else None
    now: datetime = timezone.now()
    if device is not None and now - device.seen > timedelta(minutes=1):
        Device.objects.filter(pk=device.pk).update(seen=now)
    return device


@transaction.atomic
def add_instrument(name: str, address: str, kind: str = "meter") -> Instrument:
    """Hold an instrument. kind: a key of instruments.KINDS.

    Raises:
        BadInput: no name, no address in a private network, or one that is held already.
    """
    name, address = " ".join(name.split())[:40], address.strip()
    if not name:
        raise BadInput("", "a name, such as LCR meter", field="name")
    read_address(address)
    if Instrument.objects.filter(address=address).exists() or Instrument.objects.filter(name=name).exists():
        raise BadInput(f"{name}, {address}", "an instrument that is not listed yet", field="address")
    if kind not in KINDS:
        raise BadInput(kind, f"one of {', '.join(KINDS.values())}", field="kind")
    return Instrument.objects.create(name=name, address=address, kind=kind)


def look_at(instrument: Instrument) -> str:
    """Try an instrument: what it is, and a reading as its kind gives one; both are kept, what it read in words.

    Raises:
        BadInput: nothing answers, or not as an instrument of its kind does: what was kept of it stays.
    """
    found, read = tried(instrument.kind, instrument.address)
    Instrument.objects.filter(pk=instrument.pk).update(identity=found[:100], last=read[:200])
    return read


def _switched(instrument: Instrument) -> Source:
    if instrument.kind not in SWITCHED:
        raise BadInput(KINDS[instrument.kind], "a source or a load", "It has no output to set.", field="kind")
    return Source(instrument.address, switch=SWITCHED[instrument.kind])


def set_source(instrument: Instrument, volts: float, limit: float) -> str:
    """Set a source's volts and limit, its output off; what it says then.

    Raises:
        BadInput: it is on, or it is no source, or it does not answer.
    """
    with _switched(instrument) as source:
        source.set(volts, limit)
        said = source.gives().words
    Instrument.objects.filter(pk=instrument.pk).update(last=said[:200])
    return said


def switch_off(instrument: Instrument) -> str:
    """Switch a source off; what it says then."""
    with _switched(instrument) as source:
        source.off()
        said = source.gives().words
    Instrument.objects.filter(pk=instrument.pk).update(last=said[:200])
    return said


def drop_instrument(instrument: Instrument) -> None:
    """Hold it no longer."""
    instrument.delete()
