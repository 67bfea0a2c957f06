"""What the lines of a supply say of a source outside the board: an adapter that nobody listed, or the rail of another board.

Source: a limit before a board of its own regulator: workshop practice, because a short there loads the rail before it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from ..board.devices import Device
from ..circuit.outside_sources import OutsideSource, label_for
from ..circuit.supply_lines import Branch
from ..text.rails_and_chips import Rail, rail_volts
from .adapters import bench_in_its_place
from .checks import BoardFacts, Check, PowerStep, key_of
from .facts import PLUG
from .power_methods import Of

#: What a source is listed as, by its kind.
_OUTPUTS = {"ac": "ac", "regulated": "regulated", "unregulated": "unregulated", "bench": "regulated"}


def with_source(devices: Sequence[Device], branches: Sequence[Branch]) -> tuple[Device, ...]:
    """The parts of a board with the source that its supply lines name, where none is listed.

    Args:
        devices: parts that are no capacitors.
        branches: the lines of the supply.

    Returns:
        The same; or one more, an adapter or cells; an adapter listed without volts gets those of the line. A bench supply stands for an
        adapter that is missing.

    >>> from idlebench.core.circuit.supply_lines import read_model
    >>> one, = with_source((), read_model('adapter 9V DC 1A regulator VR1 5V 0.5A'))
    >>> one.ref, one.volts, one.output
    ('AD1', 9.0, 'unregulated')
    """
    devices = _missing_label(tuple(devices))
    source = next((b.outside for b in branches if b.outside and b.outside.kind != "rail"), None)
    if source is None or not all(b.outside for b in branches):
        return devices
    cells = source.kind == "cells"
    listed = next((d for d in devices if (d.what == "battery" and d.feeds if cells else d.what == "adapter")), None)
    if listed is None:
        return (*devices, _device(source))
    if listed.volts:
        return devices
    known = replace(
        listed,
        volts=source.volts,
        current=listed.current or source.current or None,
        output=listed.output or _OUTPUTS.get(source.kind, ""),
    )
    return tuple(known if d is listed else d for d in devices)


def _missing_label(devices: tuple[Device, ...]) -> tuple[Device, ...]:
    """Parts in which an adapter that is missing, and whose volts nobody knows, has those that the board's own regulator asks for."""
    least = max((abs(d.volts) for d in devices if d.what == "regulator" and d.volts), default=0.0)
    if not least:
        return devices
    return tuple(
        replace(d, volts=label_for(least)) if d.what == "adapter" and not d.volts and d.looks == "missing" else d
        for d in devices
    )


def _device(source: OutsideSource) -> Device:
    if source.kind == "cells":
        return Device(
            ref=source.ref or "BT1", what="battery", volts=source.volts, current=source.current or None, note="source"
        )
    return Device(
        ref=source.ref or "AD1", what="adapter", volts=source.volts, current=source.current or None, output=_OUTPUTS[source.kind],
        looks="missing" if source.kind == "bench" else "",
    )  # fmt: skip


def feeding_rails(branches: Sequence[Branch]) -> tuple[str, ...]:
    """The rails of other boards that feed a supply, by name; () where anything else feeds it.

    >>> from idlebench.core.circuit.supply_lines import read_model
    >>> feeding_rails(read_model('from +10V regulator VR2 5V 0.2A'))
    ('+10 V',)
    """
    made = {b.regulator.rail for b in branches if b.regulator}
    made |= {rail.name for b in branches if b.converter for rail in b.converter.rails}
    rails = [b.direct.rail if b.direct and b.direct.kind == "rail" else "" for b in branches]
    from_others = tuple(dict.fromkeys(rail for rail in rails if rail not in made))
    return () if not from_others or "" in from_others else from_others


def steps_behind(
    board: BoardFacts, rails: Sequence[Rail], made: Sequence[str], full: PowerStep, way: str, under: Of
) -> list[PowerStep]:
    """The steps of a supply that the rail of another board feeds.

    Args:
        board: the board.
        rails: what it makes.
        made: rails that other boards of the unit make.
        full: its full step, as any supply has it.
        way: a key of WAYS.
        under: what its checks are of.

    Returns:
        A bench supply with a limit first, where that is the method or nobody makes the rail here; then the rail itself.
    """
    alone = [rail for rail in board.behind if rail not in made]
    steps = []
    if way in ("limited", "low") or alone:
        for rail in board.behind[:1]:
            stands_for = Device(ref=rail, what="adapter", volts=abs(rail_volts(rail) or 0.0), looks="missing")
            steps.append(bench_in_its_place(board, stands_for, rails, under))
    names = " and ".join(board.behind)
    plug = Check(
        key=key_of("up.from.plug", board.id),
        step="full",
        kind="look",
        point=f"plug of {names} to {board.name}",
        ask="The right way round and fully in; plus, minus and ground where the board's print has them."
        if not alone
        else f"The bench supply at {names} stays in: nothing here makes it. Plus and minus as the board's print has them.",
        safety=True,
        board=board.name,
        fact=PLUG,
        of=(("from", names),),
    )
    title = f"{board.name} on {names}{' of the bench supply' if alone else ''}, full rails"
    caution = "" if way == "low" else full.caution
    return [*steps, replace(full, title=title, caution=caution, checks=(plug, *full.checks), rewire=True)]
