"""What all screens use."""
