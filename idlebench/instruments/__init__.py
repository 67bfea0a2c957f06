"""Instruments by SCPI over TCP, through VISA; and the simulated ones that ship. No Django.

A reading has its unit and its range; an instrument that is slow, silent or tells nonsense is refused in words and writes
nothing. Only sources are set, and no output is ever switched on from here.
"""

from .bench_server import BenchServer
from .bench_tools import KINDS, SWITCHED, Scope, Source, tried
from .meter import QUESTIONS, LcrMeter, LcrReading, Multimeter, Session, read_address
from .stand_in import HOUSE, NAME, Probed, StandIn, believable, beside, house


def meter_address(text: str) -> str:
    """A meter as a person types it: an address, or the simulated meter.

    Raises:
        BadInput: neither of the two.

    >>> meter_address('Stand-in'), meter_address('simulated meter')
    ('stand-in', 'stand-in')
    """
    # the word of before is read for ever, and it is the one that files have
    return HOUSE if text.strip().lower() in (HOUSE, "simulated", "simulated meter") else read_address(text)


def open_meter(address: str) -> LcrMeter:
    """Open a meter by what meter_address gave.

    Raises:
        BadInput: nothing answers there.
    """
    return LcrMeter(house().address if address == HOUSE else address)


__all__ = [
    "HOUSE",
    "KINDS",
    "NAME",
    "QUESTIONS",
    "SWITCHED",
    "BenchServer",
    "LcrMeter",
    "LcrReading",
    "Multimeter",
    "Probed",
    "Scope",
    "Session",
    "Source",
    "StandIn",
    "believable",
    "beside",
    "house",
    "meter_address",
    "open_meter",
    "read_address",
    "tried",
]
