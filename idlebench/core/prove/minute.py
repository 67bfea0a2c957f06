"""What a step under power looks like while it goes well: at once, after ten seconds, after a minute; and what to do if not."""

from __future__ import annotations

from dataclasses import dataclass

from .checks import PowerStep


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


_IDLE = "Make idle at once, discharge, then look for the cause; no second try before the cause is found."
#: By the key of a step without what it is of.
_OF = {
    "source": Minute("At most a hum, and the volts are there.", "The volts are steady, within 1 %.",
                     "The core is cool, nothing smells.",
                     "Growling, warm without load, or low: shorted turns. Make idle and leave it off; replace it, do "
                     "not try again."),
    "adapter": Minute("The volts fall to those on the label.", "They are steady.",
                      "Adapter and load warm, not hot; the volts have not moved.",
                      "Volts sagging while you watch: a dry capacitor inside. Make idle; replace the adapter."),
    "third": Minute("Volts of the right sign on the rail.", "They are steady.", "Nothing is warm.", _IDLE),
    "bench": Minute("The amps jump while the capacitors charge, then fall.", "They are steady, far under the limit.", "Nothing is warm.",
                    "In the limit for over two seconds: a short. Output off, discharge, ohms again on the rails."),
    "alone": Minute("The amps jump while the capacitors charge, then fall.", "They are steady under the limit; the volts are those set.",
                    "Chips warm to the finger, none hot.",
                    "In the limit: output off. Check a chip that is much hotter than its neighbours first."),
    "full": Minute("Every rail is there.", "Every rail is steady inside its limits.",
                   "Heatsinks warm, capacitors cool: a warm capacitor is about to fail.",
                   "A rail that sinks or climbs, a hiss, a smell: make idle; look for the cause without power."),
    "high": Minute("Every rail reads as before the mains were raised.", "They are steady, none above what it may reach.",
                   "Regulators a little warmer than at nominal mains, nothing smells.",
                   "A rail that climbs with the mains: turn down, make idle; its regulator or feedback does not hold."),
    "feed": Minute("The rails dip by less than a tenth and come back.", "Every rail is inside its limits.",
                   "No part too warm to touch, no smell.",
                   "A rail down: make idle. The board draws too much or the plug is not home: measure the ohms of "
                   "that rail again, both ways."),
    "life": Minute("The clock runs.", "Lines that must move, move.", "The picture or prompt, where there is one.",
                   "Rails right and nothing moves: check reset and clock first, then the chip that should drive the "
                   "line."),
}  # fmt: skip
_LAMP = Minute(
    "The lamp is bright while the reservoirs charge.",
    "It has dimmed to what is given below, and stays there.",
    "Nothing is warm, no hiss.",
    "Still bright after ten seconds: make idle, discharge, then ohms of the rails and the bridge: something is shorted.",
)
_LISTEN = Minute("Silence, or a faint hum.", "No smoke, no hiss.", "Nothing is warm.", _IDLE)


def minute_of(step: PowerStep) -> Minute | None:
    """What a step under power looks like while it goes well; None for one without power.

    >>> minute_of(PowerStep(key='source', title='', detail='', checks=(), live=True)).rows[1]
    ('After ten seconds', 'The volts are steady, within 1 %.')
    """
    if not step.live:
        return None
    base = step.key.split(".")[0]
    if base == "limited":
        return _LAMP if any(check.point == "limiter lamp" for check in step.checks) else _LISTEN
    return _OF.get("third" if base in ("half", "most") else base)
