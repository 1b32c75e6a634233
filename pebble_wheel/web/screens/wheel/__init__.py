"""At the wheel: which way, how many treadles, how far, and whether the twist is still as it should be."""
