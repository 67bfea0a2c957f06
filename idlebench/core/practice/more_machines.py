"""More kinds of machines: monitors, machines on an adapter, sound ones, and ones whose sheet is wrong.

Everything here is made up.
"""

from __future__ import annotations

import random
from collections.abc import Callable
from dataclasses import replace

from ..board.monitor_lines import read_monitor
from ..text.rails_and_chips import read_rail
from .machine_parts import BIG, MIDDLE, NOTHING, SMALL, Adapter, Linear, PracticeStep, Switching, fitted
from .ways import begun, found_live, proof, under_load

MONITOR = """monitor 15.625kHz 50Hz tube 12kV nominal 12in
line stage B+ 12V retrace C12 6n8 yoke 1.2mH deflection C15 boost C18 transformer T2 transistor Q3 draws 1.1A
field output IC1 capacitor C22 1000u into 12mH 8ohm 0.9A
heater 12V 0.3A"""


def _amber() -> dict:
    """The amber screen before anything befell it."""
    rail = "+12 V"
    parts = (
        fitted("C1", 4700e-6, 35.0, "bulk", (26, 28), BIG, rail), fitted("C2", 220e-6, 25.0, "regulator_output", (60, 26), SMALL, rail),
        fitted("C18", 47e-6, 63.0, "boost", (84, 60), SMALL, rail), fitted("C22", 1000e-6, 25.0, "field_store", (50, 58), MIDDLE, rail),
    )  # fmt: skip
    return Linear(random.Random(1)).facts | {
        "lines": "bridge 15V 60VA reservoir C1 regulator VR1 12V 2A joint J2", "rails": (read_rail("+12 V 1.8 A min 0.3 A"),),
        "parts": parts, "joints": ("J2",), "fuse": "T 1 A 250 V", "monitor": read_monitor(MONITOR),
        "story": "The amber screen of the harbour office. Its tube keeps its charge for days.",
    }  # fmt: skip


def _to_the_picture(*before: PracticeStep) -> tuple[PracticeStep, ...]:
    """Up to the first picture, and idle and empty again."""
    return (
        *begun("+12V"), *before,
        PracticeStep("power lamp dummy", "The supply behind the lamp."), PracticeStep("power full dummy", "And at full mains."),
        PracticeStep("read +12V dc", "B+ first: width and tube volts depend on it."),
        PracticeStep("power full board", "Brightness down, and the line stage on."),
        PracticeStep("picture", "The symptom decides where to look."), PracticeStep("power off", "Idle."),
        PracticeStep("empty", "The tube three times by the clock, then every reservoir."),
    )  # fmt: skip


def _picture_again(cause: str, why: str) -> tuple[PracticeStep, ...]:
    return (
        PracticeStep("power lamp dummy", "Behind the lamp again."), PracticeStep("power full dummy", "Full mains."),
        PracticeStep("read +12V dc", "B+."), PracticeStep("power full board", "On."), PracticeStep("picture", why),
        PracticeStep("power off", "Idle."), PracticeStep(f"say {cause}", "Name the cause."), PracticeStep("done", "Proven."),
    )  # fmt: skip


def field_store(chance: random.Random) -> dict:
    left = chance.uniform(180, 320)
    return _amber() | {
        "told": "The lower half of the picture is pressed together.",
        "truth": f"C22 cap {left:.3g}u esr {chance.uniform(1.5, 2.5):.2g}", "cause": frozenset({"C22"}),
        "way": (
            *_to_the_picture(),
            PracticeStep("read C22 esr", "Height depends on the field output capacitor."),
            PracticeStep("swap C22 best", "A quarter of the value is left."),
            *_picture_again("C22", "Full from top to bottom."),
        ),
        "lesson": "A picture pressed together at the bottom: the capacitor that feeds the field coil is dry. "
                  "Discharge the tube each time.",
    }  # fmt: skip


def one_line(chance: random.Random) -> dict:
    return _amber() | {
        "told": "One bright line across the middle. They turned it down so that it does not burn in.",
        "truth": "C22 open", "cause": frozenset({"C22"}), "seen": {"C22": "One of its legs has rusted through at the foot."},
        "way": (
            *_to_the_picture(),
            PracticeStep("look C22", "No height at all: nothing reaches the field coil."),
            PracticeStep("swap C22 best", "A leg is off."), *_picture_again("C22", "A picture again, and full."),
        ),
        "lesson": "One line across is no height at all: the way from the field output to its coil is open. Turn the "
                  "brightness down before you look for it.",
    }  # fmt: skip


def shaking(chance: random.Random) -> dict:
    base = _amber()
    return base | {
        "joints": (*base["joints"], "T2"),
        "told": "The picture shakes and crackles when a door slams.",
        "truth": f"T2 joint {chance.uniform(0.6, 1.2):.2g}", "cause": frozenset({"T2"}),
        "seen": {"T2": "Two pins of the line transformer have dark rings in their solder."},
        "way": (
            *_to_the_picture(), PracticeStep("look T2", "Heavy and hot parts crack their joints first."),
            PracticeStep("mend T2", "Rings round its pins."), *_picture_again("T2", "Steady."),
        ),
        "lesson": "Heavy parts that get warm work their joints loose. Make the joints of a line transformer new in the first hour.",
    }  # fmt: skip


def no_line(chance: random.Random) -> dict:
    base = _amber()
    return base | {
        "others": (*base["others"], "Q3"),
        "told": "Dark. A faint glow deep in the neck, no picture.",
        "truth": "Q3 open", "cause": frozenset({"Q3"}), "seen": {"Q3": "A crack runs across its case."},
        "way": (
            *_to_the_picture(), PracticeStep("look Q3", "The heater glows, so B+ is there: the line stage does not run."),
            PracticeStep("swap Q3", "Its case is cracked."), *_picture_again("Q3", "There it is."),
        ),
        "lesson": "Heater on and no picture: B+ is there, and the line stage makes no tube volts. Begin at its transistor.",
    }  # fmt: skip


def turned_down(chance: random.Random) -> dict:
    return _amber() | {
        "story": f"Sent in by post from the harbour office, with {chance.choice(('two', 'three', 'four'))} sheets of remarks.",
        "told": "Dark since the cleaners were here.", "truth": "", "cause": frozenset({NOTHING}),
        "way": (
            *begun("+12V"),
            PracticeStep("power lamp dummy", "Behind the lamp."), PracticeStep("power full dummy", "Full mains."),
            PracticeStep("read +12V dc", "B+ is right."), PracticeStep("power full board", "On."),
            PracticeStep("picture", "It is there once its brightness is up."), PracticeStep("power off", "Idle."),
            PracticeStep(f"say {NOTHING}", "Somebody turned a knob."), PracticeStep("done", "Proven."),
        ),
        "lesson": "Knobs first. A sound set that is recapped for nothing has been put at risk for nothing.",
    }  # fmt: skip


def half_bridge(chance: random.Random) -> dict:
    base = Linear(chance)
    # built with little to spare: on one half of the bridge it runs out
    parts = tuple(replace(p, value=round(p.value * 0.7, 6)) if p.ref == "C1" else p for p in base.parts)
    return base.facts | {
        "parts": parts, "story": "It was lifted by its transformer once, and hummed ever after.",
        "told": "A rough hum, twice as slow as that of the others.", "truth": "D1 open", "cause": frozenset({"D1"}),
        "way": (
            *begun(base.point), *under_load(base.point),
            PracticeStep("read C1 esr", "The reservoir is good: the gaps between its charges are too long."),
            PracticeStep("read D1 diode", "One of the four does not conduct."), PracticeStep("swap D1", "Open both ways."),
            *proof(base.point, "D1"),
        ),
        "lesson": "Hum at the mains rate instead of twice the mains rate: half of the bridge is missing, not the capacitor.",
    }  # fmt: skip


def shorted_regulator(chance: random.Random) -> dict:
    base = Linear(chance)
    return base.facts | {
        "story": "The second board in it died within a week of the first.",
        "told": "A new board is ready. It only has to be plugged in.", "truth": "VR1 short", "cause": frozenset({"VR1"}),
        "way": (
            *begun(base.point), *found_live(f"read {base.point} dc"),
            PracticeStep("swap VR1", "The regulator passes its input voltage to the rail."), *proof(base.point, "VR1"),
        ),
        "lesson": "Two dead boards have one cause. Read the rail on dummy loads before a third is plugged in.",
    }  # fmt: skip


def start_resistor(chance: random.Random) -> dict:
    base = Switching(chance)
    return base.facts | {
        "story": "It ran day and night in a warm engine room.", "told": "Dead, and its fuse is good.",
        "truth": "R5 open", "cause": frozenset({"R5"}),
        "way": (
            *begun(base.point), *found_live("read +5V dc", "read C7 dc"),
            PracticeStep("read C9 esr", "The small capacitor beside it is good."),
            PracticeStep("read R5 ohms", "Then what charges it: the start resistor."), PracticeStep("swap R5", "It is open."),
            *proof("+5V", "R5"),
        ),
        "lesson": "325 V on the reservoir and no start: the start resistor carries those volts day and night, and opens.",
    }  # fmt: skip


def shorted_switch(chance: random.Random) -> dict:
    base = Switching(chance)
    return base.facts | {
        "story": "Lightning struck the mast. Three fuses were tried, each a size bigger.", "told": "A bang, then nothing.",
        "truth": "Q1 short\nF1 blown", "cause": frozenset({"Q1"}),
        "way": (
            *begun(base.point), PracticeStep("read Q1 diode", "A blown fuse has a cause: the switch hangs across the reservoir."),
            PracticeStep("swap Q1", "It reads zero both ways."), PracticeStep("swap F1", "The marked fuse, not a bigger one."),
            *proof("+5V", "Q1"),
        ),
        "lesson": "A fuse that blows at once in a switching supply: the switch, then the bridge. A bigger fuse only burns more.",
    }  # fmt: skip


def dried_of(ref: str, rail: str, title: str) -> Callable[[random.Random], dict]:
    """A switching supply of which one small rail ripples."""

    def made(chance: random.Random) -> dict:
        base = Switching(chance)
        value = {"C18": 1000e-6, "C21": 220e-6}[ref]
        return base.facts | {
            "story": "The five volts were renewed long ago. Nobody looked at the others.", "told": title,
            "truth": f"{ref} cap {value * chance.uniform(0.05, 0.1):.3g} esr {chance.uniform(5, 8):.2g}@100k", "cause": frozenset({ref}),
            "way": (
                *begun(base.point), *found_live("read +5V ripple", f"read {rail} ripple"),
                PracticeStep(f"read {ref} esr", "The rail names its capacitor."), PracticeStep(f"swap {ref} best", "Dry."),
                *proof(rail, ref),
            ),
            "lesson": "A supply is proven rail by rail: the one that is always read is seldom the one that fails.",
        }  # fmt: skip

    return made


def sound(chance: random.Random) -> dict:
    base = Linear(chance)
    return base.facts | {
        "story": "It stands on a drum table now. Before, it stood on a wall of stone.", "told": "It hums, ever since it was moved.",
        "truth": "", "cause": frozenset({NOTHING}),
        "seen": {"C1": "Flat, dry, and no mark of an iron near it."},
        "way": (
            *begun(base.point, before=(PracticeStep("look C1", "The usual suspect, by eye."),)),
            PracticeStep("power lamp dummy", "Behind the lamp."), PracticeStep("power full dummy", "Full mains."),
            PracticeStep(f"read {base.point} dc", "Right."), PracticeStep("power full board", "As it is used."),
            PracticeStep(f"read {base.point} ripple", "None: what hums is the iron of the transformer, and the table sings."),
            PracticeStep("power off", "Idle."), PracticeStep(f"say {NOTHING}", "No part of it has failed."),
            PracticeStep("done", "Proven."),
        ),
        "lesson": "A hum in the air is not ripple on a rail. Measure before you change anything: sound machines come in, too.",
    }  # fmt: skip


def listed_volts(chance: random.Random) -> dict:
    base = Linear(chance)
    low = {5.0: 6.3, 12.0: 10.0, 8.0: 10.0, 15.0: 16.0}[abs(base.rails[0].nominal)]
    return base.facts | {
        "story": "Its list of parts was typed from the drawing, not from the board.",
        "told": "It smells after a minute. The list is in order.",
        "truth": "", "marked": {"C1": low}, "cause": frozenset({"C1"}),
        "seen": {"C1": f"It is marked {low:g} V, whatever the list says, and its top is no longer flat."},
        "way": (
            *begun(base.point, before=(PracticeStep("look C1", "Compare each marking with the list, the biggest first."),)),
            PracticeStep("swap C1 best", "A part for the volts of its place."), *proof(base.point, "C1", ripple=False),
        ),
        "lesson": "A list says what should be there. Only the part says what is there.",
    }  # fmt: skip


def listed_mend(chance: random.Random) -> dict:
    base = Linear(chance)
    ohms = chance.uniform(0.9, 1.3) * abs(base.rails[0].nominal) / 12 + 0.25
    return base.facts | {
        "story": f"The sheet that came with it says: {base.joint} resoldered, tested.", "told": "It still goes dim and comes back.",
        "truth": f"{base.joint} joint {ohms:.2g} pressed 0.01", "cause": frozenset({base.joint}),
        "seen": {base.joint: "Fresh flux all round it, and the old ring under it: the iron was too cold."},
        "way": (
            *begun(base.point), *found_live(f"read {base.point} dc", f"press {base.joint}"),
            PracticeStep(f"mend {base.joint}", "What the sheet calls done is not done."), *proof(base.point, base.joint),
        ),
        "lesson": "A sheet tells what somebody meant to do. Prove it again under load.",
    }  # fmt: skip


def _on_adapter(base: Adapter, *reads: str) -> tuple[PracticeStep, ...]:
    return (
        PracticeStep("empty", "Short the reservoir through its resistor: an ESR meter does not stand a charge."),
        PracticeStep("power full dummy", "Its adapter in, the boards unplugged."),
        *(PracticeStep(read, "Each reading halves the way to the fault.") for read in reads),
        PracticeStep("power off", "Adapter out."), PracticeStep("empty", "The reservoirs were charged again."),
    )  # fmt: skip


def _adapter_proof(base: Adapter, cause: str) -> tuple[PracticeStep, ...]:
    return tuple(step for step in proof(base.point, cause) if step.move != "power lamp dummy")


def dead_adapter(chance: random.Random) -> dict:
    base = Adapter(chance)
    return base.facts | {
        "story": "The adapter's cable was wound round its case each evening.", "told": "Dead. It was dropped, they think.",
        "truth": "AD1 open", "cause": frozenset({"AD1"}),
        "seen": {"AD1": "Its cable has a soft spot where it leaves the case."},
        "way": (
            *_on_adapter(base, f"read {base.point} dc", "read C1 dc"),
            PracticeStep("look AD1", "Nothing arrives at the reservoir: the adapter or its plug."),
            PracticeStep("swap AD1", "Its cable is broken inside."), *_adapter_proof(base, "AD1"),
        ),
        "lesson": "Begin outside: a machine that gets nothing gives nothing.",
    }  # fmt: skip


def weak_adapter(chance: random.Random) -> dict:
    base = Adapter(chance)
    return base.facts | {
        "story": "One adapter looks like another, and the box under the desk is full of them.",
        "told": "It starts, and resets as soon as it does anything.", "truth": "AD1 weak", "cause": frozenset({"AD1"}),
        "way": (
            *_on_adapter(base, f"read {base.point} dc"),
            PracticeStep("power full board", "Right without its boards: the complaint is about the machine at work."),
            PracticeStep(f"read {base.point} dc", "It breaks down under load."), PracticeStep("read C1 dc", "And so does what comes in."),
            PracticeStep("power off", "Adapter out."), PracticeStep("empty", "The reservoirs were charged again."),
            PracticeStep("swap AD1", "One that gives what the label of the machine asks."), *_adapter_proof(base, "AD1"),
        ),
        "lesson": "Volts without load say nothing of an adapter. Read them at work.",
    }  # fmt: skip


def loose_socket(chance: random.Random) -> dict:
    base = Adapter(chance)
    return base.facts | {
        "story": "Its plug was pulled by the cable for thirty years.", "told": "It goes out when the cable is touched.",
        "truth": f"{base.joint} joint {chance.uniform(4, 6):.2g} pressed 0.01", "cause": frozenset({base.joint}),
        "way": (
            *_on_adapter(base, f"read {base.point} dc", f"press {base.joint}"),
            PracticeStep(f"mend {base.joint}", "It comes back under a finger: a joint."), *_adapter_proof(base, base.joint),
        ),
        "lesson": "What is plugged and pulled each day has its joints worked loose first.",
    }  # fmt: skip


#: More kinds: key, title, and what makes one.
MORE: dict[str, tuple[str, Callable[[random.Random], dict]]] = {
    "amber": ("An amber screen", field_store),
    "stripe": ("One bright line", one_line),
    "slam": ("A slammed door", shaking),
    "glow": ("A glow in the neck", no_line),
    "cleaners": ("After the cleaners", turned_down),
    "slow": ("A slower hum", half_bridge),
    "second": ("The second board", shorted_regulator),
    "engine": ("An engine room", start_resistor),
    "mast": ("A bang at the mast", shorted_switch),
    "others": ("Nobody looked at the others", dried_of("C18", "+12V", "Its sound crackles. The five volts are clean.")),
    "minus": ("Below nought", dried_of("C21", "-12V", "Its lines to the other machines drop out.")),
    "table": ("A singing table", sound),
    "drawing": ("Typed from a drawing", listed_volts),
    "flux": ("Fresh flux", listed_mend),
    "cable": ("A wound cable", dead_adapter),
    "box": ("A box of adapters", weak_adapter),
    "socket": ("Pulled by the cable", loose_socket),
}
