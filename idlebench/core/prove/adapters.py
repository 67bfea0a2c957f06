"""A supply behind a plug-in adapter, and boards on a bench supply with a limit: what is checked of them on the way up.

The adapter comes first, alone: its label, its plug and polarity, its volts without load against what such an adapter should
read, then loaded as its label says. Only then does it meet the machine.

Source: as in circuit.transformer; what is loaded is loaded as its label says.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from ..board.devices import Device
from ..circuit import dummy_load, transformer
from ..text.quantity import show
from ..text.rails_and_chips import Rail
from .checks import UNKNOWN_AMPS, BoardFacts, Check, PowerStep, key_of
from .facts import MAINS_SIDE, PLUG, STEP

#: What words stand for the kinds of adapter.
KINDS = {"ac": "AC", "unregulated": "unregulated DC", "regulated": "regulated DC", "cells": "DC of cells"}
#: How far a loaded adapter may stray from its label, by kind; an unregulated one gives its label at its label's amps.
LOADED = {"ac": 0.10, "unregulated": 0.15, "regulated": 0.05, "cells": 0.20}
#: What fresh cells read over their name, and worn ones under it, as shares; and what the mains may take of a label without load.
FRESH, WORN, MAINS_LOW = 1.25, 0.8, 0.9
#: A bench supply's limit, times what is drawn; what a linear or switching supply takes in for what it gives.
LIMIT, EFFICIENCY = 1.5, 0.5

Of = tuple[tuple[str, str], ...]


def label(adapter: Device) -> str:
    """What its label says, in words.

    >>> from idlebench.core.board.devices import read_device
    >>> label(read_device('AD1 adapter 9V AC 1A 5.5x2.1'))
    '9 V AC, 1 A'
    """
    return f"{show(adapter.volts or 0.0, 'V')} {KINDS[adapter.output or 'unregulated']}, {show(amps(adapter), 'A')}"


def amps(adapter: Device) -> float:
    return adapter.current or UNKNOWN_AMPS


def unloaded(adapter: Device, frequency: float = 50.0) -> tuple[float, float, float]:
    """What an adapter should read with nothing plugged in, and the band, V by size.

    Args:
        adapter: the mains adapter, as its label says.
        frequency: Hz.

    Returns:
        V expected, lowest and highest.

    Raises:
        BadInput: a label that no adapter has.
    """
    if adapter.output == "cells":
        volts = abs(adapter.volts or 0.0)
        return volts, WORN * volts, FRESH * volts
    found = transformer.adapter(
        adapter.volts or 0.0, amps(adapter), adapter.output or "unregulated", 0.0, frequency
    ).values
    return found["expected_unloaded"], found["low"], found["high"]


def cold_checks_of(board: BoardFacts, adapter: Device) -> list[Check]:
    """Its label against the machine's, its plug and polarity; and its lead, instead of the mains side of a machine."""
    common = {
        "step": "cold", "kind": "look", "safety": True, "board": board.name, "fact": MAINS_SIDE, "rows": frozenset({board.id}),
        "boards": frozenset({board.id}), "of": (("adapter", adapter.as_line()),),
    }  # fmt: skip
    if adapter.output == "cells":
        return [
            Check(
                key=key_of("cold.adapter.label", board.id, adapter.ref),
                point=f"cells of {adapter.ref}",
                ask="All of one kind and age, none leaking, contacts bright; plus and minus as the holder shows.",
                why="One cell the wrong way round is charged by the others, and bursts.",
                names=(key_of("cold.adapter.label", board.name, adapter.ref),),
                **common,
            )
        ]
    if adapter.looks == "missing":
        # its label is not here to be read; the bench supply stands for it
        return []
    size = f"{adapter.across:g} × {adapter.length:g} mm, " if adapter.across and adapter.length else ""
    way = (
        "either way round"
        if adapter.output == "ac"
        else f"centre {adapter.centre}"
        if adapter.centre
        else "centre not typed yet"
    )
    if adapter.output != "ac" and not adapter.centre:
        asked = f"{size}read the mark on adapter and machine, and type centre + or centre - on its line at Intake."
    else:
        asked = f"{size}{way}, on adapter and machine alike. It goes in without force and sits firm."
    return [
        Check(
            key=key_of("cold.adapter.label", board.id, adapter.ref),
            point=f"label of {adapter.ref}",
            ask=f"It says {label(adapter)}, as the machine's plate asks: the same volts, AC or DC, and at least "
            "the same amps.",
            why="AC into a DC machine, or too many volts, destroys the machine in a moment.",
            names=(key_of("cold.adapter.label", board.name, adapter.ref),),
            **common,
        ),
        Check(
            key=key_of("cold.adapter.plug", board.id, adapter.ref),
            point=f"plug of {adapter.ref}",
            ask=asked[:1].upper() + asked[1:],
            why="Plugs that fit are wired both ways: check the polarity.",
            names=(key_of("cold.adapter.plug", board.name, adapter.ref),),
            **common,
        ),
    ]


def steps_of(supply: BoardFacts, adapter: Device, under: Of, dead_share: float) -> list[PowerStep]:
    """The adapter alone: without load, then loaded as its label says."""
    of = (*under, ("adapter", adapter.as_line()))
    common = {"live": True, "safety": True, "board": supply.name, "fact": STEP, "of": of}
    dc, sign = adapter.output != "ac", -1 if adapter.centre == "−" else 1
    kind = "dc_volts" if dc else "ac_volts"
    leads = "Red lead in the centre, black on the sleeve. " if dc else ""
    expected, low, high = unloaded(adapter)
    sure = low
    if adapter.output in ("ac", "unregulated"):
        # a band by kind and size is no verdict: from the label on it is looked at again under load
        low = min(low, MAINS_LOW * (adapter.volts or 0.0))
    doubt = f" Under {show(sign * sure, 'V')}: check first; the reading under load decides." if low < sure else ""
    alone = Check(
        key=key_of("up.adapter.open", supply.id, adapter.ref),
        step="source",
        kind=kind,
        point=f"{adapter.ref}, nothing plugged in",
        ask=f"{leads}Labelled {label(adapter)}: about {show(sign * expected, 'V')} without load.{doubt}",
        low=min(sign * low, sign * high),
        high=max(sign * low, sign * high),
        why=f"{transformer.SOURCE}. A wrong sign is a plug wired the other way round: never plug it in.",
        dead_below=low * dead_share,
        names=(key_of("up.adapter.open", supply.name, adapter.ref),),
        **common,
    )
    volts, stray = adapter.volts or 0.0, LOADED[adapter.output or "unregulated"]
    load = dummy_load.dummy_load(volts, amps(adapter)).values
    fitted = Check(
        key=key_of("up.adapter.load", supply.id, adapter.ref),
        step="adapter",
        kind="resistance",
        point=f"load for {adapter.ref}",
        ask=f"{show(load['resistance'], 'Ω')}, {load['rating']:g} W: it draws what the label says. The "
        "resistor gets hot: put it where nothing burns.",
        low=load["resistance"] * 0.9,
        high=load["resistance"] * 1.1,
        safety=True,
        board=supply.name,
        why=dummy_load.SOURCE,
        fact=MAINS_SIDE,
        of=(("adapter", adapter.as_line()),),
    )
    weak, strong = sign * volts * (1 - stray), sign * volts * (1 + stray)
    loaded = Check(
        key=key_of("up.adapter.loaded", supply.id, adapter.ref),
        step="adapter",
        kind=kind,
        point=f"{adapter.ref}, loaded",
        ask=f"{leads}On its load for a minute: {show(sign * volts, 'V')} ± {stray * 100:.0f} %.",
        low=min(weak, strong),
        high=max(weak, strong),
        why="Far below its label: a dry capacitor or an open diode inside. Replace the adapter, do not open it.",
        dead_below=volts * dead_share,
        names=(key_of("up.adapter.loaded", supply.name, adapter.ref),),
        **common,
    )
    said = "Its mains side stays closed: a bad adapter is replaced, not opened." if adapter.output != "cells" else ""
    name = "Adapter" if adapter.output != "cells" else "Cells"
    return [
        PowerStep(
            key="source",
            title=f"{name} {adapter.ref} alone",
            detail="plugged into nothing",
            checks=(alone,),
            live=True,
            caution=said,
        ),
        PowerStep(
            key="adapter",
            title=f"{name} {adapter.ref} loaded",
            detail="on a resistor, not on the machine",
            checks=(fitted, loaded),
            live=True,
            rewire=True,
            caution=said,
        ),
    ]


def fed_title(adapter: Device) -> str:
    """What the step is called at which the machine's own source, or what stands for it, is in."""
    if adapter.looks == "missing":
        return f"Bench supply in the place of {adapter.ref}, full rails"
    return f"{'Cells' if adapter.output == 'cells' else 'Adapter'} {adapter.ref} in, full rails"


def _amps_check(key: str, step: str, board: BoardFacts, rail: str, volts: float, drawn: float, of: Of) -> Check:
    limit = LIMIT * drawn
    return Check(
        key=key,
        step=step,
        kind="amps",
        point=f"amps at {rail}",
        ask=f"Set the limit to {show(limit, 'A', 2)} before it is plugged in. At most about "
        f"{show(drawn, 'A', 2)} is expected.",
        high=limit,
        live=True,
        safety=True,
        board=board.name,
        why="1.5 × the current drawn. In the limit, with the volts down, something is shorted: make idle.",
        fact=STEP,
        of=(*of, ("limit", f"{limit:.3g} A at {volts:g} V")),
    )


def bench_in_its_place(
    supply: BoardFacts, adapter: Device, rails: Sequence[Rail], under: Of, boards: bool = False
) -> PowerStep:
    """A bench supply with a limit in the place of a DC adapter, the supply on its dummy loads; or all boards, as they draw."""
    volts = adapter.volts or 0.0
    given = sum(abs(r.nominal) * (r.current if boards else r.dummy_current) for r in rails)
    drawn = given / EFFICIENCY / max(volts, 0.1)
    amps_in = _amps_check("up.bench.amps", "bench", supply, adapter.ref, volts, max(drawn, 0.02), under)
    quiet = Check(
        key="up.bench.look",
        step="bench",
        kind="look",
        point="supply",
        ask="No smoke, smell, hiss or warmth in a minute.",
        live=True,
        safety=True,
        board=supply.name,
        fact=STEP,
        of=under,
    )
    title = f"Bench supply for {adapter.ref}: {show(volts, 'V')}, limit {show(amps_in.high or 0.0, 'A', 2)}"
    return PowerStep(
        key="bench",
        title=title,
        detail="the whole machine, one minute" if boards else "boards unplugged, one minute",
        checks=(amps_in, quiet),
        live=True,
        rewire=True,
    )


def board_alone(board: BoardFacts, rails: Sequence[Rail], under: Of) -> PowerStep:
    """A board alone on a bench supply: each rail set and limited to 1.5 × what it draws, before its own supply feeds it."""
    key, own = key_of("alone", board.id), frozenset({board.id})
    plug = Check(
        key=key_of("up.alone.plug", board.id), step=key, kind="look", point=f"bench supply on {board.name}",
        ask="Its own supply unplugged. Check plus and minus on each rail, set and read the volts before the "
        "plug goes in.",
        safety=True, board=board.name, fact=PLUG, of=(("rails", ", ".join(rail.as_line() for rail in rails)),),
    )  # fmt: skip
    checks = [plug]
    for rail in rails:
        of = (*under, ("rail", rail.as_line()))
        if rail.current:
            checks.append(
                _amps_check(
                    key_of("up.alone.amps", board.id, rail.name), key, board, rail.name, rail.nominal, rail.current, of
                )
            )
        low, high = sorted((rail.low, rail.high))
        checks.append(
            Check(
                key=key_of("up.alone.volts", board.id, rail.name), step=key, kind="dc_volts", point=f"{rail.name} at {board.name}",
                ask="At the board's own pins, not at the bench supply.", low=low, high=high, live=True, safety=True, board=board.name,
                rail=rail.name, nominal=rail.nominal, why=f"Rail limits ±{rail.tolerance * 100:g} %.", fact=STEP, of=of,
            )
        )  # fmt: skip
    cold = any(rail.nominal == -5 for rail in rails) and any(rail.nominal == 12 for rail in rails)
    caution = "−5 V first on and last off: its chips are destroyed by +12 V without it." if cold else ""
    checks = [replace(c, rows=own, boards=own) for c in checks]
    title = f"{board.name} alone, bench supply with a limit"
    return PowerStep(
        key=key,
        title=title,
        detail=f"each rail limited to {LIMIT:g} × its current",
        checks=tuple(checks),
        live=True,
        rewire=True,
        caution=caution,
    )
