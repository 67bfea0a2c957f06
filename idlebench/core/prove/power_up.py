"""The way up: the steps from cold to a proven unit, made from its supply, rails and chips.

Source: mains of ±10 %: IEC 60038:2009, table 1; lamps, steps and holds: workshop practice, because a fault should show before it does
harm.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Iterable, Sequence
from dataclasses import replace

from ..circuit import dummy_load, transformer
from ..text.quantity import show
from ..text.rails_and_chips import Rail
from .adapters import bench_in_its_place, board_alone, steps_of
from .checks import BoardFacts, Check, PowerStep, Winding, key_of
from .cold import cold_checks
from .cold_rails import fed_rails
from .facts import DUMMY, LOADED, MAINS_READ, PLUG, PLUGGED, STEP
from .hazards import Unlisted
from .highest import HIGHEST
from .monitors import monitor_steps, of_monitor

#: Lamps that can be bought, W.
LAMPS = (15, 25, 40, 60, 100, 150, 200)
#: How long full mains is held, minutes.
HOLD = 5
#: A rail under this share of its volts did not come up.
DEAD_SHARE = 0.1

#: How far the mains may stray from nominal before a supply is put on it, and the key of their reading.
MAINS_STRAY, MAINS_KEY = 0.10, "cold.mains"

#: What a check is of, in words.
Of = tuple[tuple[str, str], ...]

WAYS = {
    "lamp": "lamp limiter",
    "variable": "variable transformer",
    "limited": "bench supply with a limit for boards, lamp for supplies",
    "straight": "straight on, loads attached",
}
#: Steps of a variable transformer, and the share of the mains at each: the first only to look and listen.
RISING = {"limited": 0.15, "third": 0.30, "half": 0.60, "most": 0.90}


#: A limiter lamp's watts as a multiple of what is drawn behind it, by the kind of supply: a constant power pulls a lamp down.
LAMP_TIMES = {"linear": 2.0, "switching": 4.0}


#: What comes out of a supply's rails as a share of what it draws, by its kind: a linear regulator burns about as much as it gives.
EFFICIENCY = {"linear": 0.5, "switching": 0.7}
#: What a mains transformer of 45 VA draws without any load, A at 230 V: 15 to 40 mA, and by the root of its size. It does not heat, and
#: the lamp sees it all the same. Workshop practice, because labels do not say it: the no-load currents of small mains transformers.
MAGNETISING, MAGNETISED = 25e-3, 45.0


def lamp_watts(rails: Iterable[Rail], supply: str = "linear", va: float = 0.0) -> int:
    """The limiter lamp for a supply on its dummy loads, W: the next size that can be bought, the largest where none is enough.

    Args:
        va: of its mains transformer, 0 where there is none or its size is not known.

    >>> from idlebench.core.text.rails_and_chips import read_rail
    >>> rails = [read_rail('+5 V 3 A'), read_rail('+12 V 0.5 A')]
    >>> lamp_watts(rails), lamp_watts(rails, va=45), lamp_watts(rails, 'switching')
    (25, 25, 25)
    """
    draw = sum(abs(r.nominal) * r.dummy_current for r in rails) / EFFICIENCY.get(supply, EFFICIENCY["switching"])
    idle = 230.0 * MAGNETISING * (va / MAGNETISED) ** 0.5
    # the magnetising current is a quarter turn behind
    seen = (draw**2 + idle**2) ** 0.5
    return next((lamp for lamp in LAMPS if lamp >= LAMP_TIMES.get(supply, 4.0) * seen * 0.999), LAMPS[-1])


def transformer_va(board: BoardFacts) -> float:
    """VA of all windings of a linear supply's transformer by their labels, 0 where none says it."""
    return sum(w.va for w in board.sources) if board.supply == "linear" else 0.0


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
        boards: all of the unit. way: a key of WAYS. mains: V rms, nominal. measured: V rms as it was read, None before. apart: what
            of the dismantling log is not back. unlisted: stores that are on no list any more and may be charged.
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
    supplies = [b for b in boards if b.supply and b.rails]
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
            checks=(*cold[:-1], mains_check(mains, way), cold[-1]),
        )
    ]
    whole = frozenset(b.id for b in boards)
    under = _under(mains, way)
    loads, others = [], []
    for number, supply in enumerate(supplies):
        own = _alone(supply, way, mains, measured, under)
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
    if any(p.is_ in ("clock", "activity", "supply") for b in plain for c in b.chips for p in c.pins):
        steps.append(_life_step(plain, rails, under, whole))
    rising = way == "variable" and all(supply.supply == "linear" for supply in supplies)
    for board in boards:
        steps += monitor_steps(board, under, rising, mains)
    hot = any(board.hot_chassis for board in boards)
    return tuple(_about(_on_hot_chassis(step) if hot and step.live else step, whole) for step in steps)


#: Said at every step under power of a machine whose chassis is joined to the mains.
HOT = (
    "Hot chassis: the chassis and every ground of this machine are live. Isolation transformer in; no earthed scope, computer or lead; "
    "one hand."
)


def _on_hot_chassis(step: PowerStep) -> PowerStep:
    """A step whose caution begins with what a hot chassis does to it."""
    return replace(step, caution=f"{HOT} {step.caution}".strip())


def _under(mains: float, way: str) -> Of:
    return (("mains", f"{mains:g} V"), ("way up", WAYS.get(way, way)))


def mains_check(mains: float, way: str = "lamp") -> Check:
    """The mains itself, read before the first step under power: what a transformer gives moves with it."""
    return Check(
        key=MAINS_KEY,
        step="cold",
        kind="ac_volts",
        point="mains at the socket",
        ask="Read it by a plug-in meter, or let a trained person read it. The expected output of the "
        "transformer is calculated from it.",
        low=mains * (1 - MAINS_STRAY),
        high=mains * (1 + MAINS_STRAY),
        safety=True,
        caution="The socket is live: never with bare leads.",
        why=f"{mains:g} V ± 10 %.",
        fact=MAINS_READ,
        of=_under(mains, way),
    )


def _alone(supply: BoardFacts, way: str, mains: float, measured: float | None, under: Of) -> list[PowerStep]:
    """A supply on its own, its boards unplugged: its windings, dummy loads, with something in between, full mains."""
    rails, own = supply.rails, frozenset({supply.id})
    adapter = supply.adapter
    limited = _limited_steps(supply, rails, way, mains, under) if adapter is None else []
    full = _full_step(supply, rails, mains, under)
    high = (
        [_high_step(supply, rails, mains, under)]
        if way == "variable" and supply.supply == "linear" and adapter is None
        else []
    )
    if adapter is not None:
        if way == "limited" and adapter.output != "ac":
            limited = [bench_in_its_place(supply, adapter, rails, under)]
        full = replace(full, title=f"Adapter {adapter.ref} in, full rails")
    if way == "straight":
        full = replace(full, caution=f"Now only the fuse limits the current of a fault. {full.caution}")
    steps = [_dummy_step(supply, rails, tuple(s.key for s in (*limited, full, *high))), *limited, full, *high]
    if supply.sources:
        steps.insert(0, _source_step(supply, mains, measured, under))
    if adapter is not None:
        steps = [*steps_of(supply, adapter, under, DEAD_SHARE), *steps]
    return [_about(step, own) for step in steps]


def _of_another(step: PowerStep, supply: BoardFacts) -> PowerStep:
    """The step of a second supply: its keys are its own, and its title says whose it is."""
    tail = f".{supply.id}"
    checks = tuple(
        replace(c, key=c.key + tail, step=step.key + tail, serves=tuple(key + tail for key in c.serves))
        for c in step.checks
    )
    return replace(step, key=step.key + tail, title=f"{step.title}, {supply.name}", checks=checks)


def _about(step: PowerStep, boards: frozenset[str]) -> PowerStep:
    """A step whose checks without boards of their own speak of these."""
    checks = tuple(c if c.boards or c.step == "cold" else replace(c, rows=boards, boards=boards) for c in step.checks)
    return replace(step, checks=checks)


_PRIMARY = (
    "Hands off the primary side: no measuring there under power. Work inside mains equipment is for trained people."
)


def _source_step(supply: BoardFacts, mains: float, measured: float | None, under: Of) -> PowerStep:
    checks = tuple(_winding(supply, w, i, mains, measured, under) for i, w in enumerate(supply.sources))
    title = "Transformer alone" if len(checks) == 1 else f"Transformers alone, {len(checks)} windings"
    return PowerStep(
        key="source",
        title=title,
        detail="secondaries unplugged from the board",
        checks=checks,
        live=True,
        caution=_PRIMARY,
    )


def _winding(supply: BoardFacts, w: Winding, i: int, mains: float, measured: float | None, under: Of) -> Check:
    """A winding without load; what it should read goes with the mains as they were read."""
    share = (measured or mains) / mains
    volts, low, high = (share * number for number in w.expected)
    on = f" on {measured:g} V" if measured else ""
    of = (
        *under,
        ("label", f"{w.name} {w.volts:g} V, {w.va or 25.0:g} VA"),
        ("mains as read", f"{measured or mains:.0f} V"),
    )
    return Check(
        key="up.source.volts" if i == 0 else key_of("up.source", w.name, f"{w.volts:g}"),
        step="source",
        kind="ac_volts",
        point=f"{w.name}, nothing connected",
        ask=f"Labelled {w.volts:g} V, so {volts:.3g} V without load{on}.",
        low=low,
        high=high,
        live=True,
        safety=True,
        board=supply.name,
        why=transformer.SOURCE,
        fact=STEP,
        dead_below=low * DEAD_SHARE,
        of=of,
    )


def _dummy_step(supply: BoardFacts, rails: Sequence[Rail], serves: tuple[str, ...]) -> PowerStep:
    checks, loads = [], []
    for rail in rails:
        if not rail.dummy_current:
            continue
        w = dummy_load.dummy_load(rail.nominal, rail.dummy_current).values
        loads.append(f"{show(w['resistance'], 'Ω')} {w['rating']:g} W")
        checks.append(
            Check(
                key=key_of("up.dummy", rail.name),
                step="dummy",
                kind="resistance",
                point=f"dummy load on {rail.name}",
                ask=f"{show(w['resistance'], 'Ω')}, {w['rating']:g} W: it draws {show(w['power'], 'W')}.",
                low=w["resistance"] * 0.9,
                high=w["resistance"] * 1.1,
                safety=True,
                board=supply.name,
                rail=rail.name,
                why=dummy_load.SOURCE,
                reckoning="dummy_load",
                inputs=(("volts", rail.nominal), ("current", rail.dummy_current)),
                fact=DUMMY,
                of=(("rail", rail.as_line()),),
                does=LOADED,
                serves=serves,
            )
        )
    if not checks:
        checks.append(
            Check(
                key="up.dummy.any",
                step="dummy",
                kind="look",
                point="dummy loads",
                ask="A load on every rail: the currents of the rails are not known, so start with a tenth of what "
                "the boards draw.",
                safety=True,
                board=supply.name,
                fact=DUMMY,
                does=LOADED,
                serves=serves,
            )
        )
    return PowerStep(
        key="dummy",
        title="Dummy loads on all rails",
        detail=" · ".join(loads) or "boards unplugged",
        checks=tuple(checks),
        rewire=True,
    )


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
    behind = _rail_checks("limited", rails, supply.name, ("behind",), under) if supply.modelled else ()
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
        PowerStep(key="limited", title=title, detail=why, checks=(lamp, *behind, quiet), live=True, caution=_PRIMARY)
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
            caution=_PRIMARY,
        )
    rise = _rail_checks(key, rails[:1] if key != "most" else rails, supply.name, ("up",), under)
    named = "all rails rise" if key == "most" else f"{rails[0].name} rises"
    return PowerStep(key=key, title=f"{volts}, rails come up", detail=named, checks=rise, live=True, caution=_PRIMARY)


def _rail_checks(step: str, rails: Iterable[Rail], board: str, aspects: Sequence[str], under: Of) -> tuple[Check, ...]:
    return tuple(_rail_check(step, rail, board, aspect, under) for rail in rails for aspect in aspects)


def _rail_check(step: str, rail: Rail, board: str, aspect: str, under: Of) -> Check:
    """A rail's check by what is asked of it: coming up at half mains, its volts, its ripple, its lowest."""
    by, inside = f"±{rail.tolerance * 100:g} %", sorted((rail.low, rail.high))
    rising = sorted((0.02 * rail.nominal, (1 + rail.tolerance) * rail.nominal))
    behind = sorted((0.0, (1 + rail.tolerance) * rail.nominal))
    kind, ask, (low, high), why = {
        "behind": (
            "dc_volts",
            "The right sign, not above the rail's band; the supply's lines give the value behind the lamp.",
            behind,
            "Its limits count at full mains.",
        ),
        "up": ("dc_volts", "Any volts of the right sign, not above the rail's band.", rising, "Rises with the mains."),
        "volts": (
            "dc_volts",
            f"{show(inside[0], 'V')} to {show(inside[1], 'V')}, {by}.{_clamped(rail)}",
            inside,
            f"Rail limits {by}.",
        ),
        "ripple": (
            "ripple",
            "Peak to peak; add “rms” to a plain meter's AC reading.",
            (None, rail.ripple_limit),
            "1 % of nominal, at least 50 mV, unless the machine has its own limit.",
        ),
        "lowest": (
            "dc_volts",
            f"The lowest seen while {rail.step or 'its load steps'}, not the average: {_stepped(step, rail)}",
            inside,
            "Lowest under a load step, inside the same band.",
        ),
    }[aspect]
    return Check(
        key=key_of("up", step, rail.name, aspect),
        step=step,
        kind=kind,
        point=rail.name,
        ask=ask,
        low=low,
        high=high,
        live=True,
        safety=True,
        board=board,
        why=why,
        rail=rail.name,
        aspect="volts" if aspect in ("up", "behind") else aspect,
        nominal=rail.nominal,
        fact=STEP,
        of=(*under, ("rail", rail.as_line())),
        dead_below=DEAD_SHARE * abs(rail.nominal) if aspect == "volts" else None,
    )


def _clamped(rail: Rail) -> str:
    """At which volts its crowbar or clamp should act, where it has one."""
    return (
        f" Its crowbar or clamp acts at {show(rail.clamp, 'V')}: a rail pulled to zero may be the crowbar."
        if rail.clamp
        else ""
    )


def _stepped(step: str, rail: Rail) -> str:
    """How its load is made to step: its dummy load while the boards are off, what the machine has after."""
    if step.startswith("full"):
        # by hand, and quicker than a meter: that is why the meter or scope holds the least
        return "take its dummy load off and on, with a meter that holds the lowest reading, or a scope."
    return f"let it happen: {rail.step}." if rail.step else "let the machine do what draws most."


def _full_step(supply: BoardFacts, rails: Sequence[Rail], mains: float, under: Of) -> PowerStep:
    hold = Check(
        key="up.full.hold",
        step="full",
        kind="look",
        point="supply",
        ask=f"Held {HOLD} minutes from power on: nothing warm, no drift, no noise.",
        live=True,
        safety=True,
        board=supply.name,
        fact=STEP,
        of=under,
        hold=HOLD,
    )
    checks = (*_rail_checks("full", rails, supply.name, ("volts", "ripple", "lowest"), under), hold)
    return PowerStep(
        key="full",
        title=f"{mains:g} V in, full rails",
        detail=f"hold {HOLD} min, load step",
        checks=checks,
        live=True,
        caution=_PRIMARY,
    )


def _high_step(supply: BoardFacts, rails: Sequence[Rail], mains: float, under: Of) -> PowerStep:
    """Every rail at its least load on the highest mains, before a board meets it."""
    checks = _rail_checks("high", rails, supply.name, ("volts",), under)
    return PowerStep(
        key="high",
        title=f"{HIGHEST * mains:.0f} V in, least load",
        detail="the highest mains, before a board is connected",
        checks=checks,
        live=True,
        caution=_PRIMARY,
    )


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
            *_rail_checks("feed", supply.rails, fed[0].name, ("volts", "ripple"), under),
            *_rail_checks("feed", stepping, fed[0].name, ("lowest",), under),
        ):
            if check.key in seen:
                # two supplies that make a rail of one name: each has a reading of its own
                check = replace(check, key=f"{check.key}.{supply.id}", point=f"{check.point}, {supply.name}")
            seen.add(check.key)
            checks.append(check)
    checks = tuple(checks)
    return PowerStep(
        key="feed",
        title=f"Connect the {names}",
        detail="opens when every rail is inside",
        checks=checks,
        live=True,
        rewire=True,
        caution="One hand, nothing metal on the wrist. " + _PRIMARY,
    )


def _life_step(boards: Sequence[BoardFacts], rails: Sequence[Rail], under: Of, whole: frozenset[str]) -> PowerStep:
    by_name, checks = {r.name: r for r in rails}, []
    for board in boards:
        for chip in board.chips:
            for pin in chip.pins:
                key = key_of("up.life", board.id, chip.ref, pin.number)
                about = {
                    "names": (key_of("up.life", board.name, chip.ref, pin.number),),
                    "fact": STEP,
                    "rows": whole,
                    "boards": whole,
                }
                point = f"{chip.ref} pin {pin.number}"
                if pin.is_ == "supply" and pin.rail in by_name:
                    rail = by_name[pin.rail]
                    checks.append(
                        Check(
                            key=key,
                            step="life",
                            kind="dc_volts",
                            point=point,
                            ask=f"{pin.rail} at the chip's own pin.",
                            low=rail.low,
                            high=rail.high,
                            live=True,
                            board=board.name,
                            nominal=rail.nominal,
                            why="Rail limits, measured where they count",
                            of=(*under, ("rail", rail.as_line())),
                            **about,
                        )
                    )
                elif pin.is_ in ("clock", "activity"):
                    ask = (
                        "The clock runs between clean levels."
                        if pin.is_ == "clock"
                        else "The line moves between levels and is not stuck."
                    )
                    checks.append(
                        Check(
                            key=key,
                            step="life",
                            kind="activity",
                            point=point,
                            ask=ask,
                            live=True,
                            board=board.name,
                            of=under,
                            **about,
                        )
                    )
    return PowerStep(
        key="life",
        title="Signs of life",
        detail="rails at the chips, clock, lines that must move",
        checks=tuple(checks),
        live=True,
    )
