"""Proving a unit: the cold checks its parts, rails and chips ask for, the way up in steps, and the gates between.

A check is made from the unit each time it is asked for, never stored; only its readings are. Gates answer with
reasons (Shut), so that a page shows, a server refuses and a test asserts on the same value.
Source: rail limits of desktop supplies; IEC 61140 practice for stored charge; workshop practice for the order.
"""

from __future__ import annotations

import math
import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field

from . import ageing
from .circuit import discharge, dummy_load, transformer
from .lines import Chip, Rail
from .parts import Fitted, polarity_mark
from .quantity import read, show
from .refusal import BadInput, Shut

#: Most resistance of a connection, Ω.
CONTINUITY = 2.0
#: A rail under this share of V/I reads like a short.
SHORT_SHARE = 0.5
#: Stored energy from which a store is discharged and logged, J, whatever its role.
STORED = 0.5
#: The resistor that stores are emptied through, Ω.
BLEED = 2200.0
#: Lamps that can be bought, W.
LAMPS = (15, 25, 40, 60, 100, 150, 200)
#: RMS of a plain meter to peak-to-peak, by shape of the ripple.
RMS_TO_PP = {"sine": 2 * math.sqrt(2), "sawtooth": 2 * math.sqrt(3)}
#: How long full mains is held, minutes.
HOLD = 5

UNITS = {
    "continuity": "Ω", "resistance": "Ω", "dc_volts": "V", "ac_volts": "V", "ripple": "V", "frequency": "Hz", "temperature": "°C",
}  # fmt: skip
SEEN = ("look", "function", "activity")


@dataclass(frozen=True)
class Check:
    """One thing to look at or measure.

    Attributes:
        key: its name in the record, stable as long as the unit's parts are. step: the key of the step it belongs to.
        kind: look, function, activity, continuity, resistance, dc_volts, ac_volts, ripple, frequency, temperature.
        point: where. ask: what to do. low, high: limits in SI, None for none.
        live: whether it is read under power. safety: whether someone can be hurt, so that no override exists.
        board: the board's name. caution: what bites here. why: where the limit comes from.
        rail: the rail's name for a rail reading. aspect: volts, ripple or lowest.
    """

    key: str
    step: str
    kind: str
    point: str
    ask: str
    low: float | None = None
    high: float | None = None
    live: bool = False
    safety: bool = False
    board: str = ""
    caution: str = ""
    why: str = ""
    rail: str = ""
    aspect: str = ""
    nominal: float | None = None

    @property
    def unit(self) -> str:
        return UNITS.get(self.kind, "")

    @property
    def seen(self) -> bool:
        """Whether it is answered by yes or no."""
        return self.kind in SEEN

    @property
    def limits(self) -> str:
        """The limits as people read them."""
        if self.low is not None and self.high is not None:
            return f"{show(self.low, self.unit)} to {show(self.high, self.unit)}"
        if self.high is not None:
            return f"at most {show(self.high, self.unit)}"
        return f"at least {show(self.low, self.unit)}" if self.low is not None else "yes"

    def passes(self, value: float) -> bool:
        """Whether a reading is inside. Yes counts 1, no 0."""
        if self.seen:
            return value == 1
        return (self.low is None or value >= self.low - 1e-12) and (self.high is None or value <= self.high + 1e-12)


def read_reading(check: Check, text: str) -> float:
    """A reading as typed for a check, SI; yes and no become 1 and 0; OL on a resistance is endless.

    Ripple from a plain meter's AC range is typed with ``rms`` and counts as a sawtooth, the wider of the usual shapes.

    Raises:
        BadInput: not a reading of this kind.

    >>> c = Check('k', 's', 'ripple', '+5 V', 'ripple', high=0.05, live=True)
    >>> round(read_reading(c, '10m rms'), 4)
    0.0346
    """
    raw = text.strip()
    low = raw.lower()
    if check.seen:
        if low in ("yes", "y", "ok", "pass", "1"):
            return 1.0
        if low in ("no", "n", "not", "fail", "0"):
            return 0.0
        raise BadInput(raw, "yes or no", "", check.point)
    if check.kind in ("resistance", "continuity") and low in ("ol", "open", "inf", "∞"):
        return math.inf
    if check.kind == "ripple":
        found = re.fullmatch(r"(.*?)\s*(rms|pp|p-p)", low)
        if found:
            value = read(raw[: len(found[1])], "V", field=check.point, low=0, high=1e3)
            return value * RMS_TO_PP["sawtooth"] if found[2] == "rms" else value
        return read(raw, "V", field=check.point, low=0, high=1e3)
    floor = None if check.kind in ("dc_volts", "temperature") else 0
    return read(raw, check.unit, field=check.point, low=floor if floor is not None else -100e3, high=1e9)


@dataclass(frozen=True)
class Store:
    """A charged store and how it is emptied."""

    ref: str
    board: str
    value: float
    volts: float


@dataclass(frozen=True)
class BoardFacts:
    """What the proof needs to know of a board.

    Attributes:
        name: of the board. supply: "" for a board that is fed, else "linear" or "switching".
        parts: as they now stand. swapped: references of the parts that were changed.
        rails: made by a supply; a fed board's are those of the supplies. chips: with the pins to test.
        fuse: its marking, if it has one. source_volts, source_va: label of its transformer winding.
    """

    name: str
    supply: str = ""
    parts: tuple[Fitted, ...] = ()
    swapped: frozenset[str] = frozenset()
    rails: tuple[Rail, ...] = ()
    chips: tuple[Chip, ...] = ()
    fuse: str = ""
    source_volts: float | None = None
    source_va: float | None = None


@dataclass(frozen=True)
class Step:
    """A step of the proof, in order. live: it is done under power. rewire: something is plugged first, so idle first."""

    key: str
    title: str
    detail: str
    checks: tuple[Check, ...]
    live: bool = False
    rewire: bool = False
    caution: str = ""


@dataclass(frozen=True)
class Seen:
    """What is on record for a check."""

    value: float
    passed: bool
    overridden: bool = False


Record = Mapping[str, Seen]


def stores_of(board: BoardFacts) -> tuple[Store, ...]:
    """The stores that are discharged before anything is touched."""
    found = []
    for part in board.parts:
        volts = abs(part.rail_volts or part.volts or 0)
        if part.looks != "missing" and volts and (part.role == "bulk" or part.value * volts**2 / 2 >= STORED):
            found.append(Store(part.ref, board.name, part.value, volts))
    return tuple(found)


def cold_checks(boards: Sequence[BoardFacts]) -> tuple[Check, ...]:
    """Everything to be checked before power, made from the unit's own parts, rails, chips and pins."""
    checks: list[Check] = []
    for board in boards:
        checks += _discharges(board)
    checks.append(Check("cold.look.loose", "cold", "look", "inside the case", "No tool, screw, clipping or solder ball left inside. Shake and listen.",
                        safety=True, why="Loose metal finds the primary."))  # fmt: skip
    for board in boards:
        checks += _supply_checks(board) + _polarity(board) + _rails_to_ground(board, boards) + _pins(board)
    return tuple(checks)


def _key(*words: str) -> str:
    return ".".join(re.sub(r"[^a-z0-9+−-]+", "-", w.lower()).strip("-") for w in words)


def _discharges(board: BoardFacts) -> list[Check]:
    checks = []
    for store in stores_of(board):
        w = discharge.discharge(store.value, store.volts, BLEED) if store.volts > 10 else None
        how = f"{show(BLEED, 'Ω')} across it: {store.volts:g} V falls to 10 V in {show(w.values['seconds'], 's')}, {w.values['first_power']:.3g} W at first, {show(w.values['energy'], 'J')} stored." if w else "Below 10 V already by its rating."
        caution = "Unplugged, one hand, insulated resistor. Stored charge can kill; this is work for trained people, local codes come first." if store.volts > discharge.DANGEROUS else ""
        checks.append(Check(_key("cold.discharge", board.name, store.ref), "cold", "dc_volts", f"across {store.ref}", f"Discharged. {how}",
                            low=-discharge.SAFE_TO_HANDLE, high=discharge.SAFE_TO_HANDLE, safety=True, board=board.name, caution=caution, why=discharge.SOURCE, aspect="discharge"))  # fmt: skip
    return checks


def _supply_checks(board: BoardFacts) -> list[Check]:
    if not board.supply:
        return []
    name, checks = board.name, []
    checks.append(Check(_key("cold.cont", name, "plug"), "cold", "look", "plug, lead and switch", "Lead whole, earth pin to case under 2 Ω, switch opens the line. Unplugged.",
                        safety=True, board=name, why="Local codes come first."))  # fmt: skip
    if board.fuse:
        checks.append(Check(_key("cold.fuse.rating", name), "cold", "look", f"fuse holder, {name}", f"The fuse fitted is {board.fuse}, as marked. Never a bigger one.",
                            safety=True, board=name, why="A marked rating is always kept."))  # fmt: skip
        checks.append(Check(_key("cold.fuse", name), "cold", "continuity", f"fuse, {name}", "Across the fuse, leads subtracted.", high=CONTINUITY,
                            safety=True, board=name, why="Continuity passes at 2 Ω less the leads."))  # fmt: skip
    return checks


def _polarity(board: BoardFacts) -> list[Check]:
    checks = []
    for part in board.parts:
        if part.ref in board.swapped and part.polar:
            mark = polarity_mark(part.kind, part.mounting, part.bipolar)
            checks.append(Check(_key("cold.polarity", board.name, part.ref), "cold", "look", part.ref, f"Polarity seen again: {mark.words}, against the board's print.",
                                safety=True, board=board.name, why="A part fitted backwards bursts."))  # fmt: skip
    return checks


def least_resistance(rail: Rail) -> float:
    """Under this a rail reads like a short, Ω: it would draw over twice its rated current; never under 2 Ω.

    >>> from idlebench.core.lines import read_rail
    >>> least_resistance(read_rail('+12 V 0.5 A'))
    12.0
    """
    by_load = SHORT_SHARE * abs(rail.nominal) / rail.current if rail.current else 0.0
    return max(CONTINUITY, by_load)


def _rails_to_ground(board: BoardFacts, boards: Sequence[BoardFacts]) -> list[Check]:
    checks = []
    for rail in board.rails or _fed_rails(boards):
        least = least_resistance(rail)
        why = f"Half of V/I: a rail under it would draw over twice its {rail.current:g} A." if rail.current else "Over 2 Ω is no short."
        checks.append(Check(_key("cold.rail", board.name, rail.name), "cold", "resistance", f"{rail.name} to ground, {board.name}",
                            "Black lead to ground. Wait until the reading stands still.", low=least, safety=True, board=board.name, rail=rail.name, why=why))  # fmt: skip
    return checks


def _fed_rails(boards: Sequence[BoardFacts]) -> tuple[Rail, ...]:
    return tuple(rail for board in boards if board.supply for rail in board.rails)


def _pins(board: BoardFacts) -> list[Check]:
    checks = []
    for chip in board.chips:
        for pin in chip.pins:
            if pin.is_ not in ("ground", "supply"):
                continue
            to = "ground" if pin.is_ == "ground" else pin.rail
            checks.append(Check(_key("cold.pin", board.name, chip.ref, pin.number), "cold", "continuity", f"{chip.ref} pin {pin.number} to {to}",
                                f"{chip.label or chip.ref}: from the pin itself, not its socket.", high=CONTINUITY, board=board.name, why="Continuity passes at 2 Ω less the leads."))  # fmt: skip
    return checks


WAYS = {
    "lamp": "lamp limiter",
    "variable": "variable transformer",
}


def lamp_watts(rails: Iterable[Rail], efficiency: float = 0.7) -> int:
    """The limiter lamp: about twice the supply's own draw, next size that can be bought.

    >>> from idlebench.core.lines import read_rail
    >>> lamp_watts([read_rail('+5 V 3 A'), read_rail('+12 V 0.5 A')])
    60
    """
    draw = sum(abs(r.nominal) * r.current for r in rails) / efficiency
    return next((lamp for lamp in LAMPS if lamp >= 2 * draw * 0.999), LAMPS[-1])


def way_up(boards: Sequence[BoardFacts], way: str = "lamp", mains: float = 230.0) -> tuple[Step, ...]:
    """The steps from cold to a proven unit.

    Args:
        boards: all of the unit. way: a key of WAYS. mains: V rms.
    """
    rails = _fed_rails(boards)
    supply = next((b for b in boards if b.supply), None)
    fed = [b for b in boards if not b.supply]
    steps = [Step("cold", "Cold checks", "nothing has power", cold_checks(boards))]
    if supply is None or not rails:
        return tuple(steps)
    if supply.source_volts:
        steps.append(_source_step(supply))
    steps.append(_dummy_step(supply, rails))
    steps += _limited_steps(supply, rails, way, mains)
    steps.append(_full_step(supply, rails, mains))
    if fed:
        steps.append(_feed_step(supply, fed, rails))
        if any(p.is_ in ("clock", "activity", "supply") for b in fed for c in b.chips for p in c.pins):
            steps.append(_life_step(fed, rails))
    return tuple(steps)


_PRIMARY = "Hands off the primary side: no measuring there under power. Work inside mains equipment is for trained people."


def _source_step(supply: BoardFacts) -> Step:
    w = transformer.unloaded(supply.source_volts, supply.source_va or 25.0)
    check = Check("up.source.volts", "source", "ac_volts", "transformer secondary, nothing connected",
                  f"Labelled {supply.source_volts:g} V, so {w.values['volts']:.3g} V without load.", low=w.values["low"], high=w.values["high"],
                  live=True, safety=True, board=supply.name, why=transformer.SOURCE)  # fmt: skip
    return Step("source", "Transformer alone", "secondary unplugged from the board", (check,), live=True, caution=_PRIMARY)


def _dummy_step(supply: BoardFacts, rails: Sequence[Rail]) -> Step:
    checks, loads = [], []
    for rail in rails:
        if not rail.dummy_current:
            continue
        w = dummy_load.dummy_load(rail.nominal, rail.dummy_current).values
        loads.append(f"{show(w['resistance'], 'Ω')} {w['rating']:g} W")
        checks.append(Check(_key("up.dummy", rail.name), "dummy", "resistance", f"dummy load on {rail.name}",
                            f"{show(w['resistance'], 'Ω')}, {w['rating']:g} W: it takes {show(w['power'], 'W')}.", low=w["resistance"] * 0.9, high=w["resistance"] * 1.1,
                            safety=True, board=supply.name, rail=rail.name, why=dummy_load.SOURCE))  # fmt: skip
    if not checks:
        checks.append(Check("up.dummy.any", "dummy", "look", "dummy loads", "A load on every rail: the rails' currents are not known, so start with a tenth of what the boards draw.",
                            safety=True, board=supply.name))  # fmt: skip
    return Step("dummy", "Dummy loads on all rails", " · ".join(loads) or "boards unplugged", tuple(checks), rewire=True)


def _limited_steps(supply: BoardFacts, rails: Sequence[Rail], way: str, mains: float) -> list[Step]:
    quiet = Check("up.limited.look", "limited", "look", "supply", "No smoke, smell, hiss or warmth in a minute.", live=True, safety=True, board=supply.name)
    if way == "variable":
        low = Step("limited", f"{mains * 0.13:.0f} V in, look and listen", "one minute, nothing warm", (quiet,), live=True, caution=_PRIMARY)
        rise = _rail_checks("half", rails[:1], supply.name, ("up",), mains)
        return [low, Step("half", f"{mains / 2:.0f} V in, rails come up", f"{rails[0].name} rises", rise, live=True, caution=_PRIMARY)]
    lamp = Check("up.limited.lamp", "limited", "look", "limiter lamp", "Bright at first, then dim. Staying bright is a short: make idle.",
                 live=True, safety=True, board=supply.name, why="A cold filament has a tenth of its hot resistance.")  # fmt: skip
    title = f"Lamp limiter in, {lamp_watts(rails)} W lamp"
    return [Step("limited", title, "boards unplugged, one minute", (lamp, quiet), live=True, caution=_PRIMARY)]


def _rail_checks(step: str, rails: Iterable[Rail], board: str, aspects: Sequence[str], mains: float = 0.0) -> tuple[Check, ...]:
    checks = []
    for rail in rails:
        band = f"{show(rail.low, 'V')} to {show(rail.high, 'V')}"
        by = f"±{rail.tolerance * 100:g} %"
        make = {
            "up": lambda r=rail: Check(_key("up", step, r.name, "up"), step, "dc_volts", r.name, f"Any volts of the right sign, not above {show(abs(r.high), 'V')}.",
                                       low=min(0.02 * r.nominal, r.high), high=max(r.high, 0.02 * r.nominal), live=True, safety=True, board=board, rail=r.name, aspect="volts", nominal=r.nominal, why="Rises with the mains."),
            "volts": lambda r=rail, b=band, t=by: Check(_key("up", step, r.name, "volts"), step, "dc_volts", r.name, f"{b}, {t}.", low=r.low, high=r.high, live=True, safety=True, board=board,
                                                      rail=r.name, aspect="volts", nominal=r.nominal, why=f"Rail limits {t}"),
            "ripple": lambda r=rail: Check(_key("up", step, r.name, "ripple"), step, "ripple", r.name, "Peak to peak; add “rms” to a plain meter's AC reading.", low=0.0, high=r.ripple_limit, live=True,
                                           safety=True, board=board, rail=r.name, aspect="ripple", nominal=r.nominal, why="1 % of nominal, at least 50 mV, unless the machine says"),
            "lowest": lambda r=rail, b=band: Check(_key("up", step, r.name, "lowest"), step, "dc_volts", r.name, "The lowest seen while a load steps, not the average.", low=r.low, high=r.high, live=True,
                                                   safety=True, board=board, rail=r.name, aspect="lowest", nominal=r.nominal, why="Lowest under a load step, inside the same band"),
        }  # fmt: skip
        checks += [make[aspect]() for aspect in aspects]
    return tuple(checks)


def _full_step(supply: BoardFacts, rails: Sequence[Rail], mains: float) -> Step:
    hold = Check("up.full.hold", "full", "look", "supply", f"Held {HOLD} minutes: nothing warm, no drift, no noise.", live=True, safety=True, board=supply.name)
    checks = (*_rail_checks("full", rails, supply.name, ("volts", "ripple", "lowest")), hold)
    return Step("full", f"{mains:g} V in, full rails", f"hold {HOLD} min, load step", checks, live=True, caution=_PRIMARY)


def _feed_step(supply: BoardFacts, fed: Sequence[BoardFacts], rails: Sequence[Rail]) -> Step:
    before = []
    for store in stores_of(supply):
        before.append(Check(_key("up.feed.discharge", store.ref), "feed", "dc_volts", f"across {store.ref}", "Idle, unplugged and discharged before the board is plugged in.",
                            low=-discharge.SAFE_TO_HANDLE, high=discharge.SAFE_TO_HANDLE, safety=True, board=supply.name, aspect="discharge",
                            caution="Stored charge can kill." if store.volts > discharge.DANGEROUS else "", why=discharge.SOURCE))  # fmt: skip
    names = " and ".join(b.name for b in fed)
    before.append(Check("up.feed.plug", "feed", "look", f"plug to {names}", "Dummy loads off, plug the right way round and home.", safety=True, board=supply.name))
    checks = (*before, *_rail_checks("feed", rails, fed[0].name, ("volts", "ripple")))
    return Step("feed", f"Feed the {names}", "opens when every rail is inside", checks, live=True, rewire=True, caution="One hand, nothing metal on the wrist. " + _PRIMARY)


def _life_step(fed: Sequence[BoardFacts], rails: Sequence[Rail]) -> Step:
    by_name, checks = {r.name: r for r in rails}, []
    for board in fed:
        for chip in board.chips:
            for pin in chip.pins:
                key = _key("up.life", board.name, chip.ref, pin.number)
                point = f"{chip.ref} pin {pin.number}"
                if pin.is_ == "supply" and pin.rail in by_name:
                    rail = by_name[pin.rail]
                    checks.append(Check(key, "life", "dc_volts", point, f"{pin.rail} at the chip's own pin.", low=rail.low, high=rail.high, live=True, board=board.name,
                                        nominal=rail.nominal, why="Rail limits, measured where they count"))  # fmt: skip
                elif pin.is_ in ("clock", "activity"):
                    ask = "The clock runs between clean levels." if pin.is_ == "clock" else "The line moves between levels and is not stuck."
                    checks.append(Check(key, "life", "activity", point, ask, live=True, board=board.name))
    return Step("life", "Signs of life", "rails at the chips, clock, lines that must move", tuple(checks), live=True)


def done(check: Check, record: Record) -> bool:
    """Whether a check passed, or was overridden where that is allowed."""
    seen = record.get(check.key)
    return bool(seen and (seen.passed or (seen.overridden and not check.safety)))


def step_done(step: Step, record: Record) -> bool:
    """Whether everything of a step passed."""
    return all(done(check, record) for check in step.checks)


def open_items(step: Step, record: Record) -> tuple[Shut, ...]:
    """What of a step is missing or failed, as reasons; many alike are counted, not listed."""
    failed = [c for c in step.checks if (s := record.get(c.key)) and not done(c, record) and s is not None]
    missing = [c for c in step.checks if c.key not in record]
    reasons = [
        Shut("failed", f"{c.point}: {show(record[c.key].value, c.unit) if not c.seen else 'not as it should be'}, limit {c.limits}.")
        for c in failed
    ]
    if missing:
        what = f"{missing[0].point}" if len(missing) == 1 else f"{missing[0].point} and {len(missing) - 1} more"
        reasons.append(Shut("missing", f"{step.title}: {len(missing)} not done ({what})."))
    return tuple(reasons)


def step_gate(steps: Sequence[Step], record: Record, key: str) -> tuple[Shut, ...]:
    """Why a step may not be begun yet; empty when it is open. Every step before it must have passed."""
    reasons: list[Shut] = []
    for step in steps:
        if step.key == key:
            return tuple(reasons)
        reasons += open_items(step, record)
    return (Shut("unknown", f"There is no step “{key}” on this unit's way up."),)


def power_gate(steps: Sequence[Step], record: Record, key: str, live_step: str | None) -> tuple[Shut, ...]:
    """Why power may not be put on at a step: earlier steps, its own cold items, or a change of wiring while live."""
    step = next((s for s in steps if s.key == key), None)
    reasons = list(step_gate(steps, record, key))
    if step is None:
        return tuple(reasons)
    if not step.live:
        reasons.append(Shut("cold", f"“{step.title}” is done without power."))
    cold_items = tuple(c for c in step.checks if not c.live)
    reasons += open_items(Step(step.key, step.title, "", cold_items), record)
    if live_step and live_step != key and step.rewire:
        reasons.append(Shut("live", "The unit has power, and something is plugged for this step.", "Make idle and discharge first."))
    return tuple(reasons)


def reading_gate(steps: Sequence[Step], record: Record, check: Check, live_step: str | None) -> tuple[Shut, ...]:
    """Why a reading of a check cannot be taken now."""
    reasons = list(step_gate(steps, record, check.step))
    if check.live and live_step is None:
        reasons.append(Shut("idle", "The unit is idle: a reading now says nothing.", "Put power on at this step first."))
    elif check.live and live_step != check.step:
        reasons.append(Shut("step", "Power is on at another step.", "Go on to this step first."))
    if not check.live and live_step is not None:
        reasons.append(Shut("live", "The unit has power, and this is checked without.", "Make idle first."))
    cold = next(s for s in steps if s.key == "cold")
    if check.step == "cold" and check.aspect != "discharge" and check.kind in ("continuity", "resistance"):
        stores = [c for c in cold.checks if c.aspect == "discharge" and c.board == check.board and not done(c, record)]
        reasons += [Shut("charged", f"{c.point.capitalize()} on {c.board} is not logged as discharged.", "Log under 10 V there first.") for c in stores]
    return tuple(reasons)


@dataclass(frozen=True)
class Progress:
    """Where a unit stands on its way up."""

    steps: tuple[Step, ...]
    record: Record = field(default_factory=dict)

    @property
    def current(self) -> Step | None:
        """The first step that has not passed; None when all have."""
        return next((s for s in self.steps if not step_done(s, self.record)), None)

    @property
    def proven(self) -> bool:
        return len(self.steps) > 1 and self.current is None

    def check(self, key: str) -> Check | None:
        return next((c for s in self.steps for c in s.checks if c.key == key), None)

    def step(self, key: str) -> Step | None:
        return next((s for s in self.steps if s.key == key), None)


def ripple_suspects(parts: Iterable[Fitted], rail: str, kept: frozenset[str]) -> tuple[str, ...]:
    """Kept wet parts on a rail, the first to suspect when it ripples: worst new-part ESR share first."""

    def share(part: Fitted) -> float:
        if part.esr is None or not part.volts:
            return 0.0
        return part.esr / ageing.new_esr(part.value, part.volts, part.esr_frequency or 120.0)

    wanted = re.sub(r"[^0-9+−.]", "", rail.replace("-", "−"))
    on_rail = [p for p in parts if p.ref in kept and p.kind == "wet" and re.sub(r"[^0-9+−.]", "", p.rail.replace("-", "−")) == wanted and wanted]
    return tuple(p.ref for p in sorted(on_rail, key=lambda p: -share(p)))
