"""Photos: taken in, squared up, pinned to places.

A picture is checked and written anew before it is kept (`pictures.py`); its file is deleted only once no row, backup or bin
speaks of it.
"""
