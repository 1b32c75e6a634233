"""Drawings: geometry in millimetres to SVG. No style attributes, so that a strict content policy holds."""
