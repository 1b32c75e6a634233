"""What measured samples teach of a spinner's hands and of the fibre, and what to change by it."""
