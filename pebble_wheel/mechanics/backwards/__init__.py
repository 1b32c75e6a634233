"""From what a yarn is to be back to what is to be spun, and how well it serves."""
