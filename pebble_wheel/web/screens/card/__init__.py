"""The wheel card: printed true to scale, and again unchanged from the record."""
