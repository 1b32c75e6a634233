"""Finishing: from the bobbin to the dry skein."""
