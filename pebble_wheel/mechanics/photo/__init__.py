"""Yarn measured in a photo: where it lies, its edges, its turns and its angle; what is unsure is refused."""
