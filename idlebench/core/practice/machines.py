"""Machines with a fault, made by a kind and a seed: what its sheet says, what is really so, and the way a careful person goes.

Everything here is made up. A machine is the same for the same seed; another seed gives another name, other values and places.
"""

from __future__ import annotations

import random
from collections.abc import Callable
from dataclasses import replace

from ..board.parts import Fitted
from ..refusal import BadInput
from ..text.quantity import show
from .machine_parts import NOTHING, Linear, Machine, PracticeStep, Switching, named
from .more_machines import MORE
from .ways import begun, each_rail_read, found_live, looks, proof, under_load

MOST_SEED = 60


def dried_store(chance: random.Random) -> dict:
    base = Linear(chance)
    old = base.parts[0]
    left = old.value * chance.uniform(0.06, 0.10)
    esr = chance.uniform(1.4, 2.0)
    return base.facts | {
        "story": "It stood in a warm cupboard next to the lamp stove for thirty years.",
        "told": "It hums, and its display wavers with the hum.",
        "truth": f"C1 cap {left:.3g} esr {esr:.2g}", "cause": frozenset({"C1"}),
        "way": (
            *begun(base.point), *under_load(base.point),
            PracticeStep("read C1 esr", "Ripple at the mains rate comes from the reservoir before the regulator."),
            PracticeStep("swap C1 best", "ESR far above a new part's: the capacitor is dry."), *proof(base.point, "C1"),
        ),
        "lesson": "Hum on a regulated rail means that the regulator runs out of volts between two half waves: its "
                  "reservoir capacitor is dry.",
    }  # fmt: skip


def dressed_up(chance: random.Random) -> dict:
    base = Linear(chance)
    old = base.parts[0]
    small = chance.choice((0.07, 0.09))
    return base.facts | {
        "story": "A dealer had it before, and it is cleaner inside than a machine of its age should be.",
        "told": "The label says freshly serviced. It still hums.",
        "truth": f"C1 cap {old.value * small:.3g} esr 0.9", "cause": frozenset({"C1"}),
        "seen": {"C1": "Its sleeve is new and too wide; under the rim a smaller can is glued into the shell of the old "
                       "one."},
        "way": (
            *begun(base.point, before=(PracticeStep("look C1", "The biggest can is the one most worth faking."),)),
            *under_load(base.point),
            PracticeStep("read C1 cap", "A can of this size should hold more, if the marking is true."),
            PracticeStep("swap C1 best", "The part in the shell has a fraction of the marked value."), *proof(base.point, "C1"),
        ),
        "lesson": "The print on a sleeve is a claim. Measure value and ESR whatever the sleeve says.",
    }  # fmt: skip


def misread(chance: random.Random) -> dict:
    base = Linear(chance)
    old = base.parts[0]
    tenth = old.value / 10
    return base.facts | {
        "story": "Somebody listed its parts from a photo before it came here.",
        "told": "It resets when the relay pulls in, and hums.",
        "truth": f"C1 cap {tenth:.3g} esr 0.25", "cause": frozenset({"C1"}),
        "seen": {"C1": f"It is marked {show(tenth, 'F')}. The list has ten times that: somebody read one nought too "
                       "many."},
        "way": (
            *begun(base.point, before=(PracticeStep("look C1", "Check a list that somebody else made against the parts."),)),
            *under_load(base.point),
            PracticeStep("read C1 cap", "The meter decides."),
            PracticeStep("swap C1 best", "The place needs the value that its can had room for."), *proof(base.point, "C1"),
        ),
        "lesson": "A tenfold slip looks harmless on paper, but the part behaves as its true value. Calculate what "
                  "the place needs.",
    }  # fmt: skip


def backwards(chance: random.Random) -> dict:
    base = Linear(chance)
    ref = chance.choice(("C2", "C3", "C4"))
    return base.facts | {
        "story": "An earlier owner replaced three parts on a kitchen table and never dared to switch it on.",
        "told": "Repaired, not tested.",
        "truth": "", "backwards": frozenset({ref}), "cause": frozenset({ref}),
        "seen": {ref: "Its stripe is at the pad marked +. The part is the wrong way round."},
        "way": (
            *begun(base.point, before=looks(ref, "New joints by another hand: check which way round each part is.")),
            PracticeStep(f"swap {ref} best", "It was reformed the wrong way: fit a new part, the right way round."),
            *proof(base.point, ref, ripple=False),
        ),
        "lesson": "A part fitted backwards bursts in the first minute. Check the polarity before power, and again "
                  "after each piece of work.",
    }  # fmt: skip


def overvolted(chance: random.Random) -> dict:
    base = Linear(chance)
    ref = chance.choice(("C2", "C3", "C4"))
    rail = abs(base.rails[0].nominal)
    low = {5.0: 4.0, 12.0: 6.3, 8.0: 4.0, 15.0: 10.0}[rail]
    return base.facts | {
        "story": "Recapped from a drawer of leftover parts.",
        "told": "It worked for a minute, then there was a smell. He switched off.",
        "truth": "", "marked": {ref: low}, "cause": frozenset({ref}),
        "seen": {ref: f"It is marked {low:g} V and is on {base.rail}. Its top is no longer quite flat."},
        "way": (
            *begun(base.point, before=looks(ref, "The smell came from a part: compare marked volts with the rail.")),
            PracticeStep(f"swap {ref} best", "Marked for less than its rail: replace it."), *proof(base.point, ref, ripple=False),
        ),
        "lesson": "Value and size fitted, volts did not. Choose every part for the highest volts that its place "
                  "sees.",
    }  # fmt: skip


def cracked_joint(chance: random.Random) -> dict:
    base = Linear(chance)
    ohms = chance.uniform(0.9, 1.3) * abs(base.rails[0].nominal) / 12 + 0.25
    return base.facts | {
        "story": "It hung on a wall next to a slamming door.",
        "told": "Dim, and bright again when somebody leans on the case.",
        "truth": f"{base.joint} joint {ohms:.2g} pressed 0.01", "cause": frozenset({base.joint}),
        "seen": {base.joint: "A fine ring runs round one pin in the solder."},
        "way": (
            *begun(base.point), *found_live(f"read {base.point} dc", f"press {base.joint}"),
            PracticeStep(f"mend {base.joint}", "Volts that come back under a finger are lost in a joint."), *proof(base.point, base.joint),
        ),
        "lesson": "Volts that are missing at the board and present at the supply are lost in the joint between "
                  "them: press the joint with something insulated.",
    }  # fmt: skip


def dead_regulator(chance: random.Random) -> dict:
    base = Linear(chance)
    return base.facts | {
        "story": "It was left running under a heap of charts one summer.",
        "told": "Nothing. No light at all.",
        "truth": "VR1 dead", "cause": frozenset({"VR1"}),
        "seen": {"VR1": "The board under it is browned, and its tab has lost its compound."},
        "way": (
            *begun(base.point), *found_live(f"read {base.point} dc", "read C1 dc"),
            PracticeStep("swap VR1", "Volts before it, none after it."), *proof(base.point, "VR1"),
        ),
        "lesson": "Halve the way: volts at the reservoir and none at the rail point to the regulator.",
    }  # fmt: skip


def shorted_diode(chance: random.Random) -> dict:
    base = Linear(chance)
    return base.facts | {
        "story": "It went dark in a thunderstorm. A new fuse blew, too, and a third.",
        "told": "It blows fuses.",
        "fuse": "T 315 mA 250 V", "truth": "D1 short\nF1 blown", "cause": frozenset({"D1"}),
        "way": (
            *begun(base.point),
            PracticeStep("read D1 diode", "Three blown fuses have a cause: check the bridge first, diode by diode."),
            PracticeStep("swap D1", "It reads zero both ways: shorted."),
            PracticeStep("swap F1", "Fit the marked fuse, not a bigger one."), *proof(base.point, "D1"),
        ),
        "lesson": "The fuse is not the fault. Find what blew the fuse, and use the lamp for the next test.",
    }  # fmt: skip


def dried_output(chance: random.Random) -> dict:
    base = Switching(chance)
    ref = chance.choice(("C14", "C15"))
    other = "C15" if ref == "C14" else "C14"
    return base.facts | {
        "story": "From a ship's bridge, where it was never switched off.",
        "told": "The picture sparkles and characters change by themselves.",
        "truth": f"{ref} cap 300u esr {chance.uniform(4, 6):.2g}@100k\n{other} cap 1200u esr {chance.uniform(0.25, 0.35):.2g}@100k",
        "cause": frozenset({"C14", "C15"}),
        "seen": {ref: "Brown fluid has leaked out under its rubber.", other: "Its top is slightly domed."},
        "way": (
            *begun(base.point, before=(PracticeStep("look C14", "Output capacitors of a switching supply fail first."),
                                     PracticeStep("look C15", "And the capacitor next to it."))),
            *found_live("read +5V ripple"),
            PracticeStep("read C14 esr", "Ripple at the switching rate comes from ESR."), PracticeStep("swap C14 best", "Out."),
            PracticeStep("swap C15 best", "They aged together; a single new one would carry all the ripple."), *proof("+5V", "C14 C15"),
        ),
        "lesson": "Two capacitors in parallel share the ripple and the years. In circuit the good one hides the "
                  "bad one.",
    }  # fmt: skip


def start_store(chance: random.Random) -> dict:
    base = Switching(chance)
    return base.facts | {
        "story": "It ran for years without a break, until a power cut. It never started again.",
        "told": "Dead. The fuse is good.",
        "truth": f"C9 cap {chance.uniform(0.8, 2.0):.2g}u esr {chance.uniform(30, 60):.3g}", "cause": frozenset({"C9"}),
        "way": (
            *begun(base.point), *found_live("read +5V dc", "read C7 dc"),
            PracticeStep("read C9 esr", "Volts on the reservoir, none after it: the supply tries to start and cannot."),
            PracticeStep("swap C9 best", "Too little capacitance is left for one start."), *proof("+5V", "C9"),
        ),
        "lesson": "A supply that runs and does not start again after a break: check the small capacitor next to "
                  "its start resistor.",
    }  # fmt: skip


def no_load(chance: random.Random) -> dict:
    base = Switching(chance)
    return base.facts | {
        "story": "Sent as a bare supply. Two other workshops gave it up.",
        "told": "It ticks. The note says: tested on the bench with nothing plugged in, dead.",
        "truth": "", "cause": frozenset({NOTHING}),
        "way": (
            *begun(base.point),
            PracticeStep("power lamp none", "As it was tested before."), PracticeStep("read +5V dc", "No volts, and it ticks."),
            PracticeStep("power off", "Idle."), PracticeStep("power lamp dummy", "This supply needs a least load: connect one."),
            PracticeStep("power full dummy", "And full mains."), PracticeStep("read +5V dc", "The rail is there."),
            PracticeStep("read +5V ripple", "And the ripple is low."),
            PracticeStep("power full board", "With its boards."), PracticeStep("power off", "Idle."),
            PracticeStep(f"say {NOTHING}", "It was never broken."), PracticeStep("done", "Proven."),
        ),
        "lesson": "Many switching supplies need a least load. Without a load they start and stop, and good ones "
                  "are thrown away.",
    }  # fmt: skip


def feedback(chance: random.Random) -> dict:
    base = Switching(chance)
    # one that was built with volts to spare: its stores stand what comes
    spare = {"C14": 16.0, "C15": 16.0, "C18": 25.0, "C21": 35.0}
    return base.facts | {
        "parts": tuple(replace(p, volts=spare.get(p.ref, p.volts)) for p in base.parts),
        "story": "Somebody cleaned it with a stiff brush and tore off a thin wire without noticing.",
        "told": "The last board that was plugged in died. Another one is ready.",
        "truth": "FB open", "cause": frozenset({"FB"}),
        "seen": {"FB": "One leg of the opto coupler is loose: its joint is torn."},
        "way": (
            *begun(base.point), *found_live("read +5V dc"),
            PracticeStep("look FB", "Every rail is too high by the same share: nothing regulates them."),
            PracticeStep("mend FB", "The torn leg repaired."), *proof("+5V", "FB"),
        ),
        "lesson": "A supply without its feedback destroys every board that is plugged in. Dummy loads survive it.",
    }  # fmt: skip


#: Every kind of machine: key, title, and what makes one.
KINDS: dict[str, tuple[str, Callable[[random.Random], dict]]] = {
    "hum": ("A hum", dried_store),
    "serviced": ("Freshly serviced", dressed_up),
    "list": ("A list by somebody else", misread),
    "kitchen": ("Repaired, not tested", backwards),
    "drawer": ("From a drawer", overvolted),
    "door": ("Next to a door", cracked_joint),
    "charts": ("Under the charts", dead_regulator),
    "storm": ("After a storm", shorted_diode),
    "bridge": ("Never switched off", dried_output),
    "cut": ("A power cut", start_store),
    "ticks": ("Given up twice", no_load),
    "brush": ("A stiff brush", feedback),
    **MORE,
}


def machine(kind: str, seed: str) -> Machine:
    """A machine of a kind, the same one for the same seed.

    Args:
        kind: the kind, a word of the open formats.
        seed: any text.

    Returns:
        The machine with its fault, sheet and steps.

    Raises:
        BadInput: no such kind, or a seed that is empty or too long.
    """
    if kind not in KINDS:
        raise BadInput(kind, f"one of {', '.join(KINDS)}", field="kind")
    plain = " ".join(seed.split())
    if not 0 < len(plain) <= MOST_SEED:
        raise BadInput(seed[:80], f"a seed of 1 to {MOST_SEED} letters", "Use any word or number.", field="seed")
    chance = random.Random(f"{kind}:{plain.casefold()}")
    title = named(chance)
    facts = KINDS[kind][1](chance)
    facts["way"] = each_rail_read(facts["way"], [rail.name.replace(" ", "") for rail in facts["rails"]])
    return Machine(kind=kind, seed=plain, title=title, **facts)


def truly(machine: Machine) -> tuple[Fitted, ...]:
    """The parts with the volts that are really marked on them."""
    return tuple(replace(p, volts=machine.marked.get(p.ref, p.volts)) for p in machine.parts)
