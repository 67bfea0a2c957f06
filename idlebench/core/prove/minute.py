"""What a step under power looks like while it goes well: at once, after ten seconds, after a minute; and what to do if not."""

from __future__ import annotations

from dataclasses import dataclass

from .checks import Step


@dataclass(frozen=True)
class Minute:
    """What to expect of a step, in words: first second, ten, a minute; wrong: what to do where it is not so."""

    first: str
    ten: str
    minute: str
    wrong: str

    @property
    def rows(self) -> tuple[tuple[str, str], ...]:
        return (
            ("In the first second", self.first),
            ("After ten seconds", self.ten),
            ("After a minute", self.minute),
            ("If not", self.wrong),
        )


_IDLE = "Make idle at once, discharge, then look for the cause; no second try before it is found."
#: By the key of a step without what it is of.
_OF = {
    "source": Minute("A hum at the most, and the volts are there.", "The volts stand still, within 1 %.",
                     "The core is cool, nothing smells.",
                     "Growling, warm without load, or low: shorted turns. Make idle and leave it off; it is replaced, not tried again."),
    "adapter": Minute("The volts fall to the label's.", "They stand still.", "Adapter and load warm, not hot; the volts have not moved.",
                      "Sagging while you look: a dried store inside. Make idle; replace the adapter."),
    "third": Minute("Volts of the right sign on the rail.", "They stand still.", "Nothing is warm.", _IDLE),
    "bench": Minute("The amps jump while the stores charge, then fall.", "They stand still, far under the limit.", "Nothing is warm.",
                    "In the limit for over two seconds: a short. Output off, discharge, ohms again on the rails."),
    "alone": Minute("The amps jump while the stores charge, then fall.", "They stand still under the limit; the volts are those set.",
                    "Chips warm to the finger, none hot.",
                    "In the limit: output off. One chip much hotter than its neighbours is the first to look at."),
    "full": Minute("Every rail is there.", "Every rail stands still inside its limits.",
                   "Heatsinks warm, stores cool: a store that is warm is on its way out.",
                   "A rail that sinks or climbs, a hiss, a smell: make idle; what moved it is looked for cold."),
    "high": Minute("Every rail stands as it did before the mains were raised.", "They stand still, none past what it may reach.",
                   "Regulators a little warmer than at nominal mains, nothing smells.",
                   "A rail that climbs with the mains: turn down, make idle; its regulator or feedback does not hold."),
    "feed": Minute("The rails dip by less than a tenth and come back.", "Every rail stands inside its limits.",
                   "No part too warm to touch, no smell.",
                   "A rail down: make idle. The board draws too much or the plug is not home: ohms of that rail again, both ways."),
    "life": Minute("The clock runs.", "Lines that must move, move.", "The picture or prompt, where there is one.",
                   "Rails right and nothing moves: reset and clock first, then the chip that should drive the line."),
}  # fmt: skip
_LAMP = Minute(
    "The lamp is bright: the stores charge.",
    "It has fallen to what is said below, and stays there.",
    "Nothing is warm, no hiss.",
    "Still bright after ten seconds: make idle, discharge, then ohms of the rails and the bridge: something is shorted.",
)
_LISTEN = Minute("Silence, or a faint hum.", "No smoke, no hiss.", "Nothing is warm.", _IDLE)


def minute_of(step: Step) -> Minute | None:
    """What a step under power looks like while it goes well; None for one without power.

    >>> minute_of(Step('source', '', '', (), live=True)).rows[1]
    ('After ten seconds', 'The volts stand still, within 1 %.')
    """
    if not step.live:
        return None
    base = step.key.split(".")[0]
    if base == "limited":
        return _LAMP if any(check.point == "limiter lamp" for check in step.checks) else _LISTEN
    return _OF.get("third" if base in ("half", "most") else base)
