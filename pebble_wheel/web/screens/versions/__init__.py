"""What a design was before."""
