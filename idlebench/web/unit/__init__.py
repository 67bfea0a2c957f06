"""A unit loaded once and judged, the one door through which it is changed, and the log."""
