"""What is kept: one SQLite file, plain SQL, one module per thing kept."""
