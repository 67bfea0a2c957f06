"""What the trials found, kept for the shop's figures: shares of suspects in fifths, and how many of them were right.

Source: measured by `make trials` (500 hidden faults on six simulated supplies, seed 2027) on 2 December 2026.
"""

from __future__ import annotations

from .fifths import Fifth

#: How many faults were hidden.
CASES = 500
TRIALS = (
    Fifth(low=0.0, said=42810, right=1602, mean=0.018),
    Fifth(low=0.2, said=1936, right=606, mean=0.288),
    Fifth(low=0.4, said=860, right=488, mean=0.493),
    Fifth(low=0.6, said=455, right=363, mean=0.699),
    Fifth(low=0.8, said=1332, right=1255, mean=0.950),
)
