"""What is asked, cold, of parts that are no capacitors once they were changed, and of a board where it was mended.

Source: workshop practice, because each of these was once put in wrong; the pinouts of circuit.packages; a primary cell is never
charged: IEC 60086-4:2019, clause 7.
"""

from __future__ import annotations

import math
import zlib
from collections.abc import Sequence
from dataclasses import dataclass, field

from ..board.replacement import UNUSED
from ..circuit.packages import PACKAGES
from ..text.quantity import show
from .changed_facts import TAB, Changed, insulated
from .checks import INSULATION, BoardFacts, Check, key_of
from .facts import JOINED, NO_SHORT, POLARITY

#: Least resistance pin to pin, and of a connection the most, Ω.
SHORT = 2.0
#: Least resistance back through a diode that keeps a cell from being charged, Ω.
BLOCKS = 100e3


@dataclass(frozen=True)
class _Ask:
    """How a check on one board is made."""

    board: BoardFacts
    boards: frozenset[str] = field(default_factory=frozenset)

    def look(self, name: str, one: Changed, words: str, why: str) -> Check:
        return Check(
            key=f"cold.{name}.{one.row}",
            step="cold",
            kind="look",
            point=one.ref,
            ask=words,
            safety=True,
            board=self.board.name,
            why=why,
            fact=POLARITY,
            names=(key_of(f"cold.{name}", self.board.name, one.ref),),
            rows=frozenset({one.row, self.board.id}),
            boards=frozenset({self.board.id}),
            of=(("fitted", one.item),),
        )

    def ohms(
        self,
        name: str,
        one: Changed,
        point: str,
        words: str,
        why: str,
        *,
        low: float | None = None,
        high: float | None = None,
    ) -> Check:
        return Check(
            key=f"cold.{name}.{one.row}",
            step="cold",
            kind="continuity" if high is not None else "resistance",
            point=point,
            ask=words,
            low=low,
            high=high,
            safety=low is not None,
            board=self.board.name,
            why=why,
            fact=JOINED if high is not None else NO_SHORT,
            names=(key_of(f"cold.{name}", self.board.name, one.ref),),
            rows=frozenset({one.row, self.board.id}),
            boards=self.boards if low is not None else frozenset({self.board.id}),
            of=(("fitted", one.item),),
        )


def changed_checks(board: BoardFacts, boards: Sequence[BoardFacts]) -> list[Check]:
    """What is asked of each changed part of a board that is no capacitor, of each mend of it, and of its harness."""
    ask = _Ask(board, frozenset(b.id for b in boards))
    checks: list[Check] = []
    for one in board.changed:
        checks += _OF.get(one.what, _stands)(ask, one)
    for one in board.modified:
        wires = " Its wires lie flat, insulated, and are held." if one.wire else ""
        checks.append(
            Check(
                key=f"cold.mod.{one.row}",
                step="cold",
                kind="look",
                point=f"modification: {one.title}",
                ask=f"Held, insulated from what lies under it, and clear of the lid.{wires}",
                board=board.name,
                why="What was added moves when the case is closed.",
                fact=NO_SHORT,
                rows=frozenset({one.row, board.id}),
                boards=frozenset({board.id}),
                of=(("modification", one.title),),
            )
        )
    for mended in board.mended:
        was = "" if mended.before is None else f" Before the repair it read {_read(mended.before)}."
        why, apart = "Continuity passes at 2 Ω less the leads.", mended.least is not None
        if apart:
            why = "What was scraped away must read as open: charred board conducts some megohms."
        elif mended.most:
            why = "Conductive paint has some ohms; what it feeds must bear them."
        checks.append(
            Check(
                key=f"cold.mend.{mended.row}",
                step="cold",
                kind="resistance" if apart or (mended.most or 0.0) > SHORT else "continuity",
                point=f"{mended.a} to {mended.b}",
                ask=f"{mended.title[:1].upper()}{mended.title[1:]}. Leads on the two ends themselves, not on the "
                f"wire.{was}",
                low=mended.least,
                high=None if apart else mended.most or SHORT,
                board=board.name,
                why=why,
                fact=NO_SHORT if apart else JOINED,
                names=(key_of("cold.mend", board.name, mended.a, mended.b),),
                rows=frozenset({mended.row, board.id}),
                boards=frozenset({board.id}),
                of=(("mend", mended.title),),
            )
        )
    for own in board.own:
        checks.append(
            Check(
                key=f"{key_of('cold.own', board.id, own.point)}.{zlib.crc32(own.as_line().encode()):08x}",
                step="cold",
                kind="look"
                if own.seen
                else "continuity"
                if own.high is not None and own.low is None and own.high <= SHORT
                else "resistance",
                point=own.point,
                ask=f"A check of your own: {own.limit}." + (f" {own.note}." if own.note else ""),
                low=own.low,
                high=own.high,
                board=board.name,
                why="Added by hand on this board.",
                fact=NO_SHORT if own.low is not None and own.high is None else JOINED,
                names=(key_of("cold.own", board.name, own.point),),
                rows=frozenset({board.id}),
                boards=frozenset({board.id}),
                of=(("check", own.as_line()),),
            )
        )
    for wire in board.wiring:
        unused = wire.to == UNUSED
        checks.append(
            Check(
                key=key_of("cold.wire", board.id, wire.pin),
                step="cold",
                kind="look" if unused else "continuity",
                point=f"plug {wire.pin}, unused" if unused else f"plug {wire.pin} to {wire.to} of {board.name}",
                ask="Its end is insulated and tied back."
                if unused
                else "Plug off the boards, new unit unplugged: from the pin in the plug to the new unit's own terminal.",
                high=None if unused else SHORT,
                safety=True,
                board=board.name,
                why="A bare end shorts what it touches."
                if unused
                else "A wire to the wrong terminal puts one rail's volts on another.",
                fact=JOINED,
                names=(key_of("cold.wire", board.name, wire.pin),),
                rows=frozenset({board.id}),
                boards=frozenset({board.id}),
                of=(("wire", wire.as_line()),),
            )
        )
    return checks


def _read(ohms: float) -> str:
    return "OL" if math.isinf(ohms) else show(ohms, "Ω")


def _regulator(ask: _Ask, one: Changed) -> list[Check]:
    held = PACKAGES[one.package].front if one.package in PACKAGES else "marking to the front"
    order = f" Pins from the left, {held}: {', '.join(one.pins)}." if one.pins else ""
    checks = [
        ask.look("seat", one, f"Pins in the right holes.{order}", "A regulator fitted backwards puts its input on the rail."),
        ask.ohms(
            "pins", one, f"{one.ref}, pin to pin", "The lowest of the three pairs, once the reading is steady: capacitors charge first.",
            "Under 2 Ω is a short.", low=SHORT,
        ),
    ]  # fmt: skip
    if one.module or not one.tab:
        return checks
    if one.tab == "ground":
        checks.append(
            ask.ohms(
                "tab",
                one,
                f"{one.ref} tab to heatsink",
                "Tab and heatsink are both ground here.",
                "A tab without compound runs hot.",
                high=SHORT,
            )
        )
    else:
        words = f"The tab is the {one.tab}: washer and bush insulate it from the heatsink."
        checks += _tab_free(ask, one, words)
        checks.append(
            ask.ohms(
                "tab",
                one,
                f"{one.ref} tab to heatsink, in circuit",
                f"{words} In circuit only a short fails: this reading does not prove the washer.",
                "A torn washer connects the tab to the chassis.",
                low=SHORT,
            )
        )
    return checks


def _tab_free(ask: _Ask, one: Changed, words: str) -> list[Check]:
    """The washer under a tab, read while the legs are free; nothing where that was logged with the swap."""
    if one.tab_read is not None and one.tab_read >= TAB:
        return []
    return [
        ask.ohms(
            "tabfree",
            one,
            f"{one.ref} tab to heatsink, legs free",
            f"{words} Read it before the legs are soldered. If the legs are soldered, unsolder them for this "
            "reading: the circuit next to the tab hides a pierced washer.",
            f"At least {show(TAB, 'Ω')}: in circuit only a short would fail.",
            low=TAB,
        )
    ]


def _battery(ask: _Ask, one: Changed) -> list[Check]:
    checks = [
        ask.look(
            "seat",
            one,
            "Plus to the board's plus, checked again.",
            "A cell fitted backwards puts its volts on the memory.",
        )
    ]
    if not one.charged and one.may_charge:
        checks.append(
            ask.ohms(
                "charge",
                one,
                f"{one.ref}, charge path",
                "Cell out of its holder: red lead at the board's plus, black at the holder's.",
                "A cell that must not be charged bursts when it is charged: its diode must block.",
                low=BLOCKS,
            )
        )
    return checks


def _diode(ask: _Ask, one: Changed) -> list[Check]:
    return [
        ask.look(
            "seat",
            one,
            "Its band to the printed band, checked again.",
            "A rectifier fitted backwards shorts the winding.",
        ),
        ask.ohms(
            "pins",
            one,
            f"{one.ref}, both ways round",
            "The lower of the two readings.",
            "Under 2 Ω is a short.",
            low=SHORT,
        ),
    ]


LIVE_TAB = (
    "On the primary side the tab is live: washer and bush insulate it, read by the insulation tester at 500 V DC. Without a tab or "
    "without a heatsink, type OL."
)


def _transistor(ask: _Ask, one: Changed) -> list[Check]:
    return [
        ask.look(
            "seat",
            one,
            "Pins as printed, checked again; its tab insulated where the old one was.",
            "Types differ in their pins.",
        ),
        *(_tab_free(ask, one, LIVE_TAB) if insulated(one.what, one.tab, ask.board.supply) else ()),
        ask.ohms("pins", one, f"{one.ref}, pin to pin", "The lowest of the pairs.", "Under 2 Ω is a short.", low=SHORT),
    ]


def _chip(ask: _Ask, one: Changed) -> list[Check]:
    return [
        ask.look(
            "seat",
            one,
            "Notch to the printed notch, no pin bent under, in its own socket.",
            "A chip fitted backwards burns.",
        )
    ]


def _transformer(ask: _Ask, one: Changed) -> list[Check]:
    return [
        ask.look("seat", one, "Windings on the same wires as before; the tap is that of the mains here.", "Local codes come first."),
        ask.ohms(
            "windings", one, f"{one.ref}, mains side to the other side", "Unplugged, boards unplugged.",
            f"At least {show(INSULATION, 'Ω')}.", low=INSULATION,
        ),
    ]  # fmt: skip


def _stands(ask: _Ask, one: Changed) -> list[Check]:
    return [ask.look("seat", one, f"{one.item} in its place, as before.", "Checked again before power.")]


_OF = {
    "regulator": _regulator, "battery": _battery, "diode": _diode, "transistor": _transistor, "chip": _chip,
    "transformer": _transformer, "fuse": lambda ask, one: _fuse(ask, one),
}  # fmt: skip


def _fuse(ask: _Ask, one: Changed) -> list[Check]:
    """A supply's fuse is asked for by its marking already; one on a board that is fed is asked here."""
    if ask.board.supply:
        return []
    return [
        ask.look(
            "seat",
            one,
            f"The fuse fitted is {one.item}, as marked. Never a bigger one.",
            "A marked rating always stays.",
        ),
        ask.ohms(
            "whole",
            one,
            f"{one.ref}, across",
            "Leads subtracted.",
            "Continuity passes at 2 Ω less the leads.",
            high=SHORT,
        ),
    ]
