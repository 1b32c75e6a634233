"""A yarn that changes along its length: sections of gestures, what they take, what slides."""
