"""A unit as its gates see it: its checks, what of them stands now, and where it is on its way up."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property

from ..board.first_look import FirstLookItem
from ..circuit.discharge import DANGEROUS
from . import rounds
from .checks import BoardFacts, Check, PowerStep
from .clock import Moment, age, lasted
from .facts import CLIPPED, DISCHARGED, INSIDE
from .hazards import Unlisted
from .power_steps import mains_check
from .power_up import power_up
from .record import Event, Record
from .status import CREEPS_BACK, CheckStatus, is_simulated, status_of


@dataclass(frozen=True, kw_only=True)
class Proof:
    """All that the gates of a unit are asked from.

    Attributes:
        boards: of the unit. record: its events. now, boot, steady: the moment, as Moment has it. way: a key of WAYS. mains: V rms.
        name: of the unit. looks: its first look, in order. looked: keys that are ticked. skipped: reasons by key.
        live: the step it has power at, "" when idle. live_elsewhere: the unit that has power instead, "" for none.
        handed_over: whether it is closed. reforming: parts that stand on volts for reforming, "C1 on PS-1".
        wet: what dries, and so takes no power yet, in words with the time. apart: what of the dismantling log is not back.
        unsettled: places neither swapped nor left in. simulated: it is tried on the simulated bench.
        blown: fuses that blew since a cause was last logged, by their place. asked: how much its rounds ask, a key of rounds.DEPTHS.
    """

    boards: tuple[BoardFacts, ...] = ()
    record: Record = field(default_factory=Record)
    now: float = 0.0
    way: str = "lamp"
    mains: float = 230.0
    name: str = ""
    looks: tuple[FirstLookItem, ...] = ()
    looked: frozenset[str] = frozenset()
    skipped: Mapping[str, str] = field(default_factory=dict)
    live: str = ""
    live_elsewhere: str = ""
    handed_over: bool = False
    reforming: tuple[str, ...] = ()
    wet: tuple[str, ...] = ()
    apart: tuple[str, ...] = ()
    unsettled: tuple[str, ...] = ()
    simulated: bool = False
    blown: Mapping[str, int] = field(default_factory=dict)
    boot: str = ""
    steady: float = 0.0
    asked: str = ""

    @property
    def moment(self) -> Moment:
        return Moment(self.now, self.boot, self.steady)

    @cached_property
    def unlisted(self) -> tuple[Unlisted, ...]:
        """Stores that are on no list any more and may be charged."""
        return tuple(Unlisted.of(event) for event in self.record.unlisted)

    @cached_property
    def steps(self) -> tuple[PowerStep, ...]:
        """From cold to proven."""
        return power_up(self.boards, self.way, self.mains, self.measured, self.apart, self.unlisted)

    @cached_property
    def measured(self) -> float | None:
        """The mains as it was read last, V, while that counts."""
        ask = mains_check(self.mains, self.way)
        stood = status_of(ask, self.record, self.moment, self.simulated)
        return stood.value if stood.passed else None

    @cached_property
    def _by_key(self) -> dict[str, Check]:
        return {check.key: check for step in self.steps for check in step.checks}

    @cached_property
    def _by_name(self) -> dict[str, list[Check]]:
        found: dict[str, list[Check]] = {}
        for check in self._by_key.values():
            for name in check.names:
                found.setdefault(name, []).append(check)
        return found

    def check(self, key: str) -> Check | None:
        """A check by its key, or by the name a table calls it if only one check has that name."""
        named = self._by_name.get(key, ())
        return self._by_key.get(key) or (named[0] if len(named) == 1 else None)

    def step(self, key: str) -> PowerStep | None:
        return next((s for s in self.steps if s.key == key), None)

    @cached_property
    def _open(self) -> dict[tuple[str, str], tuple[Check, ...]]:
        return {}

    @cached_property
    def _standings(self) -> dict[str, CheckStatus]:
        return {}

    def status_of(self, check: Check) -> CheckStatus:
        """What counts now for a check; reckoned once."""
        found = self._standings.get(check.key)
        if found is None:
            found = status_of(check, self.record, self.moment, self.simulated)
            self._standings[check.key] = found
        return found

    @cached_property
    def depth(self) -> str:
        """How much its rounds ask: full, touched or short."""
        return rounds.depth_of(self.asked, self.boards, self.record)

    @cached_property
    def left_out(self) -> dict[str, str]:
        """The open checks that its rounds do not ask, each with the reason, by key."""
        if self.depth == rounds.FULL:
            return {}
        open_ = [c for step in self.steps for c in step.checks if not (s := self.status_of(c)).done and not s.failed]
        return rounds.left_out(open_, self.record, self.boards, self.depth, self.moment, self.simulated)

    def left_out_of(self, steps: Iterable[PowerStep]) -> list[tuple[str, list[str]]]:
        """What the rounds of some steps do not ask: each reason with the checks it is true of, as a sheet has them."""
        found: dict[str, list[str]] = {}
        for check in (c for step in steps for c in step.checks if c.key in self.left_out):
            found.setdefault(self.left_out[check.key], []).append(check.told)
        return list(found.items())

    @cached_property
    def of_the_bench(self) -> int:
        """How many readings that count were taken of the simulated bench: they prove nothing of a machine."""
        if not self.simulated:
            return 0
        return sum(is_simulated(self.status_of(c).event) for step in self.steps for c in step.checks)

    def done(self, check: Check) -> bool:
        """Whether nothing more is asked of a check now."""
        return self.status_of(check).done

    def wanted(self, check: Check, for_step: str = "") -> bool:
        """Whether a check must stand now, or for a step. Stores are charged by right while the unit has power; dummy loads
        are wanted until the steps that they serve have passed."""
        if self.live and check.fact == DISCHARGED:
            return False
        if self.handed_over and self.record.sealed and self.status_of(check).event is None:
            # what is asked for since then was not asked when it was handed over
            return False
        if check.fact == CLIPPED:
            return False
        if check.fact == INSIDE:
            return self._looked_inside_now(for_step)
        if check.optional:
            return self.status_of(check).failed
        if check.key in self.left_out:
            return False
        if not check.serves or for_step in check.serves:
            return True
        served = (step for step in self.steps if step.key in check.serves)
        return not all(self.done(c) for step in served for c in step.checks)

    def _looked_inside_now(self, for_step: str) -> bool:
        """Whether the look inside the case is asked: for every step under power, and else once the dummy loads are on. Before that hands
        go in again."""
        wanted_for = self.step(for_step)
        if wanted_for is not None:
            return wanted_for.live
        loads = (step for step in self.steps[1:] if step.rewire and not step.live)
        return all(self.step_done(step) for step in loads)

    def open_checks(self, step: PowerStep, for_step: str = "") -> tuple[Check, ...]:
        """What of a step is wanted and not done; reckoned once, for every gate asks it of all steps below its own."""
        key = (step.key, for_step)
        if key not in self._open:
            self._open[key] = tuple(c for c in step.checks if not self.done(c) and self.wanted(c, for_step))
        return self._open[key]

    def step_done(self, step: PowerStep) -> bool:
        return not self.open_checks(step)

    @cached_property
    def current(self) -> PowerStep | None:
        """The first step that is not done; None when all are."""
        return next((s for s in self.steps if not self.step_done(s)), None)

    @property
    def proven(self) -> bool:
        return len(self.steps) > 1 and self.current is None

    @property
    def power(self) -> Event | None:
        return self.record.power

    def held(self, step: str) -> float | None:
        """How long power has been on at a step without a break, s; None where it is not on there."""
        power = self.record.power
        return lasted(power.moment, self.moment) if power is not None and power.step == step else None

    @property
    def grows_old_in(self) -> float | None:
        """In how many seconds the first discharge that counts now counts no more; None where none does by the clock."""
        ends = [
            CREEPS_BACK - age(stood.event.moment, self.moment)
            for stood in map(self.status_of, self.discharges)
            if stood.event is not None and stood.passed and abs(stood.check.nominal or 0.0) > DANGEROUS
        ]
        return min((max(0.0, left) for left in ends), default=None)

    def again(self, **changes: object) -> Proof:
        """The same unit a moment later: the record, the time or the power changed, and so not the checks it asks for."""
        later = replace(self, **changes)
        # what is asked for moves with the mains as it was read, and with nothing else of the record
        if later.measured == self.measured and later.unlisted == self.unlisted:
            for name in ("steps", "_by_key", "_by_name"):
                later.__dict__[name] = getattr(self, name)
        return later

    @property
    def discharges(self) -> tuple[Check, ...]:
        """The discharge of each store of the unit."""
        return tuple(c for c in self.steps[0].checks if c.fact == DISCHARGED)
