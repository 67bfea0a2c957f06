"""What the trials found, kept for the shop's figures: shares of suspects in fifths, and how many of them were right.

Source: measured by `make trials` (500 hidden faults on six simulated supplies, seed 2027) on 2 December 2026.
"""

from __future__ import annotations

from .fifths import Fifth

#: How many faults were hidden.
CASES = 500
TRIALS = (
    Fifth(low=0.0, said=109072, right=7318, mean=0.008),
    Fifth(low=0.2, said=1786, right=663, mean=0.300),
    Fifth(low=0.4, said=1051, right=651, mean=0.490),
    Fifth(low=0.6, said=412, right=337, mean=0.691),
    Fifth(low=0.8, said=1163, right=1112, mean=0.956),
)
