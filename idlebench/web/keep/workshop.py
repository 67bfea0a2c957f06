"""The workshop's own page: what stands in the head of each sheet for an owner, with a logo."""

from __future__ import annotations

from collections.abc import Mapping

from django.db import transaction

from idlebench.core.refusal import BadInput, no_longer_than

from ..ledger.workshop import workshop
from ..photos.pictures import take_picture
from ..records.models import Workshop

#: What is typed on the page: field → what it is called, and letters at most.
FIELDS = {
    "name": ("Name of the workshop", 80), "lines": ("Address", 300), "contact": ("Telephone or mail", 120),
    "worker": ("Who does the work", 80), "answered": ("Warranty", 160),
}  # fmt: skip


@transaction.atomic
def keep(typed: Mapping[str, str], logo: bytes | None, logo_name: str = "") -> Workshop:
    """Keep what was typed.

    Args:
        typed: FIELDS, "costs" where the cost is said, "no_logo" to take the logo away.
        logo: a picture's file, None for the one that is kept.
        logo_name: what the file is called.

    Raises:
        BadInput: a field is too long, or the file is no picture.
    """
    row = workshop()
    for field, (_, most) in FIELDS.items():
        text = "\n".join(line.strip() for line in typed.get(field, "").strip().splitlines() if line.strip())
        setattr(row, field, no_longer_than(text, most, field))
    row.costs = "costs" in typed
    if "no_logo" in typed:
        row.logo = b""
    if logo is not None:
        try:
            row.logo = take_picture(logo, logo_name).small
        except BadInput as error:
            raise error.within("logo") from None
    row.save()
    return row
