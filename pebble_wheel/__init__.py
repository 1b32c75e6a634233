"""Pebble Wheel: construct yarn before you spin it."""
