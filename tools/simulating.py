"""How long the simulated bench takes: many draws of a supply against one of it."""

from __future__ import annotations

from asked import asked
from timing import best_of_both

from idlebench.core.board.parts import Fitted
from idlebench.core.simulate.expected import DRAWS, bands, draws
from idlebench.core.simulate.readings import read_asked
from idlebench.core.simulate.state import read_state
from idlebench.core.simulate.steady_state import run
from idlebench.core.simulate.supply import Bench

#: The most that 500 draws of a linear supply may take, times one of it.
MOST_TIMES = 5.0
LINEAR = "bridge 15V 1.1ohm store C1 regulator VR1 12V 0.5A dropout 2.2"
SWITCHING = (
    "bridge mains 10.6ohm store C7 converter flyback 30W eff 0.78 at 42k fuse T1.6A\n"
    "rail +5V 3.1A duty 0.47 stores C14,C15\nrail +12V 0.5A duty 0.47 stores C18\nrail -12V 0.2A duty 0.47 stores C21"
)
PARTS = [
    Fitted(ref="C1", value=3300e-6, volts=25.0),
    Fitted(ref="C7", value=220e-6, volts=400.0),
    Fitted(ref="C14", value=2200e-6, volts=10.0),
    Fitted(ref="C15", value=2200e-6, volts=10.0),
    Fitted(ref="C18", value=1000e-6, volts=16.0),
    Fitted(ref="C21", value=100e-6, volts=25.0),
]


def simulating() -> None:
    """500 draws in one run against one draw, of a linear and of a switching supply, plain and behind a lamp."""
    for name, lines in (("linear", LINEAR), ("switching", SWITCHING)):
        bench = Bench.of(lines, PARTS)
        for words in ("mains 230V 50Hz", "mains 230V 50Hz; lamp 150W; load dummy"):
            state = read_state(words)
            many, one = draws(bench, DRAWS), draws(bench, 1)
            whole, single = best_of_both(
                lambda m=many, b=bench, s=state: run(b, m, s), lambda o=one, b=bench, s=state: run(b, o, s)
            )
            most = MOST_TIMES if name == "linear" else 20
            asked(
                f"{name} supply, {words}: {DRAWS} draws ({whole:.0f} ms), times one ({single:.1f} ms)",
                whole / single,
                most,
                "×",
            )
        points = read_asked("; ".join(f"{rail} dc; {rail} ripple; {rail} lowest" for rail in bench.rails), bench)
        state = read_state("mains 230V 50Hz; load dummy")
        took, _ = best_of_both(lambda b=bench, s=state, a=points: bands(b, s, a), lambda: None)
        asked(f"{name} supply, bands of its rails", took, 300, "ms")
