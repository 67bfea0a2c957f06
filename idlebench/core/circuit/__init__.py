"""Circuits round a part, a module per phenomenon.

Each takes SI numbers and gives a `Calculation`: values, and the lines that show how they came about, each with its source.
Nothing here knows a board or a unit.
"""
