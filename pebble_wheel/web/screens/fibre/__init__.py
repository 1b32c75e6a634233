"""Fibre in hand: the shelf of lots."""
