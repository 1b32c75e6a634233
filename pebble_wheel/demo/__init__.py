"""The invented demo scenario."""
