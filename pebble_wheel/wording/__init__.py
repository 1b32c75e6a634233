"""What is said: names, advice, reasons, and figures in a person's units."""
