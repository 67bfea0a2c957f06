"""The way up: the steps from cold to a proven unit, made from its supply, rails and chips.

Source: mains of ±10 %: IEC 60038:2009, table 1; lamps, steps and holds: workshop practice, because a fault should show before it does
harm.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Sequence
from dataclasses import replace

from ..board.devices import Device, is_plug
from ..text.rails_and_chips import Rail
from .adapters import bench_in_its_place, board_alone, fed_title, steps_of
from .checks import BoardFacts, Check, PowerStep
from .cold import cold_checks
from .cold_rails import fed_rails
from .control_wires import with_control
from .facts import PLUG, PLUGGED, STEP
from .hazards import Unlisted
from .highest import HIGHEST
from .life import ALIVE, life_step
from .low_voltage import why_not_low
from .monitor_cold import of_monitor
from .monitors import monitor_steps
from .outside import steps_behind
from .power_methods import DEAD_SHARE, HOLD, RISING, Of, lamp_watts, transformer_va
from .power_steps import PRIMARY, _under, dummy_step, mains_check, source_step
from .rail_checks import rail_checks


def power_up(
    boards: Sequence[BoardFacts],
    way: str = "lamp",
    mains: float = 230.0,
    measured: float | None = None,
    apart: Sequence[str] = (),
    unlisted: Sequence[Unlisted] = (),
) -> tuple[PowerStep, ...]:
    """The steps from cold to a proven unit: each supply alone, one after the other, then the boards.

    Args:
        boards: all of the unit.
        way: a key of WAYS.
        mains: V rms, nominal.
        measured: V rms as it was read, None before.
        apart: what of the dismantling log is not back.
        unlisted: stores that are on no list any more and may be charged.

    Returns:
        The steps, in the order in which they are taken.
    """
    # a unit is asked for again and again while nothing of its boards changes; to compare takes a fraction of what the steps take
    asked = (way, mains, measured, tuple(apart), tuple(unlisted), tuple(boards))
    for before, steps in tuple(_RECENT):
        if before == asked:
            return steps
    steps = _power_up(boards, way, mains, measured, apart, unlisted)
    _RECENT.appendleft((asked, steps))
    return steps


#: What was asked for last, and the steps of it.
_RECENT: deque[tuple[tuple[object, ...], tuple[PowerStep, ...]]] = deque(maxlen=8)


def _power_up(
    boards: Sequence[BoardFacts],
    way: str,
    mains: float,
    measured: float | None,
    apart: Sequence[str],
    unlisted: Sequence[Unlisted],
) -> tuple[PowerStep, ...]:
    rails = fed_rails(boards)
    # what another board's rail feeds comes after the board that makes it
    supplies = sorted((b for b in boards if b.supply and b.rails), key=lambda b: bool(b.behind))
    if way == "low" and why_not_low(boards):
        # whatever was chosen first: the short way is only for what stays under 60 V everywhere
        way = "lamp"
    # a monitor stays unplugged until its own steps: its line stage meets B+ behind a lamp first
    fed = [b for b in boards if not b.supply and not of_monitor(b, boards)]
    cold = cold_checks(boards, mains, apart, unlisted)
    if not supplies:
        return (PowerStep(key="cold", title="Cold checks", detail="nothing has power", checks=cold),)
    steps = [
        PowerStep(
            key="cold",
            title="Cold checks",
            detail="nothing has power",
            checks=cold if way == "low" else (*cold[:-1], mains_check(mains, way), cold[-1]),
        )
    ]
    whole = frozenset(b.id for b in boards)
    under = _under(mains, way)
    loads, others = [], []
    for number, supply in enumerate(supplies):
        made = [rail.name for other in supplies if other is not supply for rail in other.rails]
        own = _alone(supply, way, mains, measured, under, bool(fed) or not _feeds_chips(supply), made)
        for step in own if number == 0 else [_of_another(step, supply) for step in own]:
            (loads if step.key.startswith("dummy") else others).append(step)
    # dummy loads before any power, and the look inside after them: hands that fit a load would ask for it again
    steps += [*loads, *others]
    if way == "limited":
        once = list({rail.name: rail for rail in rails}.values())
        steps += [board_alone(board, once, under) for board in fed]
    if fed:
        steps.append(_feed_step(supplies, fed, under, whole))
    plain = [b for b in boards if not of_monitor(b, boards)]
    if any(p.is_ in ALIVE for b in plain for c in b.chips for p in c.pins):
        steps.append(life_step(plain, rails, under, whole))
    rising = way == "variable" and all(supply.supply == "linear" for supply in supplies)
    for board in boards:
        steps += monitor_steps(board, under, rising, mains)
    hot = any(board.hot_chassis for board in boards)
    return tuple(_about(_on_hot_chassis(step) if hot and step.live else step, whole) for step in steps)


#: How long a machine on the short way is held, minutes.
LOW_HOLD = 1
#: Said at every step under power of a machine whose chassis is joined to the mains.
HOT = (
    "Hot chassis: the chassis and every ground of this machine are live. Isolation transformer in; no earthed scope, computer or lead; "
    "one hand."
)


def _on_hot_chassis(step: PowerStep) -> PowerStep:
    """A step whose caution begins with what a hot chassis does to it."""
    return replace(step, caution=f"{HOT} {step.caution}".strip())


def _feeds_chips(supply: BoardFacts) -> bool:
    """Whether a supply's rails go to chips on its own board."""
    rails = {rail.name for rail in supply.rails}
    return any(pin.rail in rails for chip in supply.chips if not is_plug(chip.ref) for pin in chip.pins)


def _alone(
    supply: BoardFacts,
    way: str,
    mains: float,
    measured: float | None,
    under: Of,
    unplugs: bool = True,
    made: Sequence[str] = (),
) -> list[PowerStep]:
    """A supply on its own, its boards unplugged: its windings, dummy loads, with something in between, full mains."""
    rails, own = supply.rails, frozenset({supply.id})
    adapter = supply.adapter
    if supply.behind:
        full = _full_step(supply, rails, mains, under, *([LOW_HOLD] if way == "low" else []))
        steps = steps_behind(supply, rails, made, full, way, under)
        loads = [] if way == "low" else [dummy_step(supply, rails, tuple(s.key for s in steps), unplugs)]
        return [_about(step, own) for step in (*loads, *steps)]
    if way == "low" and adapter is not None:
        return [_about(step, own) for step in _low_steps(supply, adapter, rails, mains, under)]
    limited = _limited_steps(supply, rails, way, mains, under) if adapter is None else []
    full = _full_step(supply, rails, mains, under)
    high = (
        [_high_step(supply, rails, mains, under)]
        if way == "variable" and supply.supply == "linear" and adapter is None
        else []
    )
    if adapter is not None:
        if (way == "limited" or adapter.looks == "missing") and adapter.output != "ac":
            limited = [bench_in_its_place(supply, adapter, rails, under)]
        full = replace(full, title=fed_title(adapter))
    if way == "straight":
        full = replace(full, caution=f"Now only the fuse limits the current of a fault. {full.caution}")
    powered = with_control(supply, [*limited, full, *high], rails, under)
    steps = [dummy_step(supply, rails, tuple(s.key for s in powered), unplugs), *powered]
    if supply.sources:
        steps.insert(0, source_step(supply, mains, measured, under))
    if adapter is not None and (adapter.looks != "missing" or adapter.output == "ac"):
        steps = [*steps_of(supply, adapter, under, DEAD_SHARE), *steps]
    return [_about(step, own) for step in steps]


def _low_steps(supply: BoardFacts, adapter: Device, rails: Sequence[Rail], mains: float, under: Of) -> list[PowerStep]:
    """The short way of what stays under 60 V: its source alone, then the machine with a current limit, then its rails."""
    alone = [] if adapter.looks == "missing" else steps_of(supply, adapter, under, DEAD_SHARE)[:1]
    limited = [bench_in_its_place(supply, adapter, rails, under, boards=True)] if adapter.output != "ac" else []
    full = replace(_full_step(supply, rails, mains, under, hold=LOW_HOLD), title=fed_title(adapter), caution="")
    return [*alone, *limited, replace(full, rewire=True)]


def _of_another(step: PowerStep, supply: BoardFacts) -> PowerStep:
    """The step of a second supply: its keys are its own, and its title says whose it is."""
    tail = f".{supply.id}"
    checks = tuple(
        replace(c, key=c.key + tail, step=step.key + tail, serves=tuple(key + tail for key in c.serves))
        for c in step.checks
    )
    named = step.title if supply.name in step.title else f"{step.title}, {supply.name}"
    return replace(step, key=step.key + tail, title=named, checks=checks)


def _about(step: PowerStep, boards: frozenset[str]) -> PowerStep:
    """A step whose checks without boards of their own speak of these."""
    checks = tuple(c if c.boards or c.step == "cold" else replace(c, rows=boards, boards=boards) for c in step.checks)
    return replace(step, checks=checks)


def _limited_steps(supply: BoardFacts, rails: Sequence[Rail], way: str, mains: float, under: Of) -> list[PowerStep]:
    quiet = Check(
        key="up.limited.look",
        step="limited",
        kind="look",
        point="supply",
        ask="No smoke, smell, hiss or warmth in a minute.",
        live=True,
        safety=True,
        board=supply.name,
        fact=STEP,
        of=under,
    )
    if way == "straight":
        return []
    if way == "variable" and supply.supply == "linear":
        return [_rising_step(key, share, rails, supply, mains, quiet, under) for key, share in RISING.items()]
    watts = lamp_watts(rails, supply.supply, transformer_va(supply))
    behind = rail_checks("limited", rails, supply.name, ("behind",), under) if supply.modelled else ()
    lamp = Check(
        key="up.limited.lamp",
        step="limited",
        kind="look",
        point="limiter lamp",
        ask="Bright at first, then dim. If it stays bright there is a short: make idle.",
        live=True,
        safety=True,
        board=supply.name,
        why="A cold filament has a tenth of its hot resistance.",
        fact=STEP,
        of=(*under, ("lamp", f"{watts} W")),
        # “no” says that it stayed bright
        dead_below=0.5,
    )
    title = f"Lamp limiter in, {watts} W lamp"
    # at low volts a switching supply draws the more, and its switch burns
    why = "a variable transformer overloads a switching supply" if way == "variable" else "boards unplugged, one minute"
    return [
        PowerStep(key="limited", title=title, detail=why, checks=(lamp, *behind, quiet), live=True, caution=PRIMARY)
    ]


def _rising_step(
    key: str, share: float, rails: Sequence[Rail], supply: BoardFacts, mains: float, quiet: Check, under: Of
) -> PowerStep:
    """A step of a variable transformer: so much of the mains, every rail rising with it."""
    volts = f"{mains * share:.0f} V in"
    if key == "limited":
        return PowerStep(
            key=key,
            title=f"{volts}, look and listen",
            detail="one minute, nothing warm",
            checks=(quiet,),
            live=True,
            caution=PRIMARY,
        )
    rise = rail_checks(key, rails[:1] if key != "most" else rails, supply.name, ("up",), under)
    named = "all rails rise" if key == "most" else f"{rails[0].name} rises"
    return PowerStep(key=key, title=f"{volts}, rails come up", detail=named, checks=rise, live=True, caution=PRIMARY)


def _full_step(supply: BoardFacts, rails: Sequence[Rail], mains: float, under: Of, hold: float = HOLD) -> PowerStep:
    minutes = hold
    hold = Check(
        key="up.full.hold",
        step="full",
        kind="look",
        point="supply",
        ask=f"Held {minutes:g} minute{'s' if minutes != 1 else ''} from power on: nothing warm, no drift, no noise.",
        live=True,
        safety=True,
        board=supply.name,
        fact=STEP,
        of=under,
        hold=minutes,
    )
    # a load step is of a supply on dummy loads; a whole machine is its own load
    aspects = ("volts", "ripple", "lowest") if minutes == HOLD else ("volts", "ripple")
    checks = (*rail_checks("full", rails, supply.name, aspects, under), hold)
    return PowerStep(
        key="full",
        title=f"{mains:g} V in, full rails",
        detail=f"hold {minutes:g} min" + (", load step" if minutes == HOLD else ""),
        checks=checks,
        live=True,
        caution=PRIMARY,
    )


def _high_step(supply: BoardFacts, rails: Sequence[Rail], mains: float, under: Of) -> PowerStep:
    """Every rail at its least load on the highest mains, before a board meets it."""
    checks = rail_checks("high", rails, supply.name, ("volts",), under)
    detail = "the highest mains, before a board is connected"
    title = f"{HIGHEST * mains:.0f} V in, least load"
    return PowerStep(key="high", title=title, detail=detail, checks=checks, live=True, caution=PRIMARY)


def _feed_step(
    supplies: Sequence[BoardFacts], fed: Sequence[BoardFacts], under: Of, whole: frozenset[str]
) -> PowerStep:
    names = " and ".join(b.name for b in fed)
    plug = Check(
        key="up.feed.plug",
        step="feed",
        kind="look",
        point=f"plug to {names}",
        ask="Dummy loads off, plug the right way round and fully in.",
        safety=True,
        board=supplies[0].name,
        fact=PLUG,
        of=(("boards", ", ".join(sorted(b.id for b in fed))),),
        does=PLUGGED,
        rows=whole,
        boards=whole,
    )
    checks, seen = [plug], set()
    for supply in supplies:
        stepping = [rail for rail in supply.rails if rail.step]
        for check in (
            *rail_checks("feed", supply.rails, fed[0].name, ("volts", "ripple"), under),
            *rail_checks("feed", stepping, fed[0].name, ("lowest",), under),
        ):
            if check.key in seen:
                # two supplies that make a rail of one name: each has a reading of its own
                check = replace(check, key=f"{check.key}.{supply.id}", point=f"{check.point}, {supply.name}")
            seen.add(check.key)
            checks.append(check)
    return PowerStep(
        key="feed",
        title=f"Connect the {names}",
        detail="opens when every rail is inside",
        checks=tuple(checks),
        live=True,
        rewire=True,
        caution="One hand, nothing metal on the wrist. " + PRIMARY,
    )
