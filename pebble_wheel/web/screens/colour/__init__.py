"""Colour from the braid to the cloth: preparations, the whole yarn, close, a skein, cloth, and others beside it."""
