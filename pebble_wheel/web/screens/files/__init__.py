"""Design files and drawings, in and out."""
