"""Speed, measured: ``python -m bench`` prints every figure with a ratio against a reference of the same run."""
