"""What is spun: the fibre table, and how tightly fibres pack."""
