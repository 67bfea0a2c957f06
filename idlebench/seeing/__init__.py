"""Seeing: what a computer-vision package finds in a photo, handed to the core to think of."""
