"""All that is read off a yarn, and how sure it is."""
