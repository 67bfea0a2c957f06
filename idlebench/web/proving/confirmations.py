"""What a person answers for by name: a store that is in the machine no more, and a record that came with a file."""

from __future__ import annotations

from django.utils import timezone

from idlebench.core.prove import interlocks
from idlebench.core.prove.record import WRITTEN_OFF
from idlebench.core.refusal import BadInput, Block, Blocked

from ..records.models import ImportedRecord
from ..unit.door import note, unit_transaction
from ..unit.log import log


def write_off_store(unit: int, row: str, reason: str) -> None:
    """A store that went off the list is asked for no more: it left for good, or never was there. Its coming back asks for it again.

    Args:
        row: of the part, or of a tube's board, as the record calls it.

    Raises:
        Blocked: no such store is asked for, the unit has power or is handed over. BadInput: no reason in words.
    """
    title = "The capacitor is still asked for"
    with unit_transaction(unit, title) as door:
        proof = door.state.proof
        if reasons := interlocks.write_off_store(proof, row, reason):
            raise Blocked(title, reasons)
        store = next(store for store in proof.unlisted if store.row == row)
        words = f"{store.name} on {store.on}: {reason.strip()}"
        note(door.state.row, WRITTEN_OFF, timezone.now(), row=store.row, board=store.board, words=words[:300])
        log(door.state.row, "reading", f"No longer asked for: {words}")


def confirm_imported(unit: int, by: str, reason: str) -> ImportedRecord:
    """Take the readings over that came with a file, once, by name and with a reason: from here on they count as this bench's own,
    but for what they say of charge and of what was left inside.

    Raises:
        Blocked: nothing waits for that, or the unit has power. BadInput: no name, or no reason in words.
    """
    title = "Nothing was confirmed"
    by = " ".join(by.split())
    if not 2 <= len(by) <= 60:
        raise BadInput(by, "your name, of 2 to 60 letters", "The name is printed on the sheet.", field="by")
    interlocks.needs_words(reason)
    with unit_transaction(unit, title, closed_too=True) as door:
        if reasons := interlocks.idle(door.state.proof):
            raise Blocked(title, reasons)
        row = ImportedRecord.objects.filter(unit=unit, taken=None).first()
        if row is None:
            raise Blocked(
                title,
                (Block("none", "No imported reading of this unit waits for confirmation.", "Load the page again."),),
            )
        row.taken, row.by, row.reason = timezone.now(), by, reason.strip()
        row.save(update_fields=["taken", "by", "reason"])
        log(door.state.row, "reading", f"Imported readings confirmed by {by}: {row.reason}")
        return row
