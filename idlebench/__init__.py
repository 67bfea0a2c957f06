"""Idle Bench: the measuring, arithmetic and judgement of restoring vintage electronics."""

__version__ = "0.2.0"
