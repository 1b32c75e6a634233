"""A sample at the stool: entered in seconds, judged, and laid beside the plan."""
