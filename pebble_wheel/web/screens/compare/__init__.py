"""Yarns of the shelf, or versions of one, side by side."""
