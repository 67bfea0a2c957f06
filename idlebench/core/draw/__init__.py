"""Millimetres and curves for drawings. No colours, no classes, no pixels."""
