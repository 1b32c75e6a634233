"""The shelf of designs."""
