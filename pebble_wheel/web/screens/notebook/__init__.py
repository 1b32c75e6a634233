"""The notebook as a whole: its copies, everything in one file, and whether it is whole."""
