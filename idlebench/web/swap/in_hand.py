"""The place in hand on Swap: what comes out and how, what goes in, which way round, and its drawing three times as large."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from idlebench.core.board.devices import Device
from idlebench.core.board.parts import PolarityMark, polarity_mark
from idlebench.core.board.soldering import SolderingMethod, way_in, way_out, way_out_of
from idlebench.core.board.soldering_in import way_in_of
from idlebench.core.choose.rank import FAILS, judge_parts
from idlebench.core.choose.regulators_and_fuses import Regulator
from idlebench.core.circuit.packages import PACKAGES, Package
from idlebench.core.draw.board import Scene
from idlebench.core.draw.closeup import Closeup, closeup, closeup_of
from idlebench.core.prove.changed_facts import insulated
from idlebench.core.prove.interlocks import BY_CHOICE
from idlebench.core.refusal import BadInput
from idlebench.core.text.quantity import show
from idlebench.core.wording import on_screen

from ..unit.device_needs import KINDS
from ..unit.fits import need_for
from ..unit.parts import BoardState, DeviceState, PartState
from ..unit.state import UnitState
from ..unit.stock import device_of, marked


@dataclass(frozen=True, kw_only=True)
class InHand:
    """A place to swap, of whatever kind.

    out, out_of: what comes out, large and in small. gone: what goes in, "" where nothing is chosen. into: steps. facts: of what goes in.
    free: whether what goes in is typed; hint: what of it. wrong: why nothing can go in. old, new: polarity marks, None where there is
    none to tell.
    """

    ref: str
    device: bool
    done: str
    out: str
    out_of: str
    judged: str
    way: SolderingMethod
    celsius: int
    gone: str
    facts: str = ""
    stock: int | None = None
    into: tuple[str, ...] = ()
    reasons: tuple[str, ...] = ()
    old: PolarityMark | None = None
    new: PolarityMark | None = None
    free: bool = False
    wrong: str = ""
    left_out: bool = False
    pins: tuple[str, ...] = ()
    tab: str = ""
    package: Package | None = None
    insulated: bool = False
    hint: str = ""
    picture: Closeup | None = None


def part_in_hand(state: UnitState, board: BoardState, part: PartState, scene: Scene, mirror: float) -> InHand:
    """A capacitor's place."""
    core, way = part.core, way_out(part.core)
    item = board.chosen.get(part.ref)
    refused = ""
    if item is not None and part.swap is None:
        # told before the iron is hot, not after the part is in
        judged = judge_parts(need_for(state, part), [item])[0]
        refused = "; ".join(r.text for r in judged.reasons if r.status == FAILS)
    facts = ""
    if item:
        pitch = f", pitch {item.pitch:g} mm" if item.pitch else ""
        facts = f"{show(item.value, 'F')} {item.rated}, {item.diameter:g} × {item.height:g} mm{pitch}"
    return InHand(
        ref=part.ref,
        device=False,
        done=_done(part.swap),
        out=f"{show(core.value, 'F')} {show(core.volts, 'V') if core.volts else ''}".strip(),
        out_of=f"{on_screen(core.kind).capitalize()}, {core.mounting}",
        judged=f"Judged {part.verdict.shown}: {part.verdict.leading}" if part.verdict.leading else "",
        way=way,
        celsius=way.celsius(state.job.made),
        gone="nothing, for the test" if part.left_out else part.choice.item,
        facts=facts,
        stock=item.stock if item else None,
        into=way_in(core, item) if item else (),
        reasons=tuple(part.choice.reasons),
        old=polarity_mark(core.kind, core.mounting, core.bipolar) if core.polar else None,
        new=polarity_mark(item.kind, item.mounting, item.bipolar) if item else None,
        wrong=f"{item.part} does not fit: {refused}. Choose again."
        if refused
        else ""
        if item or part.left_out
        else "This part is not in the catalogue any more: choose again.",
        left_out=part.left_out,
        picture=closeup(scene, core, item, mirror),
    )


def device_in_hand(state: UnitState, found: BoardState, place: DeviceState, scene: Scene, mirror: float) -> InHand:
    """The place of a part that is no capacitor."""
    old: Device = place.device
    choice, way = place.choice, way_out_of(old)
    part = device_of(choice.item) if choice else None
    new_pins = part.pins if isinstance(part, Regulator) and part.pins else old.pins[:3]
    tab = part.tab if isinstance(part, Regulator) else old.pins[3] if old.pins else ""
    package = PACKAGES.get(part.package if isinstance(part, Regulator) and part.pins else old.package)
    module = isinstance(part, Regulator) and part.type == "module"
    free = choice is None and old.what not in BY_CHOICE
    wrong = ""
    if choice is None and not free:
        wrong = f"No part is chosen for it: a {old.title} is fitted only after the rules have judged it."
    elif choice is not None and part is None:
        wrong = "This part is not on the Shelf any more: choose again."
    elif choice is not None and place.swap is None and (refused := _refused(state, found, place, part)):
        wrong = f"{choice.item} does not fit: {refused}. Choose again."
    gone = place.swap.item if place.swap else choice.item if choice else ""
    return InHand(
        ref=place.ref,
        device=True,
        done=_done(place.swap),
        out=old.marked if old.what != "chip" else old.note or "chip",
        out_of=old.title.capitalize() + (f", {old.note}" if old.note and old.what != "chip" else ""),
        judged=f"It is {old.looks}" if old.looks not in ("", "sound") else "",
        way=way,
        celsius=way.celsius(state.job.made),
        gone=gone,
        facts=marked(part) if part else "",
        stock=part.stock if part else None,
        into=way_in_of(old.what, tab, module, sink=package is None or package.sink),
        reasons=tuple(choice.reasons) if choice else (),
        free=free,
        wrong=wrong,
        pins=tuple(new_pins),
        tab=tab,
        package=package,
        hint="With its AC volts, such as 14 mm 275V~" if old.what == "varistor" else "",
        insulated=insulated(old.what, tab, found.row.supply),
        picture=closeup_of(scene, old, new_pins, mirror),
    )


def _refused(state: UnitState, found: BoardState, place: DeviceState, part: object) -> str:
    """What refuses a part that was chosen for a place as that is now, in words."""
    kind = KINDS[place.device.what]
    try:
        judged = kind.judge(kind.need(state, found, place.device), part)
    except BadInput as error:
        return str(error)
    return "; ".join(r.text for r in judged.reasons if r.status == FAILS)


def _done(swap: object) -> str:
    if swap is None:
        return ""
    at = swap.at.strftime("%-d %b %Y, %H:%M")
    return f"{at}: {swap.note}" if swap.note else at


@dataclass(frozen=True)
class SwapLine:
    """A place in the list: what is in or goes in, and whether it is done."""

    ref: str
    words: str
    done: bool


def lines(board: BoardState, ordered: Sequence[PartState]) -> list[SwapLine]:
    """The places of a board in the order of the hands: capacitors, then what is no capacitor; what is done last."""
    rows = [SwapLine(p.ref, p.settled_as, p.swap is not None) for p in ordered]
    rows += [SwapLine(d.ref, d.settled_as, d.swap is not None) for d in board.devices_to_swap]
    return sorted(rows, key=lambda line: line.done)
