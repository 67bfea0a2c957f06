"""Devices that are paired with this bench, and instruments on the network.

`door.py` decides who may do what from which device; the instruments are read by `idlebench/instruments`.
"""
