"""Starting from what is to be knitted."""
