"""Text to structure and back: design files, ISO 1139 designations, units people say, and answers."""
