"""Devices that may see the notebook from elsewhere in the house."""
