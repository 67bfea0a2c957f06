"""Millimetres and curves for drawings. No colours, no classes, no pixels.

A function takes core values and gives points, paths and words; the template puts them into SVG and the styles colour them.
"""
