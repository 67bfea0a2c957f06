"""A machine that tries everything in any order: whatever is done, no step has power before all before it passed."""

from hypothesis import settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, invariant, rule

from idlebench.core import prove
from idlebench.core.board.parts import Fitted
from idlebench.core.prove import BoardFacts, Seen
from idlebench.core.text.rails_and_chips import read_chip, read_rail

SUPPLY = BoardFacts(
    "S",
    "switching",
    (Fitted("C7", 220e-6, 400, role="bulk"),),
    frozenset({"C7"}),
    (read_rail("+5 V 2 A"), read_rail("-12 V 0.1 A")),
    (),
    "T 1 A",
)
BOARD = BoardFacts("M", "", (), frozenset(), (), (read_chip("U1 cpu gnd 1 +5V 2 clock 3"),))
WAYS = {way: prove.way_up([SUPPLY, BOARD], way) for way in prove.WAYS}
KEYS = sorted({c.key for steps in WAYS.values() for s in steps for c in s.checks})
STEPS = sorted({s.key for steps in WAYS.values() for s in steps})


class Bench(RuleBasedStateMachine):
    """A person who reads, overrides, powers and idles at will; only what the gates allow happens."""

    def __init__(self) -> None:
        super().__init__()
        self.steps = WAYS["variable"]
        self.record: dict[str, Seen] = {}
        self.live: str | None = None

    def check(self, key: str) -> prove.Check | None:
        return prove.Progress(self.steps, self.record).check(key)

    @rule(key=st.sampled_from(KEYS), good=st.integers(0, 9))
    def read(self, key: str, good: int) -> None:
        check = self.check(key)
        if check and not prove.reading_gate(self.steps, self.record, check, self.live):
            self.record[key] = Seen(1.0 if good else 0.0, bool(good))

    @rule()
    def read_all_that_is_open(self) -> None:
        for step in self.steps:
            for check in step.checks:
                if not prove.reading_gate(self.steps, self.record, check, self.live):
                    self.record[check.key] = Seen(1.0, True)

    @rule(key=st.sampled_from(KEYS))
    def override(self, key: str) -> None:
        if self.check(key):
            self.record[key] = Seen(0.0, False, overridden=True)

    @rule(key=st.sampled_from(STEPS))
    def power(self, key: str) -> None:
        if not prove.power_gate(self.steps, self.record, key, self.live):
            before = self.steps[: [s.key for s in self.steps].index(key)]
            assert all(prove.done(c, self.record) for s in before for c in s.checks), "a step before it is open"
            assert not any(c.safety and not self.record[c.key].passed for s in before for c in s.checks), (
                "safety overridden"
            )
            self.live = key

    @rule()
    def power_at_the_next_step(self) -> None:
        current = prove.Progress(self.steps, self.record).current
        if current:
            self.power(current.key)

    @rule()
    def idle(self) -> None:
        self.live = None

    @invariant()
    def a_live_step_is_a_live_step(self) -> None:
        assert self.live is None or next(s for s in self.steps if s.key == self.live).live

    @invariant()
    def proven_means_everything_passed(self) -> None:
        progress = prove.Progress(self.steps, self.record)
        if progress.proven:
            assert all(prove.done(c, self.record) for s in self.steps for c in s.checks)


Bench.TestCase.settings = settings(max_examples=60, stateful_step_count=40, deadline=None)
TestBench = Bench.TestCase
