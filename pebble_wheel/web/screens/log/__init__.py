"""The log of a yarn: everything that happened to it, by its date."""
