"""Verdict on a part that is no capacitor: what was read of it against what a sound one reads, and what was seen.

Source: workshop practice, because no standard weighs old parts. In circuit neighbours only make a reading less: more condemns there, too.
"""

from __future__ import annotations

import re
from functools import lru_cache

from ..board.device_readings import NOTHING_TO_MEASURE, OL, QUANTITIES, Measured
from ..board.devices import Device
from .device_limits import SoundReading, sound_readings
from .evidence import LOOK_POINTS, LOOK_SAYS, Evidence
from .verdict import DOUBTFUL, DOUBTFUL_FROM, NOT_SEEN, REPLACE, REPLACE_FROM, SOUND, Verdict, by_hand

#: What nothing conducts and what a dead short add: the plainest things a meter can say.
PLAIN = 10.0
#: A reading out of its limits: from these points on it condemns; between limit and far limit it is doubtful.
BAD, ODD = 8.0, 3.0
#: Under this a junction is shorted, V.
SHORTED = 0.05


def judge_reading(sound: SoundReading, read: Measured, lifted: bool) -> Evidence:
    """One reading against what a sound part reads.

    Args:
        sound: what a sound part reads.
        read: what was read.
        lifted: whether the part was out of its circuit.

    Returns:
        The evidence with its points: 0 and less for a good one. Its rule is "in circuit" where the reading tells nothing.

    >>> two = SoundReading(what='ohms', low=90.0, high=110.0, far_low=80.0, far_high=120.0)
    >>> [judge_reading(two, Measured('ohms', ohms), True).points for ohms in (100.0, 115.0, 60.0, OL)]
    [-1.5, 3.0, 8.0, 10.0]
    """
    title = QUANTITIES[read.what].title
    of = f"{title} {read.text}, a sound one {sound.text}" + (f" ({sound.why})" if sound.why else "")
    junction = QUANTITIES[read.what].unit == "V" and read.what != "volts"

    def told(points: float, text: str, rule: str = "reading") -> Evidence:
        finite = read.value if read.value != OL else None
        limit = sound.high if sound.high is not None and read.value > sound.high else sound.low
        return Evidence(rule=rule, text=text, points=points, value=finite, limit=limit if limit != OL else None)

    if sound.high is not None and read.value > sound.high:
        if read.value == OL:
            return told(PLAIN, f"{title} OL: open, a sound one {sound.text}")
        odd = sound.far_high is not None and read.value <= sound.far_high
        return told(ODD if odd else BAD, of)
    if sound.low is not None and read.value < sound.low:
        if junction and sound.low == OL and read.value >= 1.2:
            # between its own volts and OL a meter shows what it can still give
            return told(-1.0, f"{title} {read.text}: it blocks")
        if not lifted and sound.less_in_circuit:
            return told(
                0.0,
                f"{title} {read.text} in circuit, less than {sound.text}: lift one leg and read again",
                "in circuit",
            )
        if (junction and read.value < SHORTED) or (sound.what == "ohms" and sound.low > 10 and read.value < 1.0):
            return told(PLAIN, f"{title} {read.text}: shorted, a sound one {sound.text}")
        odd = sound.far_low is not None and read.value >= sound.far_low
        return told(ODD if odd else BAD, of)
    return told(-1.5 if lifted else -1.0, of)


#: Words of a note that say what was found of a part where no reading says it.
_NOTED = re.compile(r"\b(open|blown|shorted|dead|burnt out|broken)\b", re.I)


@lru_cache(maxsize=4096)
def judge_device(part: Device) -> Verdict:
    """Judge a part that is no capacitor as it stands.

    Args:
        part: the part with its looks and readings.

    Returns:
        The verdict, with every piece of evidence and its points.

    >>> from ..board.devices import read_device
    >>> judge_device(read_device('F1 fuse T 1A OL')).name, judge_device(read_device('D1 diode 1A 400V reads 0.55 OL')).name
    ('replace', 'sound')
    """
    found = []
    if part.looks in LOOK_POINTS:
        points = LOOK_POINTS[part.looks]
        found.append(Evidence(rule="looks", text=LOOK_SAYS.get(part.looks, f"{part.looks} to the eye"), points=points))
    elif part.looks == "sound":
        found.append(Evidence(rule="looks", text="looks sound", points=0.0))
    if noted := _NOTED.search(part.note):
        found.append(Evidence(rule="noted", text=f"noted: {noted[0].lower()}", points=BAD))
    limits = {one.what: one for one in sound_readings(part)}
    good = False
    for read in part.reads:
        if read.what not in limits:
            text = f"{QUANTITIES[read.what].title} {read.text}: no limit is known for it"
            found.append(Evidence(rule="no limit", text=text, points=0.0))
            continue
        found.append(judge_reading(limits[read.what], read, bool(part.lifted)))
        good |= found[-1].points < 0
    found.sort(key=lambda e: -e.points)
    points = sum(e.points for e in found)
    if any(e.points >= REPLACE_FROM for e in found) or points >= REPLACE_FROM:
        name = REPLACE
    elif any(e.points >= DOUBTFUL_FROM for e in found) or points >= DOUBTFUL_FROM:
        name = DOUBTFUL
    else:
        # most kinds show nothing to the eye; those of which nothing can be measured are judged by it
        name = SOUND if good or (part.looks == "sound" and part.what in NOTHING_TO_MEASURE) else NOT_SEEN
    verdict = Verdict(name, round(points, 2), tuple(found))
    return by_hand(verdict, part.judged, part.note or "no reason given") if part.judged else verdict
