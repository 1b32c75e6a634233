"""Constructing: a yarn strand by strand."""
