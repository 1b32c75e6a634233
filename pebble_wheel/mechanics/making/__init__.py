"""Treadles, hours, grams and metres."""
