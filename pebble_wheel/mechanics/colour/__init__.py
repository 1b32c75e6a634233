"""Colour along strands, as it shows on the yarn, and in cloth."""
