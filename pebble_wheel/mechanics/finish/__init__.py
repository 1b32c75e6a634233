"""A yarn through its finishing, and in cloth."""
