"""Instruments by SCPI over TCP, through VISA; and the stand-ins that ship. No Django."""

from .meter import LcrMeter, LcrReading, read_address
from .stand_in import Probed, StandIn, believable

__all__ = ["LcrMeter", "LcrReading", "Probed", "StandIn", "believable", "read_address"]
