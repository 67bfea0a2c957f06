"""The shelf: the catalogue, own parts, stock, and tables of others.

A foreign table is matched by its headings, shown as it is read, and taken over at once or not at all.
"""
