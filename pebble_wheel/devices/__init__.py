"""Counters on a wheel: the open line protocol, what carries it, and a simulated wheel of the same shape."""
