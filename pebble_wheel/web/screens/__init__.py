"""One folder for each screen."""
