"""A yarn as a tree of strands: its parts, how they lie in each other, and their state."""
