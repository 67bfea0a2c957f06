"""Instruments by SCPI over TCP, through VISA; and the stand-ins that ship. No Django."""

from idlebench.core.refusal import BadInput

from .bench_server import BenchServer
from .meter import QUESTIONS, LcrMeter, LcrReading, Multimeter, read_address
from .stand_in import HOUSE, NAME, Probed, StandIn, believable, beside, house


def meter_address(text: str) -> str:
    """A meter as a person types it: an address, or the stand-in.

    Raises:
        BadInput: neither of the two.

    >>> meter_address('Stand-in')
    'stand-in'
    """
    return HOUSE if text.strip().lower() == HOUSE else read_address(text)


def open_meter(address: str) -> LcrMeter:
    """Open a meter by what meter_address gave.

    Raises:
        BadInput: nothing answers there.
    """
    return LcrMeter(house().address if address == HOUSE else address)


def identity_of(address: str) -> str:
    """What an instrument says it is.

    Raises:
        BadInput: nothing answers there, or not as an instrument does.
    """
    with open_meter(address) as meter:
        if not meter.identity:
            raise BadInput("an answer that names no instrument", f"an instrument at {address}", "", "address")
        return meter.identity


__all__ = [
    "HOUSE",
    "NAME",
    "QUESTIONS",
    "BenchServer",
    "LcrMeter",
    "LcrReading",
    "Multimeter",
    "Probed",
    "StandIn",
    "believable",
    "beside",
    "house",
    "identity_of",
    "meter_address",
    "open_meter",
    "read_address",
]
