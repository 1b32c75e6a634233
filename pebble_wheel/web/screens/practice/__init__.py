"""Practice: the eye trained on yarns whose truth is known."""
