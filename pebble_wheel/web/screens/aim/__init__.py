"""Aiming: how the yarn is to be, and what could be spun to it."""
