"""My hands: what samples have taught of a spinner, and which of them count."""
